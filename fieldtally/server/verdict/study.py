"""A trial's readings as the core wants them, and the verdict computed from them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

import numpy as np
from django.core.cache import cache
from django.db.models import Max

from fieldtally.core.compare.arrays import Floats
from fieldtally.core.compare.columns import compared_as
from fieldtally.core.compare.odd import odd_among
from fieldtally.core.compare.persample import averaged, settled
from fieldtally.core.design.plan import Plan
from fieldtally.core.verdict.conclude import Finding, Samples, conclude
from fieldtally.core.verdict.deeper import Deeper, deeper
from fieldtally.core.verdict.tally import WholeTally, tallied
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.records import key_of, plan_of, samples_of, sealed_document
from fieldtally.server.rounds.models import Deviation, Reading
from fieldtally.server.rounds.models.reading import Kind
from fieldtally.server.rounds.records import (
    current_readings,
    given_up_outcomes,
    left_out,
    set_aside,
    split_outcomes,
)

Look = tuple[str, str]
"""Keys of an outcome and of a checkpoint."""
KEPT_FOR = 24 * 3600
RULES = 5
"""Goes up when the rules of the verdict change, so that no kept verdict outlives them."""


@dataclass(frozen=True)
class Study:
    """The samples of a trial in the order of the board, their treatments (keys), and one value for each look: ``values`` as they count,
    ``all_values`` with those of samples left out from a moment on.  Outcomes that were ``withdrawn`` are not in the plan."""

    plan: Plan
    samples: list[Sample]
    treatments: list[str]
    aside: dict[UUID, Deviation]
    left_out: dict[UUID, Deviation]
    values: dict[Look, dict[UUID, float]]
    all_values: dict[Look, dict[UUID, float]]
    by_scorer: dict[str, dict[Look, dict[UUID, float]]]

    @property
    def leaves_out(self) -> bool:
        """Whether anything is left out, so that the verdict is told both ways."""
        return bool(self.aside or self.left_out)

    def findings(self, *, with_all: bool, values: dict[Look, dict[UUID, float]] | None = None) -> list[Finding]:
        """The findings without what is left out, or ``with_all``; of other ``values`` where they are given."""
        everybody = list(zip(self.samples, self.treatments, strict=True))
        laid, columns = self.laid(everybody if with_all else self.kept())
        planned = tuple(self.plan.per_treatment(t) for t in self.plan.treatments)
        seed = int(sealed_document(self.samples[0].trial)["seed"], 16)
        source = self.all_values if with_all else values or self.values
        return conclude(
            self.plan,
            laid,
            {look: self._column(columns, own) for look, own in source.items()},
            np.random.default_rng(seed),
            planned=planned,
        )

    def kept(self) -> list[tuple[Sample, str]]:
        """The samples that count, each with its treatment (key)."""
        both = zip(self.samples, self.treatments, strict=True)
        return [(sample, treatment) for sample, treatment in both if sample.pk not in self.aside]

    @staticmethod
    def laid(kept: list[tuple[Sample, str]]) -> tuple[Samples, list[UUID]]:
        """The samples as the core wants them, and their ids in that order."""
        return (
            Samples(
                tuple(t for _, t in kept),
                tuple(s.block or None for s, _ in kept),
                tuple(s.plot for s, _ in kept),
                tuple(s.row for s, _ in kept),
                tuple(s.column for s, _ in kept),
            ),
            [sample.pk for sample, _ in kept],
        )

    def behind(self, findings: list[Finding]) -> list[Deeper]:
        """What lies behind the findings without what is left out."""
        laid, order = self.laid(self.kept())
        columns = {look: self._column(order, own) for look, own in self.values.items()}
        seed = int(sealed_document(self.samples[0].trial)["seed"], 16)
        return deeper(self.plan, laid, columns, findings, np.random.default_rng([seed, 1]))

    def tally(self, findings: list[Finding], weights: dict[str, float] | None) -> WholeTally | None:
        """The tally over outcomes."""
        seed = int(sealed_document(self.samples[0].trial)["seed"], 16)
        laid, _ = self.laid(self.kept())
        return tallied(self.plan, laid, findings, np.random.default_rng([seed, 2]), weights)

    @staticmethod
    def _column(order: Iterable[UUID], values: dict[UUID, float]) -> Floats:
        return np.array([values.get(pk, np.nan) for pk in order], dtype=np.float64)


def study_of(trial: Trial) -> Study:
    """The study of an opened trial."""
    plan, key = plan_of(trial), key_of(trial)
    samples = samples_of(trial)
    gone = given_up_outcomes(trial)
    kept = tuple(outcome for outcome in plan.outcomes if outcome.key not in gone)
    out = left_out(trial)
    read = _on_one_side(_read(trial), split_outcomes(trial), plan)
    still = [one for one in read if one.sample not in out or one.at < _since(out[one.sample])]
    return Study(
        plan=replace(plan, outcomes=kept) if kept else plan,
        samples=samples,
        treatments=[key[sample.pk] for sample in samples],
        aside=set_aside(trial),
        left_out=out,
        values=_values([one for one in still if one.look[0] not in gone], plan),
        all_values=_values([one for one in read if one.look[0] not in gone], plan),
        by_scorer=_by_scorer([one for one in still if one.look[0] not in gone], plan),
    )


@dataclass(frozen=True)
class _Read:
    """One value that stands."""

    look: Look
    sample: UUID
    scorer: int
    repeat: UUID | None
    value: float
    at: datetime


def _read(trial: Trial) -> list[_Read]:
    rows = current_readings(trial).filter(kind=Kind.VALUE, value__isnull=False).order_by("take", "stored_at", "pk")
    fields = ("outcome__key", "checkpoint__key", "sample_id", "scorer_id", "repeat_id", "value", "taken_at")
    return [_Read((row[0], row[1]), *row[2:]) for row in rows.values_list(*fields)]


def _since(deviation: Deviation) -> datetime:
    return deviation.since or deviation.at


def _on_one_side(read: list[_Read], splits: dict[str, Deviation], plan: Plan) -> list[_Read]:
    """Of an outcome that was split only the readings on the side of the split where it is judged: after it, if anything was read there."""
    after: dict[str, bool] = {}
    for outcome in plan.outcomes:
        if outcome.key in splits:
            judged = [one.at for one in read if one.look == (outcome.key, plan.judged_at(outcome))]
            after[outcome.key] = any(at >= _since(splits[outcome.key]) for at in judged)
    return [
        one for one in read if one.look[0] not in after or (one.at >= _since(splits[one.look[0]])) == after[one.look[0]]
    ]


def _values(read: Iterable[_Read], plan: Plan) -> dict[Look, dict[UUID, float]]:
    """One value for each look and sample: of several takes what the plan's rule says, then a scorer's blind repeats averaged, then
    scorers."""
    rules = {outcome.key: outcome.retest for outcome in plan.outcomes}
    kinds = {outcome.key: compared_as(outcome.scale) for outcome in plan.outcomes}
    takes: dict[tuple[Look, UUID, int, UUID | None], list[float]] = defaultdict(list)
    for one in read:
        takes[one.look, one.sample, one.scorer, one.repeat].append(one.value)
    own: dict[Look, list[tuple[tuple[UUID, int], float]]] = defaultdict(list)
    for (look, sample, scorer, _), values in takes.items():
        own[look].append(((sample, scorer), settled(values, rules[look[0]])))
    found = {}
    for look, pairs in own.items():
        by_scorer = averaged(pairs, kinds[look[0]])
        found[look] = averaged([(sample, value) for (sample, _), value in by_scorer.items()], kinds[look[0]])
    return found


def _by_scorer(read: list[_Read], plan: Plan) -> dict[str, dict[Look, dict[UUID, float]]]:
    """The values of each scorer (name) alone, where there are several."""
    scorers = sorted({one.scorer for one in read})
    if len(scorers) < 2:
        return {}
    names = {user.pk: user.called for user in User.objects.filter(pk__in=scorers)}
    return {names[pk]: _values([one for one in read if one.scorer == pk], plan) for pk in scorers}


def _without_odd(study: Study) -> dict[Look, dict[UUID, float]] | None:
    """The values without those that are far from all others of their treatment at a look (None: there are none)."""
    found, any_odd = {}, False
    keys = [treatment.key for treatment in study.plan.treatments]
    labels = np.array([keys.index(key) for key in study.treatments])
    for look, own in study.values.items():
        column = np.array([own.get(sample.pk, np.nan) for sample in study.samples])
        far = odd_among(column, labels)
        any_odd = any_odd or bool(far.any())
        out = {sample.pk for sample, odd in zip(study.samples, far, strict=True) if odd}
        found[look] = {pk: value for pk, value in own.items() if pk not in out}
    return found if any_odd else None


@dataclass(frozen=True)
class Concluded:
    """The findings without what is left out, and with it where there is any; without odd readings, where there are any; by each scorer
    alone, where there are several; and what lies behind them."""

    findings: list[Finding]
    with_all: list[Finding]
    without_odd: list[Finding]
    by_scorer: dict[str, list[Finding]]
    behind: list[Deeper]


def concluded(trial: Trial, study: Study) -> Concluded:
    """The findings of ``study``, computed once for each state of the trial's records."""
    newest = Reading.objects.filter(trial=trial).aggregate(at=Max("stored_at"))["at"]
    deviations = Deviation.objects.filter(trial=trial).count()
    name = f"verdict/{RULES}/{trial.pk}/{newest and newest.timestamp()}/{deviations}"
    kept = cache.get(name)
    if not isinstance(kept, Concluded):
        without = study.findings(with_all=False)
        plain = _without_odd(study)
        kept = Concluded(
            without,
            study.findings(with_all=True) if study.leaves_out else [],
            study.findings(with_all=False, values=plain) if plain else [],
            {name: study.findings(with_all=False, values=own) for name, own in study.by_scorer.items()},
            study.behind(without),
        )
        cache.set(name, kept, KEPT_FOR)
    return kept
