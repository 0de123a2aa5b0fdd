"""Odd values pointed out at entry: against the sample's own past and its peers, whatever these were given."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from itertools import pairwise
from uuid import UUID

from django.db import connection

from fieldtally.core.compare.odd import FEWEST_PEERS, Odd, odd_value
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.quantities.numbers import honest
from fieldtally.core.scales import CountScale, CurveScale, MeasurementScale, PercentScale, Scale, unit_of
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import checkpoints_of, outcomes_of, plan_of
from fieldtally.server.rounds.models import Reading
from fieldtally.server.rounds.models.reading import Kind

MOST_PEERS = 600
"""So many of the newest readings of a look tell what is usual there."""


def smallest_of(scale: Scale) -> float | None:
    """The least deviation between samples that counts on ``scale``, half of what it tells apart; None where values are not numbers that
    can be odd."""
    match scale:
        case MeasurementScale(resolution=resolution):
            return (resolution or 0.0) / 2
        case PercentScale(resolution=resolution):
            return max(resolution or 0.0, 1.0) / 2
        case CountScale():
            return 0.5
        case CurveScale():
            return 0.0
        case _:
            return None


def odd_among(trial: Trial, kept: Sequence[Reading]) -> dict[UUID, str]:
    """The readings (ids) of ``kept`` that are odd, each with a sentence that tells nothing of treatments."""
    plan = plan_of(trial)
    outcomes = {pk: plan_outcome for plan_outcome, pk in _numbers(trial, plan)}
    reads = [
        (row, row.value)
        for row in kept
        if row.kind == Kind.VALUE and row.outcome_id in outcomes and row.take == 1 and row.repeat_id is None
        if row.value is not None
    ]
    if not reads:
        return {}
    before = _before(trial, plan)
    peers = _peers({(row.outcome_id, row.checkpoint_id) for row, _ in reads})
    own = {row.sample_id for row, _ in reads}
    past = _past(peers, before, own)
    found = {}
    for row, value in reads:
        outcome, at = outcomes[row.outcome_id], (row.outcome_id, row.checkpoint_id)
        every = peers.get(at, {})
        block = {key: one for key, (one, where) in every.items() if where == row.sample.block}
        now = block if len(block) > FEWEST_PEERS else {key: one for key, (one, _) in every.items()}
        earlier = past.get((row.outcome_id, before.get(row.checkpoint_id, 0)), {})
        series = [] if len(now) > FEWEST_PEERS else _series(trial, plan, row)
        odd = odd_value(str(row.sample_id), value, now, earlier, smallest_of(outcome.scale) or 0.0, series)
        if odd is not None:
            found[row.pk] = _says(value, outcome, odd)
    return found


def _numbers(trial: Trial, plan: Plan) -> list[tuple[Outcome, int]]:
    """The outcomes whose values are numbers that can be odd, with their row ids."""
    rows = outcomes_of(trial)
    return [(o, rows[o.key]) for o in plan.outcomes if o.key in rows and smallest_of(o.scale) is not None]


def _before(trial: Trial, plan: Plan) -> dict[int, int]:
    """The checkpoint (row id) before each."""
    rows = checkpoints_of(trial)
    order = [rows[c.key] for c in plan.in_time if c.key in rows]
    return {later: earlier for earlier, later in pairwise(order)}


Where = tuple[int, int]
"""An outcome at a checkpoint (row ids)."""
NEWEST_PEERS = """
    SELECT asked.outcome, asked.checkpoint, r.sample_id, r.value, r.block
    FROM unnest(%s::bigint[], %s::bigint[]) AS asked (outcome, checkpoint)
    CROSS JOIN LATERAL (
      SELECT r.sample_id, r.value, s.block, r.take, r.stored_at
      FROM rounds_reading r JOIN plan_sample s ON s.id = r.sample_id
      WHERE r.checkpoint_id = asked.checkpoint AND r.outcome_id = asked.outcome
        AND r.kind = 'value' AND r.value IS NOT NULL AND r.repeat_id IS NULL
        AND NOT EXISTS (SELECT 1 FROM rounds_reading newer WHERE newer.supersedes_id = r.id)
      ORDER BY r.stored_at DESC LIMIT %s
    ) AS r
    ORDER BY r.take, r.stored_at
"""


def _peers(asked: set[tuple[int, int]]) -> dict[Where, dict[str, tuple[float, str]]]:
    """The newest values at each of ``asked`` (row ids of outcome and checkpoint): value and block by sample (id as text).  Of very many
    samples as many as tell what is usual."""
    found: dict[Where, dict[str, tuple[float, str]]] = {}
    with connection.cursor() as cursor:
        cursor.execute(NEWEST_PEERS, [[one for one, _ in asked], [at for _, at in asked], MOST_PEERS])
        for outcome, checkpoint, sample, value, block in cursor.fetchall():
            found.setdefault((outcome, checkpoint), {})[str(sample)] = (value, block)
    return found


def _past(
    peers: Mapping[Where, Mapping[str, tuple[float, str]]], before: Mapping[int, int], own: Iterable[UUID]
) -> dict[Where, dict[str, float]]:
    """What the same samples read at the checkpoint before, where that outcome was looked at then."""
    asked = {(outcome, before[at]) for outcome, at in peers if at in before}
    if not asked:
        return {}
    samples = {UUID(sample) for every in peers.values() for sample in every} | set(own)
    rows = (
        Reading.objects.current()
        .filter(value__isnull=False, repeat=None, sample__in=samples)
        .filter(outcome__in={outcome for outcome, _ in asked}, checkpoint__in={at for _, at in asked})
        .order_by("take", "stored_at")
    )
    found: dict[Where, dict[str, float]] = {}
    for outcome, checkpoint, sample, value in rows.values_list("outcome_id", "checkpoint_id", "sample_id", "value"):
        if value is not None:
            found.setdefault((outcome, checkpoint), {})[str(sample)] = value
    return found


def _series(trial: Trial, plan: Plan, row: Reading) -> list[float]:
    """The values of the sample's own looks before this one, in order of time."""
    rows = checkpoints_of(trial)
    order = [rows[c.key] for c in plan.in_time if c.key in rows]
    if row.checkpoint_id not in order:
        return []
    earlier = order[: order.index(row.checkpoint_id)]
    read = Reading.objects.current().filter(
        value__isnull=False, sample=row.sample_id, outcome=row.outcome_id, checkpoint__in=earlier, repeat=None
    )
    newest = dict(read.order_by("take", "stored_at").values_list("checkpoint_id", "value"))
    values = [newest.get(look) for look in earlier]
    return [value for value in values if value is not None]


def _says(read: float, outcome: Outcome, odd: Odd) -> str:
    unit = unit_of(outcome.scale)
    value = f"{honest(read, 4)} {unit}".strip()
    if odd.against == "past":
        return f"{value} is a much {'larger' if odd.high else 'smaller'} step from the look before than others took."
    if odd.against == "series":
        return f"{value} lies far {'above' if odd.high else 'below'} what this sample read before."
    # What others read is not told: a number would tell one scorer what another gave.
    return f"{value} lies far {'above' if odd.high else 'below'} the others."
