"""``remind``: letters about looks that are due."""
