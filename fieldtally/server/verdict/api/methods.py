"""Doors of methods compared: instruments or kits against each other on the same samples; and what somebody entered, kept under a name."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import Literal
from uuid import UUID

from django.utils import timezone
from ninja import Router, Schema, Status

from fieldtally.core.agreement.instruments import MethodsCompared, methods_compared
from fieldtally.core.problems import Problem
from fieldtally.core.tables.methods import MethodColumns, SideBySide, as_plan, guessed, side_by_side
from fieldtally.core.tables.table import read_table
from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.services import begin
from fieldtally.server.verdict.models import MethodsKept

router = Router()
LONGEST, MOST_ROWS, MOST_METHODS = 300_000, 2_000, 12
LONGEST_NAME, LONGEST_TITLE, MOST_KEPT = 120, 200, 200
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
    """What the columns were taken for, the methods compared, and how many readings lie between two labels of a chart."""

    columns: list[MethodColumn]
    between: int
    found: MethodsCompared


@router.post("/methods", response={200: SideBySideOut, 422: ProblemsOut})
def methods(request: SignedIn, body: SideBySideIn) -> SideBySideOut:
    """Compare the methods in a table with each other, and with the truth where it is known."""
    return _compared(body)


def _sides(body: SideBySideIn) -> SideBySide:
    """The table as it is compared.

    :raises Declined: 422: it is too long.
    """
    if len(body.text) > LONGEST:
        raise Declined(422, Problem("text", f"A table of up to {LONGEST // 1000} kB, please."))
    table = read_table(body.text.encode())
    if len(table.rows) > MOST_ROWS:
        raise Declined(422, Problem("text", f"Up to {MOST_ROWS:,} samples, please; this has {len(table.rows):,}."))
    columns = guessed(table) if body.meaning is None else _meant(table.header, body.meaning)
    if len(columns.methods) > MOST_METHODS:
        raise Declined(422, Problem("meaning", f"Up to {MOST_METHODS} methods, please."))
    return side_by_side(table, columns, body.unit[:40])


def _compared(body: SideBySideIn) -> SideBySideOut:
    sides = _sides(body)
    found = methods_compared(
        sides.names,
        sides.values,
        unit=sides.unit,
        truth=sides.truth,
        other=sides.other,
        limit=body.limit,
        alarm=body.alarm,
        flags=sides.flags,
    )
    told = [MethodColumn(name=n, meaning=_is(n, sides.columns)) for n in sides.header]
    return SideBySideOut(columns=told, between=sides.between, found=found)


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


class MethodsTrialIn(SideBySideIn):
    """A comparison, and what the trial is called that asks the same of new samples."""

    title: str
    zone: str = "UTC"


class MethodsTrialOut(Schema):
    """The trial that was begun."""

    id: UUID


@router.post("/methods/trial", response={201: MethodsTrialOut, 422: ProblemsOut})
def begun_from(request: SignedIn, body: MethodsTrialIn) -> Status[MethodsTrialOut]:
    """Begin a trial that asks whether these methods agree, to be planned on from here."""
    title = " ".join(body.title.split())
    if not title or len(title) > LONGEST_TITLE:
        raise Declined(422, Problem("title", f"A name of 1 to {LONGEST_TITLE} letters, please."))
    plan = as_plan(_sides(body), title, limit=body.limit, alarm=body.alarm)
    return Status(201, MethodsTrialOut(id=begin(request.user, replace(plan, zone=body.zone[:64])).pk))


class MethodsKeepIn(SideBySideIn):
    """A comparison, and the name it is kept under; one of that name is written over."""

    name: str


class MethodsKeptOne(Schema):
    """A comparison that is kept: its name, and when it was."""

    id: UUID
    name: str
    at: datetime


class MethodsKeptList(Schema):
    """The person's own comparisons, newest first."""

    kept: list[MethodsKeptOne]


@router.get("/methods/kept", response=MethodsKeptList)
def kept(request: SignedIn) -> MethodsKeptList:
    """What this person has kept."""
    mine = MethodsKept.objects.filter(user=request.user).defer("given")
    return MethodsKeptList(kept=[MethodsKeptOne(id=one.pk, name=one.name, at=one.at) for one in mine])


@router.post("/methods/kept", response={200: MethodsKeptOne, 409: ProblemsOut, 422: ProblemsOut})
def keep(request: SignedIn, body: MethodsKeepIn) -> MethodsKeptOne:
    """Keep a comparison as it was entered; only one that can be read is kept."""
    name = " ".join(body.name.split())
    if not name or len(name) > LONGEST_NAME:
        raise Declined(422, Problem("name", f"A name of 1 to {LONGEST_NAME} letters, please."))
    _compared(body)
    mine = MethodsKept.objects.filter(user=request.user)
    if mine.count() >= MOST_KEPT and not mine.filter(name=name).exists():
        raise Declined(409, f"{MOST_KEPT} are kept already. Throw one away first.")
    given = body.model_dump(exclude={"name"})
    one, _ = MethodsKept.objects.update_or_create(
        user=request.user, name=name, defaults={"given": given, "at": timezone.now()}
    )
    return MethodsKeptOne(id=one.pk, name=one.name, at=one.at)


@router.get("/methods/kept/{kept_id}", response={200: MethodsKeepIn, 404: ProblemsOut})
def opened(request: SignedIn, kept_id: UUID) -> MethodsKeepIn:
    """What was entered then."""
    one = MethodsKept.objects.filter(user=request.user, pk=kept_id).first()
    if one is None:
        raise missing()
    return MethodsKeepIn(name=one.name, **one.given)


@router.delete("/methods/kept/{kept_id}", response={204: None, 404: ProblemsOut})
def thrown_away(request: SignedIn, kept_id: UUID) -> Status[None]:
    """Throw one away."""
    if not MethodsKept.objects.filter(user=request.user, pk=kept_id).delete()[0]:
        raise missing()
    return Status(204, None)
