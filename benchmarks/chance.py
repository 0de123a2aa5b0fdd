"""How honest a verdict is: how often chance alone is called clear, leaning, equal or depends, and how often intervals hold the truth.

For each layout and scale, trials are played in which nothing differs (*null*), two are alike on top of others at a floor (*floor*), one
side is spread five or eight times as much as the other (*spread*), all stand near the ceiling of their scale (*ceiling*), two in a hundred
values are missing (*gaps*), or the true difference is just the margin (*margin*).  Each column is a trial of its own, so it does not
matter that all of a cell share one allocation.

Run by ./bench with few trials; ``python -m benchmarks.chance --write`` plays 5,000 a cell (or
``--trials=N``) and writes docs/methods/chance.md.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

from fieldtally.core.compare.columns import Column, Comparison, compare_columns
from fieldtally.core.compare.events import Spans, spans_of
from fieldtally.core.compare.places import who_wins_where
from fieldtally.core.compare.structure import Structure
from fieldtally.core.kinds import Kind
from fieldtally.core.verdict.strength import judge

ALPHA, TRIALS, FEW, AT_ONCE = 0.05, 5_000, 400, 500
SLOW = {
    "blocks, 4 × 2 in 3": 1_000,
    "Latin square of 5": 1_000,
    "Latin, two squares of 4": 1_000,
    "blocks, 2 × 5 in 2": 2_000,
}
SLOW["split, 12 plots"] = 2_000
"""Fewer trials where each takes long."""
POPULATION = 400_000
LEVELS = {"clear": 6.0, "equal": 6.0, "leaning": 25.0, "covers": 93.0, "spread": 6.5}
OUT = Path(__file__).parents[1] / "docs/methods/chance.md"
LOOKS = np.array([2.0, 4.0, 7.0, 10.0, 14.0, 19.0])
Floats = np.ndarray
SITUATIONS = ("null", "floor", "spread 5", "spread 8", "ceiling", "gaps", "margin")


@dataclass(frozen=True)
class Layout:
    """Structure and labels (n,) of samples, and what place adds to each (n,); ``plots`` are drawn anew for each trial."""

    structure: Structure
    labels: Floats
    place: Floats


@dataclass(frozen=True)
class Scale:
    """Kind and ends of a scale, what a normal number becomes on it, and the same near its ceiling (None: it has none)."""

    kind: Kind
    becomes: Callable[[Floats], Floats]
    ends: tuple[float, float] | None = None
    ceiling: Callable[[Floats], Floats] | None = None
    symmetric: bool = False


def plain(counts: tuple[int, ...], blocks: int = 1, step: float = 1.5) -> Layout:
    """So many of each treatment in each of ``blocks`` blocks that differ by ``step``."""
    one = np.repeat(np.arange(len(counts)), counts)
    places = np.repeat(np.arange(blocks), len(one))
    return Layout(Structure.plain(places), np.tile(one, blocks), step * places)


def squares(side: int, many: int) -> Layout:
    """Latin squares."""
    rows, columns = np.divmod(np.arange(side * side * many) % (side * side), side)
    square = np.repeat(np.arange(many), side * side)
    structure = Structure("latin", rows + side * square, columns=columns + side * square, squares=square)
    return Layout(structure, (rows + columns) % side, rows * 0.8 - columns * 0.5 + square)


def layouts() -> dict[str, Layout]:
    """The layouts of the grid."""
    plots = Structure(
        "split", np.repeat(np.arange(6), 4), plots=np.repeat(np.arange(12), 2), hard=np.tile([0, 0, 1, 1], 6)
    )
    return {
        "random, 4 × 5": plain((5, 5, 5, 5)),
        "random, 2 × 8": plain((8, 8)),
        "random, 4 against 8": plain((4, 8)),
        "random, 3 against 9": plain((3, 9)),
        "random, 2 against 10": plain((2, 10)),
        "blocks, 4 × 2 in 3": plain((2, 2, 2, 2), 3),
        "blocks, 2 × 5 in 2": plain((5, 5), 2),
        "blocks, 1 against 3 in 4": plain((1, 3), 4),
        "pairs, 9": plain((1, 1), 9, 0.7),
        "Latin square of 4": squares(4, 1),
        "Latin square of 5": squares(5, 1),
        "Latin, two squares of 4": squares(4, 2),
        "split, 12 plots": Layout(plots, np.tile([0, 1, 2, 3], 6), np.zeros(24)),
    }


def scales() -> dict[str, Scale]:
    """The scales of the grid."""
    return {
        "measurement": Scale("measurement", lambda z: z, symmetric=True),
        "skewed measurement": Scale("measurement", np.exp),
        "percent": Scale(
            "percent", lambda z: np.clip(50 + 10 * z, 0, 100), (0.0, 100.0), lambda z: np.clip(98 + 4 * z, 0, 100), True
        ),
        "grade 0–5": Scale(
            "grade",
            lambda z: np.clip(np.round(2.5 + z), 0, 5),
            (0.0, 5.0),
            lambda z: np.clip(np.round(5.2 + z), 0, 5),
            True,
        ),
        "count": Scale("count", lambda z: np.floor(np.exp(1.5 + 0.5 * z))),
        "count of 20": Scale(
            "count",
            lambda z: np.clip(np.round(14 + 2 * z), 0, 20),
            (0.0, 20.0),
            lambda z: np.clip(np.round(20.5 + 2 * z), 0, 20),
        ),
        "passed or failed": Scale(
            "passfail", lambda z: (z > 0.3).astype(float), (0.0, 1.0), lambda z: (z > -1.3).astype(float)
        ),
        "ladder": Scale(
            "ladder",
            lambda z: np.clip(2.5 * np.floor(5 + 2 * z), 0, 25),
            (0.0, 25.0),
            lambda z: np.clip(2.5 * np.floor(10.5 + 2 * z), 0, 25),
        ),
        "event between looks": Scale("event", lambda z: 6 * np.exp(0.6 * z)),
    }


@dataclass
class Tally:
    """What was counted in one cell: levels, and intervals that hold the truth, of all."""

    trials: int = 0
    levels: dict[str, int] = field(default_factory=dict)
    pairs: tuple[int, int] = (0, 0)
    own: tuple[int, int] = (0, 0)
    medians: tuple[int, int] = (0, 0)

    def share(self, level: str) -> float:
        """How often in 100 trials this level was found."""
        return 100 * self.levels.get(level, 0) / max(1, self.trials)


def shifts(layout: Layout, situation: str) -> tuple[Floats, Floats]:
    """What each treatment adds to normal numbers, and by how much it spreads them."""
    many = int(layout.labels.max()) + 1
    add, spread = np.zeros(many), np.ones(many)
    if situation == "floor":
        add[2:], spread[2:] = -8.0, 0.0
    elif situation.startswith("spread"):
        # The side with fewer samples is the noisy one; the others are so many times quieter.
        spread[1:] = 1 / float(situation.split()[1])
    elif situation == "margin":
        add[0] = 0.8
    return add, spread


def fits(layout: Layout, scale: Scale, situation: str) -> bool:
    """Whether this cell means something."""
    many = int(layout.labels.max()) + 1
    if situation == "floor":
        return many > 2 and scale.kind not in ("passfail",)
    if situation.startswith("spread"):
        return scale.symmetric and layout.structure.kind == "plain"
    if situation == "ceiling":
        return scale.ceiling is not None
    if situation == "margin":
        return scale.kind in ("measurement", "percent", "grade", "count", "passfail")
    return True


def drawn(
    layout: Layout, scale: Scale, situation: str, trials: int, rng: np.random.Generator
) -> tuple[Floats, dict[int, Spans] | None]:
    """Values (n, trials), NaN where missing, and the spans of events and ladders."""
    add, spread = shifts(layout, situation)
    noise = rng.normal(0, 1, (len(layout.labels), trials))
    if layout.structure.plots is not None:
        noise = (
            noise + rng.normal(0, 1, (int(layout.structure.plots.max()) + 1, trials))[layout.structure.plots]
        ) / np.sqrt(2)
    near = situation in ("ceiling", "margin") and scale.ceiling is not None
    place = layout.place * (0.0 if near else 1.0)
    z = noise * spread[layout.labels][:, None] + add[layout.labels][:, None] + place[:, None]
    values = (scale.ceiling if near and scale.ceiling else scale.becomes)(z)
    if situation == "gaps":
        values = np.where(rng.random(values.shape) < 0.02, np.nan, values)
    spans = None
    if scale.kind == "event":
        spans = {
            j: spans_of(np.where(np.isnan(values[:, [j]]), np.nan, values[:, [j]] <= LOOKS), LOOKS)
            for j in range(trials)
        }
        values = np.column_stack([np.where(np.isnan(values[:, j]), np.nan, spans[j].without) for j in range(trials)])
    elif scale.kind == "ladder":
        spans = {
            j: Spans(values[:, j], np.where(values[:, j] >= 25, np.inf, values[:, j] + 2.5)) for j in range(trials)
        }
    return values, spans


@dataclass(frozen=True)
class Truths:
    """Of each treatment the true mean, and the middle time; of each pair the chance that the first beats the second."""

    means: Floats
    medians: Floats
    chances: Floats


def truths(layout: Layout, scale: Scale, situation: str) -> Truths:
    """By playing very many samples of each treatment in each place."""
    rng = np.random.default_rng(99)
    many = int(layout.labels.max()) + 1
    places = np.unique(layout.place) if situation not in ("ceiling", "margin") or scale.ceiling is None else np.zeros(1)
    each = POPULATION // len(places)
    big = Layout(Structure.plain(np.zeros(many, dtype=np.int64)), np.arange(many), np.zeros(many))
    means, medians, chances = np.zeros(many), np.zeros(many), np.zeros((many, many))
    times: list[Floats] = []
    for place in places:
        at = Layout(big.structure, big.labels, np.full(many, place))
        add, spread = shifts(layout, situation)
        # The same numbers for all, so that treatments that are alike have the very same truth.
        z = rng.normal(0, 1, each) * spread[:, None] + add[:, None] + at.place[:, None]
        near = situation in ("ceiling", "margin") and scale.ceiling is not None
        values = (scale.ceiling if near and scale.ceiling else scale.becomes)(z)
        if scale.kind == "event":
            # As looks tell it: the middle of the span, or the last look; the middle time is that of all places together.
            times.append(values)
            left = np.concatenate([[0.0], LOOKS])[np.searchsorted(LOOKS, values)]
            right = np.concatenate([LOOKS, [np.inf]])[np.searchsorted(LOOKS, values)]
            values = np.where(np.isfinite(right), (left + np.where(np.isfinite(right), right, 0)) / 2, LOOKS[-1])
        means += values.mean(axis=1) / len(places)
        for a in range(many):
            for b in range(many):
                chances[a, b] += _beats(values[a], values[b]) / len(places)
    if times:
        middle = np.median(np.concatenate(times, axis=1), axis=1)
        medians = np.concatenate([LOOKS, [np.inf]])[np.searchsorted(LOOKS, middle)]
    return Truths(means, medians, chances)


def _beats(one: Floats, other: Floats) -> float:
    """How often a value of ``one`` (n,) is above a value of ``other`` (n,), ties counting half."""
    other = np.sort(other)
    under = np.searchsorted(other, one, side="left") + np.searchsorted(other, one, side="right")
    return float(under.mean()) / 2 / len(other)


def played(layout: Layout, scale: Scale, situation: str, trials: int, seed: int = 0) -> Tally:
    """One cell."""
    true = truths(layout, scale, situation)
    names = [str(t) for t in range(int(layout.labels.max()) + 1)]
    gaps = np.abs(true.means[:, None] - true.means[None, :])
    margin = float(gaps.max()) if situation == "margin" else None
    tally = Tally()
    for batch in range(-(-trials // AT_ONCE)):
        many = min(AT_ONCE, trials - batch * AT_ONCE)
        rng = np.random.default_rng([seed, batch, len(layout.labels)])
        values, spans = drawn(layout, scale, situation, many, rng)
        found = compare_columns(
            values,
            [Column(scale.kind, ends=scale.ends)] * many,
            layout.labels,
            names,
            layout.structure.blocks,
            rng,
            alpha=ALPHA,
            structure=layout.structure,
            spans=spans,
            draws=2_000,
        )
        tally.trials += many
        for j, one in enumerate(found):
            level = judge(one, alpha=ALPHA, margin=margin, where=_where(layout, scale, values[:, j], one, rng)).level
            tally.levels[level] = tally.levels.get(level, 0) + 1
            _count(tally, one, scale, true)
    return tally


def _where(layout: Layout, scale: Scale, values: Floats, one: Comparison, rng: np.random.Generator) -> tuple[Any, ...]:
    """Who wins where, where blocks are places with samples enough for a test of their own."""
    blocks = layout.structure.blocks
    if layout.structure.kind != "plain" or len(np.unique(blocks)) > 3 or len(np.unique(blocks)) < 2:
        return ()
    if scale.kind in ("event", "ladder", "grade"):
        return ()

    def within(rows: Floats) -> Comparison:
        return compare_columns(
            values[rows][:, None],
            [one.column],
            layout.labels[rows],
            [t.treatment for t in one.treatments],
            blocks[rows],
            rng,
            alpha=ALPHA,
        )[0]

    names = [t.treatment for t in one.treatments]
    told = [str(b) for b in np.unique(blocks)]
    where = who_wins_where(values, layout.labels, names, blocks, told, "place", rng)
    # Who wins in each place by its own test is asked only where the places differ by more than chance: else nothing depends on it.
    if where is not None and where.p is not None and where.p <= ALPHA:
        where = who_wins_where(values, layout.labels, names, blocks, told, "place", rng, within=within)
    return (where,) if where else ()


def _count(tally: Tally, one: Comparison, scale: Scale, true: Truths) -> None:
    for pair in one.pairs:
        a, b = int(pair.a), int(pair.b)
        low, high, truth = pair.low, pair.high, true.means[a] - true.means[b]
        if scale.kind == "grade":
            low, high, truth = pair.chance_low, pair.chance_high, true.chances[a, b]
        if pair.n_a > 1 and pair.n_b > 1:
            held = (low is None or low <= truth + 1e-6) and (high is None or high >= truth - 1e-6)
            tally.pairs = (tally.pairs[0] + held, tally.pairs[1] + 1)
    for t, own in enumerate(one.treatments):
        if own.low is not None and own.high is not None:
            near = 0.01 * max(1e-9, abs(float(true.means[t]))) if scale.kind == "event" else 1e-6
            tally.own = (tally.own[0] + (own.low - near <= true.means[t] <= own.high + near), tally.own[1] + 1)
    if scale.kind == "event":
        for course in one.courses:
            t, truth = int(course.treatment), true.medians[int(course.treatment)]
            low = np.inf if course.low is None else course.low
            high = np.inf if course.high is None else course.high
            tally.medians = (tally.medians[0] + (low <= truth <= high), tally.medians[1] + 1)


def _percent(held: tuple[int, int]) -> str:
    return f"{100 * held[0] / held[1]:.1f}" if held[1] else "–"


def faults(situation: str, tally: Tally) -> list[str]:
    """What of a cell lies beyond its level."""
    found = []
    most = LEVELS["spread"] if situation.startswith("spread") else LEVELS["clear"]
    if situation != "margin" and tally.share("clear") > most:
        found.append(f"clear {tally.share('clear'):.1f} %, more than {most:g}")
    if situation == "margin" and tally.share("equal") > LEVELS["equal"]:
        found.append(f"equal {tally.share('equal'):.1f} %, more than {LEVELS['equal']:g}")
    if situation == "null" and tally.share("leaning") > LEVELS["leaning"]:
        found.append(f"leaning {tally.share('leaning'):.1f} %, more than {LEVELS['leaning']:g}")
    for name, held in (("pairs", tally.pairs), ("treatments", tally.own), ("medians", tally.medians)):
        if held[1] and 100 * held[0] / held[1] < LEVELS["covers"]:
            found.append(f"intervals of {name} {_percent(held)} %, fewer than {LEVELS['covers']:g}")
    return found


def cells(asked: str) -> Iterator[tuple[str, str, str]]:
    """All cells, or those whose name holds what is ``asked``."""
    for name, layout in layouts().items():
        for scale_name, scale in scales().items():
            for situation in SITUATIONS:
                whole = f"{name} | {scale_name} | {situation}"
                if fits(layout, scale, situation) and all(part in whole for part in asked.split("+")):
                    yield name, scale_name, situation


def main() -> None:
    """Print all figures, and write them where they are kept."""
    asked = next((one for one in sys.argv[1:] if not one.startswith("--")), "")
    write = "--write" in sys.argv
    many = next((int(one.removeprefix("--trials=")) for one in sys.argv if one.startswith("--trials=")), None)
    lines, beyond = [], []
    begun = time.perf_counter()
    for name, scale_name, situation in cells(asked):
        trials = many or (SLOW.get(name, TRIALS) if write else FEW)
        tally = played(layouts()[name], scales()[scale_name], situation, trials)
        row = [
            name,
            scale_name,
            situation,
            *(f"{tally.share(level):.1f}" for level in ("clear", "leaning", "equal", "depends")),
        ]
        row += [_percent(tally.pairs), _percent(tally.own), _percent(tally.medians), f"{tally.trials:,}"]
        lines.append(f"| {' | '.join(row)} |")
        wrong = faults(situation, tally)
        beyond += [f"{name}, {scale_name}, {situation}: {one}" for one in wrong]
        print(lines[-1], "  <--  " + "; ".join(wrong) if wrong else "", flush=True)
    print(f"{len(lines)} cells in {time.perf_counter() - begun:.0f} s; beyond their level: {len(beyond)}")
    if write:
        OUT.parent.mkdir(parents=True, exist_ok=True)
        OUT.write_text(_page(lines, beyond))


PAGE = """# How often chance is called something

