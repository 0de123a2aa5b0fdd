"""Panels: blind tests with people, their booth, and what they found."""
