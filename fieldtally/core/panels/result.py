"""What a panel found: the count against the number needed, by person, experience, place and session; preference under both schools; names,
ranks; words for each side; and the same with everybody counted."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np

from fieldtally.core.panels.chance import by_chance
from fieldtally.core.panels.discriminating import (
    Discrimination,
    assessors_alike,
    assessors_for,
    discriminate,
    most_alike,
)
from fieldtally.core.panels.grading import GradedAttribute, graded
from fieldtally.core.panels.methods import METHODS
from fieldtally.core.panels.monitoring import Monitored, looked
from fieldtally.core.panels.naming import Named, named
from fieldtally.core.panels.persons import (
    ByPerson,
    between_groups_p,
    by_person,
    chance_by_person,
    counted_by_person,
    favoured_by_person,
    liked_by_person,
    most_alike_by_person,
    named_by_person,
    of_each,
    ranks_by_person,
    told_by_person,
)
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.preferring import RULES, Favoured, Preferred, favoured, preferred
from fieldtally.core.panels.ranking import Ranked, ranked
from fieldtally.core.panels.serving import LETTERS, is_right
from fieldtally.core.panels.telling import Told, told_apart
from fieldtally.core.panels.words import hundredths, spoken, told, told_early
from fieldtally.core.quantities.numbers import honest

K = TypeVar("K")
SURE = {1: "1 guessed", 2: "2 rather guessed", 3: "3 rather sure", 4: "4 sure"}


@dataclass(frozen=True)
class Judged:
    """One judgement: by whom, how used to it they are, in which session, of cups in which order, with which answer (places); ``left_out``
    says why it does not count.  ``grades``: for each attribute of the plan one for each cup."""

    person: str
    experience: str
    session: int
    order: str
    answer: tuple[int, ...]
    preference: int | None = None
    chips: tuple[str, ...] = ()
    words: str = ""
    left_out: str = ""
    grades: tuple[tuple[int | None, ...], ...] = ()
    confidence: int | None = None


@dataclass(frozen=True)
class Part:
    """A part of the judgements, named, with how many of them were right."""

    name: str
    n: int
    right: int


@dataclass(frozen=True)
class PreferenceSchools:
    """Preference among all who judged, and among those alone who were right; each under every rule for those without one."""

    everybody: tuple[Preferred, ...]
    those_right: tuple[Preferred, ...]


@dataclass(frozen=True)
class PanelFinding:
    """All that the judgements tell.

    ``n`` answers of ``people_counted`` people; where they are several of one person, all that is found is by person.  ``differs``: between
    whom it differs by more than chance, a sentence each.  ``chance``: how often guessing gives each count; ``most``: where alike is asked
    the largest count that would do; ``people``: each with how many of theirs were right, ``confidence`` by how sure they were;
    ``closest``: where nothing was shown, what came closest to it; ``settle``: judgements that would probably settle it, where the share
    who notice is what was seen (None: not to be told, or settled); ``words``: tapped and written ones, by the side that was liked,
    ``comments`` whole.
    """

    sentence: str
    n: int
    found: Discrimination | None
    chance: tuple[float, ...]
    alike: bool | None
    most: int | None
    monitored: Monitored | None
    persons: ByPerson | None
    people_counted: int
    differs: tuple[str, ...]
    experience: tuple[Part, ...]
    places: tuple[Part, ...]
    sessions: tuple[Part, ...]
    people: tuple[Part, ...]
    confidence: tuple[Part, ...]
    told: Told | None
    preference: PreferenceSchools | None
    favoured: Favoured | None
    named: Named | None
    ranked: Ranked | None
    graded: tuple[GradedAttribute, ...]
    words: dict[str, dict[str, int]]
    comments: tuple[tuple[str, str], ...]
    closest: str
    settle: int | None
    left_out: tuple[tuple[str, str], ...]


def panel_finding(
    plan: PanelPlan,
    judged: Sequence[Judged],
    rng: np.random.Generator,
    *,
    everybody: bool = False,
    names: Sequence[str] = LETTERS,
) -> PanelFinding:
    """What the judgements tell, without those who are left out unless ``everybody`` counts; in sentences the things have ``names``."""
    counted = [one for one in judged if everybody or not one.left_out]
    out = tuple(sorted({(one.person, one.left_out) for one in judged if one.left_out}))
    found = chance = persons = alike = most = settle = seen = None
    parts: dict[str, tuple[Part, ...]] = {}
    method = METHODS[plan.method]
    if counted and method.guess is not None:
        right = [bool(is_right(plan.method, one.order, one.answer)) for one in counted]
        found = discriminate(plan.method, len(counted), sum(right), plan.alpha)
        chance = tuple(float(p) for p in by_chance(len(counted), method.guess))
        most = most_alike(plan.method, len(counted), plan.limit, plan.alpha) if plan.school == "alike" else None
        parts = _by_part(plan, counted, right)
        counts = [(sum(own), len(own)) for own in of_each(_who(counted, right)).values()]
        if len(counts) < len(counted):
            persons = by_person(plan.method, counts, plan.alpha)
            found = counted_by_person(found, persons)
            chance = chance_by_person(plan.method, counts, persons.bound)
            most = most_alike_by_person(found, plan.limit) if plan.school == "alike" else None
        if plan.school == "alike":
            alike = found.alike(plan.limit)
        elif plan.looks > 1:
            seen = looked(plan.method, plan.judgements, plan.looks, right, plan.alpha)
            # A look counts answers: what it shows stands only if it stands by person, too.
            if seen is not None and persons is not None and persons.p > plan.alpha:
                seen = replace(seen, crossed=None)
        settle = _settle(plan, found, alike, seen)
    yes = _yes_or_no(plan, counted, rng)
    jars = _named(plan, counted, rng)
    ranks = _ranked(plan, counted, rng)
    grades = _graded(plan, counted, rng)
    preference = _preference(plan, counted, rng)
    best = _favoured(plan, counted, rng)
    told_of = PanelFinding(
        sentence="",
        n=len(counted),
        found=found,
        chance=chance or (),
        alike=alike,
        most=most,
        monitored=seen,
        persons=persons,
        people_counted=len({one.person for one in counted}),
        differs=_differs(plan, counted, rng),
        experience=parts.get("experience", ()),
        places=parts.get("places", ()),
        sessions=parts.get("sessions", ()),
        confidence=parts.get("confidence", ()),
        people=parts.get("people", ()) or _names_right(plan, counted),
        told=yes,
        preference=preference,
        favoured=best,
        named=jars,
        ranked=ranks,
        graded=grades,
        words=_words(plan, counted),
        comments=tuple((_side(plan, one), one.words) for one in counted if one.words),
        closest=_closest(plan, found, alike, seen, parts, ranks, grades, names),
        settle=settle,
        left_out=out,
    )
    return replace(told_of, sentence=_sentence(plan, told_of, names))


def _by_part(plan: PanelPlan, counted: Sequence[Judged], right: Sequence[bool]) -> dict[str, tuple[Part, ...]]:
    both = list(zip(counted, right, strict=True))
    return {
        "experience": _parts((one.experience, ok) for one, ok in both),
        "places": _parts((f"cup {_place(plan, one.order) + 1}", ok) for one, ok in both),
        "sessions": _parts((f"session {one.session + 1}", ok) for one, ok in both),
        "people": _parts((one.person, ok) for one, ok in both),
        "confidence": _parts((SURE[one.confidence], ok) for one, ok in both if one.confidence is not None),
    }


def _settle(plan: PanelPlan, found: Discrimination, alike: bool | None, seen: Monitored | None) -> int | None:
    """Judgements that would probably settle it, if as many notice as it looked here."""
    if alike is not None:
        return None if alike else assessors_alike(plan.method, plan.limit, found.pd.value, plan.alpha, plan.wanted)
    shown = found.found if seen is None else seen.crossed is not None
    if shown or found.pd.value <= 0:
        return None
    return assessors_for(plan.method, found.right.value, plan.alpha, plan.wanted)


def _closest(
    plan: PanelPlan,
    found: Discrimination | None,
    alike: bool | None,
    seen: Monitored | None,
    parts: dict[str, tuple[Part, ...]],
    ranks: Ranked | None,
    grades: Sequence[GradedAttribute],
    names: Sequence[str],
) -> str:
    """Where nothing was shown: what came closest to it, for a next panel; nothing that was picked afterwards is a result."""
    afterwards = "picked afterwards, so a lead for a next panel and no result"
    if found is not None:
        if alike is not None or found.found or (seen is not None and seen.crossed is not None):
            return ""
        own = [part for key in ("experience", "sessions") for part in parts[key] if len(parts[key]) > 1 and part.n > 1]
        tried = [(discriminate(plan.method, part.n, part.right, plan.alpha).p, part) for part in own]
        if not tried:
            return ""
        p = min(one for one, _ in tried)
        closest = [part for one, part in tried if one <= p * (1 + 1e-9)]
        if len(closest) == len(tried) and len(closest) > 1:
            return ""
        those = " and ".join(f"{part.name}: {part.right} of {part.n} right" for part in closest)
        return f"It came closest with {those} (p {p:.2g} by itself), {afterwards}."
    if ranks is not None and ranks.p > plan.alpha:
        pair = min(ranks.pairs, key=lambda one: one.p)
        first, second = (pair.a, pair.b) if pair.ahead >= 0 else (pair.b, pair.a)
        return f"Closest to apart are {names[first]} before {names[second]} (p {pair.p:.2g} by itself), {afterwards}."
    pairs = [(pair.p, one, pair) for one in grades if one.p > plan.alpha for pair in one.pairs]
    if plan.method == "grading" and pairs and all(one.p > plan.alpha for one in grades):
        p, one, near = min(pairs, key=lambda each: each[0])
        return (
            f"Closest to apart are {names[near.a]} and {names[near.b]} in “{one.attribute.name}” (p {p:.2g} by itself), "
            f"{afterwards}."
        )
    return ""


def _graded(plan: PanelPlan, counted: Sequence[Judged], rng: np.random.Generator) -> tuple[GradedAttribute, ...]:
    return tuple(
        graded(
            attribute,
            [(one.person, one.order, one.grades[i]) for one in counted if len(one.grades) == len(plan.attributes)],
            len(plan.things),
            rng,
            plan.alpha,
        )
        for i, attribute in enumerate(plan.attributes)
        if counted
    )


def _who(counted: Sequence[Judged], values: Sequence[K]) -> Iterator[tuple[str, K]]:
    return ((one.person, value) for one, value in zip(counted, values, strict=True))


def _favoured(plan: PanelPlan, counted: Sequence[Judged], rng: np.random.Generator) -> Favoured | None:
    """A preference among more than two."""
    if plan.method != "preference" or len(plan.things) < 3 or not counted:
        return None
    liked = [LETTERS.index(one.order[one.answer[0]]) if one.answer[0] >= 0 else -1 for one in counted]
    given = of_each(_who(counted, liked))
    if len(given) < len(counted):
        return favoured_by_person(given, len(plan.things), rng, plan.alpha)
    return favoured([liked.count(i) for i in range(len(plan.things))], liked.count(-1), rng, plan.alpha)


def _named(plan: PanelPlan, counted: Sequence[Judged], rng: np.random.Generator) -> Named | None:
    if plan.method != "naming" or not counted:
        return None
    answers = [one.answer for one in _by_jar(counted)]
    given = of_each(_who(counted, answers))
    if len(given) < len(counted):
        return named_by_person(given, len(plan.things), rng, each_once=plan.each_once)
    return named(answers, len(plan.things), each_once=plan.each_once)


def _ranked(plan: PanelPlan, counted: Sequence[Judged], rng: np.random.Generator) -> Ranked | None:
    if plan.method != "ranking":
        return None
    rows = ranks_by_person(of_each(_who(counted, _ranks(counted, len(plan.things)))))
    return ranked(rows, rng) if len(rows) > 1 else None


def _differs(plan: PanelPlan, counted: Sequence[Judged], rng: np.random.Generator) -> tuple[str, ...]:
    """Where those who are used to it tell it more, or less, often than others by more than chance: exact, between persons."""
    if not METHODS[plan.method].discriminates:
        return ()
    rows = of_each((one.person, bool(is_right(plan.method, one.order, one.answer))) for one in counted)
    used = {one.person: one.experience for one in counted}
    groups = sorted(set(used.values()))
    if len(groups) < 2:
        return ()
    shares = np.array([float(np.mean(own)) for own in rows.values()])
    labels = np.array([groups.index(used[person]) for person in rows])
    p = between_groups_p(shares, labels, rng)
    if p > plan.alpha:
        return ()
    parts = _parts((one.experience, bool(is_right(plan.method, one.order, one.answer))) for one in counted)
    told_parts = ", ".join(f"{part.name} {part.right} of {part.n}" for part in parts)
    return (f"It differs by experience, more than chance gives between people (p {honest(p, 2)}): {told_parts} right.",)


def _parts(rows: Iterable[tuple[str, bool]]) -> tuple[Part, ...]:
    found: dict[str, list[bool]] = defaultdict(list)
    for name, ok in rows:
        found[name].append(ok)
    return tuple(Part(name, len(own), sum(own)) for name, own in sorted(found.items()))


def _place(plan: PanelPlan, order: str) -> int:
    """Where the right answer stood."""
    return (
        next(i for i in range(len(order)) if is_right(plan.method, order, [i]))
        if plan.method != "tetrad"
        else order.find(order[0], 1)
    )


def _yes_or_no(plan: PanelPlan, counted: Sequence[Judged], rng: np.random.Generator) -> Told | None:
    if plan.method not in ("a-not-a", "same-different") or not counted:
        return None
    single = plan.method == "a-not-a"
    signal = [one.order == "A" if single else one.order[0] != one.order[1] for one in counted]
    said = [one.answer[0] == 1 for one in counted]
    hits = sum(s and y for s, y in zip(signal, said, strict=True))
    alarms = sum(y and not s for s, y in zip(signal, said, strict=True))
    if not any(signal) or all(signal):
        return None
    plain = told_apart(hits, sum(signal), alarms, len(signal) - sum(signal), plan.alpha, with_d=single)
    given = of_each(_who(counted, list(zip(signal, said, strict=True))))
    return told_by_person(given, plain, rng) if len(given) < len(counted) else plain


def _names_right(plan: PanelPlan, counted: Sequence[Judged]) -> tuple[Part, ...]:
    """Of a naming: each person with how many of their names were right."""
    if plan.method != "naming":
        return ()
    return _parts((one.person, name == jar) for one in _by_jar(counted) for jar, name in enumerate(one.answer))


def _by_jar(counted: Sequence[Judged]) -> list[Judged]:
    """Answers put in the order of the things, whatever the order of the cups was."""
    found = []
    for one in counted:
        by_thing = {LETTERS.index(letter): name for letter, name in zip(one.order, one.answer, strict=True)}
        found.append(
            Judged(one.person, one.experience, one.session, one.order, tuple(by_thing[i] for i in sorted(by_thing)))
        )
    return found


def _ranks(counted: Sequence[Judged], k: int) -> list[list[float]]:
    rows = []
    for one in counted:
        row = [0.0] * k
        for rank, place in enumerate(one.answer, start=1):
            row[LETTERS.index(one.order[place])] = float(rank)
        rows.append(row)
    return rows


def _preference(plan: PanelPlan, counted: Sequence[Judged], rng: np.random.Generator) -> PreferenceSchools | None:
    """A preference test itself, or the preference asked beside another one."""
    if plan.method == "preference" and len(plan.things) == 2:
        rows = [(one, one.answer[0]) for one in counted]
    elif plan.preference and plan.method != "preference":
        rows = [(one, one.preference) for one in counted if one.preference is not None]
    else:
        return None
    if not rows:
        return None
    counts = METHODS[plan.method].discriminates
    those = [row for row in rows if counts and is_right(plan.method, row[0].order, row[0].answer)]
    several = len({one.person for one in counted}) < len(counted)
    return PreferenceSchools(
        _counted(plan, rows, rng, several=several), _counted(plan, those, rng, several=several) if those else ()
    )


def _counted(
    plan: PanelPlan, rows: Sequence[tuple[Judged, int]], rng: np.random.Generator, *, several: bool
) -> tuple[Preferred, ...]:
    liked = Counter(one.order[place] if place >= 0 else "" for one, place in rows)
    rules = (plan.no_preference, *(rule for rule in RULES if rule != plan.no_preference))
    if several:
        ways = {"A": 1, "B": -1, "": 0}
        given = of_each((one.person, ways[one.order[place] if place >= 0 else ""]) for one, place in rows)
        return tuple(liked_by_person(given, rule, rng, plan.alpha) for rule in rules)
    return tuple(preferred(liked["A"], liked["B"], liked[""], rule, plan.alpha) for rule in rules)


def _side(plan: PanelPlan, one: Judged) -> str:
    """The letter of what was liked; empty where nothing was."""
    place = one.answer[0] if plan.method == "preference" else one.preference
    return one.order[place] if place is not None and place >= 0 else ""


def _words(plan: PanelPlan, counted: Sequence[Judged]) -> dict[str, dict[str, int]]:
    """How often each word was tapped or written for what was liked, by its letter; all together where nothing was."""
    found: dict[str, Counter[str]] = defaultdict(Counter)
    for one in counted:
        found[_side(plan, one)].update(dict.fromkeys([*(c.lower() for c in one.chips), *spoken(one.words)], 1))
    return {side: dict(own.most_common()) for side, own in sorted(found.items()) if own}


def _sentence(plan: PanelPlan, of: PanelFinding, names: Sequence[str]) -> str:
    """What a panel shows, in one sentence; the first of these that there is something to say of."""
    if not of.n:
        return "Nobody has judged yet."
    if of.found is not None:
        return _apart_sentence(plan, of, of.found)
    if of.told is not None:
        return _yes_sentence(plan, of, of.told)
    if of.named is not None:
        return _naming_sentence(plan, of, of.named)
    if of.ranked is not None:
        return _ranking_sentence(plan, of, of.ranked, names)
    if plan.method == "grading" and of.graded:
        return _grading_sentence(plan, of.graded, names)
    if of.favoured is not None:
        return _favoured_sentence(plan, of.favoured, names)
    if of.preference is not None:
        return _preference_sentence(plan, of, of.preference.everybody[0], names)
    return f"{of.n} have judged; that is not enough to tell anything yet."


def _by_whom(of: PanelFinding) -> str:
    """Who answered, where one person did so several times: the person is the unit."""
    if of.people_counted == of.n:
        return ""
    if of.people_counted == 1:
        return f"One person alone, {of.n} sets; of people at large it tells nothing. "
    each, more = divmod(of.n, of.people_counted)
    return f"{of.people_counted} people, {each if not more else f'{each} or more'} sets each. "


def _apart_sentence(plan: PanelPlan, of: PanelFinding, found: Discrimination) -> str:
    if of.alike is None:
        return _by_whom(of) + (told(found) if of.monitored is None else told_early(found, of.monitored))
    upper, limit = hundredths(found.upper_pd()), hundredths(plan.limit)
    shown = (
        f"fewer than {limit} is shown"
        if of.alike
        else f"fewer than {limit} is not shown, so they may not be called alike"
    )
    return f"{_by_whom(of)}{found.correct} of {of.n} were right; at most {upper} truly notice: {shown}."


def _yes_sentence(plan: PanelPlan, of: PanelFinding, yes: Told) -> str:
    how = "Told apart" if yes.p <= plan.alpha else "Not told apart"
    said = f"yes was said {yes.hits} of {yes.signals} times where it was so, and {yes.alarms} of {yes.noises} where it was not."
    return f"{_by_whom(of)}{how}: {said}"


def _naming_sentence(plan: PanelPlan, of: PanelFinding, jars: Named) -> str:
    sure = "more than chance gives" if jars.p <= plan.alpha else "no more than chance may give"
    return f"{_by_whom(of)}{jars.right} of {jars.of} were named right, {sure}: guessing gives {jars.by_chance:g} on average."


def _ranking_sentence(plan: PanelPlan, of: PanelFinding, ranks: Ranked, names: Sequence[str]) -> str:
    first = names[int(np.argmin(ranks.means))]
    sure = f"{first} stands in front" if ranks.p <= plan.alpha else "the order is no clearer than chance may give"
    return (
        f"{_by_whom(of)}Of {ranks.people} rankings, {sure}."
        if of.people_counted == of.n
        else f"{_by_whom(of)}By person, {sure}."
    )


def _favoured_sentence(plan: PanelPlan, best: Favoured, names: Sequence[str]) -> str:
    first = names[int(np.argmax(best.counts))]
    sure = f"{first} is liked best" if best.p <= plan.alpha else "no one is liked more than chance may give"
    counts = ", ".join(f"{names[i]} {c}" for i, c in enumerate(best.counts))
    return f"Of {sum(best.counts)} who chose, {sure}: {counts}."


def _preference_sentence(plan: PanelPlan, of: PanelFinding, main: Preferred, names: Sequence[str]) -> str:
    sure = "" if main.p <= plan.alpha else ", which chance may give"
    several = of.people_counted < of.n
    neither = f", {main.none} neither" if main.none else ""
    by = ", each counted once" if several else ""
    return f"{_by_whom(of)}{main.first} like {names[0]} better, {main.second} {names[1]}{neither}{by}{sure}."


def _grading_sentence(plan: PanelPlan, grades: Sequence[GradedAttribute], names: Sequence[str]) -> str:
    told_ones = []
    for one in grades:
        means = [(mean, names[i]) for i, mean in enumerate(one.means) if mean is not None]
        if not means:
            continue
        top = max(means)[1] if one.p <= plan.alpha else ""
        told_ones.append(f"{one.attribute.name}: {f'most in {top}' if top else 'no difference shown'}")
    if not told_ones:
        return "Nothing was graded yet."
    return f"Graded by {grades[0].people}: {'; '.join(told_ones)}."


def wholly_told(finding: PanelFinding, everybody: PanelFinding | None = None) -> tuple[str, ...]:
    """All that has to be said where a panel is told in a few words: its sentence, whether the plain count is too hopeful, who was left out
    and what it is with them (``everybody`` counted)."""
    said = [finding.sentence]
    if finding.persons is not None and finding.persons.too_hopeful:
        said.append(
            f"Counted as answers of different people it would look found (p {honest(finding.persons.plain_p, 2)}); that is too hopeful: "
            f"several judgements of one person are not several people. By person p is {honest(finding.persons.p, 2)}."
        )
    said += finding.differs
    if finding.left_out:
        who = "; ".join(f"{name} ({why})" for name, why in finding.left_out)
        said.append(
            f"Left out: {who}." + (f" With everybody counted: {everybody.sentence}" if everybody is not None else "")
        )
    return tuple(said)
