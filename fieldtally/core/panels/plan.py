"""A panel as it is planned: which test, between what, for which question; what it costs, and what it can find."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from fieldtally.core.panels.discriminating import (
    assessors_alike,
    assessors_for,
    most_alike,
    needed,
    power,
    power_alike,
)
from fieldtally.core.panels.methods import METHODS, MethodName
from fieldtally.core.panels.preferring import NoPreference
from fieldtally.core.panels.psychometric import d_prime, noticers, share_right, share_right_of
from fieldtally.core.panels.serving import LETTERS
from fieldtally.core.problems import Problem

MOST_ASSESSORS, MOST_SESSIONS, MOST_SETS = 500, 20, 12
LONGEST_PAUSE = 30 * 60


@dataclass(frozen=True)
class PanelPlan:
    """One panel.

    ``things`` are keys of treatments in the order of the letters A, B, …; for "which is more" the first is the one expected to be more
    ``attribute`` (crunchy).  ``school``: is there a *difference*, or are they *alike* enough, that is fewer than ``limit`` (0–1) notice?
    What it should be able to find is either ``noticing`` (0–1) or, if given, ``d``.  Each of ``assessors`` people gets ``sets`` sets in
    each of ``sessions`` sessions.  Answers may come with ``confidence``, a ``preference`` (with what becomes of those who have none),
    and words: ``chips`` to tap, and free ones.  ``pause`` seconds lie between two sets.  ``amount`` of ``amount_unit`` goes into each
    cup.  ``allergens`` and ``dose`` are declared to every assessor, ``adults`` are asked for where alcohol is served,
    ``words_to_say`` read out.
    """

    title: str
    method: MethodName = "triangle"
    things: tuple[str, ...] = ()
    attribute: str = ""
    school: Literal["difference", "alike"] = "difference"
    alpha: float = 0.05
    limit: float = 0.3
    noticing: float = 0.4
    d: float | None = None
    wanted: float = 0.8
    assessors: int = 24
    sessions: int = 1
    sets: int = 1
    each_once: bool = True
    confidence: bool = False
    preference: bool = False
    no_preference: NoPreference = "drop"
    chips: tuple[str, ...] = ()
    free_words: bool = True
    pause: int = 60
    amount: float = 20
    amount_unit: str = "mL"
    allergens: str = ""
    dose: str = ""
    adults: bool = False
    words_to_say: str = ""

    @property
    def cups(self) -> int:
        """Cups in one set."""
        return METHODS[self.method].cups or len(self.things)

    @property
    def judgements(self) -> int:
        """Judgements in all."""
        return self.assessors * self.sessions * self.sets

    @property
    def right(self) -> float:
        """The share of right answers that it should be able to find."""
        if self.d is not None and METHODS[self.method].discriminates:
            return share_right(self.method, self.d)
        return share_right_of(self.method, self.noticing)


@dataclass(frozen=True)
class PanelOutlook:
    """What a panel costs and can find: cups and the amount poured of each thing; right answers ``needed`` of all judgements (for alike: the
    ``most`` that may be right), its ``power``, and the ``judgements`` that would reach what is wanted (None: no panel is large enough);
    and sentences about it, the main one first."""

    cups: int
    amounts: tuple[float, ...]
    needed: int | None
    most: int | None
    power: float | None
    judgements: int | None
    says: tuple[str, ...]


def problems_in(plan: PanelPlan, treatments: frozenset[str]) -> Iterator[Problem]:
    """Why the panel cannot begin as planned; ``treatments`` are the keys that the trial has."""
    method = METHODS[plan.method]
    if not plan.title.strip():
        yield Problem("title", "The panel needs a name.")
    yield from _things(plan, treatments)
    if method.asks == "direction" and not plan.attribute.strip():
        yield Problem("attribute", "Say what one of them is more of: crunchy, sweet, loud.")
    if plan.school == "alike" and not method.discriminates:
        yield Problem("school", f"{method.name} cannot show that two are alike enough; a triangle or a tetrad can.")
    yield from _numbers(plan)


def _things(plan: PanelPlan, treatments: frozenset[str]) -> Iterator[Problem]:
    method = METHODS[plan.method]
    if any(thing not in treatments for thing in plan.things):
        yield Problem("things", "One of these is not in the trial.")
    elif len(set(plan.things)) != len(plan.things):
        yield Problem("things", "One of these is there twice.")
    elif method.cups is not None and len(plan.things) != 2:
        yield Problem("things", f"{method.name} compares two things; choose two.")
    elif method.cups is None and not 3 <= len(plan.things) <= len(LETTERS):
        yield Problem("things", f"{method.name} needs at least three things.")


def _numbers(plan: PanelPlan) -> Iterator[Problem]:
    for name, value, most in (
        ("assessors", plan.assessors, MOST_ASSESSORS),
        ("sessions", plan.sessions, MOST_SESSIONS),
        ("sets", plan.sets, MOST_SETS),
    ):
        if not 1 <= value <= most:
            yield Problem(name, f"From 1 to {most}, please.")
    for name, share in (("limit", plan.limit), ("noticing", plan.noticing), ("wanted", plan.wanted)):
        if not 0 < share < 1:
            yield Problem(name, "A share between 0 and 1, please.")
    for name, wrong, says in (
        ("alpha", not 0 < plan.alpha <= 0.2, "The risk of a false alarm is more than 0, at most 0.2."),
        ("d", plan.d is not None and not 0 < plan.d <= 10, "A d′ above 0, at most 10."),
        ("pause", not 0 <= plan.pause <= LONGEST_PAUSE, "A pause of up to half an hour, in seconds."),
        ("amount", not 0 < plan.amount <= 10_000, "How much goes into each cup?"),
    ):
        if wrong:
            yield Problem(name, says)


def outlook(plan: PanelPlan) -> PanelOutlook:
    """What the panel costs and can find.  The plan is one without problems."""
    cups = plan.cups * plan.judgements
    per_thing = cups * plan.amount / max(1, len(plan.things))
    amounts = tuple(per_thing for _ in plan.things)
    if not METHODS[plan.method].discriminates:
        return PanelOutlook(cups, amounts, None, None, None, None, ())
    n, right = plan.judgements, plan.right
    notice = f"{round(100 * noticers(plan.method, right))} % truly notice (d′ {d_prime(plan.method, right):.1f})"
    if plan.school == "difference":
        least, able = needed(plan.method, n, plan.alpha), power(plan.method, n, right, plan.alpha)
        enough = assessors_for(plan.method, right, plan.alpha, plan.wanted)
        says = [
            f"{least} of {n} right answers are needed."
            if least <= n
            else f"With {n} judgements not even all right ones would show a difference.",
            f"If {notice}, this panel finds it {round(100 * able)} times in 100.",
        ]
        return PanelOutlook(cups, amounts, least, None, able, enough, (*says, *_more(plan, able, enough)))
    most = most_alike(plan.method, n, plan.limit, plan.alpha)
    able = power_alike(plan.method, n, share_right_of(plan.method, 0.0), plan.limit, plan.alpha)
    enough = assessors_alike(plan.method, plan.limit, 0.0, plan.alpha, plan.wanted)
    bound = f"fewer than {round(100 * plan.limit)} % notice"
    says = [
        f"With {n} judgements it can never be shown that {bound}."
        if most is None
        else f"At most {most} of {n} right answers show that {bound}.",
        f"If nobody notices anything, this panel shows it {round(100 * able)} times in 100.",
    ]
    return PanelOutlook(cups, amounts, None, most, able, enough, (*says, *_more(plan, able, enough)))


def _more(plan: PanelPlan, able: float, enough: int | None) -> Iterator[str]:
    if able >= plan.wanted:
        return
    wanted = f"{round(100 * plan.wanted)} times in 100"
    if enough is None:
        yield f"No panel of reasonable size reaches {wanted}; take another test, or be content with a larger difference."
    else:
        people = -(-enough // (plan.sessions * plan.sets))
        yield f"From {enough} judgements on ({people} people, as often each) it would, {wanted}."
    if plan.method == "triangle":
        yield "A tetrad finds the same difference with fewer people; one more cup each."
