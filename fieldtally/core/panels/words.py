"""What a panel found, in a sentence that can be read out."""

from __future__ import annotations

import re

from fieldtally.core.panels.discriminating import Discrimination
from fieldtally.core.panels.methods import METHODS
from fieldtally.core.panels.monitoring import Monitored

WORD = re.compile(r"[^\W\d_][^\W\d_'’-]{2,}")
_EMPTY = """about all and are bit but can could did does for from had has have how into its just kind like little more most much not
one ones only other quite rather really same seems some than that the their them then there they this too two very was were what which
with would you your"""
EMPTY = frozenset(_EMPTY.split())
DID = {
    "triangle": "found the odd one",
    "duo-trio": "found the one like the reference",
    "abx": "told what X was",
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


def told(found: Discrimination, least: int | None = None) -> str:
    """The count, the number needed (``least``, where it was looked at while it ran), and how many truly notice.

    >>> from fieldtally.core.panels.discriminating import discriminate
    >>> told(discriminate("triangle", 24, 14))
    '14 of 24 found the odd one; 13 were needed. About 38 % truly notice, between 5 % and 67 %.'
    """
    did = DID[METHODS[found.method].key]
    least = found.needed if least is None else least
    if least > found.n:
        return f"{found.correct} of {found.n} {did}; with so few not even all of them would have shown a difference."
    about = hundredths(found.pd.value)
    between = f"between {hundredths(found.pd.low)} and {hundredths(found.pd.high)}"
    if found.correct >= least:
        return f"{found.correct} of {found.n} {did}; {least} were needed. About {about} truly notice, {between}."
    short = least - found.correct
    return (
        f"{found.correct} of {found.n} {did}; {least} were needed, {short} more than there were. That shows no difference, "
        f"and does not show that there is none: {between} may truly notice."
    )


def told_early(found: Discrimination, seen: Monitored) -> str:
    """The same where looks were planned: told by the look that showed a difference, else by the last one."""
    if seen.crossed is None:
        done = len(seen.right) == len(seen.looks)
        return told(found, seen.looks[-1].needed) if done else f"Ended before its last look. {told(found)}"
    look = seen.looks[seen.crossed]
    return (
        f"At the look after {look.n} answers {seen.right[seen.crossed]} of {look.n} {DID[METHODS[found.method].key]}; {look.needed} were "
        f"needed then. In all {found.correct} of {found.n}: about {hundredths(found.pd.value)} truly notice, between "
        f"{hundredths(found.pd.low)} and {hundredths(found.pd.high)}."
    )


def spoken(text: str) -> list[str]:
    """The words of a comment that may mean something, in small letters, each once.

    >>> spoken("It was crisp, and very CRISP; a bit sour")
    ['crisp', 'sour']
    """
    return list(dict.fromkeys(word for word in WORD.findall(text.lower()) if word not in EMPTY))
