"""What other stages, and the doors, may read of panels."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import lru_cache
from pathlib import Path
from uuid import UUID
from zoneinfo import ZoneInfo

import numpy as np
from django.core.cache import cache
from django.db.models import Count, Max

from fieldtally.core import panels as core_panels
from fieldtally.core.panels.finding import PanelFinding, wholly_told
from fieldtally.core.panels.judged import Judged
from fieldtally.core.panels.monitoring import looked, planned_looks
from fieldtally.core.panels.result import panel_finding
from fieldtally.core.panels.serving import LETTERS, is_right
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.models import Assessor, Judgement, Panel
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import plan_of

NOT_BLIND = "was not blind"
KEPT_FOR = 7 * 24 * 3600
SLIP_HOURS = 12
"""A panel that has no window is told to have slipped when it begins so much later than planned."""


def panels_of(trial: Trial) -> list[Panel]:
    """The panels of ``trial``, in order."""
    return list(Panel.objects.filter(trial=trial))


def judged_of(panel: Panel, *, named: bool = True) -> list[Judged]:
    """The judgements of a panel in the order they came in; who was not blind, or was left out, does not count.  Unless ``named`` people go
    by their seats."""
    rows = Judgement.objects.filter(serving__assessor__panel=panel).select_related("serving", "serving__assessor")
    called = told_apart_names(panel, named=named)
    return [
        Judged(
            person=called[row.serving.assessor_id],
            experience=row.serving.assessor.experience,
            session=row.serving.session,
            order=row.serving.order,
            answer=tuple(row.answer),
            preference=row.preference,
            chips=tuple(row.chips),
            words=row.words,
            grades=tuple(tuple(own) for own in row.grades),
            confidence=row.confidence,
            left_out=_why(row.serving.assessor) or lateness(panel, row),
            stimulus=row.serving.stimulus,
        )
        for row in rows.order_by("stored_at", "given_at", "pk")
    ]


def told_apart_names(panel: Panel, *, named: bool = True) -> dict[UUID, str]:
    """What each assessor is called in results: by their name, and by their seat too where another one is called alike.  Two people with the
    same initials are two people."""
    people = list(panel.assessors.all())
    if not named:
        return {one.pk: f"seat {one.number}" for one in people}
    many = Counter(one.called.casefold() for one in people)
    return {
        one.pk: one.called if many[one.called.casefold()] == 1 else f"{one.called} (seat {one.number})"
        for one in people
    }


def lateness(panel: Panel, row: Judgement) -> str:
    """Why an answer came too late to count; empty where it did not."""
    if panel.closed_at is not None and row.given_at > panel.closed_at:
        return "answered after the panel was closed"
    if panel.opened_at is not None and row.stored_at > panel.opened_at:
        return "came in after the key was open"
    return ""


def _why(assessor: Assessor) -> str:
    return assessor.left_out or ("" if assessor.blind else NOT_BLIND)


def late_in(panel: Panel) -> int:
    """How many answers came in after ``panel`` was closed, though they were given before."""
    if panel.closed_at is None:
        return 0
    rows = Judgement.objects.filter(serving__assessor__panel=panel, stored_at__gt=panel.closed_at)
    return rows.filter(given_at__lte=panel.closed_at).count()


@lru_cache(maxsize=1)
def _code() -> str:
    """The SHA-256 of the code that findings come from."""
    whole = hashlib.sha256()
    for path in sorted(Path(core_panels.__file__).parent.glob("*.py")):
        whole.update(path.read_bytes())
    return whole.hexdigest()


def _made_from(panel: Panel, *, named: bool) -> str:
    """The digest of all that a finding of ``panel`` is made from."""
    people = list(panel.assessors.values_list("number", "name", "experience", "blind", "left_out"))
    answers = Judgement.objects.filter(serving__assessor__panel=panel).aggregate(
        many=Count("pk"), last=Max("stored_at")
    )
    fixed = (panel.pk, panel.plan, panel.seed, panel.added_sessions, panel.closed_at, panel.opened_at)
    told = (_code(), named, fixed, panel.trial.plan_seal, people, sorted(answers.items()))
    return hashlib.sha256(repr(told).encode()).hexdigest()


def findings_of(panel: Panel, *, named: bool = True) -> tuple[PanelFinding, PanelFinding | None]:
    """What the panel found, and where somebody was left out the same with everybody counted.

    Many ask for it once the key is open (the page, the list, everybody's card): it is worked out once and kept.
    """
    name = f"panels/finding/{_made_from(panel, named=named)}"
    kept: tuple[PanelFinding, PanelFinding | None] | None = cache.get(name)
    if kept is None:
        kept = _worked_out(panel, named=named)
        cache.set(name, kept, KEPT_FOR)
    return kept


def _worked_out(panel: Panel, *, named: bool) -> tuple[PanelFinding, PanelFinding | None]:
    plan, judged = panel_plan(panel), judged_of(panel, named=named)
    seed = int(panel.seed or "0", 16)
    trial_plan = plan_of(panel.trial)
    called = {one.key: one.name for one in trial_plan.treatments}
    level_of = {one.key: one.levels for one in trial_plan.treatments}
    factors = [
        (one.name, [level_of.get(key, {}).get(one.key, "") for key in plan.things]) for one in trial_plan.factors
    ]
    names = [called.get(key, LETTERS[i]) for i, key in enumerate(plan.things)]
    plan = replace(plan, sessions=plan.sessions + panel.added_sessions)
    without = panel_finding(plan, judged, np.random.default_rng(seed), names=names, factors=factors)
    out = bool(without.left_out)
    return without, panel_finding(
        plan, judged, np.random.default_rng(seed), everybody=True, names=names, factors=factors
    ) if out else None


def told_whole(panel: Panel, *, named: bool = True) -> tuple[PanelFinding, tuple[str, ...]]:
    """What the panel found, and all that has to be said of it in a few words; unless ``named`` people go by their seats."""
    finding, everybody = findings_of(panel, named=named)
    says = wholly_told(finding, everybody, alpha=panel_plan(panel).alpha)
    return finding, (*says, *(one for one in (stopped_of(panel), slip_of(panel)) if one))


def read_panels(trial: Trial) -> list[Panel]:
    """The panels of ``trial`` whose keys are open, in order."""
    return list(Panel.objects.filter(trial=trial).exclude(opened_at=None))


@dataclass(frozen=True)
class LookSeen:
    """A look that was planned, after ``n`` answers; ``says`` what whoever hosts is told at it: nothing before it is reached."""

    n: int
    says: str


def looks_of(panel: Panel) -> list[LookSeen]:
    """What the looks of a panel tell its host: go on or stop, never a count."""
    plan = panel_plan(panel)
    if plan.looks < 2 or panel.begun_at is None:
        return []
    counted = [one for one in judged_of(panel) if not one.left_out]
    right = [bool(is_right(plan.method, one.order, one.answer)) for one in counted]
    found = []
    for look in planned_looks(plan.method, plan.judgements, plan.looks, plan.alpha):
        seen = looked(plan.method, plan.judgements, plan.looks, right[: look.n], plan.alpha)
        says = ""
        if len(right) >= look.n and seen is not None:
            says = "go on" if seen.can else "stop: it can no longer be shown"
            if seen.crossed is not None:
                says = "stop: a difference is shown"
            elif look.n >= plan.judgements:
                says = "all are in"
        found.append(LookSeen(look.n, says))
    return found


def late_by_assessor(panel: Panel) -> Mapping[UUID, int]:
    """How many answers of each assessor (id) came too late to count."""
    found: Counter[UUID] = Counter()
    if panel.closed_at is not None:
        rows = Judgement.objects.filter(serving__assessor__panel=panel, stored_at__gt=panel.closed_at)
        for row in rows.select_related("serving"):
            found[row.serving.assessor_id] += bool(lateness(panel, row))
    return found


def planned_time(panel: Panel) -> tuple[datetime | None, datetime | None]:
    """When ``panel`` is planned for, and until when people judge then (None: until it is closed)."""
    plan = panel_plan(panel)
    if plan.on is None:
        return None, None
    try:
        due = datetime.fromisoformat(plan.on).replace(tzinfo=ZoneInfo(panel.trial.zone))
    except (ValueError, KeyError):
        return None, None
    return due, due + timedelta(minutes=plan.window) if plan.window else None


def stopped_of(panel: Panel) -> str:
    """How many chose not to go on; empty where nobody did."""
    many = panel.assessors.exclude(stopped_at=None).count()
    if not many:
        return ""
    return f"{'One person' if many == 1 else f'{many} people'} did not go on; what they answered counts."


def slip_of(panel: Panel) -> str:
    """How far the panel began from when it was planned for; empty where that was within its window, or it had no date."""
    due, until = planned_time(panel)
    if due is None or panel.begun_at is None:
        return ""
    late = panel.begun_at > (until or due + timedelta(hours=SLIP_HOURS))
    early = panel.begun_at < due - timedelta(days=1)
    if not late and not early:
        return ""
    zone = ZoneInfo(panel.trial.zone)
    planned, began = (f"{one.astimezone(zone):%-d %B %Y, %H:%M}" for one in (due, panel.begun_at))
    return f"Planned for {planned}, and begun {began}."


def answers_by_assessor(panel: Panel) -> Mapping[UUID, int]:
    """How many answers each assessor (id) has given."""
    found: dict[UUID, int] = {}
    for pk in Judgement.objects.filter(serving__assessor__panel=panel).values_list("serving__assessor_id", flat=True):
        found[pk] = found.get(pk, 0) + 1
    return found
