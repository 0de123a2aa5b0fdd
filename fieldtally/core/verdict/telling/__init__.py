"""The grammar of telling: every figure, look, name and sentence that a verdict is told by, on screen, on paper and in a file.

It composes from facts of the trial and computes nothing: what a number is comes from the comparison, how it is said from the scale.
"""
