"""What may be wrong with holding instruments against each other."""

from __future__ import annotations

import math
from collections.abc import Iterator

from fieldtally.core.design.instruments import kit, reads
from fieldtally.core.design.plan import AgreementAsked, Plan
from fieldtally.core.problems import Problem, Refused

FEWEST = 3
MOST_INSTRUMENTS = 12


def agreement_problems(plan: Plan) -> Iterator[Problem]:
    """Every reason why the instruments of ``plan`` could not be held against each other; none of a trial that compares treatments."""
    if plan.agreement is None:
        return
    if plan.tasting:
        yield Problem("agreement", "People at a table are no instruments: a tasting has its panels.")
    if plan.interim:
        yield Problem("interim", "Whether instruments agree is told at the end; there is no answer to stop for before.")
    if plan.treatments and plan.sample_count < FEWEST:
        yield Problem("treatments", f"Fewer than {FEWEST} {plan.sample.many} tell nothing of how far instruments part.")
    yield from _instruments(plan)
    yield from _held_to(plan, plan.agreement)
    yield from _known(plan)


def _instruments(plan: Plan) -> Iterator[Problem]:
    compared = [(i, outcome) for i, outcome in enumerate(plan.outcomes) if outcome.compared]
    if plan.outcomes and len(compared) < 2:
        yield Problem("outcomes", "To see whether instruments agree takes two of them at least: an outcome for each.")
    if len(compared) > MOST_INSTRUMENTS:
        yield Problem("outcomes", f"Up to {MOST_INSTRUMENTS} instruments can be held against each other at once.")
    for i, outcome in compared:
        try:
            reads(plan, outcome)
        except Refused as refused:
            yield Problem(f"outcomes.{i}.scale", refused.problems[0].says)


def _held_to(plan: Plan, asked: AgreementAsked) -> Iterator[Problem]:
    kits = [kit(outcome) for outcome in plan.outcomes if outcome.compared]
    if any(kits) and not all(kits) and asked.limit is None:
        yield Problem("agreement.limit", "Some say pass or fail, others a number: say from which number on it fails.")
    for part, value in (("limit", asked.limit), ("alarm", asked.alarm)):
        if value is not None and not math.isfinite(value):
            yield Problem(f"agreement.{part}", "This is a number in the unit they are told in.")


def _known(plan: Plan) -> Iterator[Problem]:
    for i, treatment in enumerate(plan.treatments):
        if treatment.holds is not None and not 0 <= treatment.holds < math.inf:
            yield Problem(f"treatments.{i}.holds", "How much is in it is 0 (a blank) or more.")
        elif treatment.other_substance and treatment.holds:
            yield Problem(
                f"treatments.{i}.holds", "It holds another substance instead, so there is nothing of this in it: 0."
            )
