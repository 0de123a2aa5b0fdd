"""Writing the chain of a trial, in the transaction that records what it tells."""

from __future__ import annotations

import secrets
from collections.abc import Iterable
from datetime import datetime

from django.db import connection, transaction
from django.utils import timezone

from fieldtally.core.blinding.chain import NOTHING, Entry, Item, What, numbered
from fieldtally.server.people.locking import hold
from fieldtally.server.people.models import ChainEntry, Trial


def append(trial: Trial, what: What, items: Iterable[Item] = (), *, at: datetime | None = None) -> Entry:
    """Add an entry for ``items`` that one act recorded; part of the transaction that is under way."""
    if not connection.in_atomic_block:
        raise transaction.TransactionManagementError("The chain is written in the transaction of what it tells.")
    # One entry after the other; those of other trials do not wait.
    hold([trial.pk])
    last = ChainEntry.objects.filter(trial=trial).order_by("-number").values_list("number", "link").first()
    number, before = (last[0] + 1, last[1]) if last else (1, NOTHING)
    made = numbered(number, before, what, [one.digest for one in items], at or timezone.now(), secrets.token_hex(16))
    ChainEntry.objects.create(trial=trial, number=number, text=made.text, link=made.link)
    return made


def entries_of(trial: Trial) -> list[Entry]:
    """The chain of ``trial``, in order."""
    return [Entry(text, link) for text, link in ChainEntry.objects.filter(trial=trial).values_list("text", "link")]
