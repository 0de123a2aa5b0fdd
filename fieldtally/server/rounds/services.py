"""What may be done in rounds: open one, take an unplanned look.  Readings are written in :mod:`.writing`."""

from __future__ import annotations

import secrets
from dataclasses import replace
from datetime import datetime
from zoneinfo import ZoneInfo

from django.utils import timezone

from fieldtally.core.design.plan import Checkpoint
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, missing
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.queries import checkpoints_of, plan_of
from fieldtally.server.plan.services import amend
from fieldtally.server.prepare.queries import has_seen_key
from fieldtally.server.rounds.models import Round
from fieldtally.server.rounds.queries import checkpoints_with_readings
from fieldtally.server.rounds.signals import round_begun


def must_run(trial: Trial, *, baseline: bool = False) -> None:
    """Go on only while something is scored: while exposure runs, or at a ``baseline`` from the seal on.

    :raises Declined: with 409 and what is to be done first.
    """
    if trial.state == "opened":
        raise Declined(409, "The key is open: this trial is concluded, and nothing more is scored in it.")
    if trial.state == "draft":
        raise Declined(
            409, "This trial is still a draft: it is scored once the plan is sealed and exposure has started."
        )
    if trial.state == "sealed" and not baseline:
        raise Declined(409, "Exposure has not started yet, so there is nothing to score.")


KNOWS_FIRST = (
    "This look was taken before the plan was sealed. Whoever knows what stands where types it in from the notebook; "
    "you go on blind."
)
LONGEST_CALLED = 80


def open_round(trial: Trial, user: User, checkpoint: str, *, looked_by: str = "", at: datetime | None = None) -> Round:
    """The round of ``user`` at ``checkpoint`` (key), begun now if they had none; ``looked_by`` names who had looked, where it is typed in
    from somebody else's notebook.

    :raises Declined: 409 while nothing is scored, and of a look that was taken before the seal to whoever is blind.
    """
    must_run(trial, baseline=checkpoint in _baselines(trial))
    noted = plan_of(trial).noted_before(checkpoint)
    if noted and not has_seen_key(trial, user):
        raise Declined(409, KNOWS_FIRST)
    if looked_by.strip() and not noted:
        raise Declined(
            422,
            Problem(
                "looked_by",
                "Each scores for themselves; only what was looked at before the seal is typed in for others.",
            ),
        )
    if len(looked_by) > LONGEST_CALLED:
        raise Declined(422, Problem("looked_by", f"A name of up to {LONGEST_CALLED} letters, please."))
    row = checkpoints_of(trial).get(checkpoint)
    if row is None:
        raise missing()
    now = at or timezone.now()
    found, begun = Round.objects.get_or_create(
        trial=trial,
        checkpoint_id=row,
        scorer=user,
        defaults={"opened_at": now, "looked_by": looked_by.strip()},
    )
    if begun:
        round_begun.send(None, trial=trial, user=user, now=now)
    return found


def _baselines(trial: Trial) -> set[str]:
    return {c.key for c in plan_of(trial).checkpoints if c.baseline} if trial.plan_seal else set()


def add_checkpoint_now(trial: Trial, user: User, reason: str, *, at: datetime | None = None) -> str:
    """Add an unplanned look that is due now, as an amendment for ``reason``; its key.  It is marked as unplanned and never
    takes the place of the look by which an outcome is judged."""
    must_run(trial)
    now = at or timezone.now()
    plan = plan_of(trial)
    offset = max(1, int((now - (trial.started_at or now)).total_seconds() // 60))
    while offset in {c.offset for c in plan.checkpoints}:
        offset += 1
    local = now.astimezone(ZoneInfo(plan.zone))
    look = Checkpoint(
        f"u{secrets.token_hex(4)}", f"Unplanned, {local.day} {local:%b %H:%M}", offset, 0, 120, unplanned=True
    )
    amended = replace(plan, checkpoints=(*plan.checkpoints, look))
    amend(trial, user, amended, reason, checkpoints_with_readings(trial), at=now)
    return look.key
