"""How scorers of a trial agree, outcome by outcome."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from fieldtally.core.agreement.together import Agreement, Scored, agreement_of
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.scales import GradeScale, PassFailScale, unit_of
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.queries import checkpoints_of, outcomes_of
from fieldtally.server.rounds.queries import current_readings

SEED = 20_270_301
FIELDS = ("outcome_id", "checkpoint_id", "scorer_id", "sample_id", "value", "take", "repeat_id")


@dataclass(frozen=True)
class Agreed:
    """How scorers agree on one ``outcome``; ``dots`` for each of its pairs, in their order: the two values of each sample at each look."""

    outcome: Outcome
    found: Agreement
    dots: list[list[tuple[float, float]]]


def agreements(trial: Trial, plan: Plan) -> Iterator[Agreed]:
    """The agreement on each outcome that somebody scored."""
    scored = _scored(trial, plan) if trial.plan_seal else {}
    for outcome in plan.outcomes:
        own = scored.get(outcome.key)
        if not own:
            continue
        graded = isinstance(outcome.scale, GradeScale | PassFailScale)
        unit = unit_of(outcome.scale)
        found = agreement_of(own, "kappa" if graded else "icc", outcome.margin, unit, np.random.default_rng(SEED))
        at = {(o.scorer, o.look, o.sample): o.value for o in own if o.take == 1}
        dots = [
            [
                (value, at[pair.second, look, sample])
                for (scorer, look, sample), value in at.items()
                if scorer == pair.first and (pair.second, look, sample) in at
            ]
            for pair in found.pairs
        ]
        yield Agreed(outcome, found, dots)


def _scored(trial: Trial, plan: Plan) -> dict[str, list[Scored]]:
    """What was read, by outcome (key); looks are numbered in order of time."""
    outcomes = {pk: key for key, pk in outcomes_of(trial).items()}
    rows = checkpoints_of(trial)
    looks = {rows[c.key]: i for i, c in enumerate(plan.in_time) if c.key in rows}
    read = current_readings(trial).filter(value__isnull=False).order_by("stored_at", "pk").values_list(*FIELDS)
    names: dict[int, str] = {}
    found: dict[str, list[Scored]] = {}
    for outcome, checkpoint, scorer, sample, value, take, repeat in read:
        if checkpoint not in looks or value is None:
            continue
        if scorer not in names:
            names |= {user.pk: user.called for user in User.objects.filter(readings__trial=trial).distinct()}
        one = Scored(names[scorer], looks[checkpoint], str(sample), value, take, repeat is not None)
        found.setdefault(outcomes[outcome], []).append(one)
    return found
