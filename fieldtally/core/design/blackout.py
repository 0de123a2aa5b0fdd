"""Blacking out of a text what would tell a blind person which treatment is meant.

A name is found however it is written: in any case, with or without accents, in other forms of the same letters (full width, ligatures),
with other hyphens and spaces or none, and in the plural.  Long words are found at the beginning of longer ones too; words of up to four
letters only by themselves, so that *tea* leaves *teaspoon* alone.
"""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from collections.abc import Iterable
from functools import lru_cache

HIDDEN = "▇▇▇"
LONG = 5
"""From so many letters on a word is found at the beginning of longer ones."""
SHORTEST_PART = 3
LETTERED = re.compile(
    r"\b(?:(?i:treatment|letter|sort)s?[\s:#№-]+[A-Za-z]"
    r"|(?i:group|product|kind|type|variant|version|recipe|mix|brand|batch|arm)s?[\s:#№-]+[A-Z])(?![^\W_])"
)
"""A letter that is called one of a treatment."""
SAID_ANYWHERE = """
    the and with without not nor for from into onto over under each every only other others same than that this these those
    one two three four five six seven eight nine ten new old big small half full first last more less most least none
    nothing any all per day days week weeks hour hours left right both
"""
COMMON = frozenset(SAID_ANYWHERE.split())
"""Words that tell nothing by themselves, whatever name they stand in."""


def _folded(text: str) -> tuple[str, list[int]]:
    """``text`` without case, accents and other forms, and for each of its letters the place in ``text`` that it came from."""
    letters: list[str] = []
    places: list[int] = []
    for place, letter in enumerate(text):
        for part in unicodedata.normalize("NFKD", letter):
            if unicodedata.combining(part) or unicodedata.category(part) == "Cf":
                continue
            for one in part.casefold():
                letters.append(one)
                places.append(place)
    return "".join(letters), places


def words_in(text: str) -> list[str]:
    """The words of ``text``, folded.

    >>> words_in("Crème-brûlée, 2 Löffel")
    ['creme', 'brulee', '2', 'loffel']
    """
    return re.findall(r"[^\W_]+", _folded(text)[0])


def _found_by(name: str) -> str | None:
    """What finds ``name`` in a folded text, as a regular expression; None where it is a single letter, which tells nothing."""
    words = words_in(name)
    if sum(map(len, words)) < 2:
        return None
    literal = re.escape(_folded(name.strip())[0])
    # Its singular finds the plural too.
    last = words[-1]
    stem = re.sub(r"(?<=..)(?:es|s)$", "", last) if len(last) > SHORTEST_PART else last
    end = r"" if len("".join(words)) >= LONG else r"(?:'s|’s|e?s)?(?![^\W_])"
    spread = r"[\W_]*".join([*map(re.escape, words[:-1]), re.escape(stem) + (r"(?:es|s)?" if stem != last else "")])
    return rf"(?:{literal}|{spread}){end}"


@lru_cache(maxsize=200)
def _pattern(names: frozenset[str]) -> re.Pattern[str] | None:
    """What finds any of ``names``, the longest first."""
    found = [one for name in sorted(names, key=lambda name: (-len(name), name)) if (one := _found_by(name))]
    return re.compile(rf"(?<![^\W_])(?:{'|'.join(found)})") if found else None


def blacked_out(text: str, names: Iterable[str]) -> str:
    """``text`` without ``names``, wherever a word begins with one, and without letters of treatments that are called so.

    >>> blacked_out("The Crème‐brûlées won", ["creme brulee"])
    'The ▇▇▇s won'
    >>> blacked_out("A teaspoon of tea on treatment B", ["Tea"])
    'A teaspoon of ▇▇▇ on treatment ▇▇▇'
    """
    return _black(text, frozenset(one.strip() for one in names)) if text else text


def telling_in(text: str, names: Iterable[str]) -> list[str]:
    """The pieces of ``text`` that would be blacked out, as they stand there, each once.

    >>> telling_in("The Brulées beat the others, as brulées do", ["Brulée"])
    ['Brulée', 'brulée']
    >>> telling_in("Rain on all of them", ["Brulée"])
    []
    """
    gone = _gone(text, frozenset(one.strip() for one in names))
    pieces = "".join(letter if gone[place] else "\0" for place, letter in enumerate(text)).split("\0")
    return list(dict.fromkeys(piece for piece in pieces if piece))


def _gone(text: str, names: frozenset[str]) -> list[bool]:
    """For each letter of ``text`` whether it is blacked out."""
    folded, places = _folded(text)
    gone = [False] * len(text)
    pattern = _pattern(names)
    for found in pattern.finditer(folded) if pattern else ():
        for place in range(places[found.start()], places[found.end() - 1] + 1):
            gone[place] = True
    for found in LETTERED.finditer(text):
        gone[found.end() - 1] = True
    return gone


@lru_cache(maxsize=4_000)
def _black(text: str, names: frozenset[str]) -> str:
    gone = _gone(text, names)
    if not any(gone):
        return text
    out: list[str] = []
    for place, letter in enumerate(text):
        if not gone[place]:
            out.append(letter)
        elif not place or not gone[place - 1]:
            out.append(HIDDEN)
    return "".join(out)


def telling_parts(treatments: Iterable[str], products: Iterable[str], neutral: Iterable[str]) -> list[str]:
    """The words of names that tell a treatment by themselves: those that stand in the name of one treatment alone, or in none and in one
    product's; no common ones, and none that stand in the ``neutral`` texts that everybody reads (apart from whole names in these).

    >>> telling_parts(["Vine leaf", "Oak leaf"], ["Brightol drops"], ["Crunch of the jar, in drops"])
    ['brightol', 'oak', 'vine']
    """
    ours, theirs = ([one for one in names if one.strip()] for names in (treatments, products))
    known = {word for text in neutral for word in words_in(blacked_out(text, [*ours, *theirs]))}
    in_ours, in_theirs = (Counter(word for one in names for word in set(words_in(one))) for names in (ours, theirs))
    several = {word for one in (*ours, *theirs) if len(words_in(one)) > 1 for word in words_in(one)}
    return sorted(
        word
        for word in several - known
        if len(word) >= SHORTEST_PART
        and not word.isdigit()
        and word not in COMMON
        and (in_ours[word] == 1 or (not in_ours[word] and in_theirs[word] == 1))
    )
