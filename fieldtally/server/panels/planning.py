"""Planning a panel and bringing it under way."""

from __future__ import annotations

import secrets
from collections import Counter
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from fieldtally.core.limits import LONGEST_REASON
from fieldtally.core.panels.plan import MOST_SESSIONS, PanelPlan, problems_in
from fieldtally.core.panels.sealing import began, panel_seal
from fieldtally.core.panels.serving import Before, serving_plan
from fieldtally.core.problems import Problem
from fieldtally.core.randomness import Draw
from fieldtally.server.answers import Declined
from fieldtally.server.panels.documents import panel_plan, plan_in
from fieldtally.server.panels.hosting import address_in
from fieldtally.server.panels.material import check_material, missing_material
from fieldtally.server.panels.models import Assessor, Experience, Panel, Serving
from fieldtally.server.panels.sealing import served_in
from fieldtally.server.people.chain import append
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.queries import plan_of

MOST_PANELS, MOST_AT_ONCE, LONGEST_NAME = 50, 500, 80


def faults(panel: Panel, plan: PanelPlan) -> list[Problem]:
    """Why the panel cannot begin as it is planned."""
    own = problems_in(plan, frozenset(t.key for t in plan_of(panel.trial).treatments))
    return [*own, *missing_material(panel, plan)]


def begin_planning(trial: Trial, user: User, plan: PanelPlan) -> Panel:
    """A new panel; its plan may still be full of faults.

    :raises Declined: 422 where there are too many.
    """
    if Panel.objects.filter(trial=trial).count() >= MOST_PANELS:
        raise Declined(422, Problem("", f"A trial has up to {MOST_PANELS} panels."))
    return Panel.objects.create(trial=trial, plan=asdict(plan), by=user)


def change_plan(panel: Panel, document: dict[str, Any], version: int) -> Panel:
    """The panel with another plan.

    :raises Declined: 409 where it has begun, or somebody else changed it meanwhile; 422 where the plan cannot be read.
    """
    plan = plan_in(document)
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


@dataclass(frozen=True)
class Invited:
    """Somebody who is to judge: name or initials, how used to it they are, whether they are blind, and where they are written to."""

    name: str
    experience: str = "naive"
    blind: bool = True
    address: str = ""


def invite(panel: Panel, names: Sequence[Invited]) -> list[Assessor]:
    """Add assessors.

    Those who come once it has begun get their sets dealt on from where the balance was left.

    :raises Declined: 409 where it is closed; 422 at the name that is wrong.
    """
    if panel.closed_at is not None:
        raise Declined(409, "This panel is closed.")
    problems = []
    for i, one in enumerate(names):
        if len(one.name.strip()) > LONGEST_NAME:
            problems.append(Problem(f"assessors.{i}.name", f"A name of up to {LONGEST_NAME} letters, please."))
        if one.experience not in Experience.values:
            problems.append(Problem(f"assessors.{i}.experience", "Naive, regular or trained."))
        address_in(one.address, f"assessors.{i}.address")
    with transaction.atomic():
        row = Panel.objects.select_for_update().get(pk=panel.pk)
        have = row.assessors.count()
        if have + len(names) > MOST_AT_ONCE:
            problems.append(Problem("assessors", f"A panel has up to {MOST_AT_ONCE} assessors."))
        if problems:
            raise Declined(422, *problems)
        made = [
            Assessor.objects.create(
                panel=row,
                number=have + i + 1,
                name=one.name.strip(),
                experience=one.experience,
                blind=one.blind,
                address=one.address.strip(),
            )
            for i, one in enumerate(names)
        ]
        if row.begun_at is not None:
            _deal(row, made, f"late/{have}")
    return made


