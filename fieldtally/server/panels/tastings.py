"""A tasting by itself: a trial of its own kind, sealed, dealt and begun in one step."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from zoneinfo import ZoneInfo

from django.db import transaction
from django.utils import timezone

from fieldtally.core.design.plan import Plan, Stand, Treatment
from fieldtally.core.panels.methods import METHODS
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.log.services import write_note
from fieldtally.server.panels import planning
from fieldtally.server.panels.models import Panel
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan import services as plans

MOST_NAMED = 16


@dataclass(frozen=True)
class Wanted:
    """A tasting as its host asks for it: what is put before people (names), the panel, who judges, and how it stands with fairness."""

    title: str
    zone: str
    things: tuple[str, ...]
    panel: PanelPlan
    people: tuple[planning.Invited, ...]
    fairness: tuple[Stand, ...]


def hold(user: User, wanted: Wanted, *, at: datetime | None = None, seed: str | None = None) -> Panel:
    """Plan, seal and begin it: with cups at once, with sounds or pictures once their files are there.

    :raises Declined: 422 with everything that is wrong, each at the field it belongs to; then nothing is stored.
    """
    now = at or timezone.now()
    things = tuple(name.strip() for name in wanted.things)
    title = wanted.title.strip() or f"Tasting of {now.astimezone(_zone(wanted.zone)):%-d %B %Y}"
    keys = tuple(f"thing-{i}" for i in range(1, len(things) + 1))
    plan = Plan(
        title=title,
        question=METHODS[wanted.panel.method].question.replace("…", wanted.panel.attribute.strip() or "…"),
        zone=wanted.zone,
        sample_word="cup",
        tasting=True,
        treatments=tuple(Treatment(key, name, samples=0) for key, name in zip(keys, things, strict=True)),
        fairness=wanted.fairness,
    )
    panel = replace(wanted.panel, title=title, things=keys, assessors=max(1, len(wanted.people)), own_samples=False)
    if panel.material == "cups" and not panel.allergens.strip():
        raise Declined(
            422, Problem("panel.allergens", "Say what people may be allergic to; “none known” if it is none.")
        )
    with transaction.atomic():
        trial = plans.begin(user, plan)
        try:
            plans.seal(trial, user, 1, at=now, seed=seed)
            Trial.objects.filter(pk=trial.pk).update(started_at=now)
            trial.refresh_from_db()
            made = planning.begin_planning(trial, user, panel)
            planning.invite(made, wanted.people)
            if panel.material == "cups":
                made = planning.begin(made, at=now, seed=seed or "")
        except Declined as refusal:
            raise Declined(refusal.status, *_at_fields(refusal.problems)) from refusal
        write_note(trial, user, f"Held as a tasting of {len(things)}, with {len(wanted.people)} people.")
    return made


def _zone(name: str) -> ZoneInfo:
    try:
        return ZoneInfo(name)
    except (KeyError, ValueError, OSError) as error:
        raise Declined(422, Problem("zone", f"There is no time zone called “{name}”.")) from error


def _at_fields(problems: Sequence[Problem]) -> list[Problem]:
    """Problems of the trial's plan and of the panel's, at the fields of a tasting."""
    found = []
    for one in problems:
        if one.at.startswith("treatments"):
            at = one.at.replace("treatments", "things", 1).removesuffix(".name")
        elif one.at.split(".")[0] in ("title", "zone", "fairness", "things"):
            at = one.at
        elif one.at.startswith("assessors"):
            at = one.at.replace("assessors", "people", 1)
        else:
            at = f"panel.{one.at}"
        found.append(Problem(at, one.says))
    return found
