"""The demo: the Tarn Lane Growers' Society, a made-up club, with trials from a fixed seed dated relative to today."""
