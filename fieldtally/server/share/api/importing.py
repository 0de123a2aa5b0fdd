"""Doors for what is brought in: a trial pack, or a table of results that were there already."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import Literal, cast
from uuid import UUID

from ninja import File, Router, Schema, Status
from ninja.files import UploadedFile

from fieldtally.core.problems import Problem, Refused
from fieldtally.core.scales import Scale
from fieldtally.core.tables.choices import Choices
from fieldtally.core.tables.columns import Meaning
from fieldtally.core.tables.foreign import read_foreign
from fieldtally.core.tables.meaning import guess
from fieldtally.server.answers import Declined, ProblemOut, ProblemsOut, missing
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.share import importing
from fieldtally.server.share.going_on import plan_the_rest
from fieldtally.server.share.models import Import

ImportKind = Literal["pack", "table"]
ImportState = Literal["new", "running", "done", "refused", "failed", "waits"]
router = Router()
SHOWN_ROWS = 12


class ImportOut(Schema):
    """A file on its way in, and how far it is."""

    id: UUID
    name: str
    kind: ImportKind
    state: ImportState
    done: int
    total: int
    problems: list[ProblemOut]
    warnings: list[str]
    trial: UUID | None
    at: datetime


class OutcomeRead(Schema):
    """An outcome as the table was understood."""

    name: str
    scale: Scale
    better: str
    looks: int


class ImportedTableOut(Schema):
    """A table as it was understood: its first rows, what its columns mean, and what would come of it or stands in the way."""

    bringing: ImportOut
    sheet: str
    sheets: list[str]
    header: list[str]
    rows: list[list[str]]
    row_count: int
    title: str
    meaning: Meaning
    choices: Choices
    treatments: list[str]
    blocks: list[str]
    looks: list[str]
    outcomes: list[OutcomeRead]
    samples: int
    readings: int
    warnings: list[str]
    problems: list[ProblemOut]


class BringingsOut(Schema):
    """What one has on its way."""

    bringings: list[ImportOut]


def _out(row: Import) -> ImportOut:
    return ImportOut(
        id=row.pk,
        name=row.name,
        kind=cast(ImportKind, row.kind),
        state=cast(ImportState, row.state),
        done=row.done,
        total=row.total,
        problems=[ProblemOut(**one) for one in row.problems],
        warnings=row.warnings,
        trial=row.trial_id,
        at=row.at,
    )


def _own(request: SignedIn, import_id: UUID) -> Import:
    row = Import.objects.select_related("by").filter(pk=import_id, by=request.user).first()
    if row is None:
        raise missing()
    return importing.given_up(row)


@router.post("/imports", response={201: ImportOut, 413: ProblemsOut, 422: ProblemsOut})
def send(request: SignedIn, file: File[UploadedFile]) -> Status[ImportOut]:
    """Send a file.  Nothing is made of it yet."""
    if (file.size or 0) > importing.LARGEST_PACK:
        raise Declined(413, Problem("file", f"This file is larger than {importing.LARGEST_PACK // 1_000_000} MB."))
    try:
        return Status(201, _out(importing.keep(request.user, file.name or "a file", file.read())))
    except Refused as refused:
        raise Declined(422, *(Problem(one.at or "file", one.says) for one in refused.problems)) from refused


@router.get("/imports", response=BringingsOut)
def own(request: SignedIn) -> BringingsOut:
    """What one has on its way, newest first."""
    rows = Import.objects.filter(by=request.user).defer("content")
    return BringingsOut(bringings=[_out(row) for row in rows])


@router.get("/imports/{import_id}", response={200: ImportOut, 404: ProblemsOut})
def one(request: SignedIn, import_id: UUID) -> ImportOut:
    """How far it is."""
    return _out(_own(request, import_id))


@router.get(
    "/imports/{import_id}/table",
    response={200: ImportedTableOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def table(request: SignedIn, import_id: UUID) -> ImportedTableOut:
    """The table, and what it was understood to say."""
    return _table(_own(request, import_id))


class MeantIn(Schema):
    """What a table really means.  ``sheet`` chooses another sheet, whose columns are then guessed anew."""

    meaning: Meaning
    choices: Choices = Choices()
    title: str = ""
    zone: str = ""
    sheet: str = ""


@router.put(
    "/imports/{import_id}/table",
    response={200: ImportedTableOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def understand(request: SignedIn, import_id: UUID, body: MeantIn) -> ImportedTableOut:
    """Correct what was guessed."""
    row = _own(request, import_id)
    if row.is_on_its_way:
        raise Declined(409, "It is on its way in already.")
    said = body.dict()
    if body.sheet != row.asked.get("sheet", ""):
        chosen = read_foreign(bytes(row.content), body.sheet)
        said["meaning"] = asdict(guess(chosen))
    importing.mean(row, {**said, "title": body.title[:200], "zone": body.zone[:64]})
    return _table(row)


@router.post("/imports/{import_id}/in", response={202: ImportOut, 404: ProblemsOut, 409: ProblemsOut})
def carry_in(request: SignedIn, import_id: UUID) -> Status[ImportOut]:
    """Make a trial of it; ask again under its id how far it is."""
    row = _own(request, import_id)
    if row.is_on_its_way:
        raise Declined(409, "It is on its way in already.")
    importing.start(row)
    return Status(202, _out(_own(request, import_id)))


@router.post(
    "/imports/{import_id}/on",
    response={201: ImportOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def go_on(request: SignedIn, import_id: UUID) -> Status[ImportOut]:
    """It still goes on: a draft of the rest; what the table tells comes in once that is sealed."""
    row = _own(request, import_id)
    if row.is_on_its_way or row.kind != "table":
        raise Declined(409, "It is on its way in already." if row.kind == "table" else "Only a table goes on.")
    try:
        plan_the_rest(row)
    except Refused as refused:
        raise Declined(422, *refused.problems) from refused
    return Status(201, _out(_own(request, import_id)))


@router.delete("/imports/{import_id}", response={204: None, 404: ProblemsOut})
def take_away(request: SignedIn, import_id: UUID) -> Status[None]:
    """Forget the file; a trial that was made of it stays."""
    _own(request, import_id).delete()
    return Status(204, None)


def _table(row: Import) -> ImportedTableOut:
    if row.kind != "table" or row.is_in:
        raise Declined(409, "This is no table, or it is in already.")
    found = importing.table_of(row)
    problems: list[ProblemOut] = []
    made = None
    try:
        made = importing.tried(row)
    except Refused as refused:
        problems = [ProblemOut(at=one.at, says=one.says) for one in refused.problems]
    plan = made.plan if made else None
    return ImportedTableOut(
        bringing=_out(row),
        sheet=found.sheet,
        sheets=list(found.sheets),
        header=list(found.header),
        rows=[list(one.cells) for one in found.rows[:SHOWN_ROWS]],
        row_count=len(found.rows),
        title=row.asked.get("title") or row.name.rsplit(".", 1)[0],
        meaning=importing.meaning_in(row.asked["meaning"]),
        choices=Choices(**row.asked.get("choices", {})),
        treatments=[t.name for t in plan.treatments] if plan else [],
        blocks=[b.name for b in plan.layout.blocks] if plan else [],
        looks=[c.name for c in plan.checkpoints] if plan else [],
        outcomes=[
            OutcomeRead(name=o.name, scale=o.scale, better=o.better, looks=len(o.checkpoints)) for o in plan.outcomes
        ]
        if plan
        else [],
        samples=len(made.pack.tables["samples"]) if made else 0,
        readings=made.readings if made else 0,
        warnings=list(made.warnings if made else found.warnings),
        problems=problems,
    )
