"""Odd values pointed out at entry: against the sample's own past and its peers, whatever these were given."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from uuid import UUID

from django.db import connection

from fieldtally.core.compare.odd import FEWEST_PEERS, SERIES_FROM, Odd, odd_value, one_cluster, steps_of_others
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.quantities.numbers import honest
from fieldtally.core.scales import CountScale, CurveScale, MeasurementScale, PercentScale, Scale, unit_of
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import checkpoints_of, outcomes_of, plan_of
from fieldtally.server.rounds.models import Reading
from fieldtally.server.rounds.models.reading import Kind

MOST_PEERS = 200
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
    peers = _peers({(row.outcome_id, row.checkpoint_id) for row, _ in reads}, _before(trial, plan))
    held: dict[UUID, tuple[dict[str, float], dict[str, float]]] = {}
    for row, _ in reads:
        every = peers.get((row.outcome_id, row.checkpoint_id), {})
        block = {key: one.value for key, one in every.items() if one.block == row.sample.block}
        now = block if len(block) > FEWEST_PEERS else {key: one.value for key, one in every.items()}
        held[row.pk] = now, {key: one.past for key, one in every.items() if one.past is not None}
    with_past = _with_series(trial, plan)
    lonely = [
        row
        for row, value in reads
        if row.checkpoint_id in with_past and not _steps_tell(str(row.sample_id), value, *held[row.pk])
    ]
    series = _series(trial, plan, lonely) if lonely else {}
    found = {}
    for row, value in reads:
        outcome = outcomes[row.outcome_id]
        smallest = smallest_of(outcome.scale) or 0.0
        odd = odd_value(str(row.sample_id), value, *held[row.pk], smallest, series.get(row.pk, ()))
        if odd is not None:
            found[row.pk] = _says(value, outcome, odd)
    return found


def _with_series(trial: Trial, plan: Plan) -> set[int]:
    """The checkpoints (row ids) before which there are looks enough for a series."""
    rows = checkpoints_of(trial)
    return set([rows[c.key] for c in plan.in_time if c.key in rows][SERIES_FROM:])


def _steps_tell(sample: str, value: float, now: Mapping[str, float], before: Mapping[str, float]) -> bool:
    """Whether enough others took one usual step, so that the sample's own series is not asked."""
    steps = steps_of_others(sample, now, before)
    return sample in before and len(steps) >= FEWEST_PEERS and one_cluster([*steps, value - before[sample]])


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
    SELECT asked.outcome, asked.checkpoint, r.sample_id, r.value, r.block, past.value
    FROM unnest(%s::bigint[], %s::bigint[], %s::bigint[]) AS asked (outcome, checkpoint, before)
    CROSS JOIN LATERAL (
      SELECT r.sample_id, r.value, s.block, r.take, r.stored_at
      FROM rounds_reading r JOIN plan_sample s ON s.id = r.sample_id
      WHERE r.checkpoint_id = asked.checkpoint AND r.outcome_id = asked.outcome
        AND r.kind = 'value' AND r.value IS NOT NULL AND r.repeat_id IS NULL
        AND NOT EXISTS (SELECT 1 FROM rounds_reading newer WHERE newer.supersedes_id = r.id)
      ORDER BY r.stored_at DESC LIMIT %s
    ) AS r
    LEFT JOIN LATERAL (
      SELECT p.value FROM rounds_reading p
      WHERE p.sample_id = r.sample_id AND p.checkpoint_id = asked.before AND p.outcome_id = asked.outcome
        AND p.kind = 'value' AND p.value IS NOT NULL AND p.repeat_id IS NULL
        AND NOT EXISTS (SELECT 1 FROM rounds_reading newer WHERE newer.supersedes_id = p.id)
      ORDER BY p.take DESC, p.stored_at DESC LIMIT 1
    ) AS past ON true
    ORDER BY r.take, r.stored_at
"""


@dataclass(frozen=True)
class _Peer:
    """What a sample reads now, where it stands, and what it read at the checkpoint before (None: nothing)."""

    value: float
    block: str
    past: float | None


def _peers(asked: set[Where], before: Mapping[int, int]) -> dict[Where, dict[str, _Peer]]:
    """The newest values at each of ``asked``, by sample (id as text).  Of very many samples as many as tell what is usual."""
    found: dict[Where, dict[str, _Peer]] = {}
    places = sorted(asked)
    with connection.cursor() as cursor:
        earlier = [before.get(at) for _, at in places]
        cursor.execute(NEWEST_PEERS, [[one for one, _ in places], [at for _, at in places], earlier, MOST_PEERS])
        for outcome, checkpoint, sample, value, block, past in cursor.fetchall():
            found.setdefault((outcome, checkpoint), {})[str(sample)] = _Peer(value, block, past)
    return found


def _series(trial: Trial, plan: Plan, rows: Sequence[Reading]) -> dict[UUID, list[float]]:
    """For each of ``rows`` (by id) the values of its sample's own looks before it, in order of time; asked once for all."""
    checkpoints = checkpoints_of(trial)
    order = {checkpoints[c.key]: i for i, c in enumerate(plan.in_time) if c.key in checkpoints}
    read = Reading.objects.current().filter(
        value__isnull=False,
        sample__in={row.sample_id for row in rows},
        outcome__in={row.outcome_id for row in rows},
        repeat=None,
    )
    newest: dict[tuple[UUID, int], dict[int, float]] = defaultdict(dict)
    for sample, outcome, at, value in read.order_by("take", "stored_at").values_list(
        "sample_id", "outcome_id", "checkpoint_id", "value"
    ):
        if value is not None:
            newest[sample, outcome][at] = value
    return {
        row.pk: [
            value
            for at, value in sorted(
                newest[row.sample_id, row.outcome_id].items(), key=lambda one: order.get(one[0], -1)
            )
            if order.get(at, len(order)) < order.get(row.checkpoint_id, -1)
        ]
        for row in rows
    }


def _says(read: float, outcome: Outcome, odd: Odd) -> str:
    unit = unit_of(outcome.scale)
    value = f"{honest(read, 4)} {unit}".strip()
    if odd.against == "past":
        return f"{value} is a much {'larger' if odd.high else 'smaller'} step from the look before than others took."
    if odd.against == "series":
        return f"{value} lies far {'above' if odd.high else 'below'} what this sample read before."
    # What others read is not told: a number would tell one scorer what another gave.
    return f"{value} lies far {'above' if odd.high else 'below'} the others."
