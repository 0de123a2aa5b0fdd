"""Field Tally over any table, from Python: ``verdict``, ``panel`` and ``outlook``.

>>> table = {"soak": ["dry"] * 5 + ["tea"] * 5, "sprouted": [9, 8, 10, 9, 8, 17, 18, 16, 18, 17]}
>>> found = verdict(table, treatment="soak", value="sprouted", kind="count")
>>> found.level, found.winner, found.pair("tea", "dry").difference
('clear', 'tea', 8.4)

Everything heavy is loaded where it is needed, so that importing costs next to nothing; nothing here knows a server or a database.
"""

from __future__ import annotations

import json
import os
from collections.abc import Iterable, Mapping, Sequence
from html import escape
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fieldtally.core.problems import Refused

if TYPE_CHECKING:
    from fieldtally.core.compare.columns import Pair
    from fieldtally.core.tables.judging import TableVerdict
    from fieldtally.core.tables.table import Table


class Verdict:
    """What a table of results tells: one :class:`Outcome` for each checkpoint, and in short what the last of them says.

    ``warnings`` name what was left out and what was read otherwise than it looks.
    """

    def __init__(self, outcomes: Sequence[Outcome], warnings: Sequence[str]) -> None:
        self.outcomes, self.warnings = tuple(outcomes), tuple(warnings)

    def at(self, checkpoint: str) -> Outcome:
        """The outcome at ``checkpoint``.

        :raises KeyError: the table has no such checkpoint.
        """
        for one in self.outcomes:
            if one.checkpoint == str(checkpoint):
                return one
        raise KeyError(checkpoint)

    @property
    def last(self) -> Outcome:
        """The outcome at the last checkpoint of the table, or the only one."""
        return self.outcomes[-1]

    @property
    def level(self) -> str:
        """How strong it is: clear, depends, leaning, equal, too_close, unreplicated, nothing or spoiled."""
        return self.last.level

    @property
    def winner(self) -> str | None:
        """The treatment that won, if one did."""
        return self.last.winner

    @property
    def winners(self) -> tuple[str, ...]:
        """All treatments that share the first place."""
        return self.last.winners

    @property
    def sentence(self) -> str:
        """The verdict in a sentence."""
        return self.last.sentence

    def pair(self, a: str, b: str) -> Pair:
        """``a`` against ``b``: difference a − b with its interval, p, and whom it favours.

        :raises KeyError: they were not compared.
        """
        return self.last.pair(a, b)

    def to_dict(self) -> dict[str, Any]:
        """What ``./tally verdict --json`` prints."""
        return {"outcomes": [one.to_dict() for one in self.outcomes], "warnings": list(self.warnings)}

    def __repr__(self) -> str:
        return "\n".join([*(one.sentence for one in self.outcomes), *self.warnings])

    def _repr_html_(self) -> str:
        told = "".join(one._repr_html_() for one in self.outcomes)
        return told + "".join(f"<p><small>{escape(one)}</small></p>" for one in self.warnings)


class Outcome:
    """The verdict at one checkpoint (None: the table has none)."""

    def __init__(self, found: TableVerdict) -> None:
        self._found = found
        self.checkpoint, self.sentence = found.checkpoint, found.sentence
        self.level, self.winner, self.winners = found.strength.level, found.strength.winner, found.strength.winners
        self.because, self.steps, self.effects = found.strength.because, found.strength.steps, found.effects

    def pair(self, a: str, b: str) -> Pair:
        """``a`` against ``b``, whichever way round; see :meth:`Verdict.pair`."""
        pair = self._found.comparison.pair(a, b)
        if pair is None:
            raise KeyError((a, b))
        return pair

    def to_dict(self) -> dict[str, Any]:
        """This outcome as ``./tally verdict --json`` prints it."""
        return self._found.to_dict()

    def _repr_html_(self) -> str:
        from fieldtally.core.quantities.numbers import honest

        rows = "".join(
            f"<tr><td>{escape(one.treatment)}</td><td>{one.n}</td>"
            f"<td>{'' if one.estimate is None else honest(one.estimate)}</td>"
            f"<td>{'' if one.low is None or one.high is None else f'{honest(one.low)} to {honest(one.high)}'}</td></tr>"
            for one in self._found.comparison.treatments
        )
        return (
            f"<p><b>{escape(self.sentence)}</b></p><p>{escape(self.because)}</p>"
            "<table><thead><tr><th>treatment</th><th>samples</th><th>estimate</th><th>between</th></tr></thead>"
            f"<tbody>{rows}</tbody></table>"
        )


