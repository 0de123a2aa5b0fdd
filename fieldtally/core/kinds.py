"""The kinds of columns that are compared, in words that the command takes."""

from __future__ import annotations

from typing import Literal, get_args

Kind = Literal["measurement", "grade", "passfail", "count", "percent", "event", "ladder"]
KINDS: tuple[Kind, ...] = get_args(Kind)
