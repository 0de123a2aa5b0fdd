"""What a panel found: the count against the number needed, by person, experience, place and session; preference under both schools; names,
ranks; words for each side; and the same with everybody counted."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from fieldtally.core.panels.chance import by_chance
from fieldtally.core.panels.discriminating import Discrimination, assessors_for, discriminate
from fieldtally.core.panels.methods import METHODS
from fieldtally.core.panels.naming import Named, named
from fieldtally.core.panels.persons import ByPerson, by_person
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.preferring import RULES, Preferred, preferred
from fieldtally.core.panels.ranking import Ranked, ranked
from fieldtally.core.panels.serving import LETTERS, is_right
from fieldtally.core.panels.telling import Told, told_apart
from fieldtally.core.panels.words import hundredths, told


@dataclass(frozen=True)
class Judged:
    """One judgement: by whom, how used to it they are, in which session, of cups in which order, with which answer (places); ``left_out``
    says why it does not count."""

    person: str
    experience: str
    session: int
    order: str
    answer: tuple[int, ...]
    preference: int | None = None
    chips: tuple[str, ...] = ()
    words: str = ""
    left_out: str = ""


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
    """All that the judgements tell.  ``chance``: the probability of each count by guessing; ``settle``: judgements that would probably
    settle it, where the share who notice is what was seen (None: not to be told, or settled)."""

    sentence: str
    n: int
    found: Discrimination | None
    chance: tuple[float, ...]
    alike: bool | None
    persons: ByPerson | None
    experience: tuple[Part, ...]
    places: tuple[Part, ...]
    sessions: tuple[Part, ...]
    told: Told | None
    preference: PreferenceSchools | None
    named: Named | None
    ranked: Ranked | None
    words: dict[str, dict[str, int]]
    settle: int | None
    left_out: tuple[tuple[str, str], ...]


def panel_finding(
    plan: PanelPlan, judged: Sequence[Judged], rng: np.random.Generator, *, everybody: bool = False
) -> PanelFinding:
    """What the judgements tell, without those who are left out unless ``everybody`` counts."""
    counted = [one for one in judged if everybody or not one.left_out]
    out = tuple(sorted({(one.person, one.left_out) for one in judged if one.left_out}))
    if not counted:
        return PanelFinding(
            "Nobody has judged yet.", 0, None, (), None, None, (), (), (), None, None, None, None, {}, None, out
        )
    found = chance = persons = alike = settle = None
    experience: tuple[Part, ...] = ()
    places: tuple[Part, ...] = ()
    sessions: tuple[Part, ...] = ()
    method = METHODS[plan.method]
    if method.guess is not None:
        right = [bool(is_right(plan.method, one.order, one.answer)) for one in counted]
        found = discriminate(plan.method, len(counted), sum(right), plan.alpha)
        chance = tuple(float(p) for p in by_chance(len(counted), method.guess))
        alike = found.alike(plan.limit) if plan.school == "alike" else None
        persons = _persons(plan, counted, right)
        experience = _parts((one.experience, ok) for one, ok in zip(counted, right, strict=True))
        places = _parts((f"cup {_place(plan, one.order) + 1}", ok) for one, ok in zip(counted, right, strict=True))
        sessions = _parts((f"session {one.session + 1}", ok) for one, ok in zip(counted, right, strict=True))
        if not found.found and found.pd.value > 0:
            settle = assessors_for(plan.method, found.right.value, plan.alpha, plan.wanted)
    yes = _yes_or_no(plan, counted)
    names = (
        named([one.answer for one in _by_jar(counted)], len(plan.things), each_once=plan.each_once)
        if plan.method == "naming"
        else None
    )
    ranks = ranked(_ranks(counted, len(plan.things)), rng) if plan.method == "ranking" and len(counted) > 1 else None
    preference = _preference(plan, counted)
    return PanelFinding(
        sentence=_sentence(plan, len(counted), found, alike, yes, names, ranks, preference),
        n=len(counted),
        found=found,
        chance=chance or (),
        alike=alike,
        persons=persons,
        experience=experience,
        places=places,
        sessions=sessions,
        told=yes,
        preference=preference,
        named=names,
        ranked=ranks,
        words=_words(plan, counted),
        settle=settle,
        left_out=out,
    )


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


def _persons(plan: PanelPlan, counted: Sequence[Judged], right: Sequence[bool]) -> ByPerson | None:
    counts: dict[str, list[bool]] = defaultdict(list)
    for one, ok in zip(counted, right, strict=True):
        counts[one.person].append(ok)
    if len(counts) == len(counted):
        return None
    return by_person(plan.method, [(sum(own), len(own)) for own in counts.values()], plan.alpha)


def _yes_or_no(plan: PanelPlan, counted: Sequence[Judged]) -> Told | None:
    if plan.method not in ("a-not-a", "same-different"):
        return None
    single = plan.method == "a-not-a"
    signal = [one.order == "A" if single else one.order[0] != one.order[1] for one in counted]
    said = [one.answer[0] == 1 for one in counted]
    hits = sum(s and y for s, y in zip(signal, said, strict=True))
    alarms = sum(y and not s for s, y in zip(signal, said, strict=True))
    if not any(signal) or all(signal):
        return None
    return told_apart(hits, sum(signal), alarms, len(signal) - sum(signal), plan.alpha, with_d=single)


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


def _preference(plan: PanelPlan, counted: Sequence[Judged]) -> PreferenceSchools | None:
    """A preference test itself, or the preference asked beside another one."""
    if plan.method == "preference":
        rows = [(one, one.answer[0]) for one in counted]
    elif plan.preference:
        rows = [(one, one.preference) for one in counted if one.preference is not None]
    else:
        return None
    if not rows:
        return None
    counts = METHODS[plan.method].discriminates
    those = [row for row in rows if counts and is_right(plan.method, row[0].order, row[0].answer)]
    return PreferenceSchools(_counted(plan, rows), _counted(plan, those) if those else ())


def _counted(plan: PanelPlan, rows: Sequence[tuple[Judged, int]]) -> tuple[Preferred, ...]:
    liked = Counter(one.order[place] if place >= 0 else "" for one, place in rows)
    rules = (plan.no_preference, *(rule for rule in RULES if rule != plan.no_preference))
    return tuple(preferred(liked["A"], liked["B"], liked[""], rule, plan.alpha) for rule in rules)


def _words(plan: PanelPlan, counted: Sequence[Judged]) -> dict[str, dict[str, int]]:
    """How often each word to tap was tapped for what was preferred, by its letter; all together where nothing was."""
    found: dict[str, Counter[str]] = defaultdict(Counter)
    for one in counted:
        place = one.answer[0] if plan.method == "preference" else one.preference
        side = one.order[place] if place is not None and place >= 0 else ""
        found[side].update(one.chips)
    return {side: dict(own.most_common()) for side, own in sorted(found.items()) if own}


def _sentence(
    plan: PanelPlan,
    n: int,
    found: Discrimination | None,
    alike: bool | None,
    yes: Told | None,
    names: Named | None,
    ranks: Ranked | None,
    preference: PreferenceSchools | None,
) -> str:
    if found is not None and alike is not None:
        upper, limit = hundredths(found.upper_pd()), hundredths(plan.limit)
        shown = (
            f"fewer than {limit} is shown"
            if alike
            else f"fewer than {limit} is not shown, so they may not be called alike"
        )
        return f"{found.correct} of {n} were right; at most {upper} truly notice: {shown}."
    if found is not None:
        return told(found)
    if yes is not None:
        how = "Told apart" if yes.p <= plan.alpha else "Not told apart"
        return f"{how}: yes was said {yes.hits} of {yes.signals} times where it was so, and {yes.alarms} of {yes.noises} where it was not."
    if names is not None:
        sure = "more than chance gives" if names.p <= plan.alpha else "no more than chance may give"
        return f"{names.right} of {names.of} were named right, {sure}: guessing gives {names.by_chance:g} on average."
    if ranks is not None:
        first = LETTERS[int(np.argmin(ranks.means))]
        sure = f"{first} stands in front" if ranks.p <= plan.alpha else "the order is no clearer than chance may give"
        return f"Of {n} rankings, {sure}."
    if preference is not None:
        main = preference.everybody[0]
        sure = "" if main.p <= plan.alpha else ", which chance may give"
        return f"{main.first} like A better, {main.second} B{f', {main.none} neither' if main.none else ''}{sure}."
    return f"{n} have judged; that is not enough to tell anything yet."
