"""What people answered, and the parts that their answers are told by."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from fieldtally.core.panels.methods import METHODS
from fieldtally.core.panels.persons import answers_apart_p, between_groups_p, of_each, within_persons_p
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.serving import is_right
from fieldtally.core.quantities.numbers import honest

SURE = {1: "1 guessed", 2: "2 rather guessed", 3: "3 rather sure", 4: "4 sure"}


@dataclass(frozen=True)
class Judged:
    """One judgement: by whom, how used to it they are, in which session, of cups in which order, with which answer (places); ``left_out``
    says why it does not count.  ``grades``: for each attribute of the plan one for each cup; ``stimulus``: over which of the plan's."""

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
    stimulus: int = 0


@dataclass(frozen=True)
class Part:
    """A part of the judgements, named, with how many of them were right."""

    name: str
    n: int
    right: int


def parts_of(rows: Iterable[tuple[str, bool]]) -> tuple[Part, ...]:
    """Right answers by the name of the part they belong to, in order of the names."""
    found: dict[str, list[bool]] = defaultdict(list)
    for name, ok in rows:
        found[name].append(ok)
    return tuple(Part(name, len(own), sum(own)) for name, own in sorted(found.items()))


def right_place(plan: PanelPlan, order: str) -> int:
    """Where the right answer stood, from 0."""
    return (
        next(i for i in range(len(order)) if is_right(plan.method, order, [i]))
        if plan.method != "tetrad"
        else order.find(order[0], 1)
    )


def rights(plan: PanelPlan, counted: Iterable[Judged]) -> list[bool]:
    """Whether each of the judgements is right."""
    return [bool(is_right(plan.method, one.order, one.answer)) for one in counted]


def by_part(plan: PanelPlan, counted: list[Judged], right: list[bool]) -> dict[str, tuple[Part, ...]]:
    """Right answers by experience, place of the right cup, session, person, how sure people were, and stimulus."""
    both = list(zip(counted, right, strict=True))
    return {
        "experience": parts_of((one.experience, ok) for one, ok in both),
        "places": parts_of((f"cup {right_place(plan, one.order) + 1}", ok) for one, ok in both),
        "sessions": parts_of((f"session {one.session + 1}", ok) for one, ok in both),
        "people": parts_of((one.person, ok) for one, ok in both),
        "confidence": parts_of((SURE[one.confidence], ok) for one, ok in both if one.confidence is not None),
    }


def differs(plan: PanelPlan, counted: list[Judged], rng: np.random.Generator) -> tuple[str, ...]:
    """Between whom, and where, it is told more often than elsewhere by more than chance gives: a sentence each.

    By experience persons are exchanged (a person is one number); by stimulus and session the answers within each person,
    for everybody had all of them;
    by place the places, which were drawn.
    """
    if not METHODS[plan.method].discriminates or not counted:
        return ()
    tests = [
        (by, between, p, parts)
        for by, between, p, parts in (
            _by_experience(counted, rights(plan, counted), rng),
            _by_stimulus(plan, counted, rights(plan, counted), rng),
            _by_session(counted, rights(plan, counted), rng),
            _by_place(plan, counted, rights(plan, counted), rng),
        )
        if p is not None
    ]
    # Several are looked at, and each may differ by chance: they share the level.
    return tuple(_told(by, between, p, parts) for by, between, p, parts in tests if p <= plan.alpha / len(tests))


Tested = tuple[str, str, float | None, tuple[Part, ...]]


def _by_experience(counted: list[Judged], right: list[bool], rng: np.random.Generator) -> Tested:
    rows = of_each((one.person, ok) for one, ok in zip(counted, right, strict=True))
    used = {one.person: one.experience for one in counted}
    groups = sorted(set(used.values()))
    shares = np.array([float(np.mean(own)) for own in rows.values()])
    labels = np.array([groups.index(used[person]) for person in rows])
    p = between_groups_p(shares, labels, rng) if len(groups) > 1 else None
    parts = parts_of((one.experience, ok) for one, ok in zip(counted, right, strict=True))
    return "by experience", "between people", p, parts


def _by_stimulus(plan: PanelPlan, counted: list[Judged], right: list[bool], rng: np.random.Generator) -> Tested:
    rows = of_each((one.person, (one.stimulus, ok)) for one, ok in zip(counted, right, strict=True))
    p = within_persons_p(list(rows.values()), len(plan.stimuli), rng) if plan.stimuli else None
    parts = parts_of((plan.stimuli[one.stimulus], ok) for one, ok in zip(counted, right, strict=True) if plan.stimuli)
    return "by what it was asked over", "within people", p, parts


def _by_session(counted: list[Judged], right: list[bool], rng: np.random.Generator) -> Tested:
    rows = of_each((one.person, (one.session, ok)) for one, ok in zip(counted, right, strict=True))
    sessions = 1 + max(one.session for one in counted)
    p = within_persons_p(list(rows.values()), sessions, rng) if sessions > 1 else None
    parts = parts_of((f"session {one.session + 1}", ok) for one, ok in zip(counted, right, strict=True))
    return "by session", "within people", p, parts


def _by_place(plan: PanelPlan, counted: list[Judged], right: list[bool], rng: np.random.Generator) -> Tested:
    places = [right_place(plan, one.order) for one in counted]
    p = answers_apart_p(right, places, rng) if len(set(places)) > 1 else None
    parts = parts_of((f"cup {place + 1}", ok) for place, ok in zip(places, right, strict=True))
    return "by where the right cup stood", "between places", p, parts


def _told(by: str, between: str, p: float, parts: Iterable[Part]) -> str:
    counts = ", ".join(f"{part.name} {part.right} of {part.n}" for part in parts)
    return f"It differs {by}, more than chance gives {between} (p {honest(p, 2)}): {counts} right."
