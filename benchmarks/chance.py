"""How often chance alone is called clear, and how often intervals hold the truth: 2,000 trials without any difference for each layout and
scale.  Run by ./bench; with ``--write`` the figures go into docs/methods/chance.md.

Each column is a trial of its own: nothing differs, so it does not matter that all of a layout share one allocation.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np

from fieldtally.core.compare.columns import Column, Kind, compare_columns
from fieldtally.core.compare.events import Spans, spans_of
from fieldtally.core.compare.structure import Structure
from fieldtally.core.verdict.strength import judge

TRIALS, ALPHA, COVER = 2_000, 0.05, 0.95
MORE = 10
OUT = Path(__file__).parents[1] / "docs/methods/chance.md"
Floats = np.ndarray
LOOKS = np.array([2.0, 4.0, 7.0, 10.0, 14.0])


def layouts() -> dict[str, tuple[Structure, Floats, Floats]]:
    """Structure, labels (n,), and what place adds to each sample (n,): beds, rows and plots that differ a lot."""
    plain = np.tile(np.arange(3), 5)
    beds = np.repeat(np.arange(3), 6)
    pairs = np.repeat(np.arange(9), 2)
    square = (np.arange(4)[:, None] + np.arange(4)) % 4
    rows, columns = np.divmod(np.arange(32) % 16, 4)
    squares = np.repeat([0, 1], 16)
    split = np.tile([0, 1, 2, 3], 6)
    plots = np.repeat(np.arange(12), 2)
    return {
        "random, 3 × 5": (Structure.plain(np.zeros(15, dtype=np.int64)), plain, np.zeros(15)),
        "random, 4 against 8": (
            Structure.plain(np.zeros(12, dtype=np.int64)),
            (np.arange(12) >= 4).astype(np.int64),
            np.zeros(12),
        ),
        "blocks, 3 × 2 in 3": (Structure.plain(beds), np.tile([0, 1, 2, 0, 1, 2], 3), 1.5 * beds),
        "pairs, 9": (Structure.plain(pairs), np.tile([0, 1], 9), np.sin(pairs * 2.0) * 2),
        "Latin, two squares of 4": (
            Structure("latin", rows + 4 * squares, columns=columns + 4 * squares, squares=squares),
            np.tile(square.reshape(-1), 2),
            rows * 0.8 - columns * 0.5 + squares,
        ),
        "split, 12 plots": (
            Structure("split", np.repeat(np.arange(6), 4), plots=plots, hard=np.tile([0, 0, 1, 1], 6)),
            split,
            np.full(24, np.nan),
        ),
    }


def scales() -> dict[str, tuple[Kind, tuple[float, float] | None, Callable[[Floats], Floats]]]:
    """Kind, ends, and what a normal number becomes on the scale."""
    return {
        "measurement": ("measurement", None, lambda z: z),
        "skewed measurement": ("measurement", None, np.exp),
        "grade 0–5": ("grade", (0.0, 5.0), lambda z: np.clip(np.round(2.5 + z), 0, 5)),
        "ladder": ("grade", (0.0, 25.0), lambda z: np.clip(2.5 * np.floor(7 + 2 * z), 0, 25)),
        "count": ("count", None, lambda z: np.floor(np.exp(1.5 + 0.5 * z))),
        "count of 20": ("count", (0.0, 20.0), lambda z: np.clip(np.round(14 + 2 * z), 0, 20)),
        "passed or failed": ("passfail", (0.0, 1.0), lambda z: (z > 0.3).astype(np.float64)),
        "event between looks": ("event", None, lambda z: 6 * np.exp(0.6 * z)),
    }


def figures(name: str, scale: str, again: int = 0) -> tuple[float, float | None]:
    """The share of trials called clear, and of pair intervals that hold no difference (None: told by another rule); ``again``
    counts further trials."""
    structure, labels, place = layouts()[name]
    kind, ends, becomes = scales()[scale]
    rng = np.random.default_rng([len(name), len(scale), *([again] if again else [])])
    noise = rng.normal(0, 1, (len(labels), TRIALS))
    if structure.plots is not None:
        # Which plot got which level is chance too, so that each trial has plots of its own.
        noise += rng.normal(0, 1, (int(structure.plots.max()) + 1, TRIALS))[structure.plots]
        place = np.zeros(len(labels))
    values = becomes(noise + place[:, None])
    spans: dict[int, Spans] = {}
    if kind == "event":
        for j in range(TRIALS):
            spans[j] = spans_of((values[:, [j]] <= LOOKS).astype(np.float64), LOOKS)
        values = np.column_stack([spans[j].without for j in range(TRIALS)])
    names = [str(t) for t in range(int(labels.max()) + 1)]
    found = compare_columns(
        values,
        [Column(kind, ends=ends)] * TRIALS,
        labels,
        names,
        structure.blocks,
        rng,
        alpha=ALPHA,
        structure=structure,
        spans=spans or None,
    )
    clear = float(np.mean([judge(one, alpha=ALPHA).level == "clear" for one in found]))
    if kind in ("event", "grade"):
        return clear, None
    held = [pair.low is None or pair.high is None or pair.low <= 0 <= pair.high for one in found for pair in one.pairs]
    return clear, float(np.mean(held))


def main() -> None:
    """Print all figures, and write them where they are kept."""
    lines = ["| layout | scale | called clear | intervals that hold the truth |", "|---|---|---|---|"]
    worst, least = 0.0, 1.0
    asked = next((one for one in sys.argv[1:] if not one.startswith("--")), "")
    chosen = [name for name in layouts() if not asked or name.startswith(asked)]
    for name in chosen:
        for scale in scales():
            clear, cover = figures(name, scale)
            many = TRIALS
            if clear > ALPHA:
                # Above the level by luck, or in truth?  Ten times as many tell.
                clear = float(np.mean([clear, *(figures(name, scale, again)[0] for again in range(1, MORE))]))
                many = MORE * TRIALS
            worst = max(worst, clear)
            least = min(least, 1.0 if cover is None else cover)
            told = "–" if cover is None else f"{100 * cover:.1f} %"
            lines.append(
                f"| {name} | {scale} | {100 * clear:.1f} %{f' of {many:,}' if many > TRIALS else ''} | {told} |"
            )
            print(f"{name}, {scale}: clear {100 * clear:.1f} % (at most 5), intervals {told}", flush=True)
    print(f"most often called clear: {100 * worst:.1f} %; least coverage: {100 * least:.1f} %")
    if "--write" in sys.argv:
        OUT.parent.mkdir(parents=True, exist_ok=True)
        OUT.write_text(
            "# How often chance is called clear\n\n"
            f"{TRIALS:,} trials without any difference for each layout and scale, at a level of {100 * ALPHA:g} %; by "
            "`python -m benchmarks.chance --write`. Intervals are those of pairs, at "
            f"{100 * COVER:g} %; grades, ladders and events take their p from ranks or scores while their interval is told in "
            "their own unit, so that it is not counted here. A share of 5 % of 2,000 has a standard error of half a point."
            "\n\n" + "\n".join(lines) + "\n"
        )


if __name__ == "__main__":
    main()
