"""A trial told in somebody's own words, read into the parts of a plan while they write.  Nothing here is stored."""

from itertools import islice
from uuid import UUID

from ninja import Router, Schema

from fieldtally.core.describing.description import OpenQuestion, Righted, describe
from fieldtally.core.describing.looks import ToldLook
from fieldtally.core.describing.outcomes import ToldOutcome
from fieldtally.core.describing.patterns import PATTERNS, Pattern
from fieldtally.core.describing.reader import WordMark
from fieldtally.core.describing.treatments import ToldTreatment
from fieldtally.core.design.plan import Plan
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.queries import memberships_of
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of, plans_of
from fieldtally.server.plan.services import as_pattern

router = Router()
MOST_RIGHTED = 200
MOST_EARLIER = 6


class DescriptionIn(Schema):
    """What somebody tells of a trial, and which pieces of it they put right; places are counted in characters (code points)."""

    text: str
    righted: list[Righted] = []


class DescriptionOut(Schema):
    """What was understood, the marks at its words, and what is left open, the weightiest first."""

    treatments: list[ToldTreatment]
    each: int | None
    sample: str
    pieces: int
    piece: str
    places: list[str]
    outcomes: list[ToldOutcome]
    looks: list[ToldLook]
    cycle_word: str
    blind: bool
    begun: bool
    question: str
    marks: list[WordMark]
    asked: list[OpenQuestion]


@router.post("/description", response={200: DescriptionOut, 422: ProblemsOut})
def description(request: SignedIn, body: DescriptionIn) -> DescriptionOut:
    """What a text says of a trial: treatments, numbers, places, outcomes, looks."""
    told = describe(body.text, body.righted[:MOST_RIGHTED])
    return DescriptionOut(
        treatments=list(told.treatments),
        each=told.each,
        sample=told.count.sample,
        pieces=told.count.pieces,
        piece=told.count.piece,
        places=list(told.places),
        outcomes=list(told.outcomes),
        looks=list(told.looks.looks),
        cycle_word=told.looks.cycle_word,
        blind=told.blind,
        begun=told.begun,
        question=told.question,
        marks=list(told.marks),
        asked=list(told.asked),
    )


@router.get("/patterns", response=list[Pattern])
def patterns(request: SignedIn) -> list[Pattern]:
    """Short plans to begin with, as somebody would tell them."""
    return list(PATTERNS)


class EarlierPlan(Schema):
    """An earlier trial of this person whose plan another may begin with."""

    trial: UUID
    title: str


@router.get("/patterns/earlier", response=list[EarlierPlan])
def earlier(request: SignedIn) -> list[EarlierPlan]:
    """The newest of the person's trials whose treatments they may know; no tastings, no plans without treatments."""
    memberships = memberships_of(request.user)
    plans = plans_of([one.trial for one in memberships])
    found = (
        EarlierPlan(trial=one.trial_id, title=one.trial.title)
        for one in memberships
        if plans[one.trial_id].treatments
        and not plans[one.trial_id].tasting
        and Sight(one.trial, one).may("see_treatments")
    )
    return list(islice(found, MOST_EARLIER))


@router.get("/trials/{trial_id}/pattern", response={200: Plan, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut})
def pattern(request: SignedIn, trial_id: UUID) -> Plan:
    """The plan of a trial as another begins with it."""
    seen = sight(request, trial_id)
    seen.need("see_treatments")
    return as_pattern(plan_of(seen.trial))
