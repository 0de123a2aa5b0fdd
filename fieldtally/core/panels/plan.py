"""A panel as it is planned: which test, between what, for which question."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from fieldtally.core.panels.grading import MOST_STEPS, PanelAttribute
from fieldtally.core.panels.methods import METHODS, MethodName
from fieldtally.core.panels.monitoring import MOST_LOOKS
from fieldtally.core.panels.preferring import NoPreference
from fieldtally.core.panels.psychometric import share_right, share_right_of
from fieldtally.core.panels.serving import LETTERS
from fieldtally.core.problems import Problem

MOST_ASSESSORS, MOST_SESSIONS, MOST_SETS, MOST_ATTRIBUTES, MOST_STIMULI = 500, 20, 12, 8, 12
LONGEST_PAUSE = 30 * 60
LONGEST_WINDOW = 60 * 24 * 60


@dataclass(frozen=True)
class PanelPlan:
    """One panel.

    ``things`` are keys of treatments in the order of the letters A, B, …; for "which is more" the first is the one expected to be more
    ``attribute`` (crunchy).  ``school``: is there a *difference*, or are they *alike* enough, that is fewer than ``limit`` (0–1) notice?
    What it should be able to find is either ``noticing`` (0–1) or, if given, ``d``.  Each of ``assessors`` people gets ``sets`` sets in
    each of ``sessions`` sessions.  Answers may come with ``confidence``, a ``preference`` (with what becomes of those who have none),
    and words: ``chips`` to tap, and free ones.  ``pause`` seconds lie between two sets.  ``amount`` of ``amount_unit`` goes into each
    cup, or the things are ``sounds`` or ``pictures`` that are played and shown.  ``attributes`` are graded for each cup.

    ``own_samples``: cups are filled from the trial's own samples, aged and treated as they are, and not from what is made up for the panel.

    ``looks`` above 1: after so many equal parts of the judgements the host is told whether a difference is shown, and may stop.
    ``break_off`` is the rule, fixed beforehand, by which the panel ends early for another reason.  ``allergens`` and ``dose`` are declared
    to every assessor, ``adults`` are asked for where alcohol is served, ``words_to_say`` read out.

    ``stimuli`` (songs, dishes, fields) are what the same question is asked over: everybody gets their sets with each of them.
    It is planned for ``on``, a day and hour by the clock of the trial (2027-03-01T19:00), and people judge within ``window`` minutes
    from then (0: until it is closed).  ``cards``: who took part may see how they did, once the key is open.
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
    attributes: tuple[PanelAttribute, ...] = ()
    free_words: bool = True
    pause: int = 60
    amount: float = 20
    amount_unit: str = "mL"
    allergens: str = ""
    dose: str = ""
    adults: bool = False
    words_to_say: str = ""
    material: Literal["cups", "sounds", "pictures"] = "cups"
    own_samples: bool = False
    looks: int = 1
    break_off: str = ""
    stimuli: tuple[str, ...] = ()
    on: str | None = None
    window: int = 0
    cards: bool = False

    @property
    def sets_each(self) -> int:
        """Sets that one person gets in all."""
        return self.sessions * self.sets * max(1, len(self.stimuli))

    @property
    def cups(self) -> int:
        """Cups in one set."""
        return METHODS[self.method].cups or len(self.things)

    @property
    def judgements(self) -> int:
        """Judgements in all."""
        return self.assessors * self.sets_each

    @property
    def right(self) -> float:
        """The share of right answers that it should be able to find."""
        if self.d is not None and METHODS[self.method].discriminates:
            return share_right(self.method, self.d)
        return share_right_of(self.method, self.noticing)


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
    yield from _attributes(plan)
    yield from _stimuli(plan)
    yield from _date(plan)
    if plan.looks > 1 and (not method.discriminates or plan.school == "alike"):
        yield Problem("looks", "Only a test that counts right answers for a difference can be looked at while it runs.")
    yield from _numbers(plan)


def _attributes(plan: PanelPlan) -> Iterator[Problem]:
    names = [one.name.strip() for one in plan.attributes]
    if plan.method == "grading" and not names:
        yield Problem("attributes", "Say what is graded: crunch, sourness.")
    if len(names) > MOST_ATTRIBUTES:
        yield Problem("attributes", f"Up to {MOST_ATTRIBUTES} attributes; people tire.")
    elif len(set(names)) < len(names):
        yield Problem("attributes", "One of these is there twice.")
    for i, one in enumerate(plan.attributes):
        if not one.name.strip():
            yield Problem(f"attributes.{i}.name", "What is graded?")
        if not 1 <= one.steps <= MOST_STEPS:
            yield Problem(f"attributes.{i}.steps", f"From 1 to {MOST_STEPS} steps, please.")


def _stimuli(plan: PanelPlan) -> Iterator[Problem]:
    names = [one.strip().casefold() for one in plan.stimuli]
    if len(names) == 1:
        yield Problem("stimuli", "One alone is what all is asked over anyway: name a second one, or none.")
    if len(names) > MOST_STIMULI:
        yield Problem("stimuli", f"Up to {MOST_STIMULI} of them; people tire.")
    for i, one in enumerate(names):
        if not one:
            yield Problem(f"stimuli.{i}", "What is it called?")
        elif one in names[:i]:
            yield Problem(f"stimuli.{i}", "This one is there twice.")


def _date(plan: PanelPlan) -> Iterator[Problem]:
    if plan.on is not None:
        try:
            datetime.fromisoformat(plan.on)
        except ValueError:
            yield Problem("on", "This is no day and hour, as in 2027-03-01 19:00.")
    if not 0 <= plan.window <= LONGEST_WINDOW:
        yield Problem("window", "People judge within up to 60 days.")


def _things(plan: PanelPlan, treatments: frozenset[str]) -> Iterator[Problem]:
    method = METHODS[plan.method]
    if any(thing not in treatments for thing in plan.things):
        yield Problem("things", "One of these is not in the trial.")
    elif len(set(plan.things)) != len(plan.things):
        yield Problem("things", "One of these is there twice.")
    elif method.cups is not None and len(plan.things) != 2:
        yield Problem("things", f"{method.name} compares two things; choose two.")
    elif method.cups is None and not method.least <= len(plan.things) <= len(LETTERS):
        yield Problem("things", f"{method.name} needs at least {'three' if method.least == 3 else 'two'} things.")


def _numbers(plan: PanelPlan) -> Iterator[Problem]:
    for name, value, most in (
        ("assessors", plan.assessors, MOST_ASSESSORS),
        ("sessions", plan.sessions, MOST_SESSIONS),
        ("sets", plan.sets, MOST_SETS),
        ("looks", plan.looks, MOST_LOOKS),
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
