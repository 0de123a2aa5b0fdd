"""What other stages may read of preparing."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.db.models import Count, Exists, Max, OuterRef, Q, QuerySet

from fieldtally.core.design.plan import Plan
from fieldtally.core.dosing.log import ByVersion, by_version, off_plan, setting_off
from fieldtally.core.dosing.measuring import Tool, tool_in
from fieldtally.core.quantities.amounts import told
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Shuffle
from fieldtally.server.prepare.models import (
    Application,
    Cycle,
    Exposure,
    HeldTick,
    KeyLook,
    MeasuringTool,
    MixTick,
    Pack,
)


@dataclass(frozen=True)
class Starts:
    """How many samples of a trial have started, and when the last of these did."""

    started: int
    last: datetime


def starts_by_trial(trials: Sequence[Trial]) -> dict[UUID, Starts]:
    """How far each of ``trials`` has started, in one query."""
    rows = (
        Exposure.objects.filter(sample__trial__in=trials)
        .values_list("sample__trial")
        .annotate(count=Count("pk"), last=Max("started_at"))
        .order_by()
    )
    return {trial: Starts(count, last) for trial, count, last in rows}


def started_samples(trial: Trial) -> dict[UUID, datetime]:
    """When each sample came under its treatment, by sample id; those that wait are not in it."""
    return dict(Exposure.objects.filter(sample__trial=trial).values_list("sample_id", "started_at"))


def has_seen_key(trial: Trial, user: User) -> bool:
    """Whether ``user`` has looked at the key while it was sealed."""
    return trial.imported_by_id == user.pk or KeyLook.objects.filter(trial=trial, by=user).exists()


@dataclass(frozen=True)
class KeyKept:
    """How the key of a trial is kept: under covers after a shuffle by hand, and whether anybody has looked at it while it was sealed."""

    covered: bool
    looked: bool


def key_kept(trial: Trial) -> KeyKept:
    """How the key of ``trial`` is kept."""
    covered = Shuffle.objects.filter(pk=OuterRef("pk"), uncovered__isnull=True)
    looked = KeyLook.objects.filter(trial=OuterRef("pk"))
    return KeyKept(*Trial.objects.filter(pk=trial.pk).values_list(Exists(covered), Exists(looked)).get())


def key_looks(trial: Trial) -> list[KeyLook]:
    """Every look at the key, in order."""
    return list(KeyLook.objects.select_related("by").filter(trial=trial).order_by("at"))


def held_ticks(trial: Trial) -> dict[str, HeldTick]:
    """What was seen to be held equal, by the entry's key."""
    return {tick.entry: tick for tick in HeldTick.objects.select_related("by").filter(trial=trial)}


def cycles_by_trial(trials: Sequence[Trial]) -> dict[UUID, list[datetime]]:
    """When each trial's cycles were counted, in order."""
    found: dict[UUID, list[datetime]] = defaultdict(list)
    for trial, at in Cycle.objects.filter(trial__in=trials).order_by("at", "pk").values_list("trial_id", "at"):
        found[trial].append(at)
    return found


def cycles_of(trial: Trial) -> list[Cycle]:
    """The cycles of ``trial`` that were counted, in order."""
    return list(Cycle.objects.select_related("by").filter(trial=trial))


def tools_of(user: User) -> list[Tool]:
    """What ``user`` measures with: their own, and what hangs there for everybody."""
    return [tool_in(text) for text in dict.fromkeys(tools_within_reach(user).values_list("text", flat=True))]


def may_drop_tool(user: User, tool: MeasuringTool) -> bool:
    """Whether it is theirs to take off the list: their own, and for whoever administers the place what hangs there for everybody."""
    return tool.by_id == user.pk or (tool.shared and user.administers)


def tools_within_reach(user: User) -> QuerySet[MeasuringTool]:
    """Their own tools, and those for everybody."""
    return MeasuringTool.objects.filter(Q(by=user) | Q(shared=True))


def packs_of(trial: Trial) -> list[Pack]:
    """The packs in use, the newest row for each product and lot."""
    newest = {(pack.product, pack.lot): pack for pack in Pack.objects.filter(trial=trial).select_related("by")}
    return list(newest.values())


def mix_ticks(trial: Trial, version: int) -> dict[str, MixTick]:
    """The steps of the mix sheet that are done under ``version`` of the plan, by step."""
    return {tick.step: tick for tick in MixTick.objects.filter(trial=trial, version=version).select_related("by")}


def applications_of(trial: Trial) -> list[Application]:
    """Everything that was given, in order, as it stands after corrections."""
    return list(Application.objects.filter(trial=trial, superseded_by=None).select_related("by", "sample"))


def application_log(trial: Trial) -> list[Application]:
    """Everything that was noted as given, in order, what was corrected among it."""
    return list(Application.objects.filter(trial=trial).select_related("by", "sample", "superseded_by"))


def doses_off(trial: Trial) -> list[tuple[str, str]]:
    """Samples (code) that were given another amount than planned, and the sentence about each."""
    found = []
    for one in applications_of(trial):
        if one.planned and one.given is not None:
            off = off_plan(one.planned, one.given, one.unit)
            if off.matters:
                found.append((one.sample.code, off.says))
    return found


def given_by_version(trial: Trial) -> tuple[ByVersion, ...]:
    """Which samples were given which amount under which version of the plan, where more than one version was given under."""
    rows = [
        (one.version, told(one.given, one.unit), one.sample.code)
        for one in applications_of(trial)
        if one.given is not None
    ]
    return by_version(rows) if len({version for version, _, _ in rows}) > 1 else ()


def cycles_off(trial: Trial, plan: Plan) -> list[str]:
    """How settings of counted cycles differed from the plan, a sentence each."""
    found = []
    for number, cycle in enumerate(cycles_of(trial), start=1):
        for setting in plan.cycle_settings:
            off = setting_off(setting.planned, cycle.set_to.get(setting.key, ""), plan.system)
            if off:
                found.append(f"{plan.cycle_word.strip().capitalize()} {number}, {setting.what.strip()}: {off}")
    return found
