"""Practice: somebody signed in tests themselves; the sheet of a helper who pours for them."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from fieldtally.core.panels.methods import METHODS
from fieldtally.core.panels.practice import Practised
from fieldtally.core.panels.serving import is_right
from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.panels import practising
from fieldtally.server.panels.material import practice_cup
from fieldtally.server.panels.models import Practice
from fieldtally.server.people.signedin import SignedIn

router = Router()


class PracticeSetOut(Schema):
    """A set of practice; what was in the cups (letters) and whether the answer was right are told once the whole run is answered."""

    place: int
    codes: Sequence[str]
    answer: Sequence[int] | None
    order: str
    right: bool | None


class PracticeOut(Schema):
    """A run of sets, and what it tells once it is done; ``helper`` is the address of the sheet for whoever pours."""

    id: UUID
    method: str
    question: str
    source: str
    step: int
    first: str
    second: str
    helper: str
    begun_at: datetime
    sets: Sequence[PracticeSetOut]
    told: Practised | None


class PracticesOut(Schema):
    """All runs of a person, the newest first."""

    runs: Sequence[PracticeOut]


def _out(one: Practice) -> PracticeOut:
    told, method = practising.told_of(one), practising.method_of(one)
    return PracticeOut(
        id=one.pk,
        method=one.method,
        question=METHODS[method].question.replace("…", "of it"),
        source=one.source,
        step=one.step,
        first=one.first,
        second=one.second,
        helper=f"/helper/{one.helper}" if one.source == "cups" and told is None else "",
        begun_at=one.begun_at,
        sets=[
            PracticeSetOut(
                place=row.place,
                codes=row.codes,
                answer=row.answer,
                order=row.order if told else "",
                right=bool(is_right(method, row.order, row.answer or [])) if told else None,
            )
            for row in one.sets.all()
        ],
        told=told,
    )


@router.get("/practice", response=PracticesOut)
def runs(request: SignedIn) -> PracticesOut:
    """The runs of whoever asks, and of nobody else."""
    return PracticesOut(runs=[_out(one) for one in Practice.objects.filter(by=request.user).prefetch_related("sets")])


class PracticeIn(Schema):
    """What is to be practised."""

    method: str = "triangle"
    sets: int = 12
    source: str = "sounds"
    step: int = 3
    first: str = ""
    second: str = ""


@router.post("/practice", response={200: PracticeOut, 422: ProblemsOut})
def begin(request: SignedIn, body: PracticeIn) -> PracticeOut:
    """Draw a run of sets."""
    return _out(practising.begin_practice(request.user, practising.PracticeWanted(**body.dict())))


@router.get("/practice/{practice_id}", response={200: PracticeOut, 404: ProblemsOut})
def run(request: SignedIn, practice_id: UUID) -> PracticeOut:
    """One run."""
    return _out(practising.practice_of(request.user, practice_id))


class PracticeAnswer(Schema):
    """The answer to a set: places of cups."""

    place: int
    answer: list[int]


@router.post(
    "/practice/{practice_id}/answers",
    response={200: PracticeOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def give(request: SignedIn, practice_id: UUID, body: PracticeAnswer) -> PracticeOut:
    """Give the answer to a set; it is locked then."""
    found = practising.practice_of(request.user, practice_id)
    practising.answer_set(found, body.place, body.answer)
    return _out(found)


@router.delete("/practice/{practice_id}", response={204: None, 404: ProblemsOut})
def remove(request: SignedIn, practice_id: UUID) -> tuple[int, None]:
    """Remove a run from one's own record."""
    practising.practice_of(request.user, practice_id).delete()
    return 204, None


@router.get("/practice/{practice_id}/sets/{number}/{place}", response={200: None, 404: ProblemsOut})
def cup(request: SignedIn, practice_id: UUID, number: int, place: int) -> HttpResponse:
    """What is played or shown in a set."""
    found = practising.practice_of(request.user, practice_id)
    one = found.sets.filter(place=number).first()
    if one is None:
        raise missing()
    content, kind = practice_cup(found, one, place)
    return HttpResponse(content, content_type=kind, headers={"Cache-Control": "no-store"})


class HelperCup(Schema):
    """A cup: its code ("R": the reference), and what is poured into it."""

    code: str
    thing: str


class HelperSet(Schema):
    """The cups of one set, in their order."""

    cups: Sequence[HelperCup]


class HelperOut(Schema):
    """The sheet for whoever pours a run of practice."""

    sets: Sequence[HelperSet]


@router.get("/helper/{token}", auth=None, response={200: HelperOut, 404: ProblemsOut})
def helper(request: HttpRequest, token: str) -> HelperOut:
    """What goes into which cup, for a helper without an account."""
    found = Practice.objects.filter(helper=token, source="cups").first()
    if found is None:
        raise Declined(404, "This link leads to no practice.")
    things = {"A": found.first, "B": found.second}
    return HelperOut(
        sets=[
            HelperSet(cups=[HelperCup(code=c, thing=things[o]) for c, o in zip(row.codes, row.order, strict=True)])
            for row in found.sets.all()
        ]
    )
