"""What a trial's verdict may not claim, from its plan, its layout and what happened."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta

from fieldtally.core.schedule.naming import called
from fieldtally.core.schedule.taken import off_told
from fieldtally.core.verdict.agreeing import agreement_limits
from fieldtally.core.verdict.claims import Happened, may_not_be_claimed
from fieldtally.server.log.queries import differences_of, given_up_outcomes, skipped_checkpoints
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import amendments_of, plan_of, predictions_of
from fieldtally.server.prepare.queries import cycles_off, doses_off, given_by_version, started_samples
from fieldtally.server.rounds.guessing import blinding_of, told_apart
from fieldtally.server.rounds.queries import RoundKept
from fieldtally.server.rounds.telling import accidents_told, methods_told
from fieldtally.server.verdict.results import faults_in
from fieldtally.server.verdict.study import Study

MOST_TOLD = 5
SEALED_AT_ONCE = 15
"""Minutes after the start within which a seal is no late one: somebody started the clock and then pressed it."""


def not_claimed(trial: Trial, study: Study, rounds: Sequence[RoundKept]) -> tuple[str, ...]:
    """Sentences, the most important first."""
    return may_not_be_claimed(study.plan, _happened(trial, study, rounds))


def _happened(trial: Trial, study: Study, rounds: Sequence[RoundKept]) -> Happened:
    scored = {r.checkpoint for r in rounds}
    last = [called(c) for c in study.plan.in_time if c.key in scored]
    outs = [*study.aside.values(), *study.left_out.values()]
    withdrawn = given_up_outcomes(trial)
    return Happened(
        open_rounds=sum(r.blinding == "open" for r in rounds),
        rounds=len(rounds),
        set_aside=len(study.aside),
        last_checkpoint=last[-1] if last else None,
        predictions=len(predictions_of(trial)),
        afterwards=trial.origin == "table",
        differences=tuple(differences_of(trial, study.plan)),
        skipped=tuple(skipped_checkpoints([trial]).values()),
        amendments=tuple(one.reason for one in amendments_of(trial)),
        doses=_doses(trial),
        cycles=tuple(cycles_off(trial, study.plan)),
        accidents=accidents_told(trial),
        left_out=len(study.left_out),
        methods=methods_told(trial),
        altered=faults_in(trial) or (),
        slips=study.data.slips,
        sealed_after=_sealed_after(trial),
        noted=tuple(called(c) for c in study.plan.in_time if study.plan.noted_before(c.key) and c.key in scored),
        late_starts=study.data.late_starts,
        starts_tell=tuple(t.name for t in study.plan.treatments if t.key in study.data.starts_tell),
        unread=study.data.unread,
        withdrawn=tuple(o.name for o in plan_of(trial).outcomes if o.key in withdrawn),
        instruments=tuple(agreement_limits(study.plan, study.data.instruments)) if study.plan.agreement else (),
        after_key=sum(one.after_key for one in outs),
        told_apart=tuple(told for held in blinding_of(trial) for told in told_apart(held)),
    )


def _sealed_after(trial: Trial) -> str:
    """How long after the first sample's start the plan was sealed; empty where it was before, or where all was planned afterwards."""
    started = min(started_samples(trial).values(), default=None)
    if trial.sealed_at is None or started is None or trial.origin == "table":
        return ""
    late = (trial.sealed_at - started) / timedelta(minutes=1)
    return off_told(late) if late > SEALED_AT_ONCE else ""


def _doses(trial: Trial) -> tuple[str, ...]:
    """What was given otherwise than planned: to single samples, and since the plan was changed."""
    off = doses_off(trial)
    told = [f"{code} was off: {says}" for code, says in off[:MOST_TOLD]]
    if len(off) > MOST_TOLD:
        told.append(f"{len(off) - MOST_TOLD} more amounts were off; the log has them all.")
    for one in given_by_version(trial):
        when = "as sealed" if one.version == 0 else f"under amendment {one.version}"
        told.append(f"{one.amount} {when} to {', '.join(one.codes)}.")
    return tuple(told)
