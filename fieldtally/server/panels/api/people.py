"""The people of a panel, and the cups that are poured for them."""

from collections import Counter
from collections.abc import Iterator, Sequence
from typing import Any, Literal, cast
from uuid import UUID

from django.db import transaction
from ninja import Router, Schema

from fieldtally.core.panels.serving import LETTERS
from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.log.services import write_note
from fieldtally.server.panels import hosting, planning
from fieldtally.server.panels.api.hosting import PanelOut, panel_out
from fieldtally.server.panels.api.seeing import panel_seen
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.models import Assessor, Judgement, Panel, Serving
from fieldtally.server.people.queries import memberships_of
from fieldtally.server.people.sight import Sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of

Experience = Literal["naive", "regular", "trained"]
router = Router()


class NewAssessor(Schema):
    """Somebody who is to judge; to an ``address`` they are written of the day."""

    name: str = ""
    experience: Experience = "naive"
    blind: bool = True
    address: str = ""


class NewAssessors(Schema):
    """All who are added now."""

    assessors: list[NewAssessor]


@router.post(
    "/panels/{panel_id}/assessors",
    response={200: PanelOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def invite(request: SignedIn, panel_id: UUID, body: NewAssessors) -> PanelOut:
    """Add assessors; those who come late are dealt on from where the balance was left."""
    seen, panel = panel_seen(request, panel_id)
    seen.need("invite_assessor")
    planning.invite(
        panel, [planning.Invited(one.name, one.experience, one.blind, one.address) for one in body.assessors]
    )
    panel.refresh_from_db()
    if panel.has_begun:
        many = len(body.assessors)
        came = "1 person" if many == 1 else f"{many} people"
        write_note(
            seen.trial, request.user, f"Added {came} to the panel “{panel_plan(panel).title}”, after it had begun."
        )
    return panel_out(panel, links=True)


class EarlierAssessor(Schema):
    """Somebody who judged in earlier panels of trials that the person leads, and how often."""

    name: str
    experience: Experience
    panels: int


class EarlierAssessors(Schema):
    """All of them by name; nobody who was erased."""

    assessors: list[EarlierAssessor]


@router.get("/earlier-assessors", response=EarlierAssessors)
def earlier(request: SignedIn) -> EarlierAssessors:
    """Who judged before, to be asked again."""
    led = [m.trial_id for m in memberships_of(request.user) if Sight(m.trial, m).may("invite_assessor")]
    rows = Assessor.objects.filter(panel__trial__in=led, erased_at=None).exclude(name="").order_by("panel__created_at")
    found: dict[str, tuple[str, int]] = {}
    for name, experience in rows.values_list("name", "experience"):
        found[name] = (experience, found.get(name, ("", 0))[1] + 1)
    return EarlierAssessors(
        assessors=[
            EarlierAssessor(name=name, experience=cast(Experience, experience), panels=many)
            for name, (experience, many) in sorted(found.items())
        ]
    )


def _assessor(request: SignedIn, assessor_id: UUID) -> tuple[Sight, Panel, Assessor]:
    found = Assessor.objects.filter(pk=assessor_id).first()
    if found is None:
        raise missing()
    seen, panel = panel_seen(request, found.panel_id)
    seen.need("note_assessor")
    return seen, panel, found


class AboutAssessor(Schema):
    """What is to be noted of an assessor; None: as it is.  ``free``: the link may be opened on another device; ``new_link``: the old one
    leads nowhere any more; ``move``: a short code by which the seat goes to another phone."""

    blind: bool | None = None
    left_out: str | None = None
    free: bool = False
    new_link: bool = False
    move: bool = False
    address: str | None = None
    erase: bool = False


def _noted(found: Assessor, seat: str, body: AboutAssessor) -> Iterator[str]:
    """Do what is asked, one after the other, and tell what was done."""
    if body.left_out is not None:
        hosting.leave_out(found, body.left_out)
        why = body.left_out.strip()
        yield f"Left out {seat}: {why}" if why else f"Counts {seat} again"
    if body.blind is not None and body.blind != found.blind:
        hosting.not_blind(found, body.blind)
        yield f"Noted {seat} as {'blind' if body.blind else 'not blind'}"
    if body.free:
        hosting.free_booth(found)
        yield f"Freed {seat} for another device"
    if body.new_link:
        hosting.new_link(found)
        yield f"Gave {seat} a new link; the old one leads nowhere"
    if body.move:
        hosting.let_move(found)
        yield f"Gave out a code to move {seat} to another phone"
    if body.address is not None:
        hosting.write_to(found, body.address)
        yield f"Changed where {seat} is written to"
    if body.erase:
        hosting.erase(found)
        yield f"Erased the name of {seat}"


@router.post(
    "/assessors/{assessor_id}",
    response={200: PanelOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def note(request: SignedIn, assessor_id: UUID, body: AboutAssessor) -> PanelOut:
    """Note that somebody was not blind or does not count; free their booth; erase their name."""
    seen, panel, found = _assessor(request, assessor_id)
    # By the seat: the log outlives a name that is erased.
    seat = f"seat {found.number} of the panel “{panel_plan(panel).title}”"
    seen.hear(plan_of(seen.trial).telling_names, left_out=body.left_out or "")
    with transaction.atomic():
        for one in _noted(found, seat, body):
            write_note(seen.trial, request.user, f"{one}.")
    return panel_out(panel, links=True)


class AnswerOf(Schema):
    """One answer as it was given."""

    codes: Sequence[str]
    answer: Sequence[int]
    confidence: int | None
    preference: int | None
    chips: Sequence[str]
    words: str


class ExportOut(Schema):
    """All that is kept of an assessor."""

    number: int
    name: str
    experience: str
    consented: bool
    answers: Sequence[AnswerOf]


@router.get("/assessors/{assessor_id}", response={200: ExportOut, 403: ProblemsOut, 404: ProblemsOut})
def export(request: SignedIn, assessor_id: UUID) -> dict[str, Any]:
    """All that is kept of an assessor, for them to have; without what was in the cups.  Answers stay sealed until the key opens: together
    with the sheet of whoever pours they would tell who was right."""
    _, _, found = _assessor(request, assessor_id)
    rows = Judgement.objects.filter(serving__assessor=found).select_related("serving").order_by("given_at", "pk")
    return {
        "number": found.number,
        "name": found.name,
        "experience": found.experience,
        "consented": found.consented_at is not None,
        "answers": [
            {
                "codes": row.serving.codes,
                "answer": row.answer,
                "confidence": row.confidence,
                "preference": row.preference,
                "chips": row.chips,
                "words": row.words,
            }
            for row in (rows if found.panel.key_is_open else ())
        ],
    }


class PouredOut(Schema):
    """A set to be poured: for whom, over what, and what goes into the cup with each code."""

    serving: UUID
    session: int
    assessor: int
    name: str
    stimulus: str
    answered: bool
    cups: Sequence["CupOut"]


class CupOut(Schema):
    """A cup: the code on it ("R": the reference), what is in it, and the code of the sample that it is filled from, where the trial's own
    are served."""

    code: str
    thing: str
    sample: str


class TotalOut(Schema):
    """How much of a thing is poured in all."""

    thing: str
    cups: int
    amount: float


class PourOut(Schema):
    """The sheet for whoever pours, what comes before the first set, and the amount of each thing in all."""

    sets: Sequence[PouredOut]
    amount: float
    unit: str
    totals: Sequence[TotalOut]
    words_to_say: str
    first: str


@router.post("/panels/{panel_id}/pour", response={200: PourOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut})
def pour(request: SignedIn, panel_id: UUID) -> PourOut:
    """What goes into which cup.  Looking is written into the log: who has seen it must not judge, nor watch faces."""
    seen, panel = panel_seen(request, panel_id)
    may_pour(seen, panel)
    return pour_out(request, panel)


def may_pour(seen: Sight, panel: Panel) -> None:
    """Who pours sees what goes into the cups; of the trial's own samples that is the key.

    :raises Declined: 403 for everybody else; 409 before the panel begins.
    """
    if panel_plan(panel).own_samples:
        seen.agree(
            seen.may("see_key"),
            "These cups come from the trial's own samples: who sees the sheet sees the key, and you chose to stay blind.",
        )
    seen.need("see_cups")
    if panel.begun_at is None:
        raise Declined(409, "Nothing is poured before the panel begins.")


def pour_out(request: SignedIn, panel: Panel) -> PourOut:
    """The sheet; looking at it is noted."""
    plan = panel_plan(panel)
    names = {t.key: t.name for t in plan_of(panel.trial).treatments}
    things = {LETTERS[i]: names.get(key, "") for i, key in enumerate(plan.things)}
    sets = hosting.poured(panel)
    sources = hosting.drawn_from(panel, request.user, sets)
    many = Counter(letter for one in sets for letter in one.order)
    # Everybody is given A by its name before the first set.
    named = panel.assessors.count() if plan.method == "a-not-a" else 0
    many["A"] += named
    if not panel.key_is_open:
        write_note(panel.trial, request.user, f"Looked at what goes into the cups of the panel “{plan.title}”.")
    return PourOut(
        sets=[
            PouredOut(
                serving=one.pk,
                session=one.session,
                assessor=one.assessor.number,
                name=one.assessor.called,
                stimulus=plan.stimuli[one.stimulus] if plan.stimuli else "",
                answered=hasattr(one, "judgement"),
                cups=[
                    CupOut(code=code, thing=things[letter], sample=sources.get((one.pk, place), ""))
                    for place, (code, letter) in enumerate(zip(one.codes, one.order, strict=True))
                ],
            )
            for one in sets
        ],
        amount=plan.amount,
        unit=plan.amount_unit,
        totals=[
            TotalOut(thing=thing, cups=many[letter], amount=many[letter] * plan.amount)
            for letter, thing in things.items()
        ],
        words_to_say=plan.words_to_say,
        first=(
            f"Before the first set everybody gets a cup of {things['A']} that is marked A: {named} of them."
            if named
            else ""
        ),
    )


class SpiltIn(Schema):
    """What happened."""

    what: str


class SpiltOut(Schema):
    """The codes of the set that takes its place."""

    serving: UUID
    codes: Sequence[str]


@router.post(
    "/servings/{serving_id}/spilt",
    response={200: SpiltOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def spilt(request: SignedIn, serving_id: UUID, body: SpiltIn) -> SpiltOut:
    """A set was spilt; another one of the same order takes its place."""
    row = Serving.objects.select_related("assessor").filter(pk=serving_id).first()
    if row is None:
        raise missing()
    seen, _ = panel_seen(request, row.assessor.panel_id)
    seen.need("record_spill")
    fresh = hosting.pour_anew(row, body.what)
    return SpiltOut(serving=fresh.pk, codes=fresh.codes)
