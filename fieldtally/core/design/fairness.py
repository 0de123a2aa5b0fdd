"""The fairness list: what makes a comparison fair, judged from the plan wherever that can be done.

Each item is kept, or knowingly given up with a reason; what is given up limits what the verdict may claim.  An item that
the plan alone decides cannot be ticked by hand, only given up.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from fieldtally.core.design.method import proven
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.problems import Problem
from fieldtally.core.scales import CurveScale, GradeScale, LadderScale, MeasurementScale, PercentScale, ShadeScale

FairStanding = Literal["kept", "open", "given_up"]
ENOUGH = 3


@dataclass(frozen=True)
class Known:
    """What the plan document itself does not hold: how many predictions are written down."""

    predictions: int = 0


@dataclass(frozen=True)
class Judged:
    """What the plan says about an item: kept (True), not kept (False), or for a person to say (None), and why."""

    kept: bool | None
    says: str


@dataclass(frozen=True)
class FairItem:
    """An item of the list: its question, why it matters, what can no longer be claimed without it, and its judge."""

    key: str
    title: str
    why: str
    limit: str
    judge: Callable[[Plan, Known], Judged]


@dataclass(frozen=True)
class FairFinding:
    """How an item stands.  ``by_plan``: the plan decides it, so that it can only be mended or given up."""

    key: str
    title: str
    standing: FairStanding
    by_plan: bool
    says: str
    why: str
    limit: str
    reason: str


def fairness_of(plan: Plan, known: Known | None = None) -> tuple[FairFinding, ...]:
    """Every item of the list for ``plan``, in order."""
    stands = {stand.item: stand for stand in plan.fairness}
    found = []
    for item in ITEMS:
        judged = item.judge(plan, known or Known())
        stand = stands.get(item.key)
        standing: FairStanding = "kept" if judged.kept else "open"
        reason = ""
        if not judged.kept and stand is not None:
            if not stand.kept and stand.reason.strip():
                standing, reason = "given_up", stand.reason.strip()
            elif stand.kept and judged.kept is None:
                standing, reason = "kept", stand.reason.strip()
        found.append(
            FairFinding(
                item.key, item.title, standing, judged.kept is not None, judged.says, item.why, item.limit, reason
            )
        )
    return tuple(found)


def fairness_problems(plan: Plan, known: Known | None = None) -> list[Problem]:
    """The items that are neither kept nor given up with a reason."""
    return [
        Problem(f"fairness.{one.key}", f"{one.title}: keep it, or give it up with a reason.")
        for one in fairness_of(plan, known)
        if one.standing == "open"
    ]


def given_up(plan: Plan, known: Known | None = None) -> Iterator[tuple[str, str]]:
    """What the verdict may not claim for want of fairness: a sentence, and the reason that was given."""
    for one in fairness_of(plan, known):
        if one.standing == "given_up":
            yield one.limit, one.reason


def _control(plan: Plan, known: Known) -> Judged:
    del known
    if plan.control is None:
        return Judged(False, "No treatment is marked as a control.")
    return Judged(True, f"{plan.control.name.strip() or 'One treatment'} is the control.")


def _placebo(plan: Plan, known: Known) -> Judged:
    del known
    if any(treatment.kind == "placebo" for treatment in plan.treatments):
        return Judged(True, "A placebo gets the same handling.")
    return Judged(None, "No placebo. Is nothing given in a carrier (water, oil, handling) that could work by itself?")


def _replicates(plan: Plan, known: Known) -> Judged:
    del known
    if not plan.treatments:
        return Judged(False, "No treatments yet.")
    fewest = min(plan.per_treatment(treatment) for treatment in plan.treatments)
    return Judged(
        fewest >= ENOUGH, f"{fewest} of each at least; fewer than {ENOUGH} cannot show how much luck there is."
    )


def _unit(plan: Plan, known: Known) -> Judged:
    del known
    word = plan.sample_word.strip() or "sample"
    if plan.layout.kind == "split":
        plot = plan.layout.plot_word.strip() or "plot"
        return Judged(True, f"The {plot} counts for the factor given to whole {plot}s, the {word} for the rest.")
    if plan.pieces > 1:
        return Judged(
            True,
            f"{plan.pieces} {plan.piece_word.strip() or 'pieces'} in one {word} count as one, not as {plan.pieces}.",
        )
    return Judged(None, f"Does each {word} get its treatment by itself, not several out of one tank, tray or pot?")


def _one_change(plan: Plan, known: Known) -> Judged:
    del known
    packages = [treatment.name.strip() for treatment in plan.treatments if treatment.package]
    if packages:
        return Judged(True, f"Declared as a package: {', '.join(packages)}. The claim is about the whole package.")
    if plan.factors and all(len(treatment.levels) == len(plan.factors) for treatment in plan.treatments):
        return Judged(True, "The treatments are made from factors, so each change can be told apart.")
    return Judged(
        None, "Do the treatments differ in one thing only? If one is a package of changes, declare it as that."
    )


def _procedure(plan: Plan, known: Known) -> Judged:
    del known
    match plan.school:
        case "label":
            return Judged(True, "Each product is used as its maker says.")
        case "same":
            return Judged(True, "All get the same dose and procedure.")
        case _:
            return Judged(False, "Not said yet: as each label says, or one procedure for all? Both are honest.")


def _exposure(plan: Plan, known: Known) -> Judged:
    del known
    staggered = plan.layout.stagger or any(block.starts for block in plan.layout.blocks)
    each = (
        "Starts are staggered, and each sample is looked at by its own clock." if staggered else "All start together."
    )
    return Judged(True, f"{each} Every treatment is watched for the same time.")


def _held_equal(plan: Plan, known: Known) -> Judged:
    del known
    many = len([entry for entry in plan.held_equal if entry.what.strip() and entry.setting.strip()])
    if many:
        return Judged(
            True, f"{many} {'thing is' if many == 1 else 'things are'} on the held-equal sheet with a setting."
        )
    return Judged(False, "Nothing is on the held-equal sheet yet (tool, light, place, hands).")


def _baseline(plan: Plan, known: Known) -> Judged:
    del known
    if any(checkpoint.baseline for checkpoint in plan.checkpoints):
        return Judged(True, "A look is taken before the start.")
    return Judged(False, "No look before the start, so samples that differed from the beginning go unseen.")


def _anchored(plan: Plan, known: Known) -> Judged:
    del known
    bare = [outcome.name.strip() or "a grade" for outcome in plan.outcomes if not _has_anchors(outcome)]
    if bare:
        return Judged(False, f"Levels without words: {', '.join(bare)}.")
    return Judged(True, "Every level of every grade has words of its own.")


def _has_anchors(outcome: Outcome) -> bool:
    if not isinstance(outcome.scale, GradeScale):
        return True
    # Levels between two whole ones are what lies between their words; signs go with their letter.
    own = [v for v in outcome.scale.levels if "½" not in v.label and not v.label.strip().endswith(("+", "-", "−"))]
    return all(level.anchor.strip() for level in own)


def _method(plan: Plan, known: Known) -> Judged:
    del known
    measured = [
        outcome
        for outcome in plan.outcomes
        if outcome.primary
        and isinstance(outcome.scale, MeasurementScale | PercentScale | ShadeScale | CurveScale | LadderScale)
    ]
    if not measured:
        return Judged(None, "Was the way of judging tried beforehand on a blank and on something known?")
    fewest = min((plan.per_treatment(treatment) for treatment in plan.treatments), default=1)
    found = [(outcome, proven(outcome, fewest)) for outcome in measured]
    for outcome, finding in found:
        if finding.standing in ("unproven", "blind"):
            return Judged(False, f"{outcome.name.strip() or 'The method'}: {finding.says}")
    return Judged(True, "Repeats show that it sees the difference that matters.")


def _blind(plan: Plan, known: Known) -> Judged:
    del plan, known
    return Judged(
        None, "Will whoever scores not know which sample got what? Codes alone do not help if one person does both."
    )


def _order(plan: Plan, known: Known) -> Judged:
    del plan, known
    return Judged(True, "Places and the order of scoring are drawn at random.")


def _apart(plan: Plan, known: Known) -> Judged:
    del known
    grid = plan.layout.grid
    if grid and (grid.guard_columns or grid.guard_rows):
        return Judged(True, "Guard places stand between neighbours.")
    return Judged(None, "Is there room between neighbours, and a clean tool for each treatment?")


def _shelf_life(plan: Plan, known: Known) -> Judged:
    del plan, known
    return Judged(None, "Is everything that is used within its shelf life until the last look?")


def _stop(plan: Plan, known: Known) -> Judged:
    del known
    if not plan.checkpoints:
        return Judged(False, "No looks yet, so no end either.")
    ends = {"fixed": "at the last look", "levelled": "once it has levelled off", "all": "once all have failed"}
    return Judged(True, f"It ends {ends.get(plan.stop.kind, 'once half have failed')}, and that is fixed beforehand.")


def _prediction(plan: Plan, known: Known) -> Judged:
    del plan
    if known.predictions:
        many = "One prediction is" if known.predictions == 1 else f"{known.predictions} predictions are"
        return Judged(True, f"{many} written down, sealed until the key opens.")
    return Judged(False, "Nobody has written down what they expect.")


ITEMS: tuple[FairItem, ...] = (
    FairItem(
        "control",
        "A control is among them",
        "Without one, things that would have happened anyway look like the work of a treatment.",
        "That anything works at all: there was no control, so only which of these did better than the others.",
        _control,
    ),
    FairItem(
        "placebo",
        "A placebo stands in for the carrier",
        "Water, oil or handling can work by itself; a sham with the same handling shows how much.",
        "That it was the ingredient and not its carrier or the handling: no placebo was given.",
        _placebo,
    ),
    FairItem(
        "replicates",
        "Enough replicates",
        "Only the differences between samples treated alike show how much luck there is.",
        "That it was more than luck: there were too few samples of each.",
        _replicates,
    ),
    FairItem(
        "unit",
        "The true unit is counted",
        "Ten fish in one tank share its luck: they are one sample. Counting them as ten makes chance look like proof.",
        "The strength of it: things that shared one treatment may have been counted as if they were independent.",
        _unit,
    ),
    FairItem(
        "one_change",
        "One thing changed, or a package declared",
        "If two things change at once, nobody can say which of them did it.",
        "Which of the changes did it: several things differed at once.",
        _one_change,
    ),
    FairItem(
        "procedure",
        "As the label says, or one procedure for all",
        "The maker's dose asks how good a product is in use; the same dose for all asks how good the substance is.",
        "How these would do by their makers' instructions, or at equal doses: neither was kept to.",
        _procedure,
    ),
    FairItem(
        "exposure",
        "Equal exposure",
        "What has been out longer has had more time to fail, or to work.",
        "That it was the treatment and not the time it had: exposures were not equal.",
        _exposure,
    ),
    FairItem(
        "held_equal",
        "Same tool, light, place and hands",
        "All that differs between samples beside the treatment can pass for its effect.",
        "That nothing but the treatment differed: tool, light, place and hands were not held equal.",
        _held_equal,
    ),
    FairItem(
        "baseline",
        "A baseline is taken",
        "Samples that were better at the start stay better, whatever they get.",
        "That the samples were alike at the start: nobody looked.",
        _baseline,
    ),
    FairItem(
        "anchored",
        "The scale is anchored",
        "Without words for each level a grade drifts, and a 3 of the first day is a 4 of the last.",
        "That a grade meant the same from first to last: its levels had no words.",
        _anchored,
    ),
    FairItem(
        "method",
        "The measuring method is proven first",
        "A blank, a known sample and a few repeats tell what the method can see at all.",
        "Small differences: what the method can see was not tried out beforehand.",
        _method,
    ),
    FairItem(
        "blind",
        "The scorer is blind",
        "Hope grades upwards, and nobody can help it.",
        "That hope did not help: whoever scored could know which was which.",
        _blind,
    ),
    FairItem(
        "order",
        "Order and places are random",
        "A pattern of ours always lines up with some pattern of the bench, the light or the day.",
        "That place and order played no part: they were not drawn at random.",
        _order,
    ),
    FairItem(
        "apart",
        "Buffers and clean tools between treatments",
        "Drift, splash and a shared spoon make treatments alike that are not.",
        "That nothing crossed over: neighbours and tools were not kept apart, so true differences may be larger.",
        _apart,
    ),
    FairItem(
        "shelf_life",
        "Everything within its shelf life",
        "An old bottle tells about old bottles.",
        "How a fresh product does: not all of them were within their shelf life.",
        _shelf_life,
    ),
    FairItem(
        "stop",
        "The end is fixed beforehand",
        "Who stops when it looks good finds a winner every time.",
        "That it was not stopped when it looked best: the end was not fixed beforehand.",
        _stop,
    ),
    FairItem(
        "prediction",
        "A prediction is written down",
        "Afterwards everyone knew it all along.",
        "That anyone foresaw it: no prediction was written down.",
        _prediction,
    ),
)