def verdict(  # noqa: PLR0913 - options, each by its name
    table: Any,
    *,
    value: str,
    treatment: str | None = None,
    factor: str | Iterable[str] = (),
    block: str | Iterable[str] = (),
    pair: str | None = None,
    sample: str | None = None,
    checkpoint: str | None = None,
    event: str | None = None,
    held: str | None = None,
    row: str | None = None,
    column: str | None = None,
    plot: str | None = None,
    kind: str = "measurement",
    better: str = "higher",
    control: str | None = None,
    margin: float | None = None,
    alpha: float = 0.05,
    seed: int = 1,
) -> Verdict:
    """Compare the treatments of ``table``, a row a reading.

    ``table`` is a path to a CSV, its bytes, a mapping of columns, a sequence of mappings, or a data frame.  ``treatment`` or several
    ``factor`` name the columns that say what each row was given; the rest as in ``./tally verdict --help``.

    :raises Refused: the table cannot be read or does not hold what is asked; its ``problems`` say what and where.
    """
    from fieldtally.core.kinds import KINDS
    from fieldtally.core.tables.judging import Asked, judged
    from fieldtally.core.tables.readings import Columns

    if kind not in KINDS:
        raise Refused(f"There is no kind “{kind}”; there are {', '.join(KINDS)}.")
    if better not in ("higher", "lower"):
        raise Refused("Better is higher or lower.")
    factors = _names(factor)
    if factors and treatment:
        raise Refused("Give either a treatment or factors.")
    columns = Columns(
        treatment or " / ".join(factors),
        value,
        _names(block),
        pair,
        sample,
        checkpoint,
        factors,
        event,
        held,
        row,
        column,
        plot,
    )
    asked = Asked(columns, kind, "higher" if better == "higher" else "lower", control, margin, alpha, seed)
    found, warnings = judged(_table(table), asked)
    return Verdict([Outcome(one) for one in found], warnings)


def panel(method: str, n: int, correct: int, alpha: float = 0.05) -> dict[str, Any]:
    """What ``correct`` right answers of ``n`` tell, as ``./tally panel --json`` prints it.

    :raises Refused: there is no such test, or these numbers cannot be.
    """
    from fieldtally.core.panels.discriminating import discriminate
    from fieldtally.core.panels.methods import method_named
    from fieldtally.core.tables.panel_answers import discrimination_told

    return discrimination_told(discriminate(method_named(method).key, n, correct, alpha))


def panel_answers(method: str, table: Any, alpha: float = 0.05, seed: int = 1) -> tuple[dict[str, Any], list[str]]:
    """What a ``table`` of answers tells, a row an answer, counted by person: numbers as ``./tally panel METHOD --answers`` prints them, and
    sentences.

    :raises Refused: there is no such test, or a cell cannot be read.
    """
    import numpy as np

    from fieldtally.core.panels.methods import method_named
    from fieldtally.core.tables.panel_answers import panel_of_answers

    return panel_of_answers(method_named(method).key, _table(table), alpha, np.random.default_rng(seed))


