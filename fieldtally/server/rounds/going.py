"""A round as its scorer goes through it: which samples, in which order, under which codes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from fieldtally.core.design.given import given_names
from fieldtally.core.design.plan import Plan
from fieldtally.core.rounds.order import round_order
from fieldtally.server.log.models.deviation import DeviationKind
from fieldtally.server.log.queries import Deviations
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import checkpoints_of, samples_of
from fieldtally.server.rounds.asking import Asking
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
    name: str = ""
    """What it is called in the notebook, for whoever types in a look that was taken before the seal."""
    asked: frozenset[str] | None = None
    """The outcomes (keys) that are read on it; None: all."""


def presented(
    opened: Round, trial: Trial, plan: Plan, deviations: Deviations, started: Mapping[UUID, datetime]
) -> list[Presented]:
    """The samples of a round in its own order.  Those out of play are left out, those of which nothing is asked, and after the start those
    that still wait for theirs.

    A look that was taken before the seal comes as the notebook has it: by name, in the order of the places."""
    rows = checkpoints_of(trial)
    checkpoint = next(c for c in plan.checkpoints if rows[c.key] == opened.checkpoint_id)
    waits = trial.started_at is not None and not checkpoint.baseline
    aside = deviations.out_of_play
    asking = Asking.of(trial, plan)
    asked = None if asking is None else asking.at(checkpoint)

    def looked_at(sample: UUID) -> bool:
        return asked is None or sample in asked

    def of(sample: UUID) -> frozenset[str] | None:
        return None if asked is None else asked[sample]

    if plan.begun is not None and plan.noted_before(checkpoint.key):
        named = zip(samples_of(trial), given_names(plan, plan.begun), strict=True)
        return [
            Presented(s.pk, s.code, s.block, s.place, starts=started[s.pk], name=name, asked=of(s.pk))
            for s, name in named
            if s.pk in started
            and looked_at(s.pk)
            and not (s.pk in aside and aside[s.pk].kind == DeviationKind.SET_ASIDE)
        ]
    left = [s for s in samples_of(trial) if s.pk not in aside and looked_at(s.pk) and (s.pk in started or not waits)]
    samples = [
        (Presented(s.pk, s.code, s.block, s.place, starts=started.get(s.pk), asked=of(s.pk)), s.block) for s in left
    ]
    repeats = [
        one for one in repeats_at(trial, checkpoint, aside) if one.sample_id not in aside and looked_at(one.sample_id)
    ]
    brought = [Presented(one.pk, one.code, blind_repeat=True, asked=of(one.sample_id)) for one in repeats]
    return round_order(str(opened.pk), samples, brought)
