"""Which Field Tally this is."""

VERSION = "0.2.0"
"""The last release; what came since stands in CHANGELOG.md."""
