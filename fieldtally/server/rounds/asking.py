"""Which samples of a trial are asked for what, where not everything is asked of all (:mod:`fieldtally.core.design.asked`)."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from uuid import UUID

from fieldtally.core.design.asked import Spot, asked, asks_some, done_after, left_to_read, spots_of
from fieldtally.core.design.plan import Checkpoint, Plan
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import checkpoints_of, drawn_key, samples_of
from fieldtally.server.rounds.models import Reading, Taken
from fieldtally.server.rounds.models.reading import Kind


@dataclass(frozen=True)
class Asking:
    """The samples (ids) of a trial with what decides what is asked of them, and after which look, counted in time, some are done."""

    plan: Plan
    spots: Mapping[UUID, Spot]
    done: Mapping[UUID, int]

    @classmethod
    def of(cls, trial: Trial, plan: Plan) -> Asking | None:
        """Of a sealed ``trial``; None where all is asked of all."""
        if not asks_some(plan):
            return None
        # As it was drawn: kinds go by places, and a shuffle by hand leaves them there.
        key, samples = drawn_key(trial), samples_of(trial)
        spots = spots_of(plan, [(key[sample.pk], sample.block or None) for sample in samples])
        ending = [outcome.key for outcome in plan.outcomes if outcome.done is not None]
        read = Reading.objects.none()
        if ending:
            read = Reading.objects.current().filter(
                trial=trial, outcome__key__in=ending, kind=Kind.VALUE, value__isnull=False
            )
        rows = read.values_list("sample_id", "outcome__key", "checkpoint__key", "value")
        done = done_after(
            plan, ((sample, outcome, look, value) for sample, outcome, look, value in rows if value is not None)
        )
        return cls(plan, dict(zip((sample.pk for sample in samples), spots, strict=True)), done)

    def at(self, checkpoint: Checkpoint) -> dict[UUID, frozenset[str]]:
        """For each sample that is looked at at ``checkpoint`` the outcomes (keys) that are read on it."""
        return left_to_read(self.plan, checkpoint, self.spots, self.done)

    def foreseen(self, sample: UUID, outcome: str, checkpoint: str) -> bool:
        """Whether the plan has ``outcome`` (key) read on ``sample`` at ``checkpoint`` (key), done or not."""
        what = next(one for one in self.plan.outcomes if one.key == outcome)
        when = next(one for one in self.plan.checkpoints if one.key == checkpoint)
        return sample not in self.spots or asked(self.plan, what, when, self.spots[sample])


def taken_by_sample(trial: Trial) -> dict[str, dict[UUID, int]]:
    """For each look (key) how many outcomes each sample has read."""
    looks = {pk: key for key, pk in checkpoints_of(trial).items()}
    found: dict[str, dict[UUID, int]] = defaultdict(dict)
    for look, sample, outcomes in Taken.objects.filter(trial=trial).values_list(
        "checkpoint_id", "sample_id", "outcomes"
    ):
        found[looks[look]][sample] = outcomes
    return found
