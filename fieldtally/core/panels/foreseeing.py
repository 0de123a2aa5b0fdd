"""What a planned panel costs and can find, and what the other tests would cost that answer the same question."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from fieldtally.core.panels.abilities import ability, apart, enough, needed_names
from fieldtally.core.panels.discriminating import (
    assessors_alike,
    assessors_for,
    most_alike,
    needed,
    power,
    power_alike,
)
from fieldtally.core.panels.methods import METHODS, MethodName
from fieldtally.core.panels.monitoring import PlannedLook, chance_to_find, planned_looks
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.psychometric import d_prime, noticers, share_right_of
from fieldtally.core.panels.several import (
    alike_by_person,
    enough_alike,
    enough_people,
    needed_of,
    right_by_person,
    told_apart_by_person,
    usual_bound,
)

BY_PERSON = ("naming", "preference", "a-not-a", "same-different")
"""Tests without one right answer whose people become one number each where they answer several times."""


@dataclass(frozen=True)
class Alternative:
    """A test that answers the same question: the people it needs for what is wanted (None: no panel is large enough), and with them the
    cups in all and what is poured in all (in the plan's unit)."""

    method: MethodName
    people: int | None
    cups: int | None
    amount: float | None


@dataclass(frozen=True)
class PanelOutlook:
    """What a panel costs and can find: cups and the amount poured of each thing; right answers ``needed`` of all judgements (for alike: the
    ``most`` that may be right), its ``power``, and the ``judgements`` that would reach what is wanted (None: no panel is large enough);
    the looks that are planned; sentences about it, the main one first; and the other tests that answer the same question."""

    cups: int
    amounts: tuple[float, ...]
    needed: int | None
    most: int | None
    power: float
    judgements: int | None
    looks: tuple[PlannedLook, ...]
    says: tuple[str, ...]
    others: tuple[Alternative, ...]


def outlook(plan: PanelPlan) -> PanelOutlook:
    """What the panel costs and can find.  The plan is one without problems."""
    cups = plan.cups * plan.judgements
    amounts = tuple(cups * plan.amount / max(1, len(plan.things)) for _ in plan.things)
    least = most = None
    looks: tuple[PlannedLook, ...] = ()
    if not METHODS[plan.method].discriminates:
        least, able, says = _without_right(plan)
    elif plan.school == "alike":
        most, able, says = _alike(plan)
    else:
        least, able, says, looks = _different(plan)
    size = _enough(plan)
    return PanelOutlook(
        cups=cups,
        amounts=amounts,
        needed=least,
        most=most,
        power=able,
        judgements=size,
        looks=looks,
        says=(*says, *_more(plan, able, size)),
        others=_others(plan),
    )


def _times(share: float) -> str:
    return f"{round(100 * share)} times in 100"


def _different(plan: PanelPlan) -> tuple[int, float, tuple[str, ...], tuple[PlannedLook, ...]]:
    n, right = plan.judgements, plan.right
    notice = f"{round(100 * noticers(plan.method, right))} % truly notice (d′ {d_prime(plan.method, right):.1f})"
    least = needed(plan.method, n, plan.alpha)
    if plan.looks > 1:
        looks = planned_looks(plan.method, n, plan.looks, plan.alpha)
        able, spent = chance_to_find(plan.method, n, plan.looks, right, plan.alpha)
        at = ", ".join(f"{one.needed} of {one.n}" for one in looks if one.needed <= one.n)
        says = (
            f"Looked at while it runs, {at} right answers end it.",
            f"If {notice}, this panel finds it {_times(able)}, after {spent:.0f} judgements on average.",
            f"Without looks it would be {least} of {n}, found {_times(power(plan.method, n, right, plan.alpha))}.",
        )
        return looks[-1].needed, able, says, looks
    sets = plan.sets_each
    if sets > 1:
        return _different_by_person(plan, sets, notice)
    able = power(plan.method, n, right, plan.alpha)
    first = (
        f"{least} of {n} right answers are needed."
        if least <= n
        else f"With {n} judgements not even all right ones would show a difference."
    )
    return least, able, (first, f"If {notice}, this panel finds it {_times(able)}."), ()


def _different_by_person(
    plan: PanelPlan, sets: int, notice: str
) -> tuple[int, float, tuple[str, ...], tuple[PlannedLook, ...]]:
    """The same where each person answers several times: the person is the unit."""
    n, people = plan.judgements, plan.assessors
    if people == 1:
        least = needed(plan.method, n, plan.alpha)
        able = power(plan.method, n, plan.right, plan.alpha)
        first = (
            f"{least} of {n} right answers are needed; they tell of this person alone, and nothing of people at large."
        )
        return least, able, (first, f"If this person is right {_times(plan.right)}, it is found {_times(able)}."), ()
    least = needed_of(plan.method, people, sets, plan.alpha, usual_bound(people, sets))
    able = right_by_person(plan.method, people, sets, plan.noticing, plan.alpha, None if plan.d is None else plan.right)
    first = (
        f"About {least} of {n} right answers are needed, counted by person; more where a person's own answers hang together."
        if least <= n
        else f"With {people} people not even all right answers would show a difference."
    )
    return least, able, (first, f"If {notice}, this panel finds it {_times(able)}."), ()


def _alike(plan: PanelPlan) -> tuple[int | None, float, tuple[str, ...]]:
    n = plan.judgements
    most = most_alike(plan.method, n, plan.limit, plan.alpha)
    several = plan.sets_each > 1 and plan.assessors > 1
    able = (
        alike_by_person(plan.method, plan.assessors, plan.sets_each, plan.limit, plan.alpha)
        if several
        else power_alike(plan.method, n, share_right_of(plan.method, 0.0), plan.limit, plan.alpha)
    )
    bound = f"fewer than {round(100 * plan.limit)} % notice"
    by = ", counted by person; fewer where a person's own answers hang together" if several else ""
    return (
        most,
        able,
        (
            f"With {n} judgements it can never be shown that {bound}."
            if most is None
            else f"At most {'about ' if several else ''}{most} of {n} right answers show that {bound}{by}.",
            f"If nobody notices anything, this panel shows it {_times(able)}.",
        ),
    )


def _noticing(plan: PanelPlan, method: MethodName) -> float:
    """The share who notice in a test without a right answer: as planned, or what goes with the planned d′."""
    return plan.noticing if plan.d is None else apart(method, plan.d)


def _without_right(plan: PanelPlan) -> tuple[int | None, float, tuple[str, ...]]:
    things, share = len(plan.things), _noticing(plan, plan.method)
    sets = plan.sets_each
    if sets > 1 and plan.method in BY_PERSON:
        able = told_apart_by_person(
            plan.method, plan.assessors, sets, share, plan.alpha, things, each_once=plan.each_once
        )
    else:
        # Ranks and grades of one person become one row, however many sets there are.
        units = plan.assessors if plan.method in ("ranking", "grading") else plan.judgements
        able = ability(plan.method, units, share, plan.alpha, things=things, each_once=plan.each_once)
    part = f"{round(100 * share)} %"
    match plan.method:
        case "naming" if sets > 1:
            known = f"If {part} know them all and all others guess, counted by person"
        case "naming":
            least = needed_names(plan.judgements, things, plan.alpha, each_once=plan.each_once)
            first = f"{least} of {plan.judgements * things} names must be right; guessing gives {plan.judgements}."
            return least, able, (first, f"If {part} know them all, this panel finds it {_times(able)}.")
        case "preference":
            known = f"If {part} truly like the same one best and all others choose by chance"
        case "ranking" | "grading":
            known = f"If {part} truly put the same one in front and all others rank by chance"
        case _:
            known = f"If {part} truly tell"
    return None, able, (f"{known}, this panel finds it about {_times(able)}.",)


def _enough(plan: PanelPlan) -> int | None:
    """Judgements that are enough; where people answer several times, as many as enough people give."""
    sets = plan.sets_each
    if not METHODS[plan.method].discriminates:
        share, things = _noticing(plan, plan.method), len(plan.things)
        if sets > 1 and plan.method in BY_PERSON:
            people = enough_people(
                plan.method, sets, share, plan.alpha, plan.wanted, right=None, things=things, each_once=plan.each_once
            )
            return None if people is None else people * sets
        if plan.method in ("ranking", "grading"):
            people = enough(plan.method, share, plan.alpha, plan.wanted, things=things, each_once=plan.each_once)
            return None if people is None else people * sets
        return enough(plan.method, share, plan.alpha, plan.wanted, things=things, each_once=plan.each_once)
    if plan.school == "alike" and sets > 1 and plan.assessors > 1:
        people = enough_alike(plan.method, sets, plan.limit, plan.alpha, plan.wanted)
        return None if people is None else people * sets
    if plan.school == "alike":
        return assessors_alike(plan.method, plan.limit, 0.0, plan.alpha, plan.wanted)
    if sets > 1 and plan.assessors > 1:
        right = None if plan.d is None else plan.right
        people = enough_people(
            plan.method, sets, plan.noticing, plan.alpha, plan.wanted, right=right, things=2, each_once=True
        )
        return None if people is None else people * sets
    return assessors_for(plan.method, plan.right, plan.alpha, plan.wanted)


def _people(plan: PanelPlan, judgements: int) -> int:
    return -(-judgements // plan.sets_each)


def _more(plan: PanelPlan, able: float, size: int | None) -> Iterator[str]:
    if able >= plan.wanted:
        return
    wanted = _times(plan.wanted)
    if size is None:
        yield f"No panel of reasonable size reaches {wanted}; take another test, or be content with a larger difference."
    elif size > plan.judgements:
        yield f"From {size} judgements on ({_people(plan, size)} people, as often each) it would, {wanted}."


def _others(plan: PanelPlan) -> tuple[Alternative, ...]:
    """The tests that ask the same, each for the same difference in the head (d′), so that they can be weighed against each other."""
    asks, counts = METHODS[plan.method].asks, METHODS[plan.method].discriminates
    d = plan.d
    if d is None and counts and plan.school == "difference":
        d = d_prime(plan.method, plan.right)
    found = []
    for method in METHODS.values():
        other = replace(plan, method=method.key, d=d, looks=1)
        if method.asks != asks or (plan.school == "alike" and not method.discriminates) or (d is None and not counts):
            continue
        size = _enough(other)
        people = None if size is None else _people(plan, size)
        cups = None if people is None else people * plan.sets_each * other.cups
        found.append(Alternative(method.key, people, cups, None if cups is None else cups * plan.amount))
    return tuple(found) if len(found) > 1 else ()
