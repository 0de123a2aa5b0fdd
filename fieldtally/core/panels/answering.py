"""What an answer must look like for each test, before it is locked."""

from __future__ import annotations

from collections.abc import Sequence

from fieldtally.core.panels.grading import PanelAttribute
from fieldtally.core.panels.methods import MethodName


def answer_refusal(method: MethodName, cups: int, answer: Sequence[int], *, each_once: bool = True) -> str:
    """Why ``answer`` is none for a set of that many ``cups``; empty where it is one.

    One cup (place from 0) for triangle, one of the first two for A, B and X, duo-trio (never the reference), 2- and 3-AFC and
    preference (−1: none); two cups for a tetrad; 1 or 0 for yes-or-no tests; for naming a name (number) for each cup; for ranking all
    cups from the first to the last; nothing for grading, whose grades are looked at by :func:`grades_refusal`.

    >>> answer_refusal("tetrad", 4, [0, 2]), answer_refusal("tetrad", 4, [0])
    ('', 'Choose the two that go together.')
    """
    one = len(answer) == 1
    match method:
        case "tetrad":
            sound = len(set(answer)) == 2 == len(answer) and all(0 <= place < cups for place in answer)
            return "" if sound else "Choose the two that go together."
        case "a-not-a" | "same-different":
            return "" if one and answer[0] in (0, 1) else "Say yes or no."
        case "naming":
            if len(answer) != cups or any(not 0 <= name < cups for name in answer):
                return "Give each cup one of the names."
            return "Each name is used once." if each_once and len(set(answer)) != cups else ""
        case "ranking":
            return "" if sorted(answer) == list(range(cups)) else "Put all of them in order."
        case "duo-trio":
            return "" if one and 1 <= answer[0] < cups else "Choose one of the two, not the reference."
        case "abx":
            return "" if one and answer[0] in (0, 1) else "Say whether X is like the first or the second."
        case "grading":
            return "" if not answer else "Grades are given for each attribute."
        case "preference":
            return "" if one and -1 <= answer[0] < cups else "Choose one, or say that neither is better."
        case _:
            return "" if one and 0 <= answer[0] < cups else "Choose one cup."


def grades_refusal(attributes: Sequence[PanelAttribute], cups: int, grades: Sequence[Sequence[int | None]]) -> str:
    """Why ``grades`` (for each attribute one for each cup, None for a reference) are none; empty where they are.

    >>> grades_refusal([PanelAttribute("crunch")], 2, [[3, 11]])
    'Grade “crunch” from 0 to 10 for each of them.'
    """
    if len(grades) != len(attributes):
        return "Each attribute that is asked is graded, and no other."
    for attribute, own in zip(attributes, grades, strict=True):
        if len(own) != cups or any(grade is not None and not 0 <= grade <= attribute.steps for grade in own):
            return f"Grade “{attribute.name}” from 0 to {attribute.steps} for each of them."
        if all(grade is None for grade in own):
            return f"Grade “{attribute.name}” from 0 to {attribute.steps} for each of them."
    return ""
