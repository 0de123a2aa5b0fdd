"""Quantities: amounts as people write them, read once and echoed back in full."""
