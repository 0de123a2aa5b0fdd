"""Schedule: when to look, and how each look stands against its window."""
