"""A trial's readings as the core wants them, and the verdict computed from them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from uuid import UUID

import numpy as np
from django.core.cache import cache
from django.db.models import Max

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.compare.columns import compared_as
from fieldtally.core.compare.persample import averaged, settled
from fieldtally.core.design.plan import Plan
from fieldtally.core.verdict.conclude import Finding, Samples, conclude
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.records import key_of, plan_of, samples_of, sealed_document
from fieldtally.server.rounds.models import Deviation, Reading
from fieldtally.server.rounds.models.reading import Kind
from fieldtally.server.rounds.records import current_readings, set_aside

Look = tuple[str, str]
"""Keys of an outcome and of a checkpoint."""
KEPT_FOR = 24 * 3600
RULES = 3
"""Goes up when the rules of the verdict change, so that no kept verdict outlives them."""


@dataclass(frozen=True)
class Study:
    """The samples of a trial in the order of the board, their treatments (keys), and one value for each look."""

    plan: Plan
    samples: list[Sample]
    treatments: list[str]
    aside: dict[UUID, Deviation]
    values: dict[Look, dict[UUID, float]]

    def findings(self, *, with_all: bool) -> list[Finding]:
        """The findings without the samples set aside, or ``with_all``."""
        kept = [
            (sample, treatment)
            for sample, treatment in zip(self.samples, self.treatments, strict=True)
            if with_all or sample.pk not in self.aside
        ]
        order = [sample.pk for sample, _ in kept]
        planned = tuple(self.plan.per_treatment(t) for t in self.plan.treatments)
        seed = int(sealed_document(self.samples[0].trial)["seed"], 16)
        return conclude(
            self.plan,
            Samples(
                tuple(t for _, t in kept),
                tuple(s.block or None for s, _ in kept),
                tuple(s.plot for s, _ in kept),
                tuple(s.row for s, _ in kept),
                tuple(s.column for s, _ in kept),
            ),
            {look: self._column(order, values) for look, values in self.values.items()},
            np.random.default_rng(seed),
            planned=planned,
        )

    @staticmethod
    def _column(order: Iterable[UUID], values: dict[UUID, float]) -> Floats:
        return np.array([values.get(pk, np.nan) for pk in order], dtype=np.float64)


def study_of(trial: Trial) -> Study:
    """The study of an opened trial."""
    plan, key = plan_of(trial), key_of(trial)
    samples = samples_of(trial)
    takes: dict[tuple[Look, UUID, int], list[float]] = defaultdict(list)
    rows = current_readings(trial).filter(kind=Kind.VALUE, value__isnull=False).order_by("take", "stored_at", "pk")
    fields = ("outcome__key", "checkpoint__key", "sample_id", "scorer_id", "value")
    for outcome, checkpoint, sample, scorer, value in rows.values_list(*fields):
        takes[(outcome, checkpoint), sample, scorer].append(value)
    rules = {outcome.key: outcome.retest for outcome in plan.outcomes}
    gathered: dict[Look, list[tuple[UUID, float]]] = defaultdict(list)
    for (look, sample, _), values in takes.items():
        gathered[look].append((sample, settled(values, rules[look[0]])))
    kinds = {outcome.key: compared_as(outcome.scale) for outcome in plan.outcomes}
    return Study(
        plan=plan,
        samples=samples,
        treatments=[key[sample.pk] for sample in samples],
        aside=set_aside(trial),
        values={look: averaged(own, kinds[look[0]]) for look, own in gathered.items()},
    )


@dataclass(frozen=True)
class Concluded:
    """The findings without the samples set aside, and with them where there are any."""

    findings: list[Finding]
    with_all: list[Finding]


def concluded(trial: Trial, study: Study) -> Concluded:
    """The findings of ``study``, computed once for each state of the trial's records."""
    newest = Reading.objects.filter(trial=trial).aggregate(at=Max("stored_at"))["at"]
    deviations = Deviation.objects.filter(trial=trial).count()
    name = f"verdict/{RULES}/{trial.pk}/{newest and newest.timestamp()}/{deviations}"
    kept = cache.get(name)
    if not isinstance(kept, Concluded):
        without = study.findings(with_all=False)
        kept = Concluded(without, study.findings(with_all=True) if study.aside else [])
        cache.set(name, kept, KEPT_FOR)
    return kept
