"""A trial in somebody's own words, read into the parts of a plan: what was understood stands at its words, what was not is asked."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, get_args

from fieldtally.core.describing.counts import COMPARED, ToldCount, counts_in
from fieldtally.core.describing.looks import ToldLooks, looks_in
from fieldtally.core.describing.outcomes import ToldOutcome, outcomes_in
from fieldtally.core.describing.places import places_by_name, places_in
from fieldtally.core.describing.reader import Part, Reader, WordMark
from fieldtally.core.describing.treatments import ToldTreatment, content, treatments_in
from fieldtally.core.describing.words import NUMBER, PEOPLE, number
from fieldtally.core.design.plan import TreatmentKind
from fieldtally.core.problems import Refused
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.scales import MeasurementScale

LONGEST = 4_000
"""Characters of a description that are read."""
BLIND = (
    r"\b(?:blind(?:ed|ly)?|(?:someone|somebody)\s+who\s+does\s+not\s+know\s+[^.;\n]*|"
    r"(?:nobody|no\s+one|i|we)\s+(?:should\s+|must\s+|shall\s+)?(?:not\s+)?knows?\s+which\s+is\s+which|(?:by\s+)?codes?\s+only)\b"
)
BEGUN = (
    r"\b(?:(?:we\s+|i\s+)?(?:have\s+)?(?:already\s+)?(?:began|begun|started|sown|planted|set\s+up)\s+"
    r"(?:already|on\s+\d[^.;,\n]*|last\s+\w+|yesterday|\w+\s+(?:days?|weeks?|months?)\s+ago)|has\s+(?:already\s+)?begun)\b"
)
EVERYWHERE = re.compile(
    r"\b(?:in|on|at|per)\s+(?:each|every)\b(?!\s+of\b)|\beach\s+(?:field|bed|bench|block|place)\b|\bin\s+\w+\s+blocks\b|"
    rf"\band\s+(?:another\s+)?{NUMBER}\s+(?:more\s+)?(?:on|in|at|under)\s+the\b",
    re.I,
)
TASTED = re.compile(
    rf"\b(?:tast(?:e|es|ed|ing)|tasters?|triangle|sip|panel|prefer|tell\s+(?:them\s+)?apart|by\s+taste)\b|\b{PEOPLE}\s+(?:prefer|like|choose)\b|"
    r"\bcan\s+(?:anyone|anybody|\w+\s+people)\s+tell\b|\blike\s+(?:best|more|better)\b",
    re.I,
)
INSTRUMENT = re.compile(
    r"\b(?:kit|meter|scale|thermometer|instrument|sensor|strip|gauge|probe|hygrometer|balance)s?\b", re.I
)
AGREE = re.compile(
    r"\bagree(?:s|ment)?\b|\bread(?:s|ing)?\s+(?:all\s+)?the\s+same\b|\b(?:measure|read|tell)s?\s+(?:\w+\s+){0,2}as\s+well\s+as\b",
    re.I,
)
HALVED = "half of each"


@dataclass(frozen=True)
class Righted:
    """Somebody's word on a piece of the text, from ``begin`` to ``end`` and reading ``text`` there: it is ``part``."""

    begin: int
    end: int
    text: str
    part: Part


@dataclass(frozen=True)
class OpenQuestion:
    """A question on what the words leave open, and the part of the plan in which it is answered.  ``about``: what of the drawing answers
    it, too (``each``: the number of each, ``names``, or the ``unit`` of the outcome called ``of``; empty: nothing there does), or which
    other kind of trial it may be: a ``tasting``, or ``instruments`` held against each other."""

    part: str
    says: str
    about: Literal["", "each", "names", "unit", "tasting", "instruments"] = ""
    of: str = ""


@dataclass(frozen=True)
class Description:
    """What a text was understood to say, with the marks at its words and what it leaves open, the weightiest first.

    ``each``: how many samples of each treatment there are in every place (None: not told).
    """

    treatments: tuple[ToldTreatment, ...]
    each: int | None
    count: ToldCount
    places: tuple[str, ...]
    outcomes: tuple[ToldOutcome, ...]
    looks: ToldLooks
    blind: bool
    begun: bool
    question: str
    marks: tuple[WordMark, ...]
    asked: tuple[OpenQuestion, ...]


