"""Doors of methods compared: instruments or kits against each other on the same samples.  Nothing is stored."""

from __future__ import annotations

from typing import Literal

from ninja import Router, Schema

from fieldtally.core.agreement.instruments import MethodsCompared, methods_compared
from fieldtally.core.problems import Problem
from fieldtally.core.tables.methods import MethodColumns, guessed, side_by_side
from fieldtally.core.tables.table import read_table
from fieldtally.server.answers import Declined, ProblemsOut
from fieldtally.server.people.signedin import SignedIn

router = Router()
LONGEST, MOST_ROWS, MOST_METHODS = 300_000, 2_000, 12
Meaning = Literal["method", "truth", "other", "nothing"]


class SideBySideIn(Schema):
    """A table as text with a header, a row a sample; ``meaning`` of columns (by name), guessed where it is not given.

    At ``limit`` and above a sample fails; from ``alarm`` on a method says that there is something.
    """

    text: str
    meaning: dict[str, Meaning] | None = None
    unit: str = ""
    limit: float | None = None
    alarm: float | None = None


class MethodColumn(Schema):
    """A column and what it was taken for."""

    name: str
    meaning: Meaning


class SideBySideOut(Schema):
    """What the columns were taken for, and the methods compared."""

    columns: list[MethodColumn]
    found: MethodsCompared


@router.post("/methods", response={200: SideBySideOut, 422: ProblemsOut})
def methods(request: SignedIn, body: SideBySideIn) -> SideBySideOut:
    """Compare the methods in a table with each other, and with the truth where it is known."""
    if len(body.text) > LONGEST:
        raise Declined(422, Problem("text", f"A table of up to {LONGEST // 1000} kB, please."))
    table = read_table(body.text.encode())
    if len(table.rows) > MOST_ROWS:
        raise Declined(422, Problem("text", f"Up to {MOST_ROWS:,} samples, please; this has {len(table.rows):,}."))
    columns = guessed(table) if body.meaning is None else _meant(table.header, body.meaning)
    if len(columns.methods) > MOST_METHODS:
        raise Declined(422, Problem("meaning", f"Up to {MOST_METHODS} methods, please."))
    sides = side_by_side(table, columns)
    found = methods_compared(
        columns.methods,
        sides.values,
        unit=body.unit.strip()[:40],
        truth=sides.truth,
        other=sides.other,
        limit=body.limit,
        alarm=body.alarm,
    )
    return SideBySideOut(columns=[MethodColumn(name=n, meaning=_is(n, columns)) for n in table.header], found=found)


def _is(name: str, columns: MethodColumns) -> Meaning:
    if name in columns.methods:
        return "method"
    return "truth" if name == columns.truth else "other" if name == columns.other else "nothing"


def _meant(header: tuple[str, ...], meaning: dict[str, Meaning]) -> MethodColumns:
    def those(wanted: Meaning) -> tuple[str, ...]:
        return tuple(name for name in header if meaning.get(name) == wanted)

    wanted: tuple[tuple[Meaning, str], ...] = (
        ("truth", "says what is really there"),
        ("other", "marks the wrong substance"),
    )
    for one, says in wanted:
        if len(those(one)) > 1:
            raise Declined(422, Problem("meaning", f"Only one column {says}."))
    return MethodColumns(those("method"), next(iter(those("truth")), None), next(iter(those("other")), None))
