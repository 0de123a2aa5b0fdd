"""What the app judges of a plan while it is written.  Nothing here is stored; the same plan always gets the same answer."""

from dataclasses import replace
from datetime import datetime
from typing import Literal
from uuid import UUID

from ninja import Router, Schema

from fieldtally.core.design.factors import Cell, cells_of
from fieldtally.core.design.fair.judges import Known
from fieldtally.core.design.fairness import FairFinding, fairness_of
from fieldtally.core.design.given import drawn, given_in, given_names, given_slots
from fieldtally.core.design.grid import Spot, spots_of
from fieldtally.core.design.layout import Slot, lay_out
from fieldtally.core.design.method import MethodFinding, proven
from fieldtally.core.design.plan import Begun, Given, Plan
from fieldtally.core.design.sound.layout import layout_problems
from fieldtally.core.design.sound.treatments import treatment_problems
from fieldtally.core.design.starting import OddStart, odd_starts
from fieldtally.core.hazards.finding import Caution, Clash, cautions_for, clashes_in
from fieldtally.core.hazards.plan_uses import uses_in
from fieldtally.core.outlook.outlook import Outlook
from fieldtally.core.problems import Refused
from fieldtally.core.quantities.nouns import Noun, noun
from fieldtally.core.scales import MeasurementScale, unit_of
from fieldtally.core.schedule.calendar import Dated, dated, planned_start
from fieldtally.core.schedule.repeat import Repeated, repeated
from fieldtally.core.verdict.agreeing import agreement_foretold
from fieldtally.server.answers import ProblemOut, ProblemsOut
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.foreseeing import foreseen
from fieldtally.server.plan.queries import engagements_of, flaws_in

router = Router()
MOST_SHOWN = 600
MOST_DRAWN = 200_000


class OutlookIn(Schema):
    """A plan to be judged, how many predictions are written down for it, and whether it is sealed; the ``headline``
    comes sooner than the whole outlook."""

    plan: Plan
    predictions: int = 0
    sealed: bool = False
    part: Literal["headline", "whole"] = "whole"


class OutlookOut(Schema):
    """What the plan can tell (None while there is too little to say anything), how fair it is, what its methods can see,
    every combination of its factors, what is counted by one and by several, what is usual with the hazards named in it and what in
    it must not meet, what still keeps it from being sealed, which start values are odd, and its places in order."""

    outlook: Outlook | None
    fairness: list[FairFinding]
    methods: list[MethodFinding]
    cells: list[Cell]
    units: dict[str, str]
    sample: Noun
    plot: Noun
    piece: Noun
    cautions: list[Caution]
    clashes: list[Clash]
    problems: list[ProblemOut]
    odd_starts: list[OddStart]
    places: list[str]
    foretold: list[str]
    """Where instruments are held against each other: what so many readings can tell of them, a sentence each."""


def _places(plan: Plan) -> list[Slot]:
    """The places of the plan in order; none while it cannot be laid out."""
    if [*layout_problems(plan), *treatment_problems(plan)]:
        return []
    return list(lay_out(plan, "places"))


@router.post("/outlook", response={200: OutlookOut, 422: ProblemsOut})
def tell(request: SignedIn, body: OutlookIn) -> OutlookOut:
    """What a plan can and cannot tell, beside the plan after each edit."""
    plan = body.plan
    fewest = min((plan.per_treatment(t) for t in plan.treatments), default=1)
    uses = uses_in(plan)
    measured = [o for o in plan.outcomes if o.proof.repeats or isinstance(o.scale, MeasurementScale)]
    slots = _places(plan)
    blocks = {block.key: block.name.strip() for block in plan.layout.blocks}
    places = [f"{blocks.get(slot.block or '', '')} {slot.place}".strip() for slot in slots][:MOST_SHOWN]
    values = plan.start_values.values
    odd = (
        odd_starts(values, [s.block for s in slots], places, plan.start_values.unit)
        if len(values) == len(places)
        else ()
    )
    return OutlookOut(
        odd_starts=list(odd),
        places=places,
        foretold=list(agreement_foretold(plan)),
        outlook=foreseen(plan, whole=body.part == "whole"),
        fairness=list(fairness_of(plan, Known(body.predictions, body.sealed))),
        methods=[proven(outcome, fewest) for outcome in measured],
        cells=list(cells_of(plan)),
        units={outcome.key: unit_of(outcome.scale) for outcome in plan.outcomes},
        sample=plan.sample,
        plot=noun(plan.layout.plot_word.strip() or "plot"),
        piece=noun(plan.piece_word.strip() or "piece"),
        cautions=list(cautions_for(uses)),
        clashes=list(clashes_in(uses)),
        problems=[ProblemOut(at=p.at, says=p.says) for p in flaws_in(plan)],
    )


