"""What went wrong, in sentences for the verdict."""

from __future__ import annotations

from collections import defaultdict
from datetime import datetime
from uuid import UUID
from zoneinfo import ZoneInfo

from fieldtally.core.design.plan import Plan
from fieldtally.core.verdict.telling.names import listed
from fieldtally.server.log.models import Deviation
from fieldtally.server.log.models.deviation import Accident
from fieldtally.server.log.queries import given_up_outcomes, marked, split_outcomes
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.prepare.queries import any_key_look
from fieldtally.server.rounds.models import Reading, Round
from fieldtally.server.rounds.queries import rounds_of


def _day(at: datetime, zone: str) -> str:
    local = at.astimezone(ZoneInfo(zone))
    return f"{local.day} {local:%b}, {local:%H:%M}"


def blinding_told(trial: Trial, plan: Plan) -> str:
    """Whether whoever scored could know which was which, in one sentence that is true of this trial now."""
    if trial.origin == "table":
        return "Brought in from a table: nobody recorded whether scoring was blind."
    reason = next((one.reason.strip() for one in plan.fairness if one.item == "blind" and not one.kept), "")
    given_up = f"Scoring blind was given up beforehand ({reason.rstrip('.')})." if reason else ""
    # Rounds are counted only where somebody has looked: that takes all readings.
    looked = bool(trial.imported_by_id) or any_key_look(trial)
    rounds = rounds_of(trial) if looked else []
    opened = sum(one.blinding == "open" for one in rounds)
    if opened:
        who = listed(list(dict.fromkeys(one.scorer for one in rounds if one.blinding == "open")))
        many = (
            "All rounds were"
            if opened == len(rounds)
            else f"{opened} of {len(rounds)} rounds " + ("was" if opened == 1 else "were")
        )
        return f"{many} scored by someone who had seen the key ({who}). {given_up}".strip()
    if given_up:
        return given_up
    if not Round.objects.filter(trial=trial, readings__isnull=False).exists():
        return "Whoever scores sees codes alone."
    return "Nobody who has scored had seen the key."


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
