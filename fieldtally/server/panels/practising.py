"""Practice: somebody tests themselves in repeated sets.  A record of their own, which no panel ever sees."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from fieldtally.core.panels.answering import answer_refusal
from fieldtally.core.panels.methods import METHODS, MethodName
from fieldtally.core.panels.practice import MOST_PRACTISED, Practised, practised
from fieldtally.core.panels.serving import is_right, serving_plan
from fieldtally.core.problems import Problem
from fieldtally.core.randomness import Draw
from fieldtally.server.answers import Declined, missing
from fieldtally.server.panels.models import Practice, PracticeSet
from fieldtally.server.people.models import User

MOST_RUNS = 500
SOURCES = ("cups", "sounds", "pictures")


@dataclass(frozen=True)
class PracticeWanted:
    """What somebody wants to practise."""

    method: str
    sets: int
    source: str
    step: int
    first: str = ""
    second: str = ""


def begin_practice(user: User, wanted: PracticeWanted) -> Practice:
    """Draw a run of sets.

    :raises Declined: 422 at what cannot be.
    """
    problems = []
    method = METHODS.get(wanted.method)  # type: ignore[call-overload]
    if method is None or not method.discriminates:
        problems.append(Problem("method", "Practise a test with a right answer: a triangle, a tetrad, A, B and X."))
    if wanted.source not in SOURCES:
        problems.append(Problem("source", "Cups, sounds or pictures."))
    if not 1 <= wanted.sets <= MOST_PRACTISED:
        problems.append(Problem("sets", f"From 1 to {MOST_PRACTISED} sets, please."))
    if not 1 <= wanted.step <= 5:
        problems.append(Problem("step", "From 1, hardly apart, to 5, plainly apart."))
    names = [wanted.first.strip(), wanted.second.strip()]
    if wanted.source == "cups":
        for at, name in zip(("first", "second"), names, strict=True):
            if not 0 < len(name) <= 80:
                problems.append(Problem(at, "What does the helper pour? Up to 80 letters."))
        if names[0] and names[0] == names[1]:
            problems.append(Problem("second", "Two different things, please."))
    if Practice.objects.filter(by=user).count() >= MOST_RUNS:
        problems.append(Problem("", f"Up to {MOST_RUNS} runs are kept; remove old ones first."))
    if problems or method is None:
        raise Declined(422, *problems)
    seed = secrets.token_hex(16)
    drawn = serving_plan(method.key, 1, Draw(seed, "practice"), sets=wanted.sets)
    with transaction.atomic():
        made = Practice.objects.create(
            by=user,
            method=method.key,
            source=wanted.source,
            step=wanted.step,
            first=names[0],
            second=names[1],
            seed=seed,
        )
        PracticeSet.objects.bulk_create(
            PracticeSet(practice=made, place=i, order=one.order, codes=list(one.codes)) for i, one in enumerate(drawn)
        )
    return made


def practice_of(user: User, pk: UUID) -> Practice:
    """The run of that id, if it is the person's own.

    :raises Declined: 404 else.
    """
    found = Practice.objects.filter(pk=pk, by=user).first()
    if found is None:
        raise missing()
    return found


def answer_set(practice: Practice, place: int, answer: Sequence[int]) -> None:
    """Give the answer to a set; it is locked then.

    :raises Declined: 404 where there is no such set; 409 where it is answered; 422 on an answer that cannot be.
    """
    with transaction.atomic():
        one = practice.sets.select_for_update().filter(place=place).first()
        if one is None:
            raise missing()
        if one.answer is not None:
            raise Declined(409, "An answer, once given, is locked.")
        refusal = answer_refusal(method_of(practice), len(one.order), answer)
        if refusal:
            raise Declined(422, Problem("answer", refusal))
        one.answer, one.answered_at = list(answer), timezone.now()
        one.save(update_fields=["answer", "answered_at"])


def method_of(practice: Practice) -> MethodName:
    """The test of a run."""
    return METHODS[practice.method].key  # type: ignore[index]


def told_of(practice: Practice) -> Practised | None:
    """What a run tells, once every set of it is answered."""
    rows = list(practice.sets.all())
    if any(one.answer is None for one in rows):
        return None
    return practised(
        method_of(practice), [bool(is_right(method_of(practice), one.order, one.answer or [])) for one in rows]
    )
