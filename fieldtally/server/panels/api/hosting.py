"""Hosting a panel: planning it, beginning it, seeing who is done, closing it."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

from django.utils import timezone
from ninja import File, Router, Schema
from ninja.files import UploadedFile

from fieldtally.core.limits import LONGEST_NOTE
from fieldtally.core.panels.foreseeing import PanelOutlook, outlook
from fieldtally.core.panels.plan import PanelPlan, problems_in
from fieldtally.server.answers import ProblemOut, ProblemsOut
from fieldtally.server.log.services import write_note
from fieldtally.server.panels import hosting, planning
from fieldtally.server.panels.api.seeing import panel_seen
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.material import LARGEST_FILE, keep_material
from fieldtally.server.panels.models import Panel
from fieldtally.server.panels.queries import (
    LookSeen,
    answers_by_assessor,
    findings_of,
    late_by_assessor,
    looks_of,
    panels_of,
    planned_time,
)
from fieldtally.server.panels.sealing import open_panel
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of

router = Router()


class AssessorOut(Schema):
    """An assessor: the link, the address and the code by which their seat may ``move`` to another phone are there for the host alone; how
    many answers were given of how many, and how many came late, never whether they were right; how many of their sets were spilt."""

    id: UUID
    number: int
    name: str
    experience: str
    blind: bool
    left_out: str
    link: str
    consented: bool
    stopped: bool
    on_a_device: bool
    erased: bool
    done: int
    of: int
    late: int
    spilt: int
    address: str
    told_at: datetime | None
    move: str


class ThingOut(Schema):
    """Something that may be put before a panel."""

    key: str
    name: str


class MaterialOut(Schema):
    """The sound or picture of a thing, and of which stimulus: the name of the file, and how long a sound lasts (s)."""

    thing: str
    stimulus: int
    name: str
    seconds: float | None


class PanelOut(Schema):
    """A panel as its host sees it.  It is planned for ``due``, and people judge ``until``; from ``opened_at`` on what it found is told."""

    id: UUID
    trial: UUID
    state: str
    version: int
    plan: PanelPlan
    things: Sequence[ThingOut]
    problems: Sequence[ProblemOut]
    outlook: PanelOutlook | None
    assessors: Sequence[AssessorOut]
    begun_at: datetime | None
    closed_at: datetime | None
    closed_because: str
    opened_at: datetime | None
    is_tasting: bool
    seal: str
    due: datetime | None
    until: datetime | None
    sessions: int
    looks: Sequence[LookSeen]
    table: str
    materials: Sequence[MaterialOut]


class ShortPanel(Schema):
    """A panel in the list: its state, how many answers there are of how many, and once its key is open its sentence, with how many of
    those that are ``counted`` were right, where there is a right answer."""

    id: UUID
    title: str
    method: str
    state: str
    done: int
    of: int
    due: datetime | None
    opened_at: datetime | None
    sentence: str
    right: int | None
    counted: int


class PanelsOut(Schema):
    """The panels of a trial."""

    panels: Sequence[ShortPanel]


def panel_out(panel: Panel, *, links: bool) -> PanelOut:
    """A panel with its people."""
    plan = panel_plan(panel)
    wrong = planning.faults(panel, plan)
    done, late = answers_by_assessor(panel), late_by_assessor(panel)
    people = panel.assessors.prefetch_related("servings")
    due, until = planned_time(panel)
    now = timezone.now()
    return PanelOut(
        id=panel.pk,
        trial=panel.trial_id,
        state=panel.state,
        version=panel.version,
        plan=plan,
        things=[ThingOut(key=t.key, name=t.name) for t in plan_of(panel.trial).treatments],
        problems=[ProblemOut(at=one.at, says=one.says) for one in wrong],
        outlook=None if wrong else outlook(plan),
        assessors=[
            AssessorOut(
                id=one.pk,
                number=one.number,
                name=one.called,
                experience=one.experience,
                blind=one.blind,
                left_out=one.left_out,
                link=f"/booth/{one.token}" if links and not one.erased_at else "",
                consented=one.consented_at is not None,
                stopped=one.stopped_at is not None,
                on_a_device=bool(one.device),
                erased=one.erased_at is not None,
                done=done.get(one.pk, 0),
                of=sum(not serving.spilt for serving in one.servings.all()),
                late=late.get(one.pk, 0),
                spilt=sum(bool(serving.spilt) for serving in one.servings.all()),
                address=one.address if links else "",
                told_at=one.told_at if links else None,
                move=one.move if links and one.move_until is not None and one.move_until > now else "",
            )
            for one in people
        ],
        begun_at=panel.begun_at,
        closed_at=panel.closed_at,
        closed_because=panel.closed_because,
        opened_at=panel.opened_at,
        is_tasting=panel.trial.is_tasting,
        seal=panel.seal,
        due=due,
        until=until,
        sessions=plan.sessions + panel.added_sessions,
        looks=looks_of(panel) if links else [],
        table=f"/table/{panel.table}" if links and panel.table and panel.is_open else "",
        materials=[
            MaterialOut(thing=one.thing, stimulus=one.stimulus, name=one.name, seconds=one.seconds)
            for one in panel.materials.defer("content").order_by("name")
        ],
    )


@router.get("/trials/{trial_id}/panels", response={200: PanelsOut, 403: ProblemsOut, 404: ProblemsOut})
def panels(request: SignedIn, trial_id: UUID) -> PanelsOut:
    """The panels of a trial."""
    seen = sight(request, trial_id)
    seen.need("see_panel")
    found = []
    for panel in panels_of(seen.trial):
        plan = panel_plan(panel)
        given = sum(answers_by_assessor(panel).values())
        read = findings_of(panel)[0] if panel.key_is_open and seen.may("see_panel_result") else None
        found.append(
            ShortPanel(
                id=panel.pk,
                title=plan.title,
                method=plan.method,
                state=panel.state,
                done=given,
                of=plan.judgements,
                due=planned_time(panel)[0],
                opened_at=panel.opened_at,
                sentence=read.sentence if read else "",
                right=read.found.correct if read and read.found else None,
                counted=read.n if read else 0,
            )
        )
    return PanelsOut(panels=found)


class NewPanel(Schema):
    """The plan of a new panel."""

    plan: PanelPlan


@router.post(
    "/trials/{trial_id}/panels",
    response={200: PanelOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def plan_one(request: SignedIn, trial_id: UUID, body: NewPanel) -> PanelOut:
    """Begin to plan a panel."""
    seen = sight(request, trial_id)
    seen.need("host_panel")
    return panel_out(planning.begin_planning(seen.trial, request.user, body.plan), links=True)


@router.get("/panels/{panel_id}", response={200: PanelOut, 403: ProblemsOut, 404: ProblemsOut})
def panel(request: SignedIn, panel_id: UUID) -> PanelOut:
    """A panel as its host sees it: who is done, never who was right."""
    seen, found = panel_seen(request, panel_id)
    return panel_out(found, links=seen.may("hand_out_links"))


class ChangedPanel(Schema):
    """The plan as it should stand, and the version it was changed from."""

    plan: dict[str, Any]
    version: int


@router.put(
    "/panels/{panel_id}",
    response={200: PanelOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def change(request: SignedIn, panel_id: UUID, body: ChangedPanel) -> PanelOut:
    """Change the plan of a panel that has not begun."""
    seen, found = panel_seen(request, panel_id)
    seen.need("host_panel")
    return panel_out(planning.change_plan(found, body.plan, body.version), links=True)


class PanelAskedIn(Schema):
    """A plan to be judged, and the treatments (keys) there are."""

    plan: PanelPlan
    treatments: list[str]


class PanelForeseen(Schema):
    """What the panel costs and can find, or what is wrong with it."""

    outlook: PanelOutlook | None
    problems: Sequence[ProblemOut]


@router.post("/panel-outlook", response={200: PanelForeseen, 422: ProblemsOut})
def what_it_can_find(request: SignedIn, body: PanelAskedIn) -> PanelForeseen:
    """What a panel can find, while it is being planned; nothing is stored."""
    wrong = list(problems_in(body.plan, frozenset(body.treatments)))
    return PanelForeseen(
        outlook=None if wrong else outlook(body.plan),
        problems=[ProblemOut(at=one.at, says=one.says) for one in wrong],
    )


@router.post(
    "/panels/{panel_id}/begin",
    response={200: PanelOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def begin(request: SignedIn, panel_id: UUID) -> PanelOut:
    """Draw the servings; from now on people may judge."""
    seen, found = panel_seen(request, panel_id)
    seen.need("begin_panel")
    row = planning.begin(found)
    write_note(
        seen.trial, request.user, f"Began the panel “{panel_plan(row).title}” with {row.assessors.count()} people."
    )
    return panel_out(row, links=True)


class CloseIn(Schema):
    """Why the panel ends before all answers are given; empty where they are."""

    because: str = ""


@router.post(
    "/panels/{panel_id}/close",
    response={200: PanelOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def close(request: SignedIn, panel_id: UUID, body: CloseIn) -> PanelOut:
    """Take no more answers."""
    seen, found = panel_seen(request, panel_id)
    seen.need("close_panel")
    planning.close(found, body.because)
    found.refresh_from_db()
    if body.because.strip():
        title = panel_plan(found).title
        write_note(
            seen.trial, request.user, f"The panel “{title}” was ended early: {body.because.strip()}"[:LONGEST_NOTE]
        )
    else:
        write_note(seen.trial, request.user, f"Closed the panel “{panel_plan(found).title}”.")
    return panel_out(found, links=True)


@router.post(
    "/panels/{panel_id}/sessions",
    response={200: PanelOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def one_more_session(request: SignedIn, panel_id: UUID) -> PanelOut:
    """One more session for all who count; the balance is kept, and the log says so."""
    seen, found = panel_seen(request, panel_id)
    seen.need("add_session")
    row = planning.add_session(found)
    many = panel_plan(row).sessions + row.added_sessions
    write_note(seen.trial, request.user, f"A session was added to the panel “{panel_plan(row).title}”: {many} in all.")
    return panel_out(row, links=True)


@router.post("/panels/{panel_id}/open", response={200: PanelOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut})
def open_key(request: SignedIn, panel_id: UUID) -> PanelOut:
    """Open the key of a closed panel, and of no other: what it found may be read, and who counts is fixed."""
    seen, found = panel_seen(request, panel_id)
    seen.need("open_panel_key")
    row = open_panel(found, request.user)
    write_note(seen.trial, request.user, f"Opened the key of the panel “{panel_plan(row).title}”.")
    return panel_out(row, links=True)


class TableIn(Schema):
    """Whether a tablet is handed round."""

    lay: bool


@router.post("/panels/{panel_id}/table", response={200: PanelOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut})
def tablet(request: SignedIn, panel_id: UUID, body: TableIn) -> PanelOut:
    """A fresh link for a tablet that is handed round, or none any more."""
    seen, found = panel_seen(request, panel_id)
    seen.need("hand_tablet_round")
    hosting.lay_table(found, lay=body.lay)
    did = "Laid a tablet that goes round" if body.lay else "Took back the tablet that went round"
    write_note(seen.trial, request.user, f"{did} for the panel “{panel_plan(found).title}”.")
    found.refresh_from_db()
    return panel_out(found, links=True)


@router.post(
    "/panels/{panel_id}/materials/{thing}",
    response={200: PanelOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 413: ProblemsOut, 422: ProblemsOut},
)
def keep(request: SignedIn, panel_id: UUID, thing: str, file: File[UploadedFile], stimulus: int = 0) -> PanelOut:
    """The sound or picture of one of the things that are put before the panel, over the ``stimulus`` of that number."""
    seen, found = panel_seen(request, panel_id)
    seen.need("choose_stimulus")
    keep_material(found, thing, file.read(LARGEST_FILE + 1), file.name or "", stimulus)
    return panel_out(found, links=True)
