"""What a column of somebody else's table may be, and how units and empty cells are written in one."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

Part = Literal[
    "treatment",
    "block",
    "sample",
    "checkpoint",
    "stage",
    "started",
    "outcome",
    "value",
    "scorer",
    "aside",
    "note",
    "nothing",
]
ValueKind = Literal[
    "measurement", "count", "grade", "passfail", "percent", "words", "shade", "ladder", "event", "curve"
]
UNIT = re.compile(r"[\[(]\s*([^\])]{1,12})\s*[\])]\s*$|,\s*([a-zA-Z%°µ/²³]{1,8})$")
WITH_UNIT = re.compile(r"^\s*([-−+]?[\d.,]+)\s*([^\d\s.,]{1,8})\s*$")
BARE_UNIT = re.compile(
    r"^(?P<what>.*[^\W\d_]{2,}.*?)[\s_]+(?P<unit>µm|mm|cm|m|km|mg|g|kg|mL|ml|cL|L|N|kN|kPa|MPa|bar|mV|mA|lux|dB|ppm|GU|°C|°F|%|"
    r"(?:mm|cm|m)[²³23]|mg/L|g/L|mL/L|mg/kg|g/m[²2]|kg/m[²2]|t/ha|kg/ha|L/ha)$"
)
"""A unit at the end of a header, without brackets: Height cm."""
PLUSES = ("-", "–", "(+)", "+", "++", "+++", "++++")
"""Marks of how much there is, from none to most."""
DITTO = ("do.", "ditto", '"', "″", "〃", "''", "”", "do")
"""What says that a cell is as the one above it."""
BLANK = ("", "-", "–", "na", "n/a", "nan", "null", ".", "?", "missing")


@dataclass(frozen=True)
class ColumnMeaning:
    """What a column (name) is: one ``part`` (``aside``: why a sample was set aside; ``note``: remarks).  Of values also their outcome, the
    look (``checkpoint``, empty: the only one, or the one in the checkpoint column), what ``kind`` they are, of how many, their unit,
    which side is better, and of words and shades the ``order`` they stand in from one end to the other, with commas between (empty: the one
    that is known of such words)."""

    name: str
    part: Part
    outcome: str = ""
    checkpoint: str = ""
    kind: ValueKind = "measurement"
    of: int | None = None
    unit: str = ""
    better: Literal["more", "less", "none"] = "more"
    order: str = ""


@dataclass(frozen=True)
class Meaning:
    """All columns, and which treatment (as written; empty: none) is the control.  ``unsure``: columns (names) of which each could be what
    is compared; the first was taken for it, and somebody has to say."""

    columns: tuple[ColumnMeaning, ...]
    control: str = ""
    unsure: tuple[str, ...] = ()

    def those(self, part: Part) -> list[ColumnMeaning]:
        """The columns that are ``part``."""
        return [one for one in self.columns if one.part == part]
