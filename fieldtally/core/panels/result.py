"""What a panel found: the count against the number needed, by person, experience, place and session; preference under both schools; names,
ranks; words for each side; and the same with everybody counted."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import replace
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
from fieldtally.core.panels.finding import OverStimulus, PanelFinding, PreferenceSchools
from fieldtally.core.panels.grading import GradedAttribute, graded
from fieldtally.core.panels.judged import Judged, Part, by_part, differs, parts_of, rights
from fieldtally.core.panels.methods import METHODS
from fieldtally.core.panels.monitoring import Monitored, looked
from fieldtally.core.panels.naming import FactorRead, Named, named
from fieldtally.core.panels.persons import (
    by_person,
    chance_by_person,
    counted_by_person,
    factor_read,
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
from fieldtally.core.panels.sentences import liking_of, sentence_of
from fieldtally.core.panels.serving import LETTERS, is_right
from fieldtally.core.panels.several import enough_people
from fieldtally.core.panels.telling import Told, told_apart
from fieldtally.core.panels.words import spoken
from fieldtally.core.quantities.numbers import honest

K = TypeVar("K")
Factors = Sequence[tuple[str, Sequence[str]]]
"""Factors that names are made from: what each is called, and its level in each of the things."""


def panel_finding(
    plan: PanelPlan,
    judged: Sequence[Judged],
    rng: np.random.Generator,
    *,
    everybody: bool = False,
    names: Sequence[str] = LETTERS,
    factors: Factors = (),
) -> PanelFinding:
    """What the judgements tell, without those who are left out unless ``everybody`` counts; in sentences the things have ``names``, which
    are made from ``factors``."""
    counted = [one for one in judged if everybody or not one.left_out]
    right: list[bool] = []
    out = tuple(sorted({(one.person, one.left_out) for one in judged if one.left_out}))
    found = chance = persons = alike = most = settle = seen = None
    parts: dict[str, tuple[Part, ...]] = {}
    method = METHODS[plan.method]
    if counted and method.guess is not None:
        right = rights(plan, counted)
        found = discriminate(plan.method, len(counted), sum(right), plan.alpha)
        chance = tuple(float(p) for p in by_chance(len(counted), method.guess))
        most = most_alike(plan.method, len(counted), plan.limit, plan.alpha) if plan.school == "alike" else None
        parts = by_part(plan, counted, right)
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
        settle = _settle(plan, found, alike, seen, people=len(counts))
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
        differs=differs(plan, counted, rng),
        stimuli=_over_stimuli(plan, counted, rng, names),
        liking=liking_of(plan, preference, names, several=len({one.person for one in counted}) < len(counted)),
        factors=_factors_read(plan, counted, factors, rng),
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
        words_right=_words(plan, [one for one, ok in zip(counted, right, strict=True) if ok]) if found else {},
        comments=tuple((_side(plan, one), one.words) for one in counted if one.words),
        closest=_closest(plan, found, alike, seen, parts, ranks, grades, names),
        settle=settle,
        left_out=out,
    )
    return replace(told_of, sentence=sentence_of(plan, told_of, names))


def own_result(plan: PanelPlan, mine: Sequence[Judged], names: Sequence[str]) -> Iterator[str]:
    """How one person did, in a sentence or two that they may keep: right answers beside what guessing gives, and what they liked."""
    n, guess = len(mine), METHODS[plan.method].guess
    if not n:
        yield "You gave no answer."
        return
    if guess is not None:
        right = sum(rights(plan, mine))
        yield f"You found it in {right} of {n}; guessing finds {honest(n * guess, 2)} on average."
    elif plan.method == "naming":
        parts = _names_right(plan, mine)
        right = sum(part.right for part in parts)
        yield f"You named {right} of {n * len(plan.things)} right; guessing gets {n} right on average."
    elif plan.method in ("a-not-a", "same-different"):
        single = plan.method == "a-not-a"
        so = sum((one.order == "A" if single else one.order[0] != one.order[1]) == (one.answer[0] == 1) for one in mine)
        yield f"You were right in {so} of {n}; guessing is right in {honest(n / 2, 2)} on average."
    liked = Counter(side for side in (_side(plan, one) for one in mine) if side)
    if liked:
        yield (
            "You liked "
            + ", ".join(f"{names[LETTERS.index(side)]} best {_times(many)}" for side, many in liked.most_common())
            + "."
        )


def _times(many: int) -> str:
    return {1: "once", 2: "twice"}.get(many, f"{many} times")


def _over_stimuli(
    plan: PanelPlan, counted: Sequence[Judged], rng: np.random.Generator, names: Sequence[str]
) -> tuple[OverStimulus, ...]:
    """What each stimulus shows by itself: everybody had all of them, so that these are not different people."""
    found = []
    alone = replace(plan, stimuli=(), looks=1)
    for i, name in enumerate(plan.stimuli):
        own = [replace(one, stimulus=0) for one in counted if one.stimulus == i]
        found.append(OverStimulus(name, len(own), panel_finding(alone, own, rng, everybody=True, names=names).sentence))
    return tuple(found)


def _factors_read(
    plan: PanelPlan, counted: Sequence[Judged], factors: Factors, rng: np.random.Generator
) -> tuple[FactorRead, ...]:
    """Of names that are made from factors (nothing, S, M, both): does anybody recognise S, does anybody recognise M?"""
    if plan.method != "naming" or not counted:
        return ()
    given = of_each(_who(counted, [one.answer for one in _by_jar(counted)]))
    return tuple(factor_read(name, levels, given, rng) for name, levels in factors if len(set(levels)) > 1)


def _settle(
    plan: PanelPlan, found: Discrimination, alike: bool | None, seen: Monitored | None, *, people: int
) -> int | None:
    """Judgements that would probably settle it as a fresh panel, if as many notice as it looked here; of people who answer several times as
    many as enough people give."""
    sets = plan.sets_each
    if alike is not None:
        return None if alike else assessors_alike(plan.method, plan.limit, found.pd.value, plan.alpha, plan.wanted)
    shown = found.found if seen is None else seen.crossed is not None
    if shown or found.pd.value <= 0:
        return None
    if sets > 1 and people > 1:
        pd = min(1.0, found.pd.value)
        enough = enough_people(plan.method, sets, pd, plan.alpha, plan.wanted, right=None, things=2, each_once=True)
        return None if enough is None else enough * sets
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
    return parts_of((one.person, name == jar) for one in _by_jar(counted) for jar, name in enumerate(one.answer))


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
