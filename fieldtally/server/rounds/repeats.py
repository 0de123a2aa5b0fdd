"""Blind repeats: some samples come back in the same round under a second code, so that a scorer's own consistency can be told."""

from __future__ import annotations

from collections.abc import Collection
from uuid import UUID

from fieldtally.core.blinding.repeating import draw_repeats
from fieldtally.core.design.plan import Checkpoint
from fieldtally.core.randomness import Draw
from fieldtally.server.log.queries import out_of_play
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import checkpoints_of, plan_of, samples_of, sealed_document
from fieldtally.server.rounds.models import Repeat


def repeats_at(trial: Trial, checkpoint: Checkpoint, aside: Collection[UUID] | None = None) -> list[Repeat]:
    """The second codes of a look, drawn when it is first asked for: from the sealed seed, so that nobody chose them."""
    plan, row = plan_of(trial), checkpoints_of(trial).get(checkpoint.key)
    if not plan.repeats or row is None or checkpoint.unplanned:
        return []
    found = list(Repeat.objects.filter(checkpoint=row).select_related("sample"))
    if found:
        return found
    aside = out_of_play(trial) if aside is None else aside
    samples = [sample for sample in samples_of(trial) if sample.pk not in aside]
    taken = {s.code for s in samples_of(trial)} | set(Repeat.objects.filter(trial=trial).values_list("code", flat=True))
    draw = Draw(str(sealed_document(trial)["seed"]), f"repeats/{checkpoint.key}")
    drawn = draw_repeats([sample.code for sample in samples], plan.repeats, taken, draw)
    by_code = {sample.code: sample for sample in samples}
    Repeat.objects.bulk_create(
        [Repeat(trial=trial, checkpoint_id=row, sample=by_code[old], code=new) for old, new in drawn.items()],
        ignore_conflicts=True,
    )
    return list(Repeat.objects.filter(checkpoint=row).select_related("sample"))
