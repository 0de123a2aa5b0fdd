"""What other stages, and the doors, may read of panels."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace
from uuid import UUID

import numpy as np

from fieldtally.core.panels.monitoring import looked, planned_looks
from fieldtally.core.panels.result import Judged, PanelFinding, panel_finding
from fieldtally.core.panels.serving import LETTERS, is_right
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.models import Assessor, Judgement, Panel
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import plan_of

NOT_BLIND = "was not blind"


def panels_of(trial: Trial) -> list[Panel]:
    """The panels of ``trial``, in order."""
    return list(Panel.objects.filter(trial=trial))


def judged_of(panel: Panel) -> list[Judged]:
    """The judgements of a panel in the order they came in; who was not blind, or was left out, does not count."""
    rows = Judgement.objects.filter(serving__assessor__panel=panel).select_related("serving", "serving__assessor")
    called = told_apart_names(panel)
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
            left_out=_why(row.serving.assessor),
        )
        for row in rows.order_by("stored_at", "given_at", "pk")
    ]


def told_apart_names(panel: Panel) -> dict[UUID, str]:
    """What each assessor is called in results: by their name, and by their seat too where another one is called alike.  Two people with the
    same initials are two people."""
    people = list(panel.assessors.all())
    many = Counter(one.called.casefold() for one in people)
    return {
        one.pk: one.called if many[one.called.casefold()] == 1 else f"{one.called} (seat {one.number})"
        for one in people
    }


def _why(assessor: Assessor) -> str:
    return assessor.left_out or ("" if assessor.blind else NOT_BLIND)


def late_in(panel: Panel) -> int:
    """How many answers came in after ``panel`` was closed; they were given before."""
    if panel.closed_at is None:
        return 0
    return Judgement.objects.filter(serving__assessor__panel=panel, stored_at__gt=panel.closed_at).count()


def findings_of(panel: Panel) -> tuple[PanelFinding, PanelFinding | None]:
    """What the panel found, and where somebody was left out the same with everybody counted."""
    plan, judged = panel_plan(panel), judged_of(panel)
    seed = int(panel.seed or "0", 16)
    called = {one.key: one.name for one in plan_of(panel.trial).treatments}
    names = [called.get(key, LETTERS[i]) for i, key in enumerate(plan.things)]
    plan = replace(plan, sessions=plan.sessions + panel.added_sessions)
    without = panel_finding(plan, judged, np.random.default_rng(seed), names=names)
    out = bool(without.left_out)
    return without, panel_finding(
        plan, judged, np.random.default_rng(seed), everybody=True, names=names
    ) if out else None


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


def answers_by_assessor(panel: Panel) -> Mapping[UUID, int]:
    """How many answers each assessor (id) has given."""
    found: dict[UUID, int] = {}
    for pk in Judgement.objects.filter(serving__assessor__panel=panel).values_list("serving__assessor_id", flat=True):
        found[pk] = found.get(pk, 0) + 1
    return found
