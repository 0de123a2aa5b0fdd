"""What a panel found, in a sentence that can be read out."""

from __future__ import annotations

from fieldtally.core.panels.discriminating import Discrimination
from fieldtally.core.panels.methods import METHODS

DID = {
    "triangle": "found the odd one",
    "duo-trio": "found the one like the reference",
    "2-afc": "chose the one that is more",
    "3-afc": "chose the one that is more",
    "tetrad": "sorted the pairs right",
}


def hundredths(share: float) -> str:
    """A share in whole hundredths.

    >>> hundredths(0.375), hundredths(0.0049), hundredths(1.0)
    ('38 %', 'under 1 %', '100 %')
    """
    if 0 < share < 0.005:
        return "under 1 %"
    return f"{round(100 * share)} %"


def told(found: Discrimination) -> str:
    """The count, the number needed, and how many truly notice.

    >>> from fieldtally.core.panels.discriminating import discriminate
    >>> told(discriminate("triangle", 24, 14))
    '14 of 24 found the odd one; 13 were needed. About 38 % truly notice, between 5 % and 67 %.'
    """
    did = DID[METHODS[found.method].key]
    if found.needed > found.n:
        return f"{found.correct} of {found.n} {did}; with so few not even all of them would have shown a difference."
    about = hundredths(found.pd.value)
    between = f"between {hundredths(found.pd.low)} and {hundredths(found.pd.high)}"
    if found.found:
        return f"{found.correct} of {found.n} {did}; {found.needed} were needed. About {about} truly notice, {between}."
    short = found.needed - found.correct
    return (
        f"{found.correct} of {found.n} {did}; {found.needed} were needed, {short} more than there were. That shows no difference, "
        f"and does not show that there is none: {between} may truly notice."
    )
