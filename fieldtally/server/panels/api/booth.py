"""The booth: for whoever has the link, without an account.  Nothing of the trial is told here."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime
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
from fieldtally.server.panels.cards import Card, card_of
from fieldtally.server.panels.days import calendar_of
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.material import cup_of, known_of
from fieldtally.server.panels.models import Assessor, Judgement, Serving
from fieldtally.server.panels.queries import planned_time
from fieldtally.server.people.sight import blacked_out, earlier_names
from fieldtally.server.plan.queries import plan_of

Device = Annotated[str, Header(alias="X-Booth-Device")]
router = Router()
TURNED_DOWN = {404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut, 429: ProblemsOut}


class SetOut(Schema):
    """A set of cups, known by their codes, over a ``stimulus`` (its number from 0, and what it is called); ``answered``: its answer is
    locked."""

    id: UUID
    session: int
    codes: Sequence[str]
    answered: bool
    stimulus: int
    over: str


class BoothOut(Schema):
    """What an assessor needs: the question, what is declared, and the sets.  ``names`` are for naming alone, in an order of their own;
    ``shows_a``: A is given by its name before it is asked for.  ``card``: the key is open, and the host lets people see how they did."""

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
    shows_a: bool
    due: datetime | None
    until: datetime | None
    card: bool


def _seat(request: HttpRequest, token: str, device: str) -> Assessor:
    return judging.seat(token, device, request.META.get("REMOTE_ADDR", ""))


def _booth(assessor: Assessor) -> BoothOut:
    panel = assessor.panel
    plan, trial_plan = panel_plan(panel), plan_of(panel.trial)
    names = [*trial_plan.telling_names, *earlier_names(panel.trial)]
    answered = set(Judgement.objects.filter(serving__assessor=assessor).values_list("serving_id", flat=True))
    treatments = {t.key: t.name for t in trial_plan.treatments}
    due, until = planned_time(panel)
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
            SetOut(
                id=one.pk,
                session=one.session,
                codes=one.codes,
                answered=one.pk in answered,
                stimulus=one.stimulus,
                over=blacked_out(plan.stimuli[one.stimulus], names) if plan.stimuli else "",
            )
            for one in Serving.objects.filter(assessor=assessor, spilt="")
        ],
        shows_a=plan.method == "a-not-a",
        due=due,
        until=until,
        card=plan.cards and panel.names_are_open,
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
    judging.fetched(serving, place)
    return _copy(content, kind)


@router.get("/booth/{token}/known/{stimulus}", auth=None, response={200: None, **TURNED_DOWN})
def known(request: HttpRequest, token: str, stimulus: int, device: Device = "") -> HttpResponse:
    """A, by its name, before it is asked whether something is A."""
    assessor = _seat(request, token, device)
    if assessor.consented_at is None:
        raise Declined(409, "Read what you take part in first.")
    return _copy(*known_of(assessor, stimulus))


def _copy(content: bytes, kind: str) -> HttpResponse:
    # Not squeezed on the way: how far a sound or picture can be squeezed would tell which one it is.
    return HttpResponse(
        content, content_type=kind, headers={"Cache-Control": "no-store, no-transform", "Content-Encoding": "identity"}
    )


class MoveIn(Schema):
    """The short code of a seat."""

    code: str


class MovedOut(Schema):
    """Where the seat is now."""

    link: str


@router.post("/seats", auth=None, response={200: MovedOut, **TURNED_DOWN})
def move(request: HttpRequest, body: MoveIn) -> MovedOut:
    """Take a seat over to this phone by the short code that the host gave out."""
    found = judging.take_over(body.code, request.META.get("REMOTE_ADDR", ""))
    return MovedOut(link=f"/booth/{found.token}")


@router.get("/booth/{token}/card", auth=None, response={200: Card, **TURNED_DOWN})
def card(request: HttpRequest, token: str, device: Device = "") -> Card:
    """How the assessor did, once the key is open and if the host lets people see it."""
    return card_of(_seat(request, token, device))


@router.get("/booth/{token}/date.ics", auth=None, response={200: None, **TURNED_DOWN})
def date(request: HttpRequest, token: str) -> HttpResponse:
    """The day of the panel for a calendar, with the link to the booth; nothing of what is compared."""
    assessor = judging.seat_of(token, request.META.get("REMOTE_ADDR", ""))
    content = calendar_of(assessor, request.build_absolute_uri(f"/booth/{token}"))
    return HttpResponse(content, content_type="text/calendar")


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
    """An answer; ``id`` is made by the device, and ``heard`` says how often each sound was played there."""

    id: UUID
    serving: UUID
    answer: list[int]
    confidence: int | None = None
    preference: int | None = None
    grades: list[list[int | None]] = []
    chips: list[str] = []
    words: str = ""
    given_at: AwareDatetime
    heard: list[int] | None = None


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
            None if one.heard is None else tuple(one.heard),
        )
        for one in body.judgements
    ]
    return LockedOut(stored=judging.write_judgements(assessor, given))
