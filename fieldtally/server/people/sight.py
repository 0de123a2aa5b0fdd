"""Sight: who may see and do what in a trial, in the state it is in.

Every door asks this object and nothing else: ``seen.may("score")``, ``seen.need("see_key")``.  What each role has in each state stands in
:mod:`.permissions`, and as a table in ``docs/permissions.md``.

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
from fieldtally.core.design.plan import Plan
from fieldtally.core.problems import Problem
from fieldtally.core.quantities.nouns import Noun, noun
from fieldtally.server.answers import Declined, missing
from fieldtally.server.people.models import Membership, Trial
from fieldtally.server.people.models.trial import State
from fieldtally.server.people.permissions import GRANTS, Permission

WORKING_TITLE = "A trial in the making"
MOST_QUOTED = 3


@lru_cache(maxsize=512)
def _names_in(seal: str, canonical: str) -> tuple[str, ...]:
    del seal
    return tuple(plan_in(json.loads(canonical)["plan"]).telling_names)


@lru_cache(maxsize=512)
def _earlier_names(trial_id: UUID, seal: str) -> tuple[str, ...]:
    """Those of all versions up to the one under ``seal``; none where that is the first."""
    trial = Trial.objects.select_related("sealed").get(pk=trial_id)
    if trial.sealed.seal == seal:
        return ()
    versions = [(trial.sealed.seal, trial.sealed.canonical), *trial.amendments.values_list("seal", "canonical")]
    return tuple(sorted({name for seal, canonical in versions for name in _names_in(seal, canonical)}))


def earlier_names(trial: Trial) -> list[str]:
    """What told a blind person what is compared by earlier versions of the plan: a name that an amendment changed or dropped is still one.
    None where nothing was amended."""
    return list(_earlier_names(trial.pk, trial.plan_seal)) if trial.plan_seal else []


@dataclass(frozen=True)
class Sight:
    """What one person may see and do in one trial."""

    trial: Trial
    membership: Membership
    insists: bool = False
    """Whether the request says that its words are to be kept as they are, though they tell a treatment."""

    def may(self, permission: Permission) -> bool:
        """Whether this person has ``permission`` in the state that the trial is in."""
        state = self.trial.state
        if permission == "see_key" and self.membership.blind and state != "opened":
            # A lead who chose to stay blind.
            return False
        return state in GRANTS[permission].where.get(self.membership.role, ())

    def need(self, permission: Permission) -> None:
        """Go on only with ``permission``.

        :raises Declined: with 403 and its sentence.
        """
        self.agree(self.may(permission), GRANTS[permission].says)

    def need_role(self, permission: Permission) -> None:
        """Go on only where this person's role has ``permission`` in some state; whether it is the time for it is said by what is asked for.

        :raises Declined: with 403 and its sentence.
        """
        self.agree(bool(GRANTS[permission].where.get(self.membership.role)), GRANTS[permission].says)

    def agree(self, allowed: bool, says: str) -> None:
        """Go on only if ``allowed``, where more than role and state decides.

        :raises Declined: with 403 and the sentence.
        """
        if not allowed:
            raise Declined(403, says)

    @property
    def stays_blind(self) -> bool:
        """Whether this is a lead who chose to see no key until it is open for all."""
        return self.membership.blind

    @property
    def told_role(self) -> str:
        """The person's role, to be shown; what it may do is asked of :meth:`may`."""
        return self.membership.role

    @property
    def told_state(self) -> State:
        """The state of the trial, to be shown."""
        return self.trial.state

    def spoken(self, text: str, treatments: Iterable[str]) -> str:
        """``text`` as this person may read it: names of treatments are blacked out while they are not to be known, and so are those that
        they had in earlier versions of the plan."""
        return text if self.may("see_treatments") else blacked_out(text, [*treatments, *self._earlier])

    def sample_of(self, plan: Plan, treatments: Iterable[str]) -> Noun:
        """What a sample of ``plan`` is called, by one and by several, as this person may read it."""
        names = list(treatments)
        return noun(self.spoken(plan.sample_word, names), self.spoken(plan.sample_words, names))

    @cached_property
    def _earlier(self) -> list[str]:
        return [] if self.trial.state == "draft" else earlier_names(self.trial)

    def titled(self, text: str, treatments: Iterable[str]) -> str:
        """A title as this person may read it: of a draft nobody but who plans it reads what it asks."""
        if not self.may("see_draft"):
            return WORKING_TITLE
        return self.spoken(text, treatments)

    def asked(self, question: str, treatments: Iterable[str]) -> str:
        """The question as this person may read it; none of a draft that others plan."""
        return self.spoken(question, treatments) if self.may("see_draft") else ""

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


def sight(request: HttpRequest, trial_id: UUID) -> Sight:
    """What the person who asks may see of that trial.

    :raises Declined: with 404, alike for a trial that does not exist and for one they have no role in.
    """
    membership = (
        Membership.objects.select_related("trial").filter(trial_id=trial_id, user_id=request.user.pk or 0).first()
    )
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
