"""What a panel found, in a sentence that can be read out."""

from __future__ import annotations

import re

from scipy.stats import binom

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
    by = " by person" if found.effective is not None else ""
    if least > found.n:
        return (
            f"{found.correct} of {found.n} {did}; with so few not even all of them would have shown a difference{by}."
        )
    if found.correct >= least:
        return f"{found.correct} of {found.n} {did}; {least} were needed{by}. {notice(found)}"
    short = least - found.correct
    return (
        f"{found.correct} of {found.n} {did}; {least} were needed{by}, {short} more than there were. That shows no difference, "
        f"and does not show that there is none: {_may(found)}{_other_way(found)}"
    )


def notice(found: Discrimination) -> str:
    """How many truly notice, where a difference is shown; the bounds never say that it may be nobody.

    >>> from fieldtally.core.panels.discriminating import discriminate
    >>> notice(discriminate("triangle", 24, 13))
    'About 31 % truly notice, at least 4 % and at most 62 %.'
    """
    about = f"About {hundredths(found.pd.value)} truly notice"
    if found.pd.low > 0:
        return f"{about}, between {hundredths(found.pd.low)} and {hundredths(found.pd.high)}."
    return f"{about}, at least {hundredths(found.lower_pd())} and at most {hundredths(found.pd.high)}."


def _may(found: Discrimination) -> str:
    if found.pd.high <= 0:
        return "so few right answers are what comes about where nobody notices."
    return f"between {hundredths(found.pd.low)} and {hundredths(found.pd.high)} may truly notice."


def _other_way(found: Discrimination) -> str:
    """Of a pair in which one was expected to be more: what is to be said where the other was chosen more often than chance gives."""
    other = found.n - found.correct
    if found.method != "2-afc" or found.effective is not None:
        return ""
    p = float(binom.sf(other - 1, found.n, 0.5))
    if p > found.alpha:
        return ""
    return f" The other one was chosen {other} times of {found.n}, more often than chance gives: ask which is more without expecting one."


def told_early(found: Discrimination, seen: Monitored) -> str:
    """The same where looks were planned: told by the look that showed a difference, else by the last one."""
    if seen.crossed is None:
        done = len(seen.right) == len(seen.looks)
        return told(found, seen.looks[-1].needed) if done else f"Ended before its last look. {told(found)}"
    look = seen.looks[seen.crossed]
    return (
        f"At the look after {look.n} answers {seen.right[seen.crossed]} of {look.n} {DID[METHODS[found.method].key]}; {look.needed} were "
        f"needed then. In all {found.correct} of {found.n}. {notice(found)}"
    )


def spoken(text: str) -> list[str]:
    """The words of a comment that may mean something, in small letters, each once.

    >>> spoken("It was crisp, and very CRISP; a bit sour")
    ['crisp', 'sour']
    """
    return list(dict.fromkeys(word for word in WORD.findall(text.lower()) if word not in EMPTY))
