"""Whether the planner tells what the verdict will say: thirty plans over all scales and layouts, with one to three primary outcomes.

For each primary outcome the share of trials in which the best one is named, by the planner's quick tests and, over other plays, by the
verdict's own code one by one; they may lie 4 points apart.  ``python -m benchmarks.planner`` plays 2,000 of each.
"""

from __future__ import annotations

import sys
import time
from dataclasses import dataclass, replace

import numpy as np

from fieldtally.core.compare.columns import Column, Comparison, compare_columns, compared_as
from fieldtally.core.compare.events import Spans
from fieldtally.core.design.plan import Block, Checkpoint, Factor, FactorLevel, Layout, Outcome, Plan, Treatment
from fieldtally.core.kinds import Kind
from fieldtally.core.outlook.outlook import expectation
from fieldtally.core.outlook.simulate import Design, Truth, best_of, drawn, play_each
from fieldtally.core.scales import (
    CountScale,
    EventScale,
    GradeScale,
    LadderScale,
    Level,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    Shade,
    ShadeScale,
)
from fieldtally.core.verdict.strength import judge, leader_p

PLAYS, POINTS, DRAWS = 2_000, 4.0, 2_000
LOOKS = tuple(Checkpoint(f"d{day}", f"Day {day}", day * 1440) for day in (2, 4, 6, 8, 10))
LADDER = LadderScale("kg", (5.0, 10.0, 15.0, 20.0, 25.0))
FIRM = {
    "grade": Outcome("grade", "State", GradeScale(tuple(Level(n, str(n)) for n in range(6))), expected=1.9, spread=0.9),
    "length": Outcome("length", "Length", MeasurementScale("mm"), expected=2.4, spread=1.0),
    "volume": Outcome("volume", "Volume", MeasurementScale("mL", 1.0), expected=9.0, spread=6.0, margin=2.0),
    "share": Outcome("share", "Cover", PercentScale(), expected=18.0, spread=10.0, margin=5.0),
    "count": Outcome("count", "Sprouted", CountScale(20), expected=3.5, spread=2.0),
    "open": Outcome("open", "Flowers", CountScale(), expected=6.0, spread=4.0),
    "passed": Outcome("passed", "Stands", PassFailScale(), expected=0.8),
    "event": Outcome("event", "Wilted", EventScale("wilted"), expected=0.8),
    "ladder": Outcome("ladder", "Load", LADDER, expected=8.0, spread=4.0),
    "shade": Outcome(
        "shade",
        "Shade",
        ShadeScale(tuple(Shade(name) for name in ("white", "cream", "straw", "tan", "brown"))),
        expected=1.8,
        spread=0.8,
    ),
}


@dataclass(frozen=True)
class Case:
    """A plan, told in short."""

    name: str
    plan: Plan


def _plan(treatments: int, samples: int, layout: Layout, *outcomes: str) -> Plan:
    bed = Factor("bed", "Bed", (FactorLevel("x", "X"), FactorLevel("y", "Y")), hard=True)
    split = layout.kind == "split"
    made = tuple(
        Treatment(str(t), f"T{t}", samples=samples, levels={"bed": "xy"[t % 2]} if split else {})
        for t in range(treatments)
    )
    primaries = tuple(replace(FIRM[key], primary=True) for key in outcomes)
    return Plan(
        "x", factors=(bed,) if split else (), treatments=made, layout=layout, outcomes=primaries, checkpoints=LOOKS
    )


