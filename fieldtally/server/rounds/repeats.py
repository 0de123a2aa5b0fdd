"""Blind repeats: some samples come back in the same round under a second code, so that a scorer's own consistency can be told."""

from __future__ import annotations

from uuid import UUID

from fieldtally.core.blinding.repeating import draw_repeats
from fieldtally.core.randomness import Draw
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.models import Checkpoint
from fieldtally.server.plan.records import plan_of, samples_of, sealed_document
from fieldtally.server.rounds.models import Repeat
from fieldtally.server.rounds.records import out_of_play


def repeats_of(trial: Trial) -> dict[UUID, Repeat]:
    """All second codes that were drawn in ``trial`` so far, by their ids."""
    return {row.pk: row for row in Repeat.objects.filter(trial=trial)} if plan_of(trial).repeats else {}


def repeats_at(trial: Trial, checkpoint: Checkpoint) -> list[Repeat]:
    """The second codes of a look, drawn when it is first asked for: from the sealed seed, so that nobody chose them."""
    plan = plan_of(trial)
    look = next((c for c in plan.checkpoints if c.key == checkpoint.key), None)
    if not plan.repeats or look is None or look.unplanned:
        return []
    found = list(Repeat.objects.filter(checkpoint=checkpoint).select_related("sample"))
    if found:
        return found
    aside = out_of_play(trial)
    samples = [sample for sample in samples_of(trial) if sample.pk not in aside]
    taken = {s.code for s in samples_of(trial)} | set(Repeat.objects.filter(trial=trial).values_list("code", flat=True))
    draw = Draw(str(sealed_document(trial)["seed"]), f"repeats/{checkpoint.key}")
    drawn = draw_repeats([sample.code for sample in samples], plan.repeats, taken, draw)
    by_code = {sample.code: sample for sample in samples}
    Repeat.objects.bulk_create(
        [Repeat(trial=trial, checkpoint=checkpoint, sample=by_code[old], code=new) for old, new in drawn.items()],
        ignore_conflicts=True,
    )
    return list(Repeat.objects.filter(checkpoint=checkpoint).select_related("sample"))
