"""How each item of the fairness list is judged: kept, not kept, or for a person to say."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from fieldtally.core.design.method import proven
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.scales import CurveScale, GradeScale, LadderScale, MeasurementScale, PercentScale, ShadeScale

ENOUGH = 3


@dataclass(frozen=True)
class Known:
    """What the plan document itself does not hold: how many predictions are written down, and whether it is sealed, so that nothing more
    is asked of it than was asked then."""

    predictions: int = 0
    sealed: bool = False


@dataclass(frozen=True)
class Judged:
    """What the plan says about an item: kept (True), not kept (False), or for a person to say (None), and why."""

    kept: bool | None
    says: str
    reason: str = ""
    """Why it is not kept, where the plan itself tells that already."""


def promise(says: str) -> Callable[[Plan, Known], Judged]:
    """A judge of what people alone can promise: asked in these words."""

    def asked(plan: Plan, known: Known) -> Judged:
        del plan, known
        return Judged(None, says)

    return asked


def something_known(plan: Plan, known: Known) -> Judged:
    """Is it known of a blank, and of something that holds some, what is in them?"""
    del known
    blanks = [one for one in plan.treatments if one.holds == 0]
    some = [one for one in plan.treatments if one.holds]
    if blanks and some:
        return Judged(True, "A blank and a known amount are among them.")
    if blanks or some:
        lacking = "nothing of a known amount is" if blanks else "no blank is"
        return Judged(False, f"Only one of the two is there: {lacking} among them.", f"{lacking} among them")
    return Judged(False, "Of nothing that is read it is said how much is in it.")


def control(plan: Plan, known: Known) -> Judged:
    """Is a treatment marked as a control?"""
    del known
    if plan.control is None:
        return Judged(False, "No treatment is marked as a control.")
    return Judged(True, f"{plan.control.name.strip() or 'One treatment'} is the control.")


def placebo(plan: Plan, known: Known) -> Judged:
    """Does a placebo get the same handling?"""
    del known
    if any(treatment.kind == "placebo" for treatment in plan.treatments):
        return Judged(True, "A placebo gets the same handling.")
    return Judged(None, "No placebo. Is nothing given in a carrier (water, oil, handling) that could work by itself?")


def replicates(plan: Plan, known: Known) -> Judged:
    """Are there enough samples of each?"""
    del known
    if not plan.treatments:
        return Judged(False, "No treatments yet.")
    fewest = min(plan.per_treatment(treatment) for treatment in plan.treatments)
    return Judged(
        fewest >= ENOUGH, f"{fewest} of each at least; fewer than {ENOUGH} cannot show how much luck there is."
    )


def unit(plan: Plan, known: Known) -> Judged:
    """Is what gets a treatment by itself what is counted?"""
    del known
    word = plan.sample.one
    if plan.layout.kind == "split":
        plot = noun(plan.layout.plot_word.strip() or "plot")
        return Judged(
            True, f"The {plot.one} counts for the factor given to whole {plot.many}, the {word} for the rest."
        )
    if plan.pieces > 1:
        return Judged(
            True,
            f"{noun(plan.piece_word.strip() or 'piece').counted(plan.pieces)} in one {word} count as one, not as {plan.pieces}.",
        )
    return Judged(None, f"Does each {word} get its treatment by itself, not several out of one tank, tray or pot?")


def one_change(plan: Plan, known: Known) -> Judged:
    """Can the change be told apart, or is the package declared?"""
    del known
    packages = [treatment.name.strip() for treatment in plan.treatments if treatment.package]
    if packages:
        return Judged(True, f"Declared as a package: {', '.join(packages)}. The claim is about the whole package.")
    if plan.factors and all(len(treatment.levels) == len(plan.factors) for treatment in plan.treatments):
        return Judged(True, "The treatments are made from factors, so each change can be told apart.")
    return Judged(
        None, "Do the treatments differ in one thing only? If one is a package of changes, declare it as that."
    )


def procedure(plan: Plan, known: Known) -> Judged:
    """Is it said how the products are used?"""
    del known
    match plan.school:
        case "label":
            return Judged(True, "Each product is used as its maker says.")
        case "same":
            return Judged(True, f"All go through the same procedure.{_doses(plan)}")
        case _:
            return Judged(False, "Not said yet: as each label says, or one procedure for all? Both are honest.")


def _doses(plan: Plan) -> str:
    """What the doses of one procedure are: the same for all, or how they differ."""
    dosed = [treatment for treatment in plan.treatments if treatment.doses]
    if len(dosed) < 2:
        return ""
    rates = {
        tuple((dose.way, " ".join(dose.rate.split()).casefold(), dose.times) for dose in one.doses) for one in dosed
    }
    if len(rates) > 1:
        return " Their doses differ, as the plan has them."
    products = plan.product_named
    strengths = {
        tuple(products[dose.product].share.strip() if dose.product in products else "" for dose in one.doses)
        for one in dosed
    }
    if len(strengths) > 1:
        return " They get the same dose of products of different strength, so not as much of what acts."
    return " All get the same dose."


def exposure(plan: Plan, known: Known) -> Judged:
    """Is every treatment watched for the same time?"""
    del known
    staggered = plan.layout.stagger or any(block.starts for block in plan.layout.blocks)
    each = (
        "Starts are staggered, and each sample is looked at by its own clock." if staggered else "All start together."
    )
    return Judged(True, f"{each} Every treatment is watched for the same time.")


def held_equal(plan: Plan, known: Known) -> Judged:
    """Is anything held equal, with its setting?"""
    del known
    many = len([entry for entry in plan.held_equal if entry.what.strip() and entry.setting.strip()])
    if many:
        return Judged(
            True, f"{many} {'thing is' if many == 1 else 'things are'} on the held-equal sheet with a setting."
        )
    return Judged(False, "Nothing is on the held-equal sheet yet (tool, light, place, hands).")


def baseline(plan: Plan, known: Known) -> Judged:
    """Is a look taken before the start?"""
    del known
    if any(checkpoint.baseline for checkpoint in plan.checkpoints):
        return Judged(True, "A look is taken before the start.")
    return Judged(False, "No look before the start, so samples that differed from the beginning go unseen.")


def anchored(plan: Plan, known: Known) -> Judged:
    """Has every level of every grade words of its own?"""
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


def method(plan: Plan, known: Known) -> Judged:
    """Do the methods see what matters?"""
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


def blind(plan: Plan, known: Known) -> Judged:
    """Will the scorer not know?"""
    del known
    says = "Will whoever scores not know which sample got what? Codes alone do not help if one person does both."
    some = [*((one.name, one.only) for one in plan.outcomes), *((one.name, one.only) for one in plan.checkpoints)]
    kept = [name for name, only in some if only.treatments or only.groups]
    if kept:
        # What is asked of some treatments alone is seen by whoever is asked.
        says += (
            f" Here they see which samples have {kept[0].strip() or 'what some lack'}, and so which belong together."
        )
    return Judged(None, says)


def order(plan: Plan, known: Known) -> Judged:
    """Are places and order drawn, and kept to?"""
    if plan.begun is not None:
        how = plan.begun.how.strip()
        if plan.begun.placed == "hand":
            return Judged(False, "Places were chosen by hand; the order of scoring is drawn from now on.", how)
        return Judged(True, f"Places were drawn by lot ({how.rstrip('.')}); the order of scoring is drawn from now on.")
    if known.sealed and all(stand.item != "order" for stand in plan.fairness):
        return Judged(True, "Places and the order of scoring were drawn at random.")
    word = plan.sample.one
    return Judged(
        None,
        f"Places and order are drawn at random. Will each {word} stand where it is drawn to, and be looked at in that order?",
    )


def apart(plan: Plan, known: Known) -> Judged:
    """Do guards or care keep treatments apart?"""
    del known
    grid = plan.layout.grid
    if grid and (grid.guard_columns or grid.guard_rows):
        return Judged(True, "Guard places stand between neighbours.")
    return Judged(None, "Is there room between neighbours, and a clean tool for each treatment?")


def shelf_life(plan: Plan, known: Known) -> Judged:
    """Is everything within its shelf life?"""
    del plan, known
    return Judged(None, "Is everything that is used within its shelf life until the last look?")


def stop(plan: Plan, known: Known) -> Judged:
    """Is the end fixed beforehand?"""
    del known
    if not plan.checkpoints:
        return Judged(False, "No looks yet, so no end either.")
    ends = {"fixed": "at the last look", "levelled": "once it has levelled off", "all": "once all have failed"}
    return Judged(True, f"It ends {ends.get(plan.ending.kind, 'once half have failed')}, and that is fixed beforehand.")


def prediction(plan: Plan, known: Known) -> Judged:
    """Is a prediction written down?"""
    if known.predictions and plan.begun is not None and plan.begun.taken:
        return Judged(True, "Written down now, after the first looks, and sealed until the key opens.")
    if known.predictions:
        many = "One prediction is" if known.predictions == 1 else f"{known.predictions} predictions are"
        return Judged(True, f"{many} written down, sealed until the key opens.")
    return Judged(False, "Nobody has written down what they expect.")
