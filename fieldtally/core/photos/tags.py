"""What the tags in a picture tell: which sample it shows, said only where nothing speaks against it.

A tag carries its sample's address as a square code, its three digits, and a check line with the letter that goes with them.  A square that
can be read names its sample.  Digits alone are misread now and then, and some read upside down as other digits: they count only where the
letter goes with them, or where they were read without doubt, no other trial has them too, and no other code of the trial is theirs turned.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

SAMPLE = re.compile(r"/s/([0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12})$")
CLOCK = re.compile(r"/now/(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ)$")
CHECKED = re.compile(r"^(?:check)?[\s.:]*(\d{3,5})\s*([A-Z])$", re.IGNORECASE)
BARE = re.compile(r"^\d{3,5}$")
TURNED = str.maketrans("01689", "01986")
WITHOUT_DOUBT = 0.97
WORTH_ASKING = 0.8
LETTER_READ = 0.85


@dataclass(frozen=True)
class Word:
    """A word in a picture, and how ``sure`` (0–1) it was read."""

    text: str
    sure: float


@dataclass(frozen=True)
class Sample:
    """A sample as its tag tells it: its code (digits) and the letter that goes with them."""

    code: str
    letter: str


@dataclass(frozen=True)
class Named:
    """The ``code`` that a picture shows (empty: it could not be told, and ``says`` why), and those that it ``may`` be."""

    code: str = ""
    says: str = ""
    may: tuple[str, ...] = ()


def clock_in(squares: Iterable[str]) -> datetime | None:
    """The moment that the application's own time code in a picture tells (UTC), of its ``squares`` (texts); None without one.

    >>> clock_in(["https://x.example/now/2026-11-28T09:05:10Z"]).isoformat(), clock_in([])
    ('2026-11-28T09:05:10+00:00', None)
    """
    told = next((found[1] for text in squares if (found := CLOCK.search(text))), None)
    if told is None:
        return None
    try:
        return datetime.strptime(told, "%Y-%m-%dT%H:%M:%SZ").replace(tzinfo=UTC)
    except ValueError:
        return None


def turned_round(code: str) -> str:
    """What ``code`` reads upside down; empty where it reads as nothing.

    >>> turned_round("806"), turned_round("412")
    ('908', '')
    """
    return code.translate(TURNED)[::-1] if set(code) <= set("01689") else ""


def named(
    squares: Sequence[str], words: Sequence[Word], samples: Mapping[str, Sample], elsewhere: Collection[str] = ()
) -> Named:
    """Which of the ``samples`` (by their ids) a picture shows, whose square codes say ``squares`` and in which these ``words`` stand.
    Codes that other trials have too (``elsewhere``) are believed with their letter only."""
    ids = list(dict.fromkeys(found[1] for text in squares if (found := SAMPLE.search(text))))
    by_square = [samples[one].code for one in ids if one in samples]
    strangers = [one for one in ids if one not in samples]
    checked, bare, doubtful = _digits(words, samples, elsewhere)
    told = list(dict.fromkeys([*by_square, *checked, *bare]))
    if len(told) > 1:
        return Named(
            "", f"Two tags are in the picture, {' and '.join(told[:2])}: say which sample it shows.", tuple(told)
        )
    if strangers:
        own = f" besides {told[0]}" if told else ""
        return Named("", f"A tag of another trial is in the picture{own}.", tuple(told))
    if told:
        return Named(told[0], "", tuple(told))
    if doubtful:
        return Named("", f"The tag may read {' or '.join(doubtful[:3])}: look, and say.", tuple(doubtful))
    return Named("", "No tag could be read in it.")


def _digits(
    words: Sequence[Word], samples: Mapping[str, Sample], elsewhere: Collection[str]
) -> tuple[list[str], list[str], list[str]]:
    """Codes that stand with their letter, those that were read without doubt, and those that somebody must look at."""
    letters = {one.code: one.letter for one in samples.values()}
    checked, bare, doubtful = [], [], []
    pairs = [(found[1], found[2].upper(), word.sure) for word in words if (found := CHECKED.match(word.text.strip()))]
    # Digits with another letter are those of another trial's tag, or of a tag that was misread.
    strange = {code for code, letter, sure in pairs if sure >= LETTER_READ and letters.get(code) not in (None, letter)}
    for word in words:
        text = word.text.strip()
        pair = CHECKED.match(text)
        if pair and letters.get(pair[1]) == pair[2].upper():
            checked.append(pair[1])
        elif text in strange:
            doubtful.append(text)
        elif BARE.match(text) and text in letters:
            other = turned_round(text)
            alone = text not in elsewhere and (other == text or other not in letters)
            if word.sure >= WITHOUT_DOUBT and alone:
                bare.append(text)
            elif word.sure >= WORTH_ASKING:
                doubtful += [text, *([other] if other in letters and other != text else [])]
    bare = [one for one in bare if one not in strange or one in checked]
    return checked, bare, [one for one in dict.fromkeys(doubtful) if one not in (*checked, *bare)]