def servings(method: str, people: int, sets: int = 1, seed: int = 1, things: int = 2) -> dict[str, Any]:
    """Who gets which cups in which order, as ``./tally serving --json`` prints it; people and sets are counted from 1.

    :raises Refused: there is no such test, or nobody to serve.
    """
    from fieldtally.core.panels.methods import method_named
    from fieldtally.core.panels.serving import serving_plan
    from fieldtally.core.randomness import Draw

    key = method_named(method)
    many = max(things, key.least) if key.cups is None else 2
    dealt = serving_plan(key.key, people, Draw(str(seed), "serving"), sets=sets, things=many)
    turns: dict[int, int] = {}
    rows = []
    for one in dealt:
        turns[one.assessor] = turns.get(one.assessor, 0) + 1
        rows.append({"person": one.assessor + 1, "set": turns[one.assessor], "order": one.order})
    return {"servings": rows}


def outlook(plan: Any, seed: int = 1) -> dict[str, Any]:
    """What a plan can tell: ``plan`` is a path to its JSON, that JSON, or what it holds; as ``./tally outlook --json`` prints it.

    :raises Refused: it is no plan, or says too little to be played.
    """
    from dataclasses import asdict

    import numpy as np

    from fieldtally.core.design.document import plan_in
    from fieldtally.core.outlook.outlook import outlook as foreseen

    document = plan if isinstance(plan, Mapping) else _json(plan)
    if isinstance(document.get("sealed"), Mapping):
        document = document["sealed"]
    if isinstance(document.get("plan"), Mapping):
        document = document["plan"]
    found = foreseen(plan_in(dict(document)), np.random.default_rng(seed))
    if found is None:
        raise Refused(
            "This plan says too little to be played: it takes two treatments with samples, a layout that can be drawn, and a "
            "primary outcome on a sound scale."
        )
    return asdict(found)


def _names(given: str | Iterable[str]) -> tuple[str, ...]:
    return (given,) if isinstance(given, str) else tuple(given)


def _json(source: Any) -> dict[str, Any]:
    text = Path(source).read_text("utf-8") if isinstance(source, os.PathLike) or _is_path(source) else source
    try:
        found = json.loads(text)
    except (ValueError, TypeError) as error:
        raise Refused(f"This is no JSON ({error}).") from error
    if not isinstance(found, dict):
        raise Refused("This JSON holds no plan.")
    return found


def _is_path(source: Any) -> bool:
    return isinstance(source, str) and not source.lstrip().startswith(("{", "["))


def _table(source: Any) -> Table:
    from fieldtally.core.tables.table import Row, Table, read_table

    if isinstance(source, bytes):
        return read_table(source)
    if isinstance(source, str | os.PathLike):
        return read_table(Path(source).read_bytes())
    names, columns = _columns(source)
    lengths = {len(column) for column in columns}
    if len(lengths) > 1:
        raise Refused("The columns of this table are not of one length.")
    if not names or lengths == {0}:
        raise Refused("This table is empty.")
    return Table(tuple(names), tuple(Row(i, cells) for i, cells in enumerate(zip(*columns, strict=True), start=1)))


def _columns(source: Any) -> tuple[list[str], list[list[str]]]:
    """Names and cells of a mapping of columns, of a sequence of mappings, or of a data frame."""
    if isinstance(source, Mapping):
        return [str(name) for name in source], [[_cell(one) for one in column] for column in source.values()]
    if hasattr(source, "columns"):
        return [str(name) for name in source.columns], [[_cell(one) for one in source[name]] for name in source.columns]
    rows = list(source)
    if not all(isinstance(row, Mapping) for row in rows):
        raise Refused("A table is a path, bytes, a mapping of columns, a sequence of mappings, or a data frame.")
    names = list(dict.fromkeys(name for row in rows for name in row))
    return [str(name) for name in names], [[_cell(row.get(name)) for row in rows] for name in names]


def _cell(value: Any) -> str:
    """A value as a cell would hold it; what is missing is empty."""
    if value is None or value != value:  # noqa: PLR0124
        return ""
    if isinstance(value, bool):
        return "1" if value else "0"
    if hasattr(value, "item"):
        return _cell(value.item())
    if isinstance(value, float):
        return repr(int(value)) if value.is_integer() and abs(value) < 1e15 else repr(value)
    return str(value).strip()
