"""The worked cases that the core and the browser are both held to: ``python ops/cases.py`` writes them, ``--check`` tells whether they are
those of the core."""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np

from fieldtally.core.scales.departing import straight

CASES = Path(__file__).parents[1] / "cases"
CURVES = 240


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


def main() -> int:
    """Write the cases, or (``--check``) say whether they are up to date."""
    rows = ",\n".join(json.dumps(one) for one in curves())
    text, path = f"[\n{rows}\n]\n", CASES / "curves.json"
    if "--check" not in sys.argv:
        path.write_text(text, encoding="utf-8")
        return 0
    if path.read_text(encoding="utf-8") == text:
        return 0
    print(f"{path.name} is not what the core says: python ops/cases.py writes it anew.")
    return 1


if __name__ == "__main__":
    sys.exit(main())
