"""Verdict: opening the key, and what the readings then say."""
