"""The application log: what was planned for a sample against what it was given."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from fieldtally.core.dosing.measuring import WARNS_ABOVE
from fieldtally.core.dosing.rates import base
from fieldtally.core.problems import Refused
from fieldtally.core.quantities.amounts import amount_in, told
from fieldtally.core.quantities.units import System


@dataclass(frozen=True)
class Off:
    """How far a given amount lies from the planned one: ``share`` of the planned (−0.2: a fifth too little), whether that is more
    than measuring explains, and the sentence about it."""

    share: float
    matters: bool
    says: str


def off_plan(planned: float, given: float, unit: str) -> Off:
    """How far ``given`` lies from ``planned`` (both in ``unit``; planned above 0).

    >>> off_plan(4.0, 3.2, "mL").says
    '3.2 mL given where 4 mL were planned: 20 % too little.'
    """
    share = (given - planned) / planned
    matters = abs(share) > WARNS_ABOVE + 1e-9
    if not matters:
        return Off(share, False, f"{told(given, unit)} given, as planned.")
    way = "too little" if share < 0 else "too much"
    return Off(
        share,
        True,
        f"{told(given, unit)} given where {told(planned, unit)} were planned: {told(abs(100 * share), '%', 2)} {way}.",
    )


def given_in(text: str, unit: str, system: System = "metric") -> float:
    """The amount written in ``text``, in ``unit`` (mL or g); a bare number is taken to be in that unit.

    :raises Refused: it is not understood, or measures something else.
    """
    written = text.strip()
    if written and written.replace(",", ".").replace(".", "", 1).isdigit():
        written = f"{written} {unit}"
    value, found = base(amount_in(written, system))
    if found != unit:
        raise Refused(f"“{text.strip()}” is told in {found}; this dose is in {unit}.")
    return value


@dataclass(frozen=True)
class ByVersion:
    """Samples (codes) that were given another amount of the same dose than the others, because the plan was changed midway."""

    version: int
    amount: str
    codes: tuple[str, ...]


def by_version(applied: Iterable[tuple[int, str, str]]) -> tuple[ByVersion, ...]:
    """Which samples got what under which version of the plan (0: as sealed), from rows of version, amount as told and code."""
    found: dict[tuple[int, str], list[str]] = {}
    for version, amount, code in applied:
        found.setdefault((version, amount), []).append(code)
    return tuple(
        ByVersion(version, amount, tuple(sorted(set(codes)))) for (version, amount), codes in sorted(found.items())
    )


WARMER = 2.0
"""K: temperatures closer than that are the same setting."""


def setting_off(planned: str, given: str, system: System = "metric") -> str:
    """How the setting of a cycle differs from the planned one, in a sentence; empty where it does not, or none was planned.

    >>> setting_off("40 °C", "104 °F"), setting_off("1 h", "30 min")
    ('', '30 min where 1 h was planned.')
    """
    wanted, was = planned.strip(), given.strip()
    if not wanted or wanted.casefold() == was.casefold():
        return ""
    if was and _alike(wanted, was, system):
        return ""
    return f"{was or 'nothing told'} where {wanted} was planned."


def _alike(planned: str, given: str, system: System) -> bool:
    try:
        first, second = amount_in(planned, system), amount_in(given, system)
        if first.dimension != second.dimension:
            return False
        if first.dimension == "temperature":
            return abs(first.to("kelvin") - second.to("kelvin")) < WARMER
        return abs(second.to(first.unit) - first.value) <= WARNS_ABOVE * abs(first.value)
    except Refused:
        return False
