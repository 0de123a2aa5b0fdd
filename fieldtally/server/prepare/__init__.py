"""Prepare: who gets what, for those who put it there, and the start of exposure."""
