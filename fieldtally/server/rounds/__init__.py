"""Rounds: what is due, scoring by code, corrections that keep the old value, samples set aside."""
