"""The readings of a table as rows of a trial pack, made one after the other as they are asked for."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import datetime

from fieldtally.core.compare.arrays import Floats, Ints
from fieldtally.core.trialpack.reading import Record
from fieldtally.core.trialpack.schema import SCHEMAS

AT_ONCE = 10_000


class ReadingRows(Sequence[Record]):
    """n readings: which sample, outcome, checkpoint and scorer each belongs to as ``codes`` (4, n) into what these are called, its number
    and how often it was read; and rows ``besides``, such as why there is no value."""

    def __init__(  # noqa: PLR0913 - columns of one table
        self,
        samples: Sequence[str],
        outcomes: Sequence[str],
        checkpoints: Sequence[str],
        scorers: Sequence[str],
        taken_at: Sequence[datetime],
        stored_at: datetime,
        codes: Ints,
        values: Floats,
        takes: Ints,
        besides: Sequence[Record] = (),
    ) -> None:
        self.samples, self.outcomes, self.checkpoints, self.scorers = samples, outcomes, checkpoints, scorers
        self.taken_at, self.stored_at = taken_at, stored_at
        self.codes, self.values, self.takes = codes, values, takes
        self.besides = [{**one, "reading": len(values) + i} for i, one in enumerate(besides, start=1)]
        self.responses: dict[int, list[float | None]] = {}
        """Of curves, by their place: the response at each step."""
        self._empty: Record = dict.fromkeys([name for name, _ in SCHEMAS["readings"].fields])

    def __len__(self) -> int:
        return len(self.values) + len(self.besides)

    def __getitem__(self, at: int) -> Record:  # type: ignore[override]
        at = range(len(self))[at]
        if at >= len(self.values):
            return self.besides[at - len(self.values)]
        sample, outcome, checkpoint, scorer = self.codes[:, at].tolist()
        return self._row(at + 1, sample, outcome, checkpoint, scorer, float(self.values[at]), int(self.takes[at]))

    def __iter__(self) -> Iterator[Record]:
        # A part at a time: as Python's own numbers all of them would take ten times the room.
        for start in range(0, len(self.values), AT_ONCE):
            yield from self._part(slice(start, start + AT_ONCE))
        yield from self.besides

    def _part(self, part: slice) -> Iterator[Record]:
        codes = [column[part].tolist() for column in self.codes]
        values, takes = self.values[part].tolist(), self.takes[part].tolist()
        return map(self._row, range(part.start + 1, part.start + 1 + len(values)), *codes, values, takes)

    def _row(
        self, number: int, sample: int, outcome: int, checkpoint: int, scorer: int, value: float, take: int
    ) -> Record:
        return {
            **self._empty,
            "reading": number,
            "sample": self.samples[sample],
            "outcome": self.outcomes[outcome],
            "checkpoint": self.checkpoints[checkpoint],
            "scorer": self.scorers[scorer],
            "kind": "value",
            "value": value,
            "responses": self.responses.get(number - 1),
            "taken_at": self.taken_at[checkpoint],
            "stored_at": self.stored_at,
            "source": "typed",
            "take": take,
        }
