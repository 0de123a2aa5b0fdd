"""A reading as a scorer's device sends it: what it may say, and the number that it is compared by."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from fieldtally.core.design.plan import Outcome
from fieldtally.core.limits import LONGEST_NOTE, LONGEST_REASON
from fieldtally.core.problems import Refused
from fieldtally.core.scales import CurveScale, NoteScale, Scale, ShadeScale

MOST_TAKES = 9
SOURCES = ("typed", "paper", "device")


@dataclass(frozen=True)
class Written:
    """One reading; ``sample`` and ``round`` are ids, ``outcome`` a key of the plan.

    ``kind``: ``value``, ``cannot`` (with the reason why) or ``withdrawn``.  A note has ``words`` and no number, a curve its ``responses``.
    ``take`` counts how often this scorer has read this at this look.
    """

    id: UUID
    round: UUID
    sample: UUID
    outcome: str
    kind: str
    value: float | None
    reason: str
    taken_at: datetime
    words: str = ""
    responses: tuple[float | None, ...] | None = None
    source: str = "typed"
    device: str = ""
    take: int = 1

    @property
    def is_value(self) -> bool:
        """Whether it says a value, and not why there is none."""
        return self.kind == "value"

    @property
    def said(self) -> str:
        """Its words, without the space around them; none where it is no value."""
        return self.words.strip() if self.is_value else ""


def number_of(one: Written, scale: Scale | None) -> float | None:
    """The number ``one`` is compared by on ``scale``: its own, that of its curve, or none for words and where it is no value.

    :raises Refused: a curve that is none.
    """
    if not one.is_value:
        return None
    if isinstance(scale, CurveScale):
        return scale.number_of(one.responses or ())
    return None if one.said else one.value


def refusal(one: Written, outcome: Outcome, looked_at: Collection[str], checkpoint: str) -> tuple[str, str] | None:
    """Why ``one`` cannot be taken at ``checkpoint`` (key), given those at which ``outcome`` is looked at: the field and the sentence; None
    where it can."""
    if checkpoint not in looked_at:
        return "outcome", "This is not looked at on this checkpoint."
    if len(one.reason) > LONGEST_REASON:
        return "reason", f"A reason of up to {LONGEST_REASON} letters, please."
    if not 1 <= one.take <= MOST_TAKES:
        return "take", f"A sample is read at most {MOST_TAKES} times at a look."
    if one.source not in SOURCES:
        return "source", "A reading is typed, copied from paper or read from a device."
    match one.kind:
        case "value":
            return _value_refusal(one, outcome.scale)
        case "cannot":
            return None if one.reason.strip() else ("reason", "Say why it cannot be scored.")
        case "withdrawn":
            return None
        case _:
            return "kind", "A reading is a value, or says why there is none."


def _value_refusal(one: Written, scale: Scale) -> tuple[str, str] | None:
    match scale:
        case NoteScale():
            if not one.said:
                return "words", "There are no words."
            long = len(one.words) > LONGEST_NOTE
            return ("words", f"A note of up to {LONGEST_NOTE:,} letters, please.") if long else None
        case CurveScale():
            try:
                number = scale.number_of(one.responses or ())
            except Refused as refused:
                return "responses", refused.problems[0].says
            says = scale.refusal(number) if math.isfinite(number) else "This is no number."
            return ("responses", says) if says else None
        case ShadeScale() if one.source == "device" and one.value is not None:
            says = scale.measured_refusal(one.value)
            return ("value", says) if says else None
        case _:
            if one.said:
                return "words", "Words do not go with this value: write them as a note."
            says = "There is no value." if one.value is None else scale.refusal(one.value)
            return ("value", says) if says else None


CLOCK_OFF = timedelta(hours=1)
"""So far may the clock of a device be off without anybody being asked."""


def date_refusal(one: Written, earliest: datetime, latest: datetime) -> str | None:
    """What is wrong with the day and hour that somebody gave for ``one``, which was copied from paper: it lies before there was anything to
    read, or ahead.  A clock that is a little off is put right without a word (:func:`moment_of`)."""
    if one.source != "paper":
        return None
    if one.taken_at > latest + CLOCK_OFF:
        return "That day and hour lie in the future, or after the seal before which this look was taken."
    return "That was before there was anything to look at." if one.taken_at < earliest - CLOCK_OFF else None


def moment_of(claimed: datetime, earliest: datetime, stored_at: datetime) -> datetime:
    """When a reading was taken: as its device ``claimed``, whose clock may be wrong; so not before there was anything to read, nor after
    it got here."""
    return min(max(claimed, earliest), stored_at)


Place = tuple[UUID, UUID, str, int]
"""Where a reading stands: its round, its sample (or the second code it came under), its outcome and its take."""


def superseded(fresh: Mapping[UUID, Place], heads: Mapping[Place, UUID]) -> dict[UUID, UUID]:
    """Which reading each of ``fresh`` (in order) supersedes: the newest in its place, be it in ``heads`` or one of its own before it.

    >>> a, b, c, place = UUID(int=1), UUID(int=2), UUID(int=3), (UUID(int=9), UUID(int=8), "o", 1)
    >>> superseded({b: place, c: place}, {place: a}) == {b: a, c: b}
    True
    """
    newest, found = dict(heads), {}
    for pk, place in fresh.items():
        if place in newest:
            found[pk] = newest[place]
        newest[place] = pk
    return found
