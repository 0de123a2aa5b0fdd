"""What a person has to look at, across all their trials: due, late and coming, with how long it takes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.scales import CountScale, CurveScale, LadderScale, MeasurementScale, PercentScale, ShadeScale
from fieldtally.core.schedule.pace import minutes_for, pace_of
from fieldtally.core.schedule.standing import Standing
from fieldtally.server.people.models import Trial, User
from fieldtally.server.people.queries import memberships_of
from fieldtally.server.people.sight import Sight, blacked_out, earlier_names
from fieldtally.server.plan.queries import plans_of
from fieldtally.server.rounds.models import Reading
from fieldtally.server.rounds.queries import CheckpointProgress, Counted
from fieldtally.server.rounds.spoken import spoken_outcome

AHEAD = timedelta(days=8)
LEARNED_FROM = 2_000
"""Readings: the newest of them teach how long a round takes."""


@dataclass(frozen=True)
class Entry:
    """One look of one trial as a person has it before them; ``learned``: the minutes come from their own rounds."""

    trial: UUID
    title: str
    zone: str
    look: str
    name: str
    standing: Standing
    opens: datetime | None
    due: datetime | None
    closes: datetime | None
    lost: datetime | None
    samples: int
    samples_left: int
    sample_word: str
    sample_words: str
    outcomes: tuple[str, ...]
    places: tuple[str, ...]
    bring: tuple[str, ...]
    minutes: int
    learned: bool


def agenda_of(user: User, now: datetime, *, for_all_eyes: bool = False) -> list[Entry]:
    """The looks that ``user`` may score: those due or late, and those that open within eight days, in order of time.

    ``for_all_eyes``: in words that name no treatment, whoever reads them.
    """
    scoring = [
        m
        for m in memberships_of(user)
        if not m.trial.opened_at and m.trial.sealed_at and Sight(m.trial, m).may("score")
    ]
    trials = [m.trial for m in scoring]
    plans = plans_of(trials)
    counted = Counted.of(trials)
    paces = _paces(user, trials)
    found = [
        _entry(Sight(m.trial, m), plans[m.trial_id], look, paces, for_all_eyes)
        for m in scoring
        for look in counted.progress(m.trial, plans[m.trial_id], now)
        if look.samples and _near(look, now)
    ]
    order = {"due": 0, "late": 0}
    return sorted(found, key=lambda e: (order.get(e.standing, 1), e.due or now))


def _near(look: CheckpointProgress, now: datetime) -> bool:
    if look.standing in ("due", "late"):
        return True
    return look.standing == "upcoming" and look.times is not None and look.times.opens <= now + AHEAD


def _paces(user: User, trials: Sequence[Trial]) -> dict[UUID | None, float | None]:
    """Seconds a reading takes this person, by trial; None: over all trials."""
    rounds: dict[UUID, dict[UUID, list[datetime]]] = defaultdict(lambda: defaultdict(list))
    rows = Reading.objects.filter(scorer=user, trial__in=trials, supersedes=None, source="typed").order_by("-stored_at")
    for trial, round_, at in rows.values_list("trial_id", "round_id", "taken_at")[:LEARNED_FROM]:
        rounds[trial][round_].append(at)
    paces: dict[UUID | None, float | None] = {trial: pace_of(own.values()) for trial, own in rounds.items()}
    paces[None] = pace_of([moments for own in rounds.values() for moments in own.values()])
    return paces


def _entry(
    seen: Sight, plan: Plan, look: CheckpointProgress, paces: dict[UUID | None, float | None], for_all_eyes: bool
) -> Entry:
    names = plan.telling_names
    checkpoint = next(c for c in plan.checkpoints if c.key == look.key)
    outcomes = [spoken_outcome(seen, o, names) for o in plan.outcomes if checkpoint in plan.looked_at(o)]

    def say(text: str) -> str:
        return blacked_out(text, [*names, *earlier_names(seen.trial)]) if for_all_eyes else seen.spoken(text, names)

    sample = noun(say(plan.sample_word), say(plan.sample_words))
    pace = paces.get(seen.trial.pk) or paces[None]
    times = look.times
    return Entry(
        trial=seen.trial.pk,
        title=say(seen.trial.title),
        zone=plan.zone,
        look=look.key,
        name=say(f"{checkpoint.name}, {checkpoint.stage}" if checkpoint.stage.strip() else checkpoint.name),
        standing=look.standing,
        opens=times.opens if times else None,
        due=times.due if times else None,
        closes=times.closes if times else None,
        lost=times.lost if times else None,
        samples=look.samples,
        samples_left=look.samples - look.samples_done,
        sample_word=sample.one,
        sample_words=sample.many,
        outcomes=tuple(say(o.name) for o in outcomes),
        places=tuple(say(b.name) for b in plan.layout.blocks) if plan.layout.in_blocks else (),
        bring=tuple(dict.fromkeys(say(one) for o in outcomes for one in _bring(o))),
        minutes=minutes_for(look.expected - look.done, pace),
        learned=pace is not None,
    )


def _tool(unit: str) -> str:
    """What a measurement in ``unit`` takes: a colour has no instrument that is named by its unit."""
    plain = unit.strip()
    if plain.casefold().startswith(("δe", "∆e", "delta e", "de2000", "l*", "a*", "b*")):
        return "a colour meter, or a camera and the colour card"
    return f"something that measures in {plain}"


def _bring(outcome: Outcome) -> tuple[str, ...]:
    """What is needed to read an outcome."""
    match outcome.scale:
        case MeasurementScale(unit=unit):
            found = (_tool(unit),) if unit.strip() else ()
        case LadderScale(unit=unit, steps=steps):
            found = (f"loads up to {steps[-1]:g} {unit}",) if steps else ()
        case CurveScale(unit=unit, step_unit=step_unit):
            found = (f"loads in {step_unit}, and something that measures {unit}",)
        case ShadeScale():
            found = (f"the shade chart for {outcome.name}",)
        case PercentScale() | CountScale():
            found = ()
        case _:
            found = ()
    return (*found, "a watch") if outcome.wait else found
