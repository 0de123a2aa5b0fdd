"""Planning a panel and bringing it under way."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any

from django.db import transaction
from django.utils import timezone
from pydantic import TypeAdapter, ValidationError

from fieldtally.core.panels.plan import PanelPlan, problems_in
from fieldtally.core.panels.serving import serving_plan
from fieldtally.core.problems import Problem
from fieldtally.core.randomness import Draw
from fieldtally.server.answers import Declined
from fieldtally.server.panels.models import Assessor, Experience, Panel, Serving
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.records import plan_of

MOST_PANELS, MOST_AT_ONCE, LONGEST_NAME = 50, 500, 80
_plans: TypeAdapter[PanelPlan] = TypeAdapter(PanelPlan)


def panel_plan(panel: Panel) -> PanelPlan:
    """The plan of a panel."""
    return _plans.validate_python(panel.plan)


def faults(trial: Trial, plan: PanelPlan) -> list[Problem]:
    """Why the panel cannot begin as it is planned."""
    return list(problems_in(plan, frozenset(t.key for t in plan_of(trial).treatments)))


def begin_planning(trial: Trial, user: User, plan: PanelPlan) -> Panel:
    """A new panel; its plan may still be full of faults.

    :raises Declined: 409 once the key is open; 422 where there are too many.
    """
    if trial.state == "opened":
        raise Declined(409, "The key is open, so nobody can judge blind any more.")
    if Panel.objects.filter(trial=trial).count() >= MOST_PANELS:
        raise Declined(422, Problem("", f"A trial has up to {MOST_PANELS} panels."))
    return Panel.objects.create(trial=trial, plan=asdict(plan), by=user)


def change_plan(panel: Panel, document: dict[str, Any], version: int) -> Panel:
    """The panel with another plan.

    :raises Declined: 409 where it has begun, or somebody else changed it meanwhile; 422 where the plan cannot be read.
    """
    try:
        plan = _plans.validate_python(document)
    except ValidationError as error:
        raise Declined(
            422, *(Problem(".".join(str(p) for p in one["loc"]), f"{one['msg']}.") for one in error.errors())
        ) from error
    with transaction.atomic():
        row = Panel.objects.select_for_update().get(pk=panel.pk)
        _still_planned(row)
        if row.version != version:
            raise Declined(409, "Somebody else changed this panel meanwhile; look at theirs first.")
        row.plan, row.version = asdict(plan), version + 1
        row.save(update_fields=["plan", "version"])
    return row


def _still_planned(panel: Panel) -> None:
    if panel.begun_at is not None:
        raise Declined(409, "This panel has begun; what it asks was fixed with that.")


def invite(panel: Panel, names: Sequence[tuple[str, str, bool]]) -> list[Assessor]:
    """Add assessors: name or initials, experience, and whether they are blind.

    Those who come once it has begun get their sets dealt on from where the balance was left.

    :raises Declined: 409 where it is closed; 422 at the name that is wrong.
    """
    if panel.closed_at is not None:
        raise Declined(409, "This panel is closed.")
    problems = []
    for i, (name, experience, _) in enumerate(names):
        if len(name.strip()) > LONGEST_NAME:
            problems.append(Problem(f"assessors.{i}.name", f"A name of up to {LONGEST_NAME} letters, please."))
        if experience not in Experience.values:
            problems.append(Problem(f"assessors.{i}.experience", "Naive, regular or trained."))
    with transaction.atomic():
        row = Panel.objects.select_for_update().get(pk=panel.pk)
        have = row.assessors.count()
        if have + len(names) > MOST_AT_ONCE:
            problems.append(Problem("assessors", f"A panel has up to {MOST_AT_ONCE} assessors."))
        if problems:
            raise Declined(422, *problems)
        made = [
            Assessor.objects.create(
                panel=row, number=have + i + 1, name=name.strip(), experience=experience, blind=blind
            )
            for i, (name, experience, blind) in enumerate(names)
        ]
        if row.begun_at is not None:
            _deal(row, made, f"late/{have}")
    return made


def begin(panel: Panel, *, at: datetime | None = None) -> Panel:
    """Draw who gets which cups under which codes; from then on people may judge.

    :raises Declined: 409 where it has begun, or the trial is still a draft or open already; 422 where the plan has faults or there is
        nobody.
    """
    with transaction.atomic():
        row = Panel.objects.select_for_update().select_related("trial").get(pk=panel.pk)
        _still_planned(row)
        if row.trial.state == "draft":
            raise Declined(409, "Seal the trial's plan first: the panel's answers stay sealed with its key.")
        if row.trial.state == "opened":
            raise Declined(409, "The key is open, so nobody can judge blind any more.")
        wrong = faults(row.trial, panel_plan(row))
        people = list(row.assessors.all())
        if not people:
            wrong.append(Problem("assessors", "Invite at least one assessor."))
        if wrong:
            raise Declined(422, *wrong)
        row.seed, row.begun_at = secrets.token_hex(16), at or timezone.now()
        row.save(update_fields=["seed", "begun_at"])
        _deal(row, people, "servings")
    return row


def _deal(panel: Panel, people: Sequence[Assessor], purpose: str) -> None:
    plan = panel_plan(panel)
    drawn = serving_plan(
        plan.method,
        len(people),
        Draw(panel.seed, purpose),
        sessions=plan.sessions,
        things=len(plan.things),
        sets=plan.sets,
    )
    places: dict[tuple[int, int], int] = {}
    rows = []
    for one in drawn:
        at = places[one.assessor, one.session] = places.get((one.assessor, one.session), -1) + 1
        rows.append(
            Serving(
                assessor=people[one.assessor], session=one.session, place=at, order=one.order, codes=list(one.codes)
            )
        )
    Serving.objects.bulk_create(rows)


def close(panel: Panel, *, at: datetime | None = None) -> None:
    """No more answers are taken; what was planned and not judged is told with the result.

    :raises Declined: 409 where it has not begun, or is closed.
    """
    if panel.begun_at is None:
        raise Declined(409, "This panel has not begun.")
    if panel.closed_at is not None:
        raise Declined(409, "This panel is closed already.")
    Panel.objects.filter(pk=panel.pk).update(closed_at=at or timezone.now())
