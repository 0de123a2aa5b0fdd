"""What a plan uses, and what of it meets: each treatment in vessels of its own, all that is held equal in every one."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from fieldtally.core.design.plan import Plan, Treatment
from fieldtally.core.hazards.finding import Use, clashes_in
from fieldtally.core.problems import Problem
from fieldtally.core.scales import LadderScale


def uses_in(plan: Plan) -> tuple[Use, ...]:
    """Everything named in ``plan`` that somebody will handle.  Treatments that name the same vessel meet in it; what they are
    given in, and what is cleaned with between them, meets every one.  What is looked at (bleach marks, ammonia in the water) is not
    handled: an outcome's name raises no caution, a load that rises until something gives way does."""
    return (
        *(
            Use(f"treatments.{i}", treatment_words(plan, treatment), treatment.vessel.strip() or treatment.name.strip())
            for i, treatment in enumerate(plan.treatments)
        ),
        *(Use(f"held_equal.{i}", f"{entry.what}. {entry.setting}") for i, entry in enumerate(plan.held_equal)),
        *(
            Use(f"groups.{i}", f"{group.name}. {group.hazards}. {group.cleaning}", f"group {group.key}")
            for i, group in enumerate(plan.groups)
        ),
        Use("carrier", plan.carrier),
        Use("cleaning", plan.cleaning),
        *(
            Use(f"outcomes.{i}", "breaking load", f"outcome {i}")
            for i, outcome in enumerate(plan.outcomes)
            if isinstance(outcome.scale, LadderScale)
        ),
        Use("title", plan.title, "title"),
    )


def clash_problems(plan: Plan) -> Iterator[Problem]:
    """What stops the seal: doses of a treatment that must not meet and follow each other without a rinse (or go into one batch), and
    treatments that must not meet and share a vessel."""
    for i, treatment in enumerate(plan.treatments):
        yield from _steps_that_meet(plan, i, treatment)
    for one, (j, two) in itertools.combinations(enumerate(plan.treatments), 2):
        yield from _in_one_vessel(plan, one[1], j, two)


def _steps_that_meet(plan: Plan, place: int, treatment: Treatment) -> Iterator[Problem]:
    products = plan.product_named
    words = [
        f"{products[dose.product].name}. {products[dose.product].active}" if dose.product in products else ""
        for dose in treatment.doses
    ]
    for j, (before, after) in enumerate(itertools.pairwise(words)):
        if treatment.doses[j].rinse.strip() and plan.mixing == "each":
            continue
        for clash in clashes_in([Use("before", before), Use("after", after)])[:1]:
            way = "Give each by itself" if plan.mixing == "batch" else "Say what is rinsed with between them"
            yield Problem(f"treatments.{place}.doses.{j}.rinse", f"{clash.says} {way}, or leave one out.")


def _in_one_vessel(plan: Plan, one: Treatment, place: int, two: Treatment) -> Iterator[Problem]:
    vessel = one.vessel.strip()
    if not vessel or vessel.casefold() != two.vessel.strip().casefold():
        return
    uses = [Use("one", treatment_words(plan, one), vessel), Use("two", treatment_words(plan, two), vessel)]
    for clash in [each for each in clashes_in(uses) if each.first != each.second][:1]:
        yield Problem(f"treatments.{place}.vessel", clash.says)


def treatment_words(plan: Plan, treatment: Treatment) -> str:
    """All that is written about ``treatment``, the products it doses and what its group is cleaned off with."""
    products = plan.product_named
    cleaning = [group.cleaning for group in plan.groups if group.key == treatment.group]
    given = [products[dose.product] for dose in treatment.doses if dose.product in products]
    return ". ".join(
        (
            treatment.name,
            treatment.note,
            treatment.changes,
            *cleaning,
            *(f"{product.name}. {product.active}" for product in given),
        )
    )