def describe(text: str, righted: Sequence[Righted] = ()) -> Description:
    """What ``text`` says of a trial.

    >>> told = describe("jute, hemp and nylon, five lengths each; load in kg after 4 and 8 weeks. Jute is what we use now.")
    >>> [one.name for one in told.treatments], told.each, [one.name for one in told.outcomes], [one.name for one in told.looks.looks]
    (['Jute', 'Hemp', 'Nylon'], 5, ['Load'], ['Week 4', 'Week 8'])
    >>> [one.says for one in told.asked]
    []

    :raises Refused: it is longer than ``LONGEST``.
    """
    if len(text) > LONGEST:
        raise Refused(
            f"That is longer than {LONGEST:,} characters; the first words on what is compared are enough.", "text"
        )
    own = [one for one in righted if text[one.begin : one.end] == one.text]
    text, stood = _squeezed(text)
    own = [replace(one, begin=bisect_left(stood, one.begin), end=bisect_left(stood, one.end)) for one in own]
    reader = Reader(text)
    by_hand = _by_hand(reader, own)
    named = places_by_name(reader)
    looks = _with_looks(looks_in(reader), by_hand["look"])
    count = counts_in(reader)
    blind = bool(by_hand["blind"]) or _said(reader, BLIND, "blind", "scored blind")
    begun = bool(by_hand["begun"]) or _said(reader, BEGUN, "begun", "it has begun already")
    outcomes = [
        *outcomes_in(reader),
        *(ToldOutcome(_capital(one), MeasurementScale(""), "more", "scale") for one in by_hand["outcome"]),
    ]
    places = [*(named or places_in(reader)), *map(_capital, by_hand["place"])]
    pointed = [one for one in own if one.part in ("treatment", "control")]
    for one in pointed:
        reader.show(one.begin, one.end)
    treatments = treatments_in(reader)
    for one in pointed:
        treatments = _with_name(treatments, one, reader)
    if not treatments and named and count.each and COMPARED.fullmatch(count.sample):
        # 27 substances on three cloths: so many are compared, and how many of each is not told.
        treatments, count = _so_many(count, reader), replace(count, each=None, sample="")
    if not treatments and len(places) > 1:
        # Nothing else is compared: then it is the places.
        treatments, places = [ToldTreatment(name) for name in places], []
        reader.marks = [replace(mark, part="treatment") if mark.part == "place" else mark for mark in reader.marks]
    for told in by_hand["number"]:
        found = re.search(NUMBER, told, re.I)
        count = replace(count, each=int(number(found[0])) if found else count.each, total=None)
    each, treatments, uneven = _each(count, treatments, places, reader)
    marks = tuple(
        replace(mark, begin=stood[mark.begin], end=stood[mark.end - 1] + 1)
        for mark in sorted(reader.marks, key=lambda mark: mark.begin)
    )
    asked = tuple(_open(text, treatments, each, uneven, places, outcomes, looks))
    return Description(
        tuple(treatments),
        each,
        count,
        tuple(places),
        tuple(outcomes),
        looks,
        blind,
        begun,
        _question(text),
        marks,
        asked,
    )


MOST_COUNTED = 60


def _so_many(count: ToldCount, reader: Reader) -> list[ToldTreatment]:
    """As many treatments without names as were told; the mark at their number says so."""
    many, name = count.each or 0, _capital(count.sample)
    if not 2 <= many <= MOST_COUNTED:
        return []
    says = f"{many} {noun(count.sample).many}, whose names are asked"
    reader.marks = [
        replace(mark, part="treatment", says=says) if mark.part == "number" and count.sample in mark.says else mark
        for mark in reader.marks
    ]
    return [ToldTreatment(f"{name} {i}", unnamed=True) for i in range(1, many + 1)]


def _squeezed(text: str) -> tuple[str, list[int]]:
    """``text`` with no more than two blanks on end, and where each of its characters stood."""
    stood = [i for i in range(len(text)) if not (text[i].isspace() and text[max(0, i - 2) : i].isspace() and i > 1)]
    return "".join(text[i] for i in stood), stood


def _by_hand(reader: Reader, righted: Sequence[Righted]) -> dict[str, list[str]]:
    """The texts that somebody told the part of, by part; no rule reads them any more."""
    found: dict[str, list[str]] = {part: [] for part in get_args(Part)}
    for one in sorted(righted, key=lambda each: each.begin):
        if one.part == "nothing":
            reader.blank(one.begin, one.end)
        elif one.part in ("treatment", "control"):
            # Beside the others in its list it is understood best.
            reader.hide(one.begin, one.end)
        else:
            reader.take(one.begin, one.end, one.part, f"{one.text.strip()}, as you told")
        found[one.part].append(one.text.strip())
    return found


def _with_name(treatments: list[ToldTreatment], one: Righted, reader: Reader) -> list[ToldTreatment]:
    """``treatments`` with the one that somebody pointed at, as what they said."""
    name, part = _capital(one.text.strip()), one.part
    words = set(content(name))
    kind: TreatmentKind = "untreated" if part == "control" else "treatment"
    at = next((i for i, each in enumerate(treatments) if words and words == set(content(each.name))), None)
    told = f"{name}, as you told" + (": control" if part == "control" else "")
    marks = [mark for mark in reader.marks if mark.end <= one.begin or mark.begin >= one.end]
    reader.marks = [*marks, WordMark(one.begin, one.end, part, told)]
    reader.blank(one.begin, one.end)
    if at is None:
        return [*treatments, ToldTreatment(name, kind)]
    return [replace(each, kind=kind) if i == at else each for i, each in enumerate(treatments)]


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:120]


