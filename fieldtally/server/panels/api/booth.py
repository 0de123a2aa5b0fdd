"""The booth: for whoever has the link, without an account.  Nothing of the trial is told here."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Header, Router, Schema
from pydantic import AwareDatetime

from fieldtally.core.panels.grading import PanelAttribute
from fieldtally.core.panels.methods import METHODS
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, ProblemsOut
from fieldtally.server.panels import judging
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.material import cup_of
from fieldtally.server.panels.models import Assessor, Judgement, Serving
from fieldtally.server.people.sight import blacked_out, earlier_names
from fieldtally.server.plan.queries import plan_of

Device = Annotated[str, Header(alias="X-Booth-Device")]
router = Router()
TURNED_DOWN = {404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut, 429: ProblemsOut}


class SetOut(Schema):
    """A set of cups, known by their codes; ``answered``: its answer is locked."""

    id: UUID
    session: int
    codes: Sequence[str]
    answered: bool


class BoothOut(Schema):
    """What an assessor needs: the question, what is declared, and the sets.  ``names`` are for naming alone, in an order of their own."""

    number: int
    method: str
    question: str
    state: str
    consented: bool
    adults: bool
    allergens: str
    dose: str
    words_to_say: str
    pause: int
    confidence: bool
    preference: bool
    each_once: bool
    material: str
    stopped: bool
    break_off: str
    attributes: Sequence[PanelAttribute]
    chips: Sequence[str]
    free_words: bool
    names: Sequence[str]
    sets: Sequence[SetOut]


def _seat(request: HttpRequest, token: str, device: str) -> Assessor:
    return judging.seat(token, device, request.META.get("REMOTE_ADDR", ""))


def _booth(assessor: Assessor) -> BoothOut:
    panel = assessor.panel
    plan, trial_plan = panel_plan(panel), plan_of(panel.trial)
    names = [*trial_plan.telling_names, *earlier_names(panel.trial)]
    answered = set(Judgement.objects.filter(serving__assessor=assessor).values_list("serving_id", flat=True))
    treatments = {t.key: t.name for t in trial_plan.treatments}
    question = METHODS[plan.method].question.replace("…", plan.attribute.strip() or "…")
    return BoothOut(
        number=assessor.number,
        method=plan.method,
        question=blacked_out(question, names),
        state=panel.state,
        consented=assessor.consented_at is not None,
        adults=plan.adults,
        # What somebody may be allergic to is told whatever it may give away.
        allergens=plan.allergens,
        dose=blacked_out(plan.dose, names),
        words_to_say=blacked_out(plan.words_to_say, names),
        pause=plan.pause,
        confidence=plan.confidence,
        preference=plan.preference,
        each_once=plan.each_once,
        material=plan.material,
        stopped=assessor.stopped_at is not None,
        break_off=blacked_out(plan.break_off, names),
        attributes=[
            replace(
                one,
                name=blacked_out(one.name, names),
                low=blacked_out(one.low, names),
                high=blacked_out(one.high, names),
            )
            for one in plan.attributes
        ],
        # A word that names a treatment is not offered.
        chips=[chip for chip in plan.chips if blacked_out(chip, names) == chip],
        free_words=plan.free_words,
        names=[treatments.get(key, "") for key in plan.things] if plan.method == "naming" else [],
        sets=[
            SetOut(id=one.pk, session=one.session, codes=one.codes, answered=one.pk in answered)
            for one in Serving.objects.filter(assessor=assessor, spilt="")
        ],
    )


@router.get("/booth/{token}", auth=None, response={200: BoothOut, **TURNED_DOWN})
def booth(request: HttpRequest, token: str, device: Device = "") -> BoothOut:
    """Sit down in the booth; the device that opens a link first keeps it."""
    return _booth(_seat(request, token, device))


class ConsentIn(Schema):
    """That one takes part, and is an adult where that is asked."""

    agreed: bool
    adult: bool = False


@router.post("/booth/{token}/consent", auth=None, response={200: BoothOut, **TURNED_DOWN})
def consent(request: HttpRequest, token: str, body: ConsentIn, device: Device = "") -> BoothOut:
    """Say that one has read what is in the cups, and takes part."""
    assessor = _seat(request, token, device)
    if not body.agreed:
        raise Declined(422, Problem("agreed", "Nobody has to take part; without this there is nothing to taste."))
    judging.consent(assessor, adult=body.adult)
    assessor.refresh_from_db()
    return _booth(assessor)


@router.post("/booth/{token}/stop", auth=None, response={200: BoothOut, **TURNED_DOWN})
def stop(request: HttpRequest, token: str, device: Device = "") -> BoothOut:
    """Say that one does not go on.  Nobody has to say why."""
    assessor = _seat(request, token, device)
    judging.stop(assessor)
    assessor.refresh_from_db()
    return _booth(assessor)


@router.get("/booth/{token}/sets/{serving_id}/{place}", auth=None, response={200: None, **TURNED_DOWN})
def cup(request: HttpRequest, token: str, serving_id: UUID, place: int, device: Device = "") -> HttpResponse:
    """What is played or shown for a cup: a copy of its own, of the same size as every other."""
    assessor = _seat(request, token, device)
    if assessor.consented_at is None:
        raise Declined(409, "Read what you take part in first.")
    serving = Serving.objects.select_related("assessor__panel").filter(pk=serving_id, assessor=assessor).first()
    if serving is None:
        raise Declined(404, "There is nothing to play or show here.")
    content, kind = cup_of(serving, place)
    # Not squeezed on the way: how far a sound or picture can be squeezed would tell which one it is.
    return HttpResponse(
        content, content_type=kind, headers={"Cache-Control": "no-store, no-transform", "Content-Encoding": "identity"}
    )


class SeatOut(Schema):
    """A seat at the tablet: whose turn it may be, with the link to their booth, and how many of their sets are answered."""

    number: int
    name: str
    token: str
    done: int
    of: int
    elsewhere: bool


class TableOut(Schema):
    """All seats, for a tablet that is handed round."""

    state: str
    seats: Sequence[SeatOut]


@router.get("/tables/{token}", auth=None, response={200: TableOut, **TURNED_DOWN})
def table(request: HttpRequest, token: str, device: Device = "") -> TableOut:
    """The seats of a tablet that is handed round.  Nothing of the trial is told here either."""
    people = judging.seats_at(token, request.META.get("REMOTE_ADDR", ""))
    return TableOut(
        state=people[0].panel.state if people else "closed",
        seats=[
            SeatOut(
                number=one.number,
                name=one.called,
                token=one.token,
                done=Judgement.objects.filter(serving__assessor=one).count(),
                of=one.servings.filter(spilt="").count(),
                elsewhere=bool(one.device) and one.device != device,
            )
            for one in people
        ],
    )


class JudgementIn(Schema):
    """An answer; ``id`` is made by the device."""

    id: UUID
    serving: UUID
    answer: list[int]
    confidence: int | None = None
    preference: int | None = None
    grades: list[list[int | None]] = []
    chips: list[str] = []
    words: str = ""
    given_at: AwareDatetime


class JudgementsIn(Schema):
    """Answers, in the order they were given."""

    judgements: list[JudgementIn]


class LockedOut(Schema):
    """The ids that are stored now, whether by this request or an earlier one."""

    stored: Sequence[UUID]


@router.post("/booth/{token}/judgements", auth=None, response={200: LockedOut, **TURNED_DOWN})
def judge(request: HttpRequest, token: str, body: JudgementsIn, device: Device = "") -> LockedOut:
    """Give answers.  Each is locked once it is given; whether it was right is told when the key opens, and not here."""
    assessor = _seat(request, token, device)
    given = [
        judging.Given(
            one.id,
            one.serving,
            tuple(one.answer),
            one.confidence,
            one.preference,
            tuple(tuple(own) for own in one.grades),
            tuple(one.chips),
            one.words,
            one.given_at,
        )
        for one in body.judgements
    ]
    return LockedOut(stored=judging.write_judgements(assessor, given))
