"""Compare: re-randomisation tests, and the size of what they find with its interval.

The reference distribution of each test is what the layout itself could have produced.  Everything is computed for many
columns (an outcome at a checkpoint each) at once, by matrix products over the shuffles.
"""