def begin(panel: Panel, *, at: datetime | None = None, seed: str = "") -> Panel:
    """Draw who gets which cups under which codes; from then on people may judge.

    :raises Declined: 409 where it has begun, or the trial is still a draft; 422 where the plan has faults or there is nobody.
    """
    with transaction.atomic():
        row = Panel.objects.select_for_update().select_related("trial").get(pk=panel.pk)
        _still_planned(row)
        if row.trial.state == "draft":
            raise Declined(409, "Seal the trial's plan first: the panel's cups are drawn under its seal.")
        plan = panel_plan(row)
        wrong = faults(row, plan)
        people = list(row.assessors.all())
        if not people:
            wrong.append(Problem("assessors", "Invite at least one assessor."))
        if wrong:
            raise Declined(422, *wrong)
        check_material(row, plan)
        row.seed, row.begun_at = seed or secrets.token_hex(16), at or timezone.now()
        row.save(update_fields=["seed", "begun_at"])
        _deal(row, people, "servings")
        row.began_with = len(people)
        row.seal = panel_seal(row.plan, row.seed, served_in(row))
        row.save(update_fields=["began_with", "seal"])
        title = plan.title
        append(row.trial, "panel began", [began(row.seal, row.begun_at, title)], at=row.begun_at)
    return row


def _dealt(panel: Panel) -> Counter[str]:
    """How often each order is out: what was spilt, or waits for somebody who does not count, is not."""
    rows = Serving.objects.filter(assessor__panel=panel, spilt="").select_related("assessor", "judgement")
    return Counter(one.order for one in rows if not one.assessor.left_out or hasattr(one, "judgement"))


def _had(people: Sequence[Assessor]) -> list[Counter[str]]:
    """How often each of these people got each order already."""
    rows = Serving.objects.filter(assessor__in=people, spilt="").values_list("assessor_id", "order")
    own: dict[UUID, Counter[str]] = {one.pk: Counter() for one in people}
    for assessor, order in rows:
        own[assessor][order] += 1
    return [own[one.pk] for one in people]


def _deal(panel: Panel, people: Sequence[Assessor], purpose: str, *, session: int | None = None) -> None:
    """Sets for ``people`` in all sessions, or in that one, in which the orders that are missing come first."""
    plan = panel_plan(panel)
    sessions = plan.sessions + panel.added_sessions if session is None else 1
    drawn = serving_plan(
        plan.method,
        len(people),
        Draw(panel.seed, purpose),
        sessions=sessions,
        things=len(plan.things),
        sets=plan.sets,
        stimuli=max(1, len(plan.stimuli)),
        before=Before(_dealt(panel), _had(people)),
    )
    places: dict[tuple[int, int], int] = {}
    rows = []
    for one in drawn:
        at = places[one.assessor, one.session] = places.get((one.assessor, one.session), -1) + 1
        rows.append(
            Serving(
                assessor=people[one.assessor],
                session=one.session if session is None else session,
                place=at,
                order=one.order,
                codes=list(one.codes),
                stimulus=one.stimulus,
            )
        )
    Serving.objects.bulk_create(rows)


def add_session(panel: Panel) -> Panel:
    """One more session for all who count, the balance kept.

    :raises Declined: 409 where it is not open, was planned with looks, or has all sessions it may have.
    """
    with transaction.atomic():
        row = Panel.objects.select_for_update().select_related("trial").get(pk=panel.pk)
        plan = panel_plan(row)
        if row.state != "open":
            raise Declined(409, "A session is added while people judge.")
        if plan.looks > 1:
            raise Declined(409, "This panel is looked at while it runs; how many judge was fixed with that.")
        session = plan.sessions + row.added_sessions
        if session >= MOST_SESSIONS:
            raise Declined(409, f"A panel has up to {MOST_SESSIONS} sessions.")
        row.added_sessions += 1
        row.save(update_fields=["added_sessions"])
        people = list(row.assessors.filter(left_out="", stopped_at=None))
        if not people:
            raise Declined(409, "There is nobody left who counts.")
        _deal(row, people, f"session/{session}", session=session)
    return row


def close(panel: Panel, because: str = "", *, at: datetime | None = None) -> None:
    """No more answers are taken; what was planned and not judged is told with the result, and ``because`` of what it was broken off.

    :raises Declined: 409 where it has not begun, or is closed; 422 where the reason is too long.
    """
    if panel.begun_at is None:
        raise Declined(409, "This panel has not begun.")
    if len(because) > LONGEST_REASON:
        raise Declined(422, Problem("because", f"A reason of up to {LONGEST_REASON} letters, please."))
    closed = Panel.objects.filter(pk=panel.pk, closed_at=None).update(
        closed_at=at or timezone.now(), closed_because=because.strip()
    )
    if not closed:
        raise Declined(409, "This panel is closed already.")
