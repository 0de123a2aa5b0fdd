"""A line-up: the picture of the trial among nineteen in which the layout itself dealt the treatments anew.

Whoever has not seen the result and picks the true one has found, at a chance of 1 in 20, that it does not look like luck (Buja and others
2009, Phil. Trans. R. Soc. A 367:4361).  The others are drawn by the plan's own layout: inside its blocks, pairs, squares and whole plots,
the values staying where they were read.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.blinding.allocation import slots_of
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.randomness import Draw
from fieldtally.core.scales import EventScale
from fieldtally.core.verdict.conclude import Finding
from fieldtally.core.verdict.study import Placed, StudyData

PICTURES = 20
FEWEST_TREATMENTS, MOST_TREATMENTS = 2, 6
FEWEST_SAMPLES, MOST_SAMPLES = 6, 400
MOST_TRIES = 4 * PICTURES
SERIES_FROM = 3
"""From so many looks on the pictures show means over time."""


@dataclass(frozen=True)
class Picture:
    """One picture: of each treatment, in one order for all pictures, the numbers of its samples (``dots``) or its mean at each look
    (``series``; None where nothing was read)."""

    groups: tuple[tuple[float | None, ...], ...]


@dataclass(frozen=True)
class LineUp:
    """Twenty pictures on one scale from ``low`` to ``high``, of an outcome (key); ``truth`` is the place of the true one, from 0."""

    outcome: str
    kind: str
    pictures: tuple[Picture, ...]
    low: float
    high: float
    truth: int


def line_up(data: StudyData, findings: Sequence[Finding], seed: str, person: str) -> LineUp | None:
    """The line-up for ``person`` (any text of theirs alone), drawn from a ``seed`` that nobody knows; the same each time they ask.  None
    where there are fewer than two or more than six treatments, too few samples, or a layout that could not have dealt otherwise."""
    plan = data.plan
    outcome = next((o for o in plan.outcomes if o.primary and o.compared), None)
    main = next((one for one in findings if outcome and one.outcome == outcome.key and one.checkpoint is None), None)
    if outcome is None or main is None or not FEWEST_TREATMENTS <= len(plan.treatments) <= MOST_TREATMENTS:
        return None
    known = sum(one is not None for one in main.numbers)
    if not FEWEST_SAMPLES <= known <= MOST_SAMPLES:
        return None
    columns = _columns(data, outcome, main)
    keys = [treatment.key for treatment in plan.treatments]
    true = [keys.index(one.treatment) for one in data.kept]
    place = Draw(seed, f"line-up/{person}").below(PICTURES)
    own = _picture(columns, true, len(keys))
    others = _others(data, columns, own, f"{seed}/line-up/{person}")
    if others is None:
        return None
    pictures = (*others[:place], own, *others[place:])
    shown = [value for picture in pictures for group in picture.groups for value in group if value is not None]
    low, high = min(shown), max(shown)
    return LineUp(
        outcome.key,
        "series" if len(columns) > 1 else "dots",
        pictures,
        low,
        high if high > low else low + 1.0,
        place,
    )


def _columns(data: StudyData, outcome: Outcome, main: Finding) -> list[list[float | None]]:
    """What is drawn: the values at each look where there are several moments, else the number of each sample."""
    looks = [c for c in data.plan.looked_at(outcome) if not c.stage.strip()]
    if len(looks) < SERIES_FROM or isinstance(outcome.scale, EventScale):
        return [list(main.numbers)]
    own: list[Mapping[str, float]] = [data.values.get((outcome.key, look.key), {}) for look in looks]
    return [[values.get(one.code) for one in data.kept] for values in own]


def _dealt(data: StudyData, seed: str) -> list[int]:
    """Treatments (numbers) of the samples that count, as the layout could have dealt them."""
    keys = [treatment.key for treatment in data.plan.treatments]
    everyone = [keys.index(key) for key in _treatments(data.plan, data.placed, seed)]
    return [label for label, one in zip(everyone, data.placed, strict=True) if one.code not in data.decisions.aside]


def _treatments(plan: Plan, placed: Sequence[Placed], seed: str) -> list[str]:
    drawn = slots_of(plan, seed)
    if [one.block or None for one in drawn] == [one.block or None for one in placed]:
        return [one.treatment for one in drawn]
    # What came in from a table has no layout of the app's: its treatments change places inside their blocks.
    found = [one.treatment for one in placed]
    for block in dict.fromkeys(one.block or "" for one in placed):
        rows = [i for i, one in enumerate(placed) if (one.block or "") == block]
        shuffled = Draw(seed, f"block {block}").shuffled([found[i] for i in rows])
        for i, treatment in zip(rows, shuffled, strict=True):
            found[i] = treatment
    return found


def _others(
    data: StudyData, columns: Sequence[Sequence[float | None]], true: Picture, seed: str
) -> list[Picture] | None:
    """Nineteen pictures, each unlike the true one and each other, treatments called by whatever name; None where the layout and the values
    hardly give so many."""
    seen, found = {_seen(true)}, []
    for turn in range(MOST_TRIES):
        other = _picture(columns, _dealt(data, f"{seed}/{turn}"), len(true.groups))
        if _seen(other) not in seen:
            seen.add(_seen(other))
            found.append(other)
        if len(found) == PICTURES - 1:
            return found
    return None


def _seen(picture: Picture) -> frozenset[tuple[float | None, ...]]:
    """What an eye gets of a picture: its groups, in whatever order."""
    return frozenset(tuple(None if value is None else round(value, 9) for value in group) for group in picture.groups)


def _picture(columns: Sequence[Sequence[float | None]], labels: Sequence[int], treatments: int) -> Picture:
    if len(columns) == 1:
        return Picture(
            tuple(
                tuple(sorted(v for v, label in zip(columns[0], labels, strict=True) if label == t and v is not None))
                for t in range(treatments)
            )
        )
    groups = []
    for t in range(treatments):
        own = [
            [v for v, label in zip(column, labels, strict=True) if label == t and v is not None] for column in columns
        ]
        groups.append(tuple(float(np.mean(values)) if values else None for values in own))
    return Picture(tuple(groups))
