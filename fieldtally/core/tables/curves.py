"""Curves in somebody else's table: a column a step (``stretch at 2 kg``, ``4 kg``, ``6 kg``), put together into one reading of each row."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from fieldtally.core.problems import Refused
from fieldtally.core.quantities.numbers import number_in
from fieldtally.core.scales import CurveScale
from fieldtally.core.tables.columns import BLANK, UNIT, WITH_UNIT, ColumnMeaning
from fieldtally.core.tables.entries import Coded, Entries, first_come

FEWEST_STEPS, MOST_STEPS = 3, 60
BETWEEN = ";"
STEP = re.compile(
    r"^(?P<what>.*?)[\s_,:;@(\[-]*(?P<at>\b(?:at|under|with)\s+)?(?P<step>\d+(?:[.,]\d+)?)\s*(?P<unit>[a-zA-Z%°µ/²³]{1,8})[)\]]?\s*$",
    re.I,
)


def step_of(header: str) -> tuple[str, float, str, str] | None:
    """What a column is called without its step, the step, the unit of the step, and that of its values; None where its name tells no step.

    >>> step_of("stretch at 2.5 kg [mm]"), step_of("40 N"), step_of("height")
    (('stretch', 2.5, 'kg', 'mm'), ('', 40.0, 'N', ''), None)
    """
    told = UNIT.search(header) if header.rstrip().endswith(("]", ")")) else None
    unit = (told[1] or "").strip() if told else ""
    found = STEP.match(header[: told.start()] if told else header)
    if found is None:
        # The step itself stands in the brackets: ``stretch (2 kg)``.
        found, unit = STEP.match(header), ""
    if found is None:
        return None
    try:
        return found["what"].strip(" _,:;-("), number_in(found["step"]), found["unit"], unit
    except Refused:
        return None


def as_curves(columns: Sequence[ColumnMeaning]) -> list[ColumnMeaning]:
    """``columns`` with those that are steps of one curve told as such: three at least that are called alike but for a step in one unit.
    Where no column says what is compared the steps may be just that (doses, side by side), and nothing is changed."""
    if not any(one.part == "treatment" for one in columns):
        return list(columns)
    alike: dict[tuple[str, str], dict[float, int]] = defaultdict(dict)
    for i, one in enumerate(columns):
        found = step_of(one.name) if one.part == "value" and not one.checkpoint else None
        if found is not None and one.kind in ("measurement", "count", "percent"):
            alike[found[0].casefold(), found[2]].setdefault(found[1], i)
    told = list(columns)
    for (what, unit), steps in alike.items():
        if not FEWEST_STEPS <= len(steps) <= MOST_STEPS:
            continue
        for i in steps.values():
            own = step_of(columns[i].name)
            name = (own[0] if own else what) or f"Curve over {unit}"
            told[i] = replace(columns[i], kind="curve", outcome=name[:60], unit=own[3] if own else "", of=None)
    return told


def curve_of(columns: Sequence[ColumnMeaning], outcome: str) -> CurveScale:
    """The scale of the curve ``outcome`` that these columns are steps of.

    :raises Refused: one of them names no step, or they do so in several units.
    """
    own = [one for one in columns if one.kind == "curve" and (one.outcome.strip() or one.name) == outcome]
    found = [(one, step_of(one.name)) for one in own]
    for one, told in found:
        if told is None:
            raise Refused(f"“{one.name}” names no step of a curve (stretch at 2 kg).", "meaning")
    steps = {told[1] for _, told in found if told}
    units = {told[2] for _, told in found if told}
    if len(units) > 1:
        raise Refused(f"The steps of “{outcome}” are told in {' and '.join(sorted(units))}.", "meaning")
    unit = next((one.unit for one in own if one.unit), "")
    return CurveScale(unit[:40], next(iter(units), "")[:40], tuple(sorted(steps)))


def with_curves(values: Entries, warnings: list[str]) -> Entries:
    """``values`` with the steps of each curve that one row gives put together: one cell, its responses in the order of the steps.

    :raises Refused: a column names no step.
    """
    curves = np.array([one.kind == "curve" for one in values.columns], dtype=bool)[values.column]
    at = np.flatnonzero(curves)
    if not len(at):
        return values
    place: dict[int, int] = {}
    many: dict[str, int] = {}
    for outcome in {values.outcome.words[code] for code in values.outcome.codes[at].tolist()}:
        scale = curve_of(values.columns, outcome)
        many[outcome] = len(scale.steps)
        for i, column in enumerate(values.columns):
            told = step_of(column.name)
            if column.kind == "curve" and told is not None and (column.outcome.strip() or column.name) == outcome:
                place[i] = scale.steps.index(told[1])
        warnings.append(
            f"“{outcome}” is read as a curve of {len(scale.steps)} steps in {scale.step_unit}: what is compared is its slope."
        )
    together: dict[tuple[int, ...], list[int]] = defaultdict(list)
    parts = (values.lines, values.sample.codes, values.checkpoint.codes, values.scorer.codes, values.outcome.codes)
    for i in at.tolist():
        together[tuple(int(part[i]) for part in parts)].append(i)
    first, cells = [], []
    for group in together.values():
        responses = [""] * many[values.outcome.words[int(values.outcome.codes[group[0]])]]
        for i in group:
            responses[place[int(values.column[i])]] = values.cells[i]
        first.append(group[0])
        cells.append(BETWEEN.join(_shortened(responses)))
    rest = np.flatnonzero(~curves)
    which = np.r_[rest, np.array(first, dtype=np.int64)]
    order = np.argsort(which, kind="stable")
    which = which[order]
    shown = [values.cells[i] for i in rest.tolist()] + cells

    def taken(part: Coded) -> Coded:
        return first_come(part.words, part.codes[which])

    return replace(
        values,
        lines=values.lines[which],
        cells=[shown[i] for i in order.tolist()],
        column=values.column[which],
        treatment=values.treatment[which],
        block=taken(values.block),
        sample=taken(values.sample),
        checkpoint=taken(values.checkpoint),
        scorer=taken(values.scorer),
        outcome=taken(values.outcome),
    )


def _shortened(responses: list[str]) -> list[str]:
    """Without the steps at the end that were not taken: a piece may break before the last."""
    while responses and not responses[-1]:
        responses = responses[:-1]
    return responses


def responses_in(cell: str) -> list[float | None]:
    """The responses that a cell of :func:`with_curves` holds, in order; None at a step that was not taken.

    >>> responses_in("2;;6.5 mm")
    [2.0, None, 6.5]

    :raises Refused: one of them is no number.
    """
    found: list[float | None] = []
    for one in cell.split(BETWEEN):
        bare = WITH_UNIT.match(one)
        found.append(None if one.casefold() in BLANK else number_in(bare[1] if bare else one))
    return found
