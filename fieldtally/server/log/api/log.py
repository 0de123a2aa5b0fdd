"""The log: everything that was read and everything that happened, newest first, old values among it."""

from contextlib import suppress
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from django.db.models import Q, QuerySet
from ninja import Router, Schema

from fieldtally.core.design.plan import Plan
from fieldtally.core.dosing.log import off_plan, setting_off
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.log import services
from fieldtally.server.log.models import Deviation, LogNote
from fieldtally.server.log.models.deviation import Accident
from fieldtally.server.people.queries import called
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import amendments_of, plan_of, sealed_plan, shuffle_of
from fieldtally.server.prepare.models import Cycle, Exposure
from fieldtally.server.prepare.queries import application_log, cycles_of, key_looks

router = Router()
MOST_SHOWN = 300
WRITTEN_LATER = timedelta(hours=12)
READ_WITH = ("sample", "outcome", "checkpoint", "scorer", "supersedes", "superseded_by", "repeat")


class RetestOut(Schema):
    """A reading that may be taken again: the id that its sample is scored by, the outcome and the look (keys)."""

    sample: UUID
    outcome: str
    look: str


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
    source: str = ""
    accident: str = ""
    since: datetime | None = None
    written_at: datetime | None = None
    """When it was written down, where that was later than it was seen."""
    photos: list[UUID] = []
    again: RetestOut | None = None
    """What to read again, where this is a reading of one's own in a trial that is still scored."""


class LogOut(Schema):
    """A page of entries, newest first, how many readings there are in all, and what to ask for the page before it with (``earlier``; None:
    this is where the log begins)."""

    entries: list[LogEntry]
    readings: int
    earlier: str | None


@router.get("/trials/{trial_id}/log", response={200: LogOut, 403: ProblemsOut, 404: ProblemsOut})
def log(request: SignedIn, trial_id: UUID, before: str = "") -> LogOut:
    """The log, a page at a time; ``before`` is what an earlier page said.  Before the key is open a scorer sees their own readings only;
    the lead sees all, by code."""
    seen = sight(request, trial_id)
    seen.need("see_log")
    readings = seen.trial.readings.all()
    if not seen.may("see_all_readings"):
        readings = readings.filter(scorer=request.user)
    until, page = _page(readings, before)
    since = page[-1].stored_at if len(page) > MOST_SHOWN - 1 else None
    plan = plan_of(seen.trial)
    names = plan.telling_names
    happened = [*_deviations(seen, plan, names), *_notes(seen, names), *_milestones(seen, plan, names)]
    within = [one for one in happened if (until is None or one.at < until) and (since is None or one.at >= since)]
    entries = sorted([*_readings(seen, plan, names, page), *within], key=lambda e: e.at, reverse=True)
    earlier = f"{since.isoformat()} {page[-1].pk}" if since is not None else None
    return LogOut(entries=entries, readings=readings.count(), earlier=earlier)


def _page(readings: QuerySet[Any], before: str) -> tuple[datetime | None, list[Any]]:
    """The readings stored before a page's end, newest first, and when that was; what is no page's end is the newest page."""
    at, _, pk = before.partition(" ")
    until = None
    with suppress(ValueError):
        moment, last = datetime.fromisoformat(at), UUID(pk)
        if moment.tzinfo is not None:
            until = moment
            readings = readings.filter(Q(stored_at__lt=until) | Q(stored_at=until, pk__lt=last))
    return until, list(readings.select_related(*READ_WITH).order_by("-stored_at", "-pk")[:MOST_SHOWN])


def _readings(seen: Sight, plan: Plan, names: list[str], newest: list[Any]) -> list[LogEntry]:
    scores, user = seen.may("score_again"), seen.membership.user_id
    outcomes = {o.key: seen.spoken(o.name, names) for o in plan.outcomes}
    checkpoints = {c.key: seen.spoken(c.name, names) for c in plan.checkpoints}
    return [
        LogEntry(
            at=r.taken_at,
            written_at=_later(r.taken_at, r.stored_at),
            by=r.scorer.called,
            what=r.kind,
            code=r.repeat.code if r.repeat and not seen.may("see_verdict") else r.sample.code,
            outcome=outcomes.get(r.outcome.key, ""),
            checkpoint=checkpoints.get(r.checkpoint.key, ""),
            value=r.value,
            words=seen.spoken(r.words, names),
            old_value=r.supersedes.value if r.supersedes else None,
            reason=seen.spoken(r.reason, names),
            replaced=hasattr(r, "superseded_by"),
            again=RetestOut(sample=r.repeat_id or r.sample_id, outcome=r.outcome.key, look=r.checkpoint.key)
            if r.kind == "value" and r.value is not None and scores and r.scorer_id == user
            else None,
            source=_source(r.source, r.device, r.repeat.code if r.repeat and seen.may("see_verdict") else ""),
        )
        for r in newest
    ]


def _later(seen: datetime, written: datetime) -> datetime | None:
    """When something was written down, where that was later than a device without a network takes to send it."""
    return written if written - seen > WRITTEN_LATER else None


def _source(source: str, device: str, second_code: str) -> str:
    told = {"paper": "from paper", "device": f"read from {device}"}.get(source, "")
    again = f"under the second code {second_code}" if second_code else ""
    return ", ".join(part for part in (told, again) if part)


