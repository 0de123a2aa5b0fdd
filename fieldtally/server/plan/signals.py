"""What others may want to know of plans, so that plans need not know of them."""

from django.dispatch import Signal

plan_sealed = Signal()
"""A plan was sealed, in the same transaction: ``trial``, ``user``, ``plan``, ``now``."""
