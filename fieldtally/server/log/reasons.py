"""Reasons that people give: every decision in the log has one."""

from __future__ import annotations

from fieldtally.core.limits import LONGEST_REASON
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.people.models import Trial


def given_reason(text: str, missing: str) -> str:
    """The reason in ``text``, without the space around it.

    :raises Declined: 422 at ``reason``: there is none (then it says ``missing``), or it is too long.
    """
    if not text.strip():
        raise Declined(422, Problem("reason", missing))
    if len(text) > LONGEST_REASON:
        raise Declined(422, Problem("reason", f"A reason of up to {LONGEST_REASON} letters, please."))
    return text.strip()


def before_it(trial: Trial) -> str:
    """The sentence about what is said to have happened before ``trial`` had anything to happen to."""
    begun = trial.started_at is not None and trial.started_at == trial.first_moment
    return "That was before exposure began." if begun else "That was before the plan was sealed."
