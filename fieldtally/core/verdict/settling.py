"""What would settle it: changes to the next trial that would probably turn an open verdict into an answer, with what they cost."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from fieldtally.core.compare.places import Where
from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.dosing.costs import whole_cost
from fieldtally.core.outlook.advice import with_samples
from fieldtally.core.outlook.smallest import hardest_pair
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.scales import GradeScale, LadderScale, PassFailScale, PercentScale, ShadeScale
from fieldtally.core.schedule.naming import called
from fieldtally.core.verdict.conclude import Finding
from fieldtally.core.verdict.strength import ranked
from fieldtally.core.verdict.telling.names import lowered

SettleKind = Literal["places", "samples", "control", "longer", "blocks", "finer", "stronger"]
CROWDED = 0.6
"""From this share of samples at one end of the scale on, the scale cannot tell them apart."""
MOST = 200


@dataclass(frozen=True)
class Settle:
    """One change: what to do (``says``), the ``samples`` of each treatment to plan with (None: as now), how many samples the next trial
    then takes in all, and its ``cost`` in the plan's money (None where no cost is known)."""

    kind: SettleKind
    says: str
    samples: int | None
    total: int
    cost: float | None


def what_would_settle(
    plan: Plan, finding: Finding, looks: Sequence[Finding] = (), where: Sequence[Where] = ()
) -> tuple[Settle, ...]:
    """Changes that would help ``finding``, the summary of an outcome, most telling first.

    ``looks`` are its checkpoints in order of time, ``where`` who wins where.

    Nothing where it is settled already: clear, as good as equal, or told without a winner.
    """
    if finding.strength.level in ("clear", "equal", "undirected"):
        return ()
    if finding.strength.level == "depends":
        return _asked_apart(plan, finding)
    # The next trial is planned from what was drawn at first; what was added later had numbers of its own.
    plan = plan.first_drawn
    outcome = next(o for o in plan.outcomes if o.key == finding.outcome)
    apart = [one for one in where if one.changes and one.p is not None and one.p <= plan.alpha]
    found = [*(_places(plan, apart[0]) if apart else _samples(plan, finding)), *_control(plan), *_blocks(plan)]
    found += [*_longer(plan, outcome, looks), *_finer(plan, outcome, finding)]
    return tuple(found)


def _asked_apart(plan: Plan, finding: Finding) -> tuple[Settle, ...]:
    """Where it depends it is settled, apart from places (levels) where nobody won for sure."""
    open_ = [one.place for one in finding.strength.where if one.winner is None]
    if not open_:
        return ()
    says = f"A fresh trial in {', '.join(open_)} alone: there nobody won for sure"
    return (Settle("places", says, None, plan.sample_count, whole_cost(plan)),)


def _places(plan: Plan, where: Where) -> list[Settle]:
    """Where each place has a winner of its own, more of the same would name none."""
    says = (
        f"Ask it {where.by} by {where.by}: who wins differs by more than chance does, so more samples of all together would "
        "name no single winner"
    )
    return [Settle("places", says, None, plan.sample_count, whole_cost(plan))]


def _unit(plan: Plan) -> int:
    return len(plan.treatments) if plan.layout.kind == "latin" else 1


def _samples(plan: Plan, finding: Finding) -> list[Settle]:
    """So many of each: what the difference seen would need, and at least what lets the layout tell anything at all."""
    needed = finding.strength.settle
    if needed is None and hardest_pair(plan)[2] <= plan.level:
        # The layout could tell; what was seen is too small for any number that anyone would plan.
        return []
    split = plan.layout.kind == "split"
    # ``settle`` counts samples of each treatment in all; the plan counts them in each block or whole plot.
    each = plan.block_count * (min(t.samples for t in plan.treatments) if split else 1)
    now = plan.layout.whole_plots if split else min(t.samples for t in plan.treatments)
    step = _unit(plan)
    wanted = max(now, -(-(needed or 1) // max(1, each)))
    wanted = -(-wanted // step) * step
    while wanted < MOST and hardest_pair(with_samples(plan, wanted))[2] > plan.level:
        wanted += step
    if wanted <= now:
        return []
    larger = with_samples(plan, wanted)
    what = (
        f"{noun(plan.layout.plot_word).many} of each level"
        if split
        else "pairs"
        if plan.layout.kind == "pairs"
        else "of each"
    )
    where = f" in each of {plan.block_count} blocks" if plan.layout.in_blocks else ""
    why = (
        "if the difference is as large as it looked"
        if needed is not None and wanted * each >= needed
        else "the fewest that can tell anything at this level"
    )
    if needed is None:
        why = "the fewest that can tell anything at this level"
    return [
        Settle(
            "samples",
            f"A fresh trial with {wanted} {what}{where}: {why}",
            wanted,
            larger.sample_count,
            whole_cost(larger),
        )
    ]


def _control(plan: Plan) -> list[Settle]:
    if plan.control is not None:
        return []
    each = min(t.samples for t in plan.treatments)
    total = plan.sample_count + each * (plan.block_count if plan.layout.in_blocks else 1)
    return [Settle("control", "A control beside them: untreated, or what is done today", None, total, None)]


def _blocks(plan: Plan) -> list[Settle]:
    # Two places take two samples of each, one for each place at least.
    if plan.layout.kind != "random" or any(t.samples < 2 or t.samples % 2 for t in plan.treatments):
        return []
    says = "As many samples again, half of each in each of two places or batches as blocks: these then do not blur the difference"
    return [Settle("blocks", says, None, plan.sample_count, whole_cost(plan))]


def _longer(plan: Plan, outcome: Outcome, looks: Sequence[Finding]) -> list[Settle]:
    """A longer exposure, where the leader's lead over the last of them still grew at the end."""
    looked_at = {checkpoint.key: checkpoint for checkpoint in plan.looked_at(outcome)}
    # Parts of one look are no time: the last of them stands for it.
    moments = {(c.offset, c.cycle): look for look in looks if (c := looked_at.get(look.checkpoint or "")) is not None}
    leads = []
    for look in [*moments.values()][-3:]:
        order = ranked(look.comparison)
        if len(order) < 2 or order[0].estimate is None or order[-1].estimate is None:
            return []
        leads.append((order[0].treatment, abs(order[0].estimate - order[-1].estimate)))
    if len(leads) < 2 or any(b[1] <= a[1] for a, b in itertools.pairwise(leads)):
        return []
    last = next(look for look in reversed(looks) if look.checkpoint in looked_at)
    says = f"Watched longer: the gap still grew up to {lowered(called(looked_at[last.checkpoint or '']))}"
    return [Settle("longer", says, None, plan.sample_count, whole_cost(plan))]


def _finer(plan: Plan, outcome: Outcome, finding: Finding) -> list[Settle]:
    """A finer scale, or a stronger test, where most samples stand at one end of it."""
    numbers = [one for one in finding.numbers if one is not None]
    if not numbers:
        return []
    commonest = max(numbers.count(one) for one in set(numbers)) / len(numbers)
    if commonest < CROWDED:
        return []
    now = (None, plan.sample_count, whole_cost(plan))
    match outcome.scale:
        case GradeScale() | ShadeScale():
            return [Settle("finer", "Half steps on the scale: most samples got the same one", *now)]
        case PassFailScale():
            return [Settle("finer", "A grade or a measurement instead of pass or fail: most samples fared alike", *now)]
        case LadderScale() | PercentScale():
            return [Settle("stronger", "A harder test: most samples stand at the same end of the scale", *now)]
        case _:
            return []