def _deviations(seen: Sight, plan: Plan, names: list[str]) -> list[LogEntry]:
    shown = Deviation.objects.filter(trial=seen.trial).select_related("sample", "by")
    held = {entry.key: entry.what for entry in plan.held_equal}
    looks = {c.key: c.name for c in plan.checkpoints}
    held |= {o.key: o.name for o in plan.outcomes}
    return [
        LogEntry(
            at=d.at,
            by=d.by.called,
            what=d.kind,
            code=d.sample.code if d.sample else "",
            outcome=seen.spoken(held.get(d.about, ""), names),
            checkpoint=seen.spoken(looks.get(d.about, ""), names),
            reason=seen.spoken(d.reason, names) + (" (after the key was opened)" if d.after_key else ""),
            accident=Accident(d.accident).label if d.accident else "",
            since=d.since,
        )
        for d in shown
    ]


def _notes(seen: Sight, names: list[str]) -> list[LogEntry]:
    return [
        LogEntry(
            at=one.at,
            by=one.by.called,
            what="note",
            words=seen.spoken(one.text, names),
            reason=seen.spoken(one.working, names),
            photos=[photo.pk for photo in one.photos.all() if not photo.gone],
        )
        for one in LogNote.objects.filter(trial=seen.trial).select_related("by").prefetch_related("photos")
    ]


class NoteIn(Schema):
    """A note for the log, and the working of the sum that it came from; ``id`` is made by the device that sends it."""

    id: UUID | None = None
    text: str
    working: str = ""


class NotedOut(Schema):
    """The id of a note, so that photos may be put to it."""

    id: UUID


@router.post(
    "/trials/{trial_id}/notes",
    response={200: NotedOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def note(request: SignedIn, trial_id: UUID, body: NoteIn) -> NotedOut:
    """Write a note into the log; sent again under its id it is stored once."""
    seen = sight(request, trial_id)
    seen.need("write_note")
    seen.hear(plan_of(seen.trial).telling_names, text=body.text)
    return NotedOut(id=services.write_note(seen.trial, request.user, body.text, body.working, id=body.id).pk)


def _milestones(seen: Sight, plan: Plan, names: list[str]) -> list[LogEntry]:
    trial = seen.trial
    sealed = sealed_plan(trial)
    begun = plan.begun is not None and sealed is not None
    found = [
        # Whoever led a trial that had begun knew the key when it was sealed.
        LogEntry(
            at=look.at,
            by=look.by.called,
            what="knew_key" if begun and sealed and look.at == sealed.at else "key_look",
        )
        for look in key_looks(trial)
    ]
    if sealed:
        # What was made of a table was never sealed: its plan was drawn up afterwards.
        what = "drawn_up" if trial.origin == "table" else "sealed"
        found.append(
            LogEntry(at=sealed.at, by=called(sealed.by), what=what, reason=sealed.seal if what == "sealed" else "")
        )
        found += [
            LogEntry(
                at=one.at,
                by=one.by,
                what="amended",
                since=one.decided,
                reason=seen.spoken(f"{one.reason} {' '.join(one.changes)}", names),
            )
            for one in amendments_of(trial)
        ]
    found += [
        LogEntry(at=one.at, by=one.by.called, what="cycle", reason=seen.spoken(_settings(one, plan), names))
        for one in cycles_of(trial)
    ]
    found += _starts(seen, plan, names)
    found += _given(seen)
    shuffled = shuffle_of(trial)
    if shuffled is not None:
        found.append(LogEntry(at=shuffled.at, by=shuffled.by.called, what="shuffled", reason=shuffled.kind))
        if hasattr(shuffled, "uncovered"):
            found.append(LogEntry(at=shuffled.uncovered.at, by=shuffled.uncovered.by.called, what="uncovered"))
    if trial.opened_at:
        found.append(LogEntry(at=trial.opened_at, by=called(trial.opened_by_id), what="opened"))
    return found


def _settings(cycle: Cycle, plan: Plan) -> str:
    """How a cycle was set, with what differed from the plan, and the note about it."""
    told = []
    for setting in plan.cycle_settings:
        given = cycle.set_to.get(setting.key, "")
        off = setting_off(setting.planned, given, plan.system)
        if given or off:
            told.append(f"{setting.what.strip()} {off.rstrip('.') if off else given}")
    return "; ".join([*told, *([cycle.note] if cycle.note else [])])


def _starts(seen: Sight, plan: Plan, names: list[str]) -> list[LogEntry]:
    """The start of exposure, a line for each block that started by itself."""
    blocks = {block.key: seen.spoken(block.name, names) for block in plan.layout.blocks}
    first = Exposure.objects.filter(sample__trial=seen.trial).order_by("sample__block", "started_at")
    rows = list(first.distinct("sample__block").select_related("by", "sample"))
    return [
        LogEntry(
            at=one.started_at,
            by=one.by.called,
            what="started",
            reason=blocks.get(one.sample.block, "") if len(rows) > 1 else "",
        )
        for one in rows
    ]


def _given(seen: Sight) -> list[LogEntry]:
    """What was given.  Amounts and codes only where the key is seen; else how many samples, which tells nothing."""
    rows = application_log(seen.trial)
    if not seen.may("see_verdict"):
        days: dict[tuple[str, datetime], set[UUID]] = {}
        for one in rows:
            days.setdefault((one.by.called, one.at.replace(second=0, microsecond=0)), set()).add(one.sample_id)
        return [
            LogEntry(at=at, by=by, what="given", reason=f"{len(samples)} samples") for (by, at), samples in days.items()
        ]
    found = []
    for one in rows:
        off = off_plan(one.planned, one.given, one.unit) if one.planned and one.given is not None else None
        says = " ".join(part for part in (off.says if off else "as planned.", one.note) if part)
        replaced = hasattr(one, "superseded_by")
        found.append(
            LogEntry(at=one.at, by=one.by.called, what="given", code=one.sample.code, reason=says, replaced=replaced)
        )
    return found
