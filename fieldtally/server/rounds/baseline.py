"""The baseline: what samples measured before anything was given, taken over from the plan, and which of them are odd."""

from __future__ import annotations

from datetime import datetime
from uuid import uuid4

from django.utils import timezone

from fieldtally.core.design.plan import Checkpoint, Outcome, Plan
from fieldtally.core.design.starting import odd_starts
from fieldtally.core.rounds.written import Written
from fieldtally.core.scales import MeasurementScale, unit_of
from fieldtally.server.answers import Declined
from fieldtally.server.log.queries import set_aside
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.queries import plan_of, samples_of
from fieldtally.server.rounds.queries import current_readings
from fieldtally.server.rounds.services import open_round
from fieldtally.server.rounds.writing import MOST_AT_ONCE, write_readings


def start_outcome(plan: Plan) -> tuple[Checkpoint, Outcome] | None:
    """The baseline look and the outcome that the plan's start values are readings of, where it has both."""
    if not any(value is not None for value in plan.start_values.values):
        return None
    named = plan.start_values.what.strip().casefold()
    for look in plan.in_time:
        for outcome in plan.outcomes:
            if look.baseline and look in plan.looked_at(outcome) and outcome.name.strip().casefold() == named:
                return look, outcome
    return None


def take_over(trial: Trial, user: User, *, at: datetime | None = None) -> int:
    """Write the plan's start values as readings of the baseline look; how many.

    :raises Declined: 409 where the plan has none that fit, or the baseline is scored already.
    """
    plan = plan_of(trial)
    found = start_outcome(plan)
    if trial.state != "sealed" or found is None:
        raise Declined(409, "There are no start values in the plan that are readings of its baseline.")
    look, outcome = found
    if current_readings(trial).filter(checkpoint__key=look.key, outcome__key=outcome.key).exists():
        raise Declined(409, "The baseline is scored already.")
    now = at or timezone.now()
    opened = open_round(trial, user, look.key, at=now)
    pairs = zip(samples_of(trial), plan.start_values.values, strict=True)
    written = [
        Written(uuid4(), opened.pk, sample.pk, outcome.key, "value", value, "measured before the seal", now)
        for sample, value in pairs
        if value is not None
    ]
    for first in range(0, len(written), MOST_AT_ONCE):
        write_readings(trial, user, written[first : first + MOST_AT_ONCE], now=now)
    return len(written)


def odd_in_baseline(trial: Trial, plan: Plan) -> list[tuple[str, str]]:
    """Samples (code) whose baseline differs too much from that of their block, with the sentence about each."""
    looks = {look.key for look in plan.checkpoints if look.baseline}
    if not looks or trial.state == "draft":
        return []
    aside = set_aside(trial)
    samples = [sample for sample in samples_of(trial) if sample.pk not in aside]
    found = []
    for outcome in plan.outcomes:
        if not isinstance(outcome.scale, MeasurementScale):
            continue
        rows = current_readings(trial).filter(checkpoint__key__in=looks, outcome__key=outcome.key, value__isnull=False)
        values = dict(rows.values_list("sample_id", "value"))
        names = [f"{outcome.name.strip()}: {sample.code}" for sample in samples]
        odd = odd_starts([values.get(s.pk) for s in samples], [s.block for s in samples], names, unit_of(outcome.scale))
        found += [
            (samples[one.index].code, one.says.replace("before treatments are drawn", "before it starts"))
            for one in odd
        ]
    return found
