"""The check letter of a tag: a wrong digit, two digits exchanged, or a tag of another trial are noticed when it is typed.

The letter is a weighted sum of the digits modulo 23 (a prime above every weight and digit), shifted by a number of the trial's own;
letters that look like digits or each other are left out.  It is computed from the code alone, so it tells nothing else.
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Collection

from fieldtally.core.problems import Refused

LETTERS = "ABCDEFHJKLMNPQRSTUVWXYZ"


def check_letter(code: str, trial: str) -> str:
    """The check letter of ``code`` (digits) in ``trial`` (any name of its own).

    >>> check_letter("412", "x") != check_letter("421", "x")
    True
    """
    salt = int.from_bytes(hashlib.sha256(trial.encode()).digest()[:4])
    total = sum(int(digit) * (i + 2) for i, digit in enumerate(code))
    return LETTERS[(total + salt) % len(LETTERS)]


def code_on_tag(text: str, trial: str, codes: Collection[str]) -> str:
    """The code that is meant by what was typed: ``412``, ``412 K``, ``412-k``.

    :raises Refused: it is no code of this trial, or its letter does not fit.
    """
    found = re.fullmatch(r"\s*([0-9]+)\s*[-·.]?\s*([A-Za-z]?)\s*", text)
    if found is None:
        raise Refused(
            f"“{text.strip()}” is no code: type the three digits of the tag, with its letter if you like.", "code"
        )
    code, letter = found[1], found[2].upper()
    if letter and letter != check_letter(code, trial):
        raise Refused(
            f"The letter {letter} does not go with {code} in this trial: a digit is wrong, or the tag belongs to another one.",
            "code",
        )
    if code not in codes:
        raise Refused(f"There is no sample {code} in this trial.", "code")
    return code
