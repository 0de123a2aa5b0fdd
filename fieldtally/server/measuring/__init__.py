"""Measuring: pictures, and what the gauge reads in them."""
