"""How scorers of a trial agree, outcome by outcome."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np
from django.contrib.postgres.aggregates import ArrayAgg
from django.db.models import Count, Q

from fieldtally.core.agreement.together import Agreement, Cloud, Grid, agreement_of, cloud_of
from fieldtally.core.compare.arrays import Floats
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.scales import GradeScale, PassFailScale, unit_of
from fieldtally.server.measuring.gauging import DEVICE as GAUGE
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import checkpoints_of, outcomes_of
from fieldtally.server.rounds.queries import current_readings, scorers_of

SEED = 20_270_301


@dataclass(frozen=True)
class Agreed:
    """How scorers agree on one ``outcome``; ``clouds`` for each of its pairs, in their order."""

    outcome: Outcome
    found: Agreement
    clouds: list[Cloud]


def agreements(trial: Trial, plan: Plan, since: datetime | None = None) -> Iterator[Agreed]:
    """The agreement on each outcome that somebody scored, of readings that are independent of each other; of all, or of those taken
    ``since``."""
    grids = _grids(trial, plan, since) if trial.plan_seal else {}
    gauged = _gauged(trial) if trial.plan_seal else Counter()
    for outcome in plan.outcomes:
        own, many = grids.get(outcome.key), gauged[outcome.key]
        says = (_not_counted(many),) if many else ()
        if own is None:
            if many:
                yield Agreed(outcome, Agreement((), (), None, says), [])
            continue
        graded = isinstance(outcome.scale, GradeScale | PassFailScale)
        unit = unit_of(outcome.scale)
        found = agreement_of(own, "kappa" if graded else "icc", outcome.margin, unit, np.random.default_rng(SEED))
        found = replace(found, advice=(*says, *found.advice))
        yield Agreed(outcome, found, [cloud_of(pair.first, pair.second, own) for pair in found.pairs])


def _not_counted(many: int) -> str:
    read = "1 reading was" if many == 1 else f"{many:,} readings were"
    return f"{read} measured in photos by the gauge. It agrees with itself whoever lets it read, so that is not counted here."


def _gauged(trial: Trial) -> Counter[str]:
    """How many readings of each outcome (key) the photo gauge made."""
    outcomes = {pk: key for key, pk in outcomes_of(trial).items()}
    rows = current_readings(trial).filter(device__startswith=GAUGE, value__isnull=False).order_by()
    return Counter(
        {outcomes[pk]: many for pk, many in rows.values_list("outcome_id").annotate(many=Count("pk")) if pk in outcomes}
    )


def _grids(trial: Trial, plan: Plan, since: datetime | None) -> dict[str, Grid]:
    """What was read, by outcome (key); looks in order of time, samples in order of their codes.  The database gathers the values of each
    look, so that no row is made for a reading."""
    outcomes = {pk: key for key, pk in outcomes_of(trial).items()}
    rows = checkpoints_of(trial)
    looks = {rows[c.key]: i for i, c in enumerate(plan.in_time) if c.key in rows}
    codes = Sample.objects.filter(trial=trial).order_by("code").values_list("code", flat=True)
    samples = {code: i for i, code in enumerate(codes)}
    read = (
        current_readings(trial)
        .filter(
            value__isnull=False, checkpoint__in=list(looks), take__lte=2, **({"taken_at__gt": since} if since else {})
        )
        .exclude(device__startswith=GAUGE)
        .order_by()
        .annotate(second_code=Q(repeat__isnull=False))
        .values_list("outcome_id", "checkpoint_id", "scorer_id", "take", "second_code")
        .annotate(codes=ArrayAgg("sample__code"), values=ArrayAgg("value"))
    )
    called = scorers_of(trial)
    names = tuple(sorted(called.values()))
    tables: dict[str, list[Floats]] = {}
    for outcome, checkpoint, scorer, take, second_code, own, values in read:
        nothing = [np.full((len(names), len(looks), len(samples)), np.nan) for _ in range(3)]
        first, blind, again = tables.setdefault(outcomes[outcome], nothing)
        table = again if take == 2 else blind if second_code else first
        table[names.index(called[scorer]), looks[checkpoint], [samples[code] for code in own]] = values
    return {key: Grid(names, *own) for key, own in tables.items()}
