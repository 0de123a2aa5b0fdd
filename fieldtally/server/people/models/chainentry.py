"""The chain of a trial, entry by entry.  The database refuses to change or delete them."""

from django.db import models


class ChainEntry(models.Model):
    """Number 1, 2, 3 … of a trial: its canonical ``text`` and its ``link``, as :mod:`fieldtally.core.blinding.chain` makes them."""

    trial = models.ForeignKey("people.Trial", on_delete=models.PROTECT, related_name="chain")
    number = models.PositiveIntegerField()
    text = models.TextField()
    link = models.CharField(max_length=64)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["trial", "number"], name="one_chain_entry_a_number")]
