"""Blind repeats: which samples come back in a round, and under which second codes.

Source: METHODS, section 5: a tenth or so of the samples come back in the same round under a second code.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence

from fieldtally.core.blinding.codes import plain_codes
from fieldtally.core.design.plan import MOST_REPEATED
from fieldtally.core.randomness import Draw


def draw_repeats(codes: Sequence[str], share: float, taken: Collection[str], draw: Draw) -> dict[str, str]:
    """For about ``share`` of the samples with ``codes`` (at least one of them, at most half), a second code that is not ``taken``.

    >>> found = draw_repeats(["412", "538", "207", "964"], 0.1, {"412", "538", "207", "964"}, Draw("00ff", "repeats"))
    >>> len(found), set(found) <= {"412", "538", "207", "964"}, set(found.values()) & set(found)
    (1, True, set())
    """
    if not codes or share <= 0:
        return {}
    many = min(max(1, round(share * len(codes))), max(1, int(MOST_REPEATED * len(codes))))
    back = draw.shuffled(sorted(codes))[:many]
    digits = max(len(code) for code in codes)
    free = [code for code in plain_codes(digits) if code not in taken]
    while len(free) < many:
        digits += 1
        free = [code for code in plain_codes(digits) if code not in taken]
    return dict(zip(back, draw.shuffled(free)[:many], strict=True))