So many trials as each row says, for each layout, scale and situation, at a level of {level} %; by
`python -m benchmarks.chance --write`. All figures are in percent: how often the verdict was *clear*, *leaning*, *equal* or *depends*, and
how often an interval held the truth (pairs in the unit they are told, for grades the chance of beating; treatments; middle times). A share
of 5 % has a standard error of {error} with 5,000 trials, 0.5 with 2,000 and 0.7 with 1,000.

Situations: *null*, nothing differs; *floor*, two alike on top and the others, without any spread, far below; *spread 5* and *8*, the first
treatment spread so many times as much as the others, nothing else; *ceiling*, nothing differs and most stand at the end of their scale;
*gaps*, nothing differs and 2 in 100 values are missing; *margin*, the first treatment better by just the margin, near the ceiling where
there is one.

Limits: clear at most {clear} ({spread} with unequal spreads), leaning at most {leaning} in null, equal at most {equal} at the margin,
intervals at least {covers}.

## Cells beyond their level

The interval of a pair is its exact test turned round, so that p and interval never contradict each other; shifting alone cannot know that
the few samples of one side are the noisy ones, so that a side of two with five times the spread, and counts whose spread grows with their
mean where numbers are uneven, are told a little too narrowly. Shares are told by Wilson's interval, which holds the truth 90 to 92 times in
100 at some shares of few samples. A mean of heavily skewed measurements from few samples is told too narrowly by anything that has not seen
the tail.

{beyond}

## All cells

| layout | scale | situation | clear | leaning | equal | depends | pairs hold | treatments hold | medians hold | trials |
|---|---|---|---|---|---|---|---|---|---|---|
{rows}
"""


def _page(lines: list[str], beyond: list[str]) -> str:
    limits = {name: f"{limit:g}" for name, limit in LEVELS.items()}
    told = "\n".join(f"- {one}" for one in beyond) or "None."
    error = f"{100 * (ALPHA * (1 - ALPHA) / TRIALS) ** 0.5:.1f}"
    return PAGE.format(error=error, level=f"{100 * ALPHA:g}", beyond=told, rows="\n".join(lines), **limits)


if __name__ == "__main__":
    main()
