"""What others may want to know of rounds, so that rounds need not know of them."""

from django.dispatch import Signal

round_begun = Signal()
"""Somebody began a round: ``trial``, ``user``, ``now``."""
