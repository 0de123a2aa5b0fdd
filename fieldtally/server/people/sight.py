"""Sight: who may see and do what in a trial, in the state it is in.

Every door asks this object and nothing else.  It answers a handful of questions:

==================  =====================================================================================
``edits_plan``      change the draft
``sees_treatments`` know what is compared (names, kinds, numbers)
``sees_key``        know which sample has which treatment
``sees_readings``   read what was scored, by code
``scores``          take part in rounds
``prepares``        put treatments on samples, start exposure, see the key for that
``opens_key``       open the key for all
``sees_verdict``    read the result
``leads``           invite, seal, set aside
==================  =====================================================================================

A scorer or viewer learns no treatment before the key is open: not its name, id, order, number or colour.  A lead knows
what is compared (they wrote it); one who stays blind does not learn which sample has it.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from uuid import UUID

from django.http import HttpRequest

from fieldtally.core.design.blackout import HIDDEN, blacked_out, telling_in
from fieldtally.core.design.document import plan_in
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, missing
from fieldtally.server.people.models import Membership, Role, Trial

WORKING_TITLE = "A trial in the making"
MOST_QUOTED = 3


@lru_cache(maxsize=512)
def _names_in(seal: str, canonical: str) -> tuple[str, ...]:
    del seal
    return tuple(plan_in(json.loads(canonical)["plan"]).telling_names)


def earlier_names(trial: Trial) -> list[str]:
    """What told a blind person what is compared by earlier versions of the plan: a name that an amendment changed or dropped is still one.
    None where nothing was amended."""
    amended = list(trial.amendments.values_list("seal", "canonical"))
    if not amended:
        return []
    versions = [(trial.sealed.seal, trial.sealed.canonical), *amended]
    return sorted({name for seal, canonical in versions for name in _names_in(seal, canonical)})


@dataclass(frozen=True)
class Sight:
    """What one person may see and do in one trial."""

    trial: Trial
    membership: Membership
    insists: bool = False
    """Whether the request says that its words are to be kept as they are, though they tell a treatment."""

    @property
    def role(self) -> str:
        """The person's role."""
        return self.membership.role

    @property
    def leads(self) -> bool:
        """Whether this is the lead."""
        return self.role == Role.LEAD

    @property
    def is_open(self) -> bool:
        """Whether the key is open to all."""
        return self.trial.state == "opened"

    @property
    def edits_plan(self) -> bool:
        """Only the lead, and only a draft."""
        return self.leads and self.trial.state == "draft"

    @property
    def sees_treatments(self) -> bool:
        """The lead always, the preparer once there is something to prepare, all once the key is open."""
        return self.leads or self.is_open or (self.role == Role.PREPARER and self.trial.state != "draft")

    @property
    def sees_key(self) -> bool:
        """The preparer, and a lead who does not stay blind, from the seal on; all once it is open."""
        if self.trial.state == "draft":
            return False
        return self.is_open or self.role == Role.PREPARER or (self.leads and not self.membership.blind)

    @property
    def prepares(self) -> bool:
        """Who puts treatments on samples."""
        return self.role == Role.PREPARER or self.leads

    @property
    def scores(self) -> bool:
        """Who may take part in rounds."""
        return self.role in (Role.SCORER, Role.LEAD)

    @property
    def sees_readings(self) -> bool:
        """Readings by code: who scores, and all once the key is open."""
        return self.is_open or self.scores

    @property
    def opens_key(self) -> bool:
        """Only the lead opens the key."""
        return self.leads

    @property
    def sees_verdict(self) -> bool:
        """Nobody before the key is open."""
        return self.is_open

    def spoken(self, text: str, treatments: Iterable[str]) -> str:
        """``text`` as this person may read it: names of treatments are blacked out while they are not to be known, and so are those that
        they had in earlier versions of the plan."""
        return text if self.sees_treatments else blacked_out(text, [*treatments, *self._earlier])

    @cached_property
    def _earlier(self) -> list[str]:
        return [] if self.trial.state == "draft" else earlier_names(self.trial)

    def titled(self, text: str, treatments: Iterable[str]) -> str:
        """A title as this person may read it: of a draft nobody but who plans it reads what it asks."""
        if self.trial.state == "draft" and not self.leads:
            return WORKING_TITLE
        return self.spoken(text, treatments)

    def asked(self, question: str, treatments: Iterable[str]) -> str:
        """The question as this person may read it; none of a draft that others plan."""
        return "" if self.trial.state == "draft" and not self.leads else self.spoken(question, treatments)

    def hear(self, treatments: Iterable[str], **texts: str) -> None:
        """Ask for other words where ``texts``, by the field they are written in, tell which treatment is meant, while somebody is blind.

        :raises Declined: with 422 and a sentence that asks, unless the request says that they are kept as they are.
        """
        if self.insists or self.trial.state not in ("sealed", "running"):
            return
        names = [*treatments, *self._earlier]
        found = {at: telling_in(text, names) for at, text in texts.items()}
        problems = [Problem(at, _reword(pieces), asks=True) for at, pieces in found.items() if pieces]
        if problems:
            raise Declined(422, *problems)

    def need(self, allowed: bool, says: str) -> None:
        """Go on only if ``allowed``.

        :raises Declined: with 403 and the sentence.
        """
        if not allowed:
            raise Declined(403, says)


def sight(request: HttpRequest, trial_id: UUID) -> Sight:
    """What the person who asks may see of that trial.

    :raises Declined: with 404, alike for a trial that does not exist and for one they have no role in.
    """
    membership = Membership.objects.select_related("trial").filter(trial_id=trial_id, user_id=request.user.pk).first()
    if membership is None:
        raise missing()
    return Sight(membership.trial, membership, insists=request.headers.get("X-Said-Anyway") == "yes")


def _reword(pieces: Sequence[str]) -> str:
    quoted = " and ".join(f"“{piece}”" for piece in pieces[:MOST_QUOTED])
    return (
        f"{quoted} {'tells' if len(pieces) == 1 else 'tell'} which treatment is meant, and others here are blind. Say it in other words; "
        "or keep it so, and they read it blackened until the key is open."
    )


__all__ = ["HIDDEN", "Sight", "blacked_out", "earlier_names", "sight"]
