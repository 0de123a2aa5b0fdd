"""The log: everything that was read and everything that happened, newest first, old values among it."""

from datetime import datetime
from uuid import UUID

from django.db.models import QuerySet
from django.http import HttpRequest
from ninja import Router, Schema

from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.records import called
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.plan.records import amendments_of, plan_of, sealed_plan
from fieldtally.server.prepare.records import cycles_of, first_start, key_looks
from fieldtally.server.rounds.models import Deviation, Reading

router = Router()
MOST_SHOWN = 300


class LogEntry(Schema):
    """One line of the log.  For a reading: its value, the value it replaced, and whether it has been replaced itself."""

    at: datetime
    by: str
    what: str
    code: str = ""
    outcome: str = ""
    checkpoint: str = ""
    value: float | None = None
    words: str = ""
    old_value: float | None = None
    reason: str = ""
    replaced: bool = False


class LogOut(Schema):
    """The newest entries, and how many readings there are in all."""

    entries: list[LogEntry]
    readings: int


@router.get("/trials/{trial_id}/log", response={200: LogOut, 403: ProblemsOut, 404: ProblemsOut})
def log(request: HttpRequest, trial_id: UUID) -> LogOut:
    """The log.  Before the key is open a scorer sees their own readings only; the lead sees all, by code."""
    seen = sight(request, trial_id)
    seen.need(seen.sees_readings or seen.leads, "The log opens with the key.")
    readings = Reading.objects.filter(trial=seen.trial)
    if not (seen.is_open or seen.leads):
        readings = readings.filter(scorer=request.user)
    entries = [*_readings(seen, readings), *_deviations(seen), *_milestones(seen)]
    return LogOut(entries=sorted(entries, key=lambda e: e.at, reverse=True)[:MOST_SHOWN], readings=readings.count())


def _readings(seen: Sight, readings: QuerySet[Reading]) -> list[LogEntry]:
    plan = plan_of(seen.trial)
    names = [t.name for t in plan.treatments]
    outcomes = {o.key: seen.spoken(o.name, names) for o in plan.outcomes}
    checkpoints = {c.key: seen.spoken(c.name, names) for c in plan.checkpoints}
    shown = readings.select_related(
        "sample", "outcome", "checkpoint", "scorer", "supersedes", "superseded_by"
    ).order_by("-stored_at", "-pk")[:MOST_SHOWN]
    return [
        LogEntry(
            at=r.taken_at,
            by=r.scorer.called,
            what=r.kind,
            code=r.sample.code,
            outcome=outcomes.get(r.outcome.key, ""),
            checkpoint=checkpoints.get(r.checkpoint.key, ""),
            value=r.value,
            words=seen.spoken(r.words, names),
            old_value=r.supersedes.value if r.supersedes else None,
            reason=seen.spoken(r.reason, names),
            replaced=hasattr(r, "superseded_by"),
        )
        for r in shown
    ]


def _deviations(seen: Sight) -> list[LogEntry]:
    shown = Deviation.objects.filter(trial=seen.trial).select_related("sample", "by")
    plan = plan_of(seen.trial)
    names = [t.name for t in plan.treatments]
    held = {entry.key: entry.what for entry in plan.held_equal}
    looks = {c.key: c.name for c in plan.checkpoints}
    return [
        LogEntry(
            at=d.at,
            by=d.by.called,
            what=d.kind,
            code=d.sample.code if d.sample else "",
            outcome=seen.spoken(held.get(d.about, ""), names),
            checkpoint=seen.spoken(looks.get(d.about, ""), names),
            reason=seen.spoken(d.reason, names) + (" (after the key was opened)" if d.after_key else ""),
        )
        for d in shown
    ]


def _milestones(seen: Sight) -> list[LogEntry]:
    trial = seen.trial
    sealed = sealed_plan(trial)
    names = [t.name for t in plan_of(trial).treatments]
    found = [LogEntry(at=look.at, by=look.by.called, what="key_look") for look in key_looks(trial)]
    if sealed:
        found.append(LogEntry(at=sealed.at, by=called(sealed.by), what="sealed", reason=sealed.seal))
        found += [
            LogEntry(
                at=one.at,
                by=one.by,
                what="amended",
                reason=seen.spoken(f"{one.reason} {' '.join(one.changes)}", names),
            )
            for one in amendments_of(trial)
        ]
    found += [
        LogEntry(at=one.at, by=one.by.called, what="cycle", reason=seen.spoken(one.note, names))
        for one in cycles_of(trial)
    ]
    start = first_start(trial)
    if start:
        found.append(LogEntry(at=start.started_at, by=start.by.called, what="started"))
    if trial.opened_at:
        found.append(LogEntry(at=trial.opened_at, by=called(trial.opened_by_id), what="opened"))
    return found
