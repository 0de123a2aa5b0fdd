"""Events in somebody else's table: the day on which something was seen, or not yet, told as looks at which it was or was not."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import date

import numpy as np

from fieldtally.core.problems import Problem, Refused
from fieldtally.core.tables.entries import MOST_TOLD, Coded, Entries, coded, first_come
from fieldtally.core.tables.meaning import DAY_WRITTEN, NEVER


def with_events(
    values: Entries, dates: Callable[[list[str]], Mapping[str, date] | None], began: date | None, warnings: list[str]
) -> Entries:
    """``values`` with a look for each day on which an event was seen, at which each sample says whether it was by then.  ``dates`` reads
    days as they are written; beside looks that are told otherwise they count from the day on which it ``began``.

    :raises Refused: a cell is neither a day nor says that it was not seen; at ``start``: days must be counted, and nobody said from when.
    """
    events = np.array([one.kind == "event" for one in values.columns], dtype=bool)[values.column]
    at = np.flatnonzero(events)
    if not len(at):
        return values
    odd = [i for i in at.tolist() if not _never(values.cells[i]) and not DAY_WRITTEN.match(values.cells[i])]
    if odd:
        told = [
            Problem(f"row {values.lines[i]}", f"“{values.cells[i][:40]}” is neither a day nor “not yet”.") for i in odd
        ]
        raise Refused(told[:MOST_TOLD])
    written = list(dict.fromkeys(values.cells[i] for i in at.tolist() if not _never(values.cells[i])))
    days = dates(written) if written else {}
    if not days:
        raise Refused("It was seen nowhere, so there is no day to count to.", "meaning")
    others = [values.checkpoint.words[code] for code in np.unique(values.checkpoint.codes[~events]).tolist()]
    words = _as_looks(days, others, began)
    in_order = sorted(set(days.values()))
    word_of = {day: words[text] for text, day in days.items()}
    looks = [word_of[day] for day in in_order]
    many = len(looks)
    again = np.repeat(at, many)
    own = np.array([_place(values.cells[i], days, in_order) for i in at.tolist()])
    seen = (own[:, None] <= np.arange(many)).ravel()
    rest = np.flatnonzero(~events)
    which = np.r_[rest, again]
    cells = [values.cells[i] for i in rest.tolist()] + ["1" if one else "0" for one in seen.tolist()]
    checkpoint = coded(
        [values.checkpoint.words[code] for code in values.checkpoint.codes[rest].tolist()] + looks * len(at)
    )
    warnings.append(f"Days on which it was seen became {many} looks: at each it was seen by then, or not yet.")

    def taken(part: Coded) -> Coded:
        return first_come(part.words, part.codes[which])

    return replace(
        values,
        lines=values.lines[which],
        cells=cells,
        column=values.column[which],
        treatment=values.treatment[which],
        block=taken(values.block),
        sample=taken(values.sample),
        checkpoint=checkpoint,
        scorer=taken(values.scorer),
        outcome=taken(values.outcome),
    )


def _never(cell: str) -> bool:
    return cell.casefold() in NEVER


def _place(cell: str, days: Mapping[str, date], in_order: list[date]) -> int:
    return len(in_order) if _never(cell) else in_order.index(days[cell])


def _as_looks(days: Mapping[str, date], others: list[str], began: date | None) -> dict[str, str]:
    """What the look of each day is called, so that it goes with the ``others``."""
    if all(not word or DAY_WRITTEN.match(word) for word in others):
        return {text: text for text in days}
    if began is None:
        raise Refused("Days on which something was seen count from the start: say on which day it began.", "start")
    early = next((text for text, day in days.items() if day < began), None)
    if early is not None:
        raise Refused(f"“{early}” lies before the day on which it is said to have begun.", "start")
    return {text: f"Day {(day - began).days}" for text, day in days.items()}
