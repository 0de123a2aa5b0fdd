"""Readings as tables tell them: straight from the database, for there may be hundreds of thousands."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple
from uuid import UUID

from django.db.models import F, Func, TextField, Value

from fieldtally.server.rounds.models.reading import ReadingSet

FIELDS = (
    *("pk", "sample_id", "sample__code", "sample__block", "outcome__key", "checkpoint__key", "scorer_id", "kind"),
    *("value", "words", "responses", "reason", "taken", "stored", "source", "device", "take", "supersedes_id"),
    "repeat__code",
)


class ReadingRow(NamedTuple):
    """A reading as the table of readings tells it, in the order of ``FIELDS``."""

    pk: UUID
    sample_id: UUID
    sample: str
    block: str
    outcome: str
    checkpoint: str
    scorer: int
    kind: str
    value: float | None
    words: str
    responses: list[float | None] | None
    reason: str
    taken: str
    stored: str
    source: str
    device: str
    take: int
    supersedes: UUID | None
    second_code: str | None


def readings_in(rows: ReadingSet) -> Iterator[ReadingRow]:
    """``rows`` one after the other, without an object for each that it belongs to."""
    found = rows.annotate(taken=_in_utc("taken_at"), stored=_in_utc("stored_at")).values_list(*FIELDS)
    return (ReadingRow(*row) for row in found.iterator())


def _in_utc(field: str) -> Func:
    """The moment in ``field`` as the database writes it: UTC, always with six digits of a second, so that texts sort as moments do."""
    return Func(F(field), Value('YYYY-MM-DD"T"HH24:MI:SS.US'), function="to_char", output_field=TextField())


def written(text: str) -> str:
    """The same as ``moment`` writes it.

    >>> written("2026-11-27T10:00:00.000000"), written("2026-11-27T10:00:00.120000")
    ('2026-11-27T10:00:00Z', '2026-11-27T10:00:00.120000Z')
    """
    return text.removesuffix(".000000") + "Z"


def to_the_second(text: str) -> str:
    """The same to the second.

    >>> to_the_second("2026-11-27T10:00:00.120000")
    '2026-11-27T10:00:00Z'
    """
    return text[:19] + "Z"
