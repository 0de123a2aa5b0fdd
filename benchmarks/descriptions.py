"""Trials told as unlike each other as people are, each with what it truly says; and how much of them is understood at once.

``told/written.txt`` stood beside the rules while they were written.  Each other set was measured once before rules learnt from it:
``learnt`` (84.8 % right), ``later`` (88.1 %), ``fresh`` (66.4 %; 88.0 % without one text of 27 names), ``fifth`` (78.0 %), ``sixth``
(81.2 %), ``seventh`` (74.7 %), ``eighth`` (79.0 %), ``ninth`` (82.1 %), ``tenth`` (84.6 %), ``eleventh`` (81.4 %),
``twelfth`` (76.9 %).

A text, then what it says: ``T`` treatments (with their kind where they are a control), ``N`` how many of each, ``P`` places, ``O`` an
outcome with scale and unit, ``L`` looks.  A part counts as right when it is told whole: a treatment by the words of its name and its kind.
``python -m benchmarks.descriptions`` prints the figures, and what was not understood.
"""

from __future__ import annotations

import re
import statistics
import time
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

from fieldtally.core.describing.description import Description, describe
from fieldtally.core.describing.treatments import content
from fieldtally.core.scales import MeasurementScale

SETS = (
    "written",
    "learnt",
    "later",
    "fresh",
    "fifth",
    "sixth",
    "seventh",
    "eighth",
    "ninth",
    "tenth",
    "eleventh",
    "twelfth",
)
PARTS = ("treatments", "numbers", "places", "outcomes", "looks")
MINUTES = {"w": 10_080, "d": 1440, "h": 60, "m": 1, "mo": 43_830, "y": 525_960}
LONG = ("mo", "y")
SPARE_WORDS = 2
"""Words that a name may have beside those that were expected."""


@dataclass(frozen=True)
class Told:
    """A text, and by letter (T, N, P, O, L) what it says."""

    text: str
    says: dict[str, list[str]]

    @property
    def treatments(self) -> list[tuple[str, str]]:
        """Names and kinds."""
        listed = [one.split("=") for one in self.says.get("T", [""])[0].split(" | ") if one]
        return [(one[0], one[1] if len(one) > 1 else "treatment") for one in listed]

    @property
    def looks(self) -> list[tuple[str, int]]:
        """Each look: ``after`` so many minutes, after so many ``cycles``, or ``before``."""
        return sorted(_look(one) for one in self.says.get("L", [""])[0].split())


@dataclass
class Score:
    """How many of each part there are and how many were understood; texts that were understood whole, and what was amiss in others."""

    there: Counter[str] = field(default_factory=Counter)
    right: Counter[str] = field(default_factory=Counter)
    texts: int = 0
    whole: int = 0
    amiss: list[str] = field(default_factory=list)

    @property
    def share(self) -> float:
        """Of all parts of all texts, how many were right (0 to 1)."""
        return sum(self.right.values()) / max(1, sum(self.there.values()))


def _look(written: str) -> tuple[str, int]:
    found = re.fullmatch(r"(\d+)(\w+)", written)
    if found is None:
        raise ValueError(f"{written!r} is no look.")
    many, unit = int(found[1]), found[2]
    if unit == "c":
        return "cycles", many
    minutes = many * MINUTES[unit]
    return ("before", 0) if not many else ("after", round(minutes / 1440) * 1440 if unit in LONG else minutes)


def told(name: str) -> list[Told]:
    """All texts of a set."""
    found = []
    for block in (Path(__file__).parent / "told" / f"{name}.txt").read_text(encoding="utf-8").split("====\n"):
        text, says = block.split("--\n")
        parts: dict[str, list[str]] = {}
        for line in says.splitlines():
            if line.strip():
                parts.setdefault(line[0], []).append(line[2:])
        found.append(Told(text.strip("\n"), parts))
    return found


def _alike(expected: str, name: str) -> bool:
    wanted, found = set(content(expected)), set(content(name))
    return wanted == found or (bool(wanted) and wanted < found and len(found) - len(wanted) <= SPARE_WORDS)


def understood(one: Told) -> tuple[dict[str, tuple[int, int]], bool, Description]:
    """Of each part how many there are and how many are right; whether all is right and nothing more was read; and what was understood."""
    found = describe(one.text)
    named = sum(
        any(_alike(name, each.name) and kind == each.kind for each in found.treatments) for name, kind in one.treatments
    )
    left = list(found.outcomes)
    for wanted in one.says.get("O", []):
        name, kind, *unit = wanted.split(":")
        match = next(
            (
                each
                for each in left
                if name.casefold() in each.name.casefold()
                and each.scale.kind == kind
                and (not unit or (isinstance(each.scale, MeasurementScale) and each.scale.unit == unit[0]))
            ),
            None,
        )
        if match is not None:
            left.remove(match)
    outcomes = len(one.says.get("O", []))
    number = int(one.says["N"][0]) if "N" in one.says else None
    places = [name.casefold() for name in one.says.get("P", [""])[0].split(" | ") if name]
    looks = sorted(
        ("before", 0) if each.baseline else ("cycles", each.cycle) if each.cycle else ("after", each.offset or 0)
        for each in found.looks.looks
    )
    parts = {
        "treatments": (len(one.treatments), named),
        "numbers": (1, int(found.each == number)),
        "places": (1, int([name.casefold() for name in found.places] == places)),
        "outcomes": (outcomes, len(found.outcomes) - len(left)),
        "looks": (1, int(looks == one.looks)),
    }
    whole = all(there == right for there, right in parts.values())
    return parts, whole and not left and len(found.treatments) == len(one.treatments), found


def measured(name: str) -> Score:
    """How much of a set is understood."""
    score = Score()
    for one in told(name):
        parts, whole, _ = understood(one)
        for part, (there, right) in parts.items():
            score.there[part] += there
            score.right[part] += right
        score.texts += 1
        score.whole += whole
        if not whole:
            score.amiss.append(
                f"{' '.join(one.text.split())[:90]} … {', '.join(p for p, (a, b) in parts.items() if a != b) or 'read more'}"
            )
    return score


def main() -> None:
    """Print the figures."""
    took = []
    for name in SETS:
        score = measured(name)
        parts = ", ".join(f"{part} {score.right[part]} of {score.there[part]}" for part in PARTS)
        print(f"Trials told in words ({name}): {score.share:.1%} right; {score.whole} of {score.texts} whole; {parts}")
        for line in score.amiss:
            print(f"    {line}")
        for one in told(name):
            began = time.perf_counter()
            describe(one.text)
            took.append(time.perf_counter() - began)
    print(f"One is read in {1000 * statistics.median(took):.1f} ms, the longest in {1000 * max(took):.1f} ms.")


if __name__ == "__main__":
    main()
