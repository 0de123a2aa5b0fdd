"""Verdict: what a comparison allows to be said, by rule, and in words."""
