"""What other stages, and the doors, may read of panels."""

from __future__ import annotations

from collections.abc import Mapping
from uuid import UUID

import numpy as np

from fieldtally.core.panels.result import Judged, PanelFinding, panel_finding
from fieldtally.server.panels.models import Assessor, Judgement, Panel
from fieldtally.server.panels.planning import panel_plan
from fieldtally.server.people.models import Trial

NOT_BLIND = "was not blind"


def panels_of(trial: Trial) -> list[Panel]:
    """The panels of ``trial``, in order."""
    return list(Panel.objects.filter(trial=trial))


def judged_of(panel: Panel) -> list[Judged]:
    """The judgements of a panel in the order they were given; who was not blind, or was left out, does not count."""
    rows = Judgement.objects.filter(serving__assessor__panel=panel).select_related("serving", "serving__assessor")
    return [
        Judged(
            person=row.serving.assessor.called,
            experience=row.serving.assessor.experience,
            session=row.serving.session,
            order=row.serving.order,
            answer=tuple(row.answer),
            preference=row.preference,
            chips=tuple(row.chips),
            words=row.words,
            left_out=_why(row.serving.assessor),
        )
        for row in rows.order_by("given_at", "pk")
    ]


def _why(assessor: Assessor) -> str:
    return assessor.left_out or ("" if assessor.blind else NOT_BLIND)


def findings_of(panel: Panel) -> tuple[PanelFinding, PanelFinding | None]:
    """What the panel found, and where somebody was left out the same with everybody counted."""
    plan, judged = panel_plan(panel), judged_of(panel)
    seed = int(panel.seed or "0", 16)
    without = panel_finding(plan, judged, np.random.default_rng(seed))
    out = bool(without.left_out)
    return without, panel_finding(plan, judged, np.random.default_rng(seed), everybody=True) if out else None


def answers_by_assessor(panel: Panel) -> Mapping[UUID, int]:
    """How many answers each assessor (id) has given."""
    found: dict[UUID, int] = {}
    for pk in Judgement.objects.filter(serving__assessor__panel=panel).values_list("serving__assessor_id", flat=True):
        found[pk] = found.get(pk, 0) + 1
    return found