def cases() -> list[Case]:
    """The thirty plans."""
    random, pairs, latin = Layout("random"), Layout("pairs"), Layout("latin")
    two, three = (Layout("blocks", tuple(Block(str(b), f"B{b}") for b in range(many))) for many in (2, 3))

    def split(plots: int) -> Layout:
        return Layout("split", whole_plots=plots)

    told: list[tuple[int, int, Layout, tuple[str, ...]]] = [
        (3, 5, random, ("grade",)),
        (2, 8, random, ("volume",)),
        (4, 4, random, ("event",)),
        (3, 6, random, ("ladder",)),
        (5, 5, random, ("count",)),
        (2, 12, random, ("passed",)),
        (3, 6, random, ("shade",)),
        (3, 7, random, ("open", "length")),
        (2, 9, random, ("grade", "event")),
        (3, 6, random, ("length", "ladder", "shade")),
        (2, 9, pairs, ("count",)),
        (2, 9, pairs, ("grade",)),
        (2, 10, pairs, ("event",)),
        (2, 12, pairs, ("length", "passed")),
        (2, 10, pairs, ("volume", "ladder", "grade")),
        (3, 3, two, ("share",)),
        (3, 3, two, ("event",)),
        (2, 4, two, ("grade",)),
        (4, 2, three, ("ladder",)),
        (3, 3, three, ("count", "open")),
        (3, 3, three, ("length", "shade")),
        (2, 4, three, ("passed", "event", "share")),
        (4, 4, latin, ("length",)),
        (5, 5, latin, ("grade",)),
        (4, 8, latin, ("passed",)),
        (5, 5, latin, ("length", "count")),
        (4, 2, split(5), ("length",)),
        (4, 2, split(6), ("grade",)),
        (4, 2, split(7), ("count", "length")),
        (4, 2, split(8), ("length", "volume", "share")),
    ]
    return [
        Case(
            f"{layout.kind}{f' of {len(layout.blocks)}' if layout.blocks else ''}, {treatments} × {samples}: "
            + ", ".join(outcomes),
            _plan(treatments, samples, layout, *outcomes),
        )
        for treatments, samples, layout, outcomes in told
    ]


def planned(plan: Plan, plays: int, seed: int = 1) -> list[float]:
    """The shares, 0 to 1, of right answers of each primary outcome as the planner plays them."""
    truths = [expectation(plan, outcome)[0] for outcome in plan.outcomes]
    return [one.right for one in play_each(Design.of_plan(plan), truths, np.random.default_rng(seed), plays)]


def judged(plan: Plan, plays: int, seed: int = 2) -> list[float]:
    """The same by the verdict: each play compared, judged and led by its own code, the level shared over the primary outcomes."""
    rng, design = np.random.default_rng(seed), Design.of_plan(plan)
    found = [_compared(design, outcome, expectation(plan, outcome)[0], plays, rng) for outcome in plan.outcomes]
    best, right = best_of(design, plays), np.zeros(len(plan.outcomes))
    for play in range(plays):
        own = [of_outcome[play] for of_outcome in found]
        p = [leader_p(one) for one in own]
        # Holm: once one fails, no larger p passes.
        for rank, i in enumerate(np.argsort(p, kind="stable").tolist()):
            level = plan.level / (len(own) - rank)
            if p[i] > level:
                break
            outcome = plan.outcomes[i]
            told = judge(own[i], alpha=level, margin=None if isinstance(outcome.scale, EventScale) else outcome.margin)
            right[i] += told.level == "clear" and told.winner == str(best[play])
    return [float(one) / plays for one in right]


def _compared(design: Design, outcome: Outcome, truth: Truth, plays: int, rng: np.random.Generator) -> list[Comparison]:
    read, _ = drawn(design, truth, plays, rng)
    kind: Kind = "event" if isinstance(outcome.scale, EventScale) else compared_as(outcome.scale)
    spans = None
    if read.cells is not None:
        ends = np.array([0.0, *truth.looks] if kind == "event" else [0.0, *LADDER.steps])
        beyond = np.append(ends[1:], np.inf)
        spans = {j: Spans(ends[read.cells[:, j]], beyond[read.cells[:, j]]) for j in range(plays)}
    return compare_columns(
        read.values,
        [Column(kind, ends=None if kind == "event" else outcome.scale.ends)] * plays,
        design.labels,
        [str(t) for t in range(design.treatments)],
        design.structure.blocks,
        rng,
        structure=design.structure,
        spans=spans,
        draws=DRAWS,
    )


def main() -> None:
    """Print the shares, and how far they lie apart."""
    plays = next((int(one.removeprefix("--plays=")) for one in sys.argv if one.startswith("--plays=")), PLAYS)
    begun, apart = time.perf_counter(), []
    for case in cases():
        pairs = list(zip(planned(case.plan, plays), judged(case.plan, plays), strict=True))
        apart += [abs(one - other) for one, other in pairs]
        told = "; ".join(f"{100 * one:.1f} and {100 * other:.1f}" for one, other in pairs)
        beyond = "  <--" if max(abs(one - other) for one, other in pairs) > POINTS / 100 else ""
        print(f"{case.name}: {told} %{beyond}", flush=True)
    took = time.perf_counter() - begun
    print(f"{len(cases())} plans, {plays:,} plays each, in {took:.0f} s: at most {100 * max(apart):.1f} points apart")


if __name__ == "__main__":
    main()
