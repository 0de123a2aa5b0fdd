"""Finding hazards in what people write: in each place where something is used, and where two things meet."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from fieldtally.core.hazards.catalogue import DEFERS, FORBIDDEN, HAZARDS, Hazard


@dataclass(frozen=True)
class Use:
    """Something that is used: where it is written (a path), its words, and the vessel or place in which it is used.

    Uses in the same ``vessel`` meet; an empty one meets every other (a cleaning step that goes over all of them).
    """

    at: str
    words: str
    vessel: str = ""


@dataclass(frozen=True)
class Caution:
    """What is usual where a hazard was found: at these places, because of these words."""

    key: str
    name: str
    found: tuple[str, ...]
    at: tuple[str, ...]
    usual: tuple[str, ...]
    defers: str = DEFERS


@dataclass(frozen=True)
class Clash:
    """Two uses that must not meet, and why, in a sentence."""

    first: str
    second: str
    says: str


def named_in(words: str, hazard: Hazard, *, alone: bool = False) -> str | None:
    """The word of ``hazard`` that stands in ``words``, or None; where it stands ``alone``, only one that matters then.  “Acid-free”
    and “non-acid” name no acid.

    >>> named_in("Household bleach, thick", HAZARDS[1]), named_in("acid-free paper", HAZARDS[0])
    ('bleach', None)
    """
    for word in hazard.words:
        if alone and word in hazard.harmless_alone:
            continue
        for found in re.finditer(rf"(?<!\w){re.escape(word)}\w*", words, re.IGNORECASE):
            before, after = words[: found.start()].casefold(), words[found.end() :].casefold()
            if after.startswith(("-free", " free")) or re.search(r"(non[- ]|no |without |un)$", before):
                continue
            return word
    return None


def cautions_for(uses: Iterable[Use]) -> tuple[Caution, ...]:
    """The cautions for ``uses``, in the order of the catalogue."""
    known = list(uses)
    found = []
    for hazard in HAZARDS:
        hits = [(use.at, word) for use in known if (word := named_in(use.words, hazard, alone=True))]
        if hits:
            found.append(
                Caution(
                    hazard.key,
                    hazard.name,
                    tuple(dict.fromkeys(word for _, word in hits)),
                    tuple(dict.fromkeys(at for at, _ in hits)),
                    hazard.usual,
                )
            )
    return tuple(found)


def clashes_in(uses: Sequence[Use]) -> tuple[Clash, ...]:
    """Every two of ``uses`` that meet and must not; within one use, too (bleach and vinegar in one mix)."""
    kinds = [(use, {hazard.key: word for hazard in HAZARDS if (word := named_in(use.words, hazard))}) for use in uses]
    found = []
    for (one, mine), (two, theirs) in itertools.combinations_with_replacement(kinds, 2):
        if one is not two and one.vessel and two.vessel and one.vessel.casefold() != two.vessel.casefold():
            continue
        for pair in FORBIDDEN:
            for first, second in ((pair.first, pair.second), (pair.second, pair.first)):
                if first in mine and second in theirs and not (one is two and first == pair.second):
                    where = "" if one is two or not one.vessel else f" in {one.vessel}"
                    found.append(
                        Clash(
                            one.at,
                            two.at,
                            f"{mine[first].capitalize()} and {theirs[second]} must not meet{where}: {pair.because}. "
                            f"Use separate vessels and tools, rinsed and dry, or leave one out. {DEFERS}",
                        )
                    )
    return tuple(dict.fromkeys(found))
