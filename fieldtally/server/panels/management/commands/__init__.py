"""``remind``: letters about looks that are due and panels that come."""
