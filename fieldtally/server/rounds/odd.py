"""Odd values pointed out at entry: against the sample's own past and its peers, whatever these were given."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from uuid import UUID

from fieldtally.core.compare.odd import FEWEST_PEERS, Odd, odd_value
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.quantities.numbers import honest
from fieldtally.core.scales import CountScale, CurveScale, MeasurementScale, PercentScale, Scale, unit_of
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.records import plan_of
from fieldtally.server.rounds.acts import Written
from fieldtally.server.rounds.models import Reading
from fieldtally.server.rounds.models.reading import Kind
from fieldtally.server.rounds.records import current_readings

Values = dict[str, dict[str, dict[str, float]]]
"""For an outcome and a look (keys), the newest value of each sample (id as text)."""


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


def odd_among(trial: Trial, written: Sequence[Written]) -> dict[UUID, str]:
    """The readings (ids) of ``written`` that are odd, each with a sentence that tells nothing of treatments."""
    plan = plan_of(trial)
    outcomes = {o.key: o for o in plan.outcomes if smallest_of(o.scale) is not None}
    fresh = [one for one in written if one.kind == Kind.VALUE and one.outcome in outcomes and one.take == 1]
    if not fresh:
        return {}
    rows = (
        Reading.objects.newest()
        .filter(pk__in=[one.id for one in fresh], repeat=None)
        .select_related("checkpoint", "outcome", "sample")
    )
    reads = [row for row in rows if row.value is not None]
    values = _values(trial, plan, {row.checkpoint.key for row in reads}, {row.outcome.key for row in reads})
    blocks = dict(Sample.objects.filter(trial=trial).values_list("pk", "block"))
    found = {}
    for row in reads:
        outcome = outcomes[row.outcome.key]
        now = values[outcome.key][row.checkpoint.key]
        peers = {key: value for key, value in now.items() if blocks[UUID(key)] == row.sample.block}
        if len(peers) <= FEWEST_PEERS:
            peers = now
        before = _before(plan, outcome, row.checkpoint.key, values)
        series = [] if len(peers) > FEWEST_PEERS else _series(trial, plan, row)
        odd = odd_value(str(row.sample_id), row.value, peers, before, smallest_of(outcome.scale) or 0.0, series)
        if odd is not None:
            found[row.pk] = _says(row, outcome, odd)
    return found


def _values(trial: Trial, plan: Plan, looks: set[str], outcomes: set[str]) -> Values:
    """The values at these looks and the one before each."""
    order = [c.key for c in plan.in_time]
    wanted = {order[max(0, order.index(look) - 1)] for look in looks if look in order} | looks
    rows = current_readings(trial).filter(
        value__isnull=False, checkpoint__key__in=wanted, outcome__key__in=outcomes, repeat=None
    )
    found: Values = defaultdict(lambda: defaultdict(dict))
    fields = ("outcome__key", "checkpoint__key", "sample_id", "value")
    for outcome, look, sample, value in rows.order_by("take", "stored_at").values_list(*fields):
        found[outcome][look][str(sample)] = value
    return found


def _series(trial: Trial, plan: Plan, row: Reading) -> list[float]:
    """The values of the sample's own looks before this one, in order of time."""
    order = [c.key for c in plan.in_time]
    if row.checkpoint.key not in order:
        return []
    earlier = order[: order.index(row.checkpoint.key)]
    rows = current_readings(trial).filter(
        value__isnull=False, sample=row.sample_id, outcome=row.outcome_id, checkpoint__key__in=earlier, repeat=None
    )
    newest = dict(rows.order_by("take", "stored_at").values_list("checkpoint__key", "value"))
    return [newest[look] for look in earlier if look in newest]


def _before(plan: Plan, outcome: Outcome, look: str, values: Values) -> dict[str, float]:
    """The values of all samples at the look before, where that outcome was looked at then."""
    order = [c.key for c in plan.in_time]
    at = order.index(look) if look in order else 0
    return values[outcome.key][order[at - 1]] if at else {}


def _says(row: Reading, outcome: Outcome, odd: Odd) -> str:
    unit = unit_of(outcome.scale)
    value = f"{honest(row.value, 4)} {unit}".strip()
    if odd.against == "past":
        return f"{value} is a much {'larger' if odd.high else 'smaller'} step from the look before than others took."
    if odd.against == "series":
        return f"{value} lies far {'above' if odd.high else 'below'} what this sample read before."
    # What others read is not told: a number would tell one scorer what another gave.
    return f"{value} lies far {'above' if odd.high else 'below'} the others."
