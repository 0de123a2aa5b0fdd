"""The worked cases that the core and the browser are both held to: ``python ops/cases.py`` writes them, ``--check`` tells whether they are
those of the core."""

from __future__ import annotations

import json
import sys
from dataclasses import asdict
from pathlib import Path

import numpy as np

from fieldtally.core.design.letters import letter_of
from fieldtally.core.problems import Refused
from fieldtally.core.quantities.numbers import LARGEST, MOST_DECIMALS, honest
from fieldtally.core.scales import (
    CountScale,
    EventScale,
    GradeScale,
    LadderScale,
    Level,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    Scale,
    Shade,
    ShadeScale,
)
from fieldtally.core.scales.departing import straight
from fieldtally.core.scales.event import SEEN_WORDS, UNSEEN_WORDS
from fieldtally.core.scales.passfail import FAIL_WORDS, PASS_WORDS
from fieldtally.core.verdict.telling.headline import LEVELS

CASES = Path(__file__).parents[1] / "cases"
CURVES = 240
MOST_LETTERS = 760


def curves() -> list[dict[str, object]]:
    """Curves of all lengths, straight and bent, with and without scatter, with steps left out, and what their straight part is."""
    rng = np.random.default_rng(15)
    found = []
    for number in range(CURVES):
        many = int(rng.integers(1, 11))
        steps = np.round(np.cumsum(rng.uniform(0.5, 3.0, many)), 1)
        yields = rng.uniform(0.3, 1.2) * steps[-1]
        bent = np.maximum(steps - yields, 0.0) * (0.0 if number % 3 == 0 else rng.uniform(-0.9, 4.0))
        level = 0.0 if number % 2 else rng.uniform(-2.0, 2.0)
        read = np.round(
            level + rng.uniform(0.2, 5.0) * (steps + bent) + rng.normal(0, rng.choice([0.0, 0.05, 0.4]), many), 2
        )
        taken = rng.random(many) > (0.15 if number % 4 == 0 else 0.0)
        responses = [float(one) if there else None for one, there in zip(read, taken, strict=True)]
        told = straight(steps.tolist(), responses, through_zero=bool(number % 2))
        found.append(
            {
                "steps": steps.tolist(),
                "responses": responses,
                "through_zero": bool(number % 2),
                "straight": told and {"slope": round(told.slope, 9), "leaves": told.leaves, "told": told.told},
            }
        )
    return found


SCALES: tuple[Scale, ...] = (
    MeasurementScale("mL", low=0, high=400),
    MeasurementScale("°C"),
    MeasurementScale("", low=-5, high=5),
    MeasurementScale("µS/cm", low=0),
    CountScale(20, "seeds"),
    CountScale(None, "flowers"),
    PercentScale("browned", 5),
    PassFailScale("all on", "some fallen"),
    PassFailScale("Ja", "Nein"),
    EventScale("a crack"),
    GradeScale(tuple(Level(n, str(n), word) for n, word in enumerate(("dead", "poor", "fair", "good", "lush")))),
    GradeScale(tuple(Level(n, name) for n, name in enumerate(("D", "C−", "C", "B", "A−", "A", "A+")))),
    GradeScale((Level(0, "0"), Level(0.5, "½"), Level(1, "1"), Level(1.5, "1½"), Level(2, "2"))),
    GradeScale((Level(1, "gone"), Level(2, "Straße"), Level(3, "new"))),
    ShadeScale((Shade("pale"), Shade("tan"), Shade("deep")), between=True),
    ShadeScale((Shade("125"), Shade("250"), Shade("500")), between=False),
    LadderScale("kg", (2.5, 5.0, 10.0)),
)
TYPED = """
    |0|1|2|3|20|21|401|-1|−1|- 1|+2|1.5|1,5|12,5|12.5|1,2,3|1,234.5|1.234,5|1e2|1E2|1e|1e400|0x10|1_000|.5|5.|--1|½|1/2|1 2|nan|inf|
    Infinity|    12 mL|12mL|12 ML|12.5 ml|12 cm|3 °C|3°c|50 %|50%|50 % |%|mL|5 kg|5KG|2.5 kg|7 kg|0 kg|1000 µS/cm|
    y|Y|yes|YES|n|no|true|false|ok|pass|passed|fail|failed|1.0|0.0|maybe|all on|ALL ON|some fallen|ja|NEIN|seen|Seen|not yet|Not  yet|
    A-|A−|a−|A+|a|B|c−|E|dead|4|5|0.5|1½|strasse|STRASSE|straße|gone|pale|Tan|DEEP|1.25|125|250|500|0|100|101|100.5|-0|-0.5|2.0000000001|
    1000000000000000000|99999999999999999999|0.1|0.30000000000000004|３|٣|١٢|12\u00a0mL|\u200912
"""


def typed() -> list[dict[str, object]]:
    """What people type on each scale, and the value that is meant or the sentence that says why there is none."""
    texts = list(dict.fromkeys(part.strip("\n").removeprefix("    ") for part in TYPED.split("|")))
    return [{"scale": asdict(scale), "typed": [[text, _read(scale, text)] for text in texts]} for scale in SCALES]


def _read(scale: Scale, text: str) -> float | str:
    try:
        return scale.parse(text)
    except Refused as refused:
        return str(refused)


def rounding() -> list[dict[str, object]]:
    """Numbers of all sizes, halves among them, and how they are told with so many digits."""
    rng = np.random.default_rng(17)
    values = [0.0, 0.5, 1.5, 2.5, 12.25, 12.35, 0.625, 62.5, 1234.5, 1e15, 123456789.0, 0.000123, 1e-13, -1e-13, -2.5]
    values += (rng.normal(0, 1, 120) * 10.0 ** rng.integers(-8, 9, 120)).tolist()
    values += (rng.integers(-4000, 4000, 80) / 8).tolist()
    return [
        {"value": value, "digits": digits, "told": honest(value, digits)} for value in values for digits in (2, 3, 6)
    ]


def words() -> dict[str, object]:
    """What the core takes for yes and no, how large a number may be, and how a level is called."""
    return {
        "levels": dict(LEVELS),
        "pass": sorted(PASS_WORDS),
        "fail": sorted(FAIL_WORDS),
        "seen": sorted(SEEN_WORDS),
        "unseen": sorted(UNSEEN_WORDS),
        "largest": LARGEST,
        "decimals": MOST_DECIMALS,
    }


def main() -> int:
    """Write the cases, or (``--check``) say whether they are up to date."""
    stale = []
    for name, made in (("curves", curves()), ("typed", typed()), ("rounding", rounding())):
        rows = ",\n".join(json.dumps(one, ensure_ascii=False) for one in made)
        stale += written(f"{name}.json", f"[\n{rows}\n]\n")
    stale += written("letters.json", json.dumps([letter_of(place) for place in range(MOST_LETTERS)]) + "\n")
    stale += written("words.json", json.dumps(words(), indent=2) + "\n")
    for name in stale:
        print(f"{name} is not what the core says: python ops/cases.py writes it anew.")
    return 1 if stale else 0


def written(name: str, text: str) -> list[str]:
    """Write a file, or with ``--check`` only look at it; its name where it is not what it should be."""
    path = CASES / name
    if "--check" not in sys.argv:
        path.write_text(text, encoding="utf-8")
        return []
    return [] if path.exists() and path.read_text(encoding="utf-8") == text else [name]


if __name__ == "__main__":
    sys.exit(main())
