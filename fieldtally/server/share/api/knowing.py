"""Doors over all trials of a person: search, what is known about something, the same question taken together."""

from __future__ import annotations

from uuid import UUID

from ninja import Router, Schema

from fieldtally.core.verdict.combining import Combined
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.share.known import Fared, Found, Shared, fared, shared_questions, together, trials_about

router = Router()
LONGEST = 200


class KnownOut(Schema):
    """Trials that have the words in them, and how treatments of that name fared where the key is open."""

    trials: list[Found]
    fared: list[Fared]


@router.get("/known", response=KnownOut)
def known(request: SignedIn, about: str = "") -> KnownOut:
    """What do we know about …?"""
    words = about.strip()[:LONGEST]
    return KnownOut(trials=trials_about(request.user, words), fared=fared(request.user, words))


class SharedOut(Schema):
    """Questions that several concluded trials have in common."""

    questions: list[Shared]


@router.get("/shared-questions", response=SharedOut)
def shared(request: SignedIn) -> SharedOut:
    """What could be taken together."""
    return SharedOut(questions=shared_questions(request.user))


class TogetherIn(Schema):
    """Which trials, and which difference (names)."""

    trials: list[UUID]
    a: str
    b: str
    outcome: str


@router.post("/combined", response={200: Combined, 422: ProblemsOut})
def combine(request: SignedIn, body: TogetherIn) -> Combined:
    """One difference over several trials."""
    return together(request.user, body.trials, body.a, body.b, body.outcome)
