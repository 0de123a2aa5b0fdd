"""Agreement: between scorers, within a scorer, and over time."""
