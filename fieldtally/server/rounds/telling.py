"""What went wrong, in sentences for the verdict."""

from __future__ import annotations

from collections import defaultdict
from datetime import datetime
from uuid import UUID
from zoneinfo import ZoneInfo

from fieldtally.server.log.models import Deviation
from fieldtally.server.log.models.deviation import Accident
from fieldtally.server.log.queries import given_up_outcomes, marked, split_outcomes
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.rounds.models import Reading


def _day(at: datetime, zone: str) -> str:
    local = at.astimezone(ZoneInfo(zone))
    return f"{local.day} {local:%b}, {local:%H:%M}"


def accidents_told(trial: Trial) -> tuple[str, ...]:
    """What happened to samples that were kept all the same, a sentence for each event."""
    zone = plan_of(trial).zone
    events: dict[UUID | None, list[Deviation]] = defaultdict(list)
    for one in marked(trial):
        events[one.event or one.pk].append(one)
    found = []
    for rows in events.values():
        first = rows[0]
        codes = ", ".join(row.sample.code for row in rows if row.sample) or "all samples"
        kind = Accident(first.accident).label if first.accident else "something"
        late = " (written down after the key was opened)" if first.after_key else ""
        found.append(f"{kind} on {_day(first.since or first.at, zone)}, {codes}: {first.reason.rstrip('.')}{late}.")
    return tuple(found)


def methods_told(trial: Trial) -> tuple[str, ...]:
    """Which outcomes were withdrawn or split, why, and what was lost by it, a sentence each."""
    plan = plan_of(trial)
    names = {outcome.key: outcome.name for outcome in plan.outcomes}
    found = []
    for key, row in given_up_outcomes(trial).items():
        many = Reading.objects.newest().filter(trial=trial, outcome__key=key).count()
        found.append(
            f"{names.get(key, 'An outcome')} was withdrawn on {_day(row.at, plan.zone)} ({row.reason.rstrip('.')}); nothing is said of it, "
            f"and its {many} readings stay in the log."
        )
    for key, row in split_outcomes(trial).items():
        if row.since is None:
            continue
        before = Reading.objects.newest().filter(trial=trial, outcome__key=key, taken_at__lt=row.since)
        found.append(
            f"{names.get(key, 'An outcome')} was measured in another way from {_day(row.since, plan.zone)} on "
            f"({row.reason.rstrip('.')}); the {before.count()} readings from before are not put together with those after."
        )
    return tuple(found)
