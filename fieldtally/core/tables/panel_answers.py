"""Answers of a panel as a table, a row an answer: read, and told by person.

Every table names the ``assessor``, and the ``set`` where one person answered several times.  By method there is ``right`` (1 or 0);
``chosen`` (a thing, or nothing); ``presented`` and ``chosen`` for naming, a row for each jar; ``presented`` and ``answer`` for yes or no;
``presented`` and ``rank`` or ``grade``, a row for each thing.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np

from fieldtally.core.panels.discriminating import Bounds, Discrimination, discriminate
from fieldtally.core.panels.methods import MethodName
from fieldtally.core.panels.naming import named
from fieldtally.core.panels.persons import (
    by_person,
    counted_by_person,
    favoured_by_person,
    liked_by_person,
    named_by_person,
    of_each,
    ranks_by_person,
    told_by_person,
)
from fieldtally.core.panels.preferring import favoured, preferred
from fieldtally.core.panels.ranking import Ranked, ranked
from fieldtally.core.panels.telling import told_apart
from fieldtally.core.panels.words import told
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.tables.table import Row, Table

YES = {"1", "yes", "y", "true", "right"}
NO = {"0", "no", "n", "false", "wrong"}
NONE = {"", "none", "neither", "no preference", "-", "–"}
Told = dict[str, Any]


def panel_of_answers(
    method: MethodName, table: Table, alpha: float, rng: np.random.Generator
) -> tuple[Told, list[str]]:
    """What the answers tell: the numbers, and sentences.

    :raises Refused: a column is missing or a cell cannot be read, with its line.
    """
    table.column("assessor")
    if any(not row.cells[table.column("assessor")] for row in table.rows):
        raise Refused(
            [
                Problem(f"line {row.line}", "Whose answer is this? The assessor is missing.")
                for row in table.rows
                if not row.cells[table.column("assessor")]
            ]
        )
    match method:
        case "preference":
            return _liked(table, alpha, rng)
        case "naming":
            return _named(table, alpha, rng)
        case "ranking" | "grading":
            return _ranked(method, table, alpha, rng)
        case "a-not-a" | "same-different":
            return _yes_or_no(method, table, alpha, rng)
        case _:
            return _right(method, table, alpha)


def _cells(table: Table, name: str) -> list[str]:
    at = table.column(name)
    return [row.cells[at] for row in table.rows]


def _who(table: Table) -> list[str]:
    # A person is who is written there, letter by letter: two people of one name are told apart by whoever writes the table.
    return _cells(table, "assessor")


def _said(row: Row, cell: str) -> bool:
    word = cell.casefold()
    if word in YES or word in NO:
        return word in YES
    raise Refused(f"“{cell}” is neither yes (1) nor no (0).", f"line {row.line}")


def ends_of(of: Bounds) -> dict[str, float | None]:
    """A value with its bounds; what is infinite has no number in JSON."""
    known = {"value": of.value, "low": of.low, "high": of.high}
    return {name: one if math.isfinite(one) else None for name, one in known.items()}


def discrimination_told(found: Discrimination) -> Told:
    """What right answers tell, as numbers."""
    return {
        "method": found.method,
        "n": found.n,
        "correct": found.correct,
        "guess": found.guess,
        "needed": found.needed,
        "p": found.p,
        "pd": ends_of(found.pd),
        "dprime": ends_of(found.dprime),
    }


def _by_whom(persons: int, n: int) -> list[str]:
    return [f"{persons} people, {n} answers: each person counts once."] if persons < n else []


def _right(method: MethodName, table: Table, alpha: float) -> tuple[Told, list[str]]:
    right = [_said(row, cell) for row, cell in zip(table.rows, _cells(table, "right"), strict=True)]
    given = of_each(zip(_who(table), right, strict=True))
    plain = discriminate(method, len(right), sum(right), alpha)
    answer = {**discrimination_told(plain), "persons": len(given)}
    if len(given) == len(right):
        return answer, [told(plain), f"  exact p = {plain.p:.3g}"]
    persons = by_person(method, [(sum(own), len(own)) for own in given.values()], alpha)
    found = counted_by_person(plain, persons)
    answer = {**discrimination_told(found), "persons": len(given), "p_plain": plain.p}
    return answer, [*_by_whom(len(given), len(right)), told(found), f"  p by person = {found.p:.3g}"]


def _liked(table: Table, alpha: float, rng: np.random.Generator) -> tuple[Told, list[str]]:
    chosen = ["" if cell.casefold() in NONE else cell for cell in _cells(table, "chosen")]
    things = sorted({cell for cell in chosen if cell} | _presented(table))
    given = of_each(zip(_who(table), chosen, strict=True))
    several = len(given) < len(chosen)
    if not things:
        raise Refused("Nobody chose anything.", "chosen")
    if len(things) <= 2:
        ways = {things[0]: 1, "": 0, **({things[1]: -1} if len(things) > 1 else {})}
        first, second, none = (sum(ways[one] == way for one in chosen) for way in (1, -1, 0))
        plain = preferred(first, second, none, "drop", alpha)
        signs = {person: [ways[one] for one in own] for person, own in given.items()}
        main = liked_by_person(signs, "drop", rng, alpha) if several else plain
        many = dict(zip(things, (main.first, main.second), strict=False))
        p, p_plain, share = main.p, plain.p, ends_of(main.share)
    else:
        plain_of = favoured([chosen.count(one) for one in things], chosen.count(""), rng, alpha)
        numbers = {person: [things.index(one) if one else -1 for one in own] for person, own in given.items()}
        best = favoured_by_person(numbers, len(things), rng, alpha) if several else plain_of
        many = dict(zip(things, best.counts, strict=True))
        p, p_plain, share = best.p, plain_of.p, ends_of(best.shares[int(np.argmax(best.counts))])
    answer: Told = {"method": "preference", "n": len(chosen), "persons": len(given), "p": p}
    answer |= {"p_plain": p_plain} if several else {}
    answer |= {"counts": many, "share": share}
    counted = ", ".join(f"{name} {count}" for name, count in many.items())
    sure = "" if p <= alpha else ", which chance may give"
    return answer, [*_by_whom(len(given), len(chosen)), f"Liked best: {counted}{sure}.", f"  p = {p:.3g}"]


def _presented(table: Table) -> set[str]:
    """Things that were put before people, where the table says so: parted by strokes or commas."""
    if "presented" not in table.header:
        return set()
    return {
        one.strip() for cell in _cells(table, "presented") for one in cell.replace("|", ",").split(",") if one.strip()
    }


def _sets(table: Table) -> list[tuple[str, str]]:
    """The set that each row belongs to: of whom, and which."""
    sets = _cells(table, "set") if "set" in table.header else [""] * len(table.rows)
    return list(zip(_who(table), sets, strict=True))


def _named(table: Table, alpha: float, rng: np.random.Generator) -> tuple[Told, list[str]]:
    jars, names = _cells(table, "presented"), _cells(table, "chosen")
    things = sorted(set(jars))
    wrong = [
        Problem(f"line {row.line}", f"“{name}” was not among what was presented: {', '.join(things)}.")
        for row, name in zip(table.rows, names, strict=True)
        if name not in things
    ]
    if wrong:
        raise Refused(wrong)
    found: dict[tuple[str, str], dict[str, str]] = {}
    for at, row, jar, name in zip(_sets(table), table.rows, jars, names, strict=True):
        own = found.setdefault(at, {})
        if jar in own:
            raise Refused(f"{jar} is named twice by {at[0]} in one set.", f"line {row.line}")
        own[jar] = name
    short = next((at for at, own in found.items() if len(own) < len(things)), None)
    if short:
        raise Refused(f"{short[0]} did not name all of {', '.join(things)}.", f"set {short[1]}".strip())
    answers = [(at[0], tuple(things.index(own[jar]) for jar in things)) for at, own in found.items()]
    each_once = all(len(set(one)) == len(one) for _, one in answers)
    given = of_each(answers)
    plain = named([one for _, one in answers], len(things), each_once=each_once)
    several = len(given) < len(answers)
    told_of = named_by_person(given, len(things), rng, each_once=each_once) if several else plain
    answer: Told = {"method": "naming", "n": len(answers), "persons": len(given), "p": told_of.p}
    answer |= {"p_plain": plain.p} if several else {}
    answer |= {"correct": plain.right, "of": plain.of, "by_chance": plain.by_chance}
    sure = "more than chance gives" if told_of.p <= alpha else "no more than chance may give"
    says = f"{plain.right} of {plain.of} were named right, {sure}: guessing gives {plain.by_chance:g} on average."
    return answer, [*_by_whom(len(given), len(answers)), says, f"  p = {told_of.p:.3g}"]


def _ranked(method: MethodName, table: Table, alpha: float, rng: np.random.Generator) -> tuple[Told, list[str]]:
    column = "rank" if method == "ranking" else "grade"
    cells, shown = _cells(table, column), _cells(table, "presented")
    things = sorted(set(shown))
    found: dict[tuple[str, str], dict[str, float]] = {}
    for at, row, thing, cell in zip(_sets(table), table.rows, shown, cells, strict=True):
        try:
            found.setdefault(at, {})[thing] = float(cell.replace(",", "."))
        except ValueError as error:
            raise Refused(f"“{cell}” is no {column}.", f"line {row.line}") from error
    if any(len(own) < len(things) for own in found.values()):
        raise Refused("Everybody ranks all of them." if column == "rank" else "Everybody grades all of them.", column)
    way = 1.0 if column == "rank" else -1.0
    rows = [(at[0], [way * own[thing] for thing in things]) for at, own in found.items()]
    given = of_each(rows)
    several = len(given) < len(rows)
    main = ranked(ranks_by_person({person: list(own) for person, own in given.items()}), rng)
    answer: Told = {"method": method, "n": len(rows), "persons": len(given), "p": main.p}
    answer |= {"p_plain": ranked([own for _, own in rows], rng).p} if several else {}
    answer |= {"means": dict(zip(things, main.means, strict=True)), "pairs": _pairs(main, things)}
    first = things[int(np.argmin(main.means))]
    sure = f"{first} stands in front" if main.p <= alpha else "the order is no clearer than chance may give"
    return answer, [*_by_whom(len(given), len(rows)), f"Of {main.people} people, {sure}.", f"  p = {main.p:.3g}"]


def _pairs(found: Ranked, things: Sequence[str]) -> list[Told]:
    return [{"a": things[one.a], "b": things[one.b], "p": one.p, "p_adjusted": one.p_adjusted} for one in found.pairs]


def _yes_or_no(method: MethodName, table: Table, alpha: float, rng: np.random.Generator) -> tuple[Told, list[str]]:
    so = {"a", "yes", "1", "true"} if method == "a-not-a" else {"different", "yes", "1", "true"}
    signal = [cell.casefold() in so for cell in _cells(table, "presented")]
    said = [
        cell.casefold() in so or (cell.casefold() not in _other(method) and _said(row, cell))
        for row, cell in zip(table.rows, _cells(table, "answer"), strict=True)
    ]
    given = of_each(zip(_who(table), zip(signal, said, strict=True), strict=True))
    hits = sum(was and yes for was, yes in zip(signal, said, strict=True))
    alarms = sum(yes and not was for was, yes in zip(signal, said, strict=True))
    plain = told_apart(hits, sum(signal), alarms, len(signal) - sum(signal), alpha, with_d=method == "a-not-a")
    several = len(given) < len(signal)
    found = told_by_person(given, plain, rng) if several else plain
    answer: Told = {"method": method, "n": len(signal), "persons": len(given), "p": found.p}
    answer |= {"p_plain": plain.p} if several else {}
    answer |= {"hits": hits, "signals": plain.signals, "alarms": alarms, "noises": plain.noises}
    answer |= {"dprime": ends_of(plain.dprime)} if plain.dprime is not None else {}
    how = "Told apart" if found.p <= alpha else "Not told apart"
    says = f"{how}: yes was said {hits} of {plain.signals} times where it was so, and {alarms} of {plain.noises} where it was not."
    return answer, [*_by_whom(len(given), len(signal)), says, f"  p = {found.p:.3g}"]


def _other(method: MethodName) -> Iterable[str]:
    return {"not a", "not-a", "b", "other"} if method == "a-not-a" else {"same"}
