"""A round as its scorer goes through it: which samples, in which order, under which codes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from fieldtally.core.design.plan import Plan
from fieldtally.core.rounds.order import round_order
from fieldtally.server.log.queries import Deviations
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import checkpoints_of, samples_of
from fieldtally.server.rounds.models import Round
from fieldtally.server.rounds.repeats import repeats_at


@dataclass(frozen=True)
class Presented:
    """A sample as it comes before a scorer: by its id and code, in its block and place; or as a ``blind_repeat``, known by an id that leads
    to no sample.  ``starts``: when its clock began."""

    pk: UUID
    code: str
    block: str = ""
    place: int = 0
    blind_repeat: bool = False
    starts: datetime | None = None


def presented(
    opened: Round, trial: Trial, plan: Plan, deviations: Deviations, started: Mapping[UUID, datetime]
) -> list[Presented]:
    """The samples of a round in its own order.  Those out of play are left out, and after the start those that still wait for theirs."""
    rows = checkpoints_of(trial)
    checkpoint = next(c for c in plan.checkpoints if rows[c.key] == opened.checkpoint_id)
    waits = trial.started_at is not None and not checkpoint.baseline
    aside = deviations.out_of_play
    left = [s for s in samples_of(trial) if s.pk not in aside and (s.pk in started or not waits)]
    samples = [(Presented(s.pk, s.code, s.block, s.place, starts=started.get(s.pk)), s.block) for s in left]
    repeats = [one for one in repeats_at(trial, checkpoint, aside) if one.sample_id not in aside]
    return round_order(str(opened.pk), samples, [Presented(one.pk, one.code, blind_repeat=True) for one in repeats])
