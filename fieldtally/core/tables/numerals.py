"""Numbers as a whole column writes them: whether its commas are points or marks of thousands is seen in all of it, not in one cell.

>>> numerals(["900", "1,200", "1,350"], "mass")
(['900', '1200', '1350'], 'Commas in “mass” were read as marks of thousands.')
>>> numerals(["0,5", "1,25"], "mass")
(['0,5', '1,25'], None)
"""

from __future__ import annotations

import re
from collections.abc import Sequence

THOUSANDS = re.compile(r"^[-+−]?[1-9]\d{0,2}(,\d{3})+(\.\d+)?$")


def numerals(cells: Sequence[str], name: str) -> tuple[list[str], str | None]:
    """``cells`` without marks of thousands, and a warning where commas were such marks in column ``name``."""
    commas = [one for one in cells if "," in one]
    if commas and all(THOUSANDS.match(one.strip()) for one in commas):
        return [one.replace(",", "") for one in cells], f"Commas in “{name}” were read as marks of thousands."
    both = [one for one in commas if "." in one]
    if both:
        point = "," if all(one.rfind(",") > one.rfind(".") for one in both) else "."
        return [one.replace("." if point == "," else ",", "").replace(",", ".") for one in cells], None
    return list(cells), None