class RuleIn(Schema):
    """A repeat rule as people write it, and what the trial calls a cycle."""

    rule: str
    cycle_word: str = ""


class RuleOut(Schema):
    """The looks that it stands for."""

    looks: list[Repeated]


@router.post("/looks", response={200: RuleOut, 422: ProblemsOut})
def looks(request: SignedIn, body: RuleIn) -> RuleOut:
    """The looks that a rule stands for (“every 5 days, eight times”)."""
    try:
        return RuleOut(looks=list(repeated(body.rule[:200], cycle_word=body.cycle_word)))
    except Refused as refused:
        raise Refused(refused.problems[0].says, "rule") from refused


class LayoutIn(Schema):
    """A plan, and which of the possible draws to show."""

    plan: Plan
    draw: int = 0


class LayoutOut(Schema):
    """One possible draw of the layout: never the one that will be sealed.  ``spots`` are the sample places of its grid."""

    slots: list[Slot]
    spots: list[Spot]
    more: int
    """Samples that are not shown."""


@router.post("/layout", response={200: LayoutOut, 422: ProblemsOut})
def layout(request: SignedIn, body: LayoutIn) -> LayoutOut:
    """What a layout may look like."""
    plan = body.plan
    flaws = [*layout_problems(plan), *treatment_problems(plan)]
    if flaws:
        raise Refused(flaws)
    given = plan.begun is not None and plan.begun.samples
    slots = given_slots(plan, plan.begun) if plan.begun and given else lay_out(plan, f"shown {body.draw}")
    spots = spots_of(plan.layout.grid) if plan.layout.grid and plan.layout.kind in ("random", "blocks") else ()
    return LayoutOut(slots=list(slots[:MOST_SHOWN]), spots=list(spots), more=max(0, len(slots) - MOST_SHOWN))


class GivenIn(Schema):
    """A plan, and what stands where as somebody drew it; without a ``text``, what the plan holds is told back."""

    plan: Plan
    text: str | None = None


class GivenOut(Schema):
    """The samples that were drawn, what each is called in a notebook, and the drawing."""

    samples: list[Given]
    names: list[str]
    text: str


@router.post("/given", response={200: GivenOut, 422: ProblemsOut})
def given(request: SignedIn, body: GivenIn) -> GivenOut:
    """Read a layout that stands already."""
    begun = body.plan.begun or Begun("")
    if body.text is not None:
        begun = replace(begun, samples=given_in(body.text[:MOST_DRAWN], body.plan))
    return GivenOut(
        samples=list(begun.samples),
        names=list(given_names(body.plan, begun)),
        text=body.text if body.text is not None else drawn(body.plan, begun),
    )


class CalendarIn(Schema):
    """A plan with a start, and the trial it belongs to."""

    plan: Plan
    trial: UUID | None = None


class CalendarOut(Schema):
    """The looks on the calendar; none while the plan has no start."""

    starts: datetime | None
    looks: list[Dated]


@router.post("/calendar", response={200: CalendarOut, 422: ProblemsOut})
def calendar(request: SignedIn, body: CalendarIn) -> CalendarOut:
    """The plan on the calendar, with weekends and with what else the person has to do."""
    starts = planned_start(body.plan)
    if starts is None:
        return CalendarOut(starts=None, looks=[])
    others = engagements_of(request.user, apart_from=body.trial)
    return CalendarOut(starts=starts, looks=list(dated(body.plan, starts, others)))