def _with_looks(looks: ToldLooks, told: Sequence[str]) -> ToldLooks:
    """``looks`` with those that somebody pointed at; a piece that is no rule is asked about."""
    for one in told:
        more = looks_in(
            Reader(one if re.match(r"\s*(?:every|after|at|on|in|for|\w+ly)\b", one, re.I) else f"after {one}")
        )
        unsaid = looks.unsaid if more.looks else (*looks.unsaid, one)
        known = {(look.offset, look.cycle) for look in looks.looks}
        fresh = [look for look in more.looks if (look.offset, look.cycle) not in known]
        ordered = sorted(
            [*looks.looks, *fresh], key=lambda look: (not look.baseline, look.offset or 0, look.cycle or 0)
        )
        looks = ToldLooks(tuple(ordered), looks.cycle_word or more.cycle_word, unsaid)
    return looks


def _said(reader: Reader, pattern: str, part: Part, says: str) -> bool:
    found = False
    for match in reader.find(pattern):
        reader.take(match.start(), match.end(), part, says)
        found = True
    return found


def _each(
    count: ToldCount, treatments: list[ToldTreatment], places: Sequence[str], reader: Reader
) -> tuple[int | None, list[ToldTreatment], int]:
    """How many samples of each there are in every place, the treatments with numbers of their own where these differ, and what is over
    where a number in all does not part evenly."""
    own = {one.samples for one in treatments}
    each, over = count.each, 0
    many = max(1, len(places))
    if len(own) == 1 and None not in own:
        each = own.pop()
        treatments = [replace(one, samples=None) for one in treatments]
    if count.total is not None and each is None and treatments:
        each, over = divmod(count.total, len(treatments) * many)
        each = each or None
    elif each is not None and any(mark.says.endswith(HALVED) for mark in reader.marks):
        each, over = max(1, each // many), each % many
    return each, treatments, over


def _question(text: str) -> str:
    """The question in the text's own words: what ends in a question mark, else its first sentence."""
    sentences = [one.strip() for one in re.split(r"(?<=[.;?!])\s+|\n+", text.strip()) if one.strip()]
    asked = next((one for one in sentences if one.endswith("?")), "")
    if asked:
        return asked[:1].upper() + asked[1:300]
    told = next((one for one in sentences if re.search(r"\b(?:whether|which|if|see|find\s+out|know)\b", one, re.I)), "")
    return told[:1].upper() + told[1:300]


def _open(
    text: str,
    treatments: Sequence[ToldTreatment],
    each: int | None,
    over: int,
    places: Sequence[str],
    outcomes: Sequence[ToldOutcome],
    looks: ToldLooks,
) -> list[OpenQuestion]:
    """What the words leave open, the weightiest first."""
    found: list[OpenQuestion] = []
    if len(treatments) < 2:
        told = f"“{treatments[0].name}” against what?" if treatments else "What is compared with what?"
        found.append(OpenQuestion("treatments", f"{told} Name each on a line, or with “or” between them."))
    found.extend(_other_kinds(text, outcomes))
    if not outcomes:
        found.append(
            OpenQuestion(
                "outcomes", "What will you look at to tell which is better: weighed, counted, graded 0 to 5, yes or no?"
            )
        )
    if len(treatments) > 1 and not any(one.kind != "treatment" for one in treatments):
        found.append(
            OpenQuestion(
                "treatments",
                "Which of them is the control: what you do today, or nothing at all? Without one you learn only which did better.",
            )
        )
    if each is None and not any(one.samples for one in treatments) and treatments:
        found.append(
            OpenQuestion(
                "treatments", "How many of each? Four are put down until you say; six to ten tell more.", "each"
            )
        )
    unnamed = sum(one.unnamed for one in treatments)
    if unnamed:
        found.append(
            OpenQuestion(
                "treatments",
                f"What are the names of the {unnamed} that are only counted?"
                if unnamed > 1
                else "What is the name of the one that is only counted?",
                "names",
            )
        )
    if over:
        found.append(OpenQuestion("treatments", f"The number in all does not part evenly; {over} would be left over."))
    if len(places) > 1 and each is not None and not EVERYWHERE.search(text):
        found.append(OpenQuestion("layout", f"Are there {each} of each in every place, as taken here, or in all?"))
    for outcome in outcomes:
        if outcome.open == "unit":
            found.append(OpenQuestion("outcomes", f"In what unit is “{outcome.name}” measured?", "unit", outcome.name))
        elif outcome.open:
            found.append(OpenQuestion("outcomes", f"On what scale is “{outcome.name}” told?"))
    if looks.unsaid:
        found.append(OpenQuestion("looks", f"How many days after the start is “{looks.unsaid[0]}”?"))
    elif not looks.looks:
        found.append(
            OpenQuestion("looks", "When do you look, counted from the start: after so many hours, days, weeks or uses?")
        )
    return found


def _other_kinds(text: str, outcomes: Sequence[ToldOutcome]) -> list[OpenQuestion]:
    """Kinds of trial that are planned in another way, and that this may be."""
    found: list[OpenQuestion] = []
    if INSTRUMENT.search(text) and AGREE.search(text):
        says = "Do instruments read the same samples, and you ask whether they agree?"
        found.append(OpenQuestion("treatments", says, "instruments"))
    if not outcomes and TASTED.search(text):
        found.append(OpenQuestion("outcomes", "Will people taste them, or choose between them?", "tasting"))
    return found
