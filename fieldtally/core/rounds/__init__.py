"""Rounds: in which order samples are scored."""
