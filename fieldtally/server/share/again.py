"""What was weak about a trial, told to whoever plans the next one."""

from __future__ import annotations

import numpy as np
from django.utils import timezone

from fieldtally.core.design.fair.judges import Known
from fieldtally.core.design.fairness import given_up
from fieldtally.core.outlook.outlook import outlook
from fieldtally.core.verdict.agreeing import agreement_sentences
from fieldtally.server.log.queries import differences_of, set_aside, skipped_checkpoints
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import amendments_of, plan_of, predictions_of
from fieldtally.server.prepare.queries import doses_off
from fieldtally.server.rounds.queries import progress_of, rounds_of
from fieldtally.server.verdict.results import concluded


def found_by(trial: Trial) -> tuple[str, ...]:
    """What the verdict of an opened trial says of each outcome that carried a claim; none while the key is sealed."""
    if trial.opened_at is None:
        return ()
    found = concluded(trial)
    if plan_of(trial).agreement is not None:
        return agreement_sentences(found.instruments)
    return tuple(finding.sentence for finding in found.findings if finding.claim)


def weaknesses_of(trial: Trial) -> tuple[str, ...]:
    """Sentences: what the plan gave up, what it could not tell, what happened on the way, what stayed open."""
    plan = plan_of(trial)
    found = [f"Given up: {reason}. {limit}" for limit, reason in given_up(plan, Known(len(predictions_of(trial))))]
    told = outlook(plan, np.random.default_rng(0))
    if told is not None and told.standing in ("impossible", "weak"):
        found.append(told.headline)
    if trial.state == "draft":
        return tuple(found)
    missed = [look for look in progress_of(trial, plan, timezone.now()) if look.standing == "missed"]
    if missed:
        found.append(f"{len(missed)} of {len(plan.checkpoints)} looks were missed.")
    skipped = skipped_checkpoints([trial])
    found += [f"A look was skipped: {reason}." for reason in skipped.values()]
    aside = set_aside(trial)
    if aside:
        reasons = "; ".join(sorted({deviation.reason for deviation in aside.values()}))
        found.append(f"{len(aside)} of {plan.sample_count} samples were set aside: {reasons}.")
    opened = sum(held.blinding == "open" for held in rounds_of(trial))
    if opened:
        found.append(f"{opened} rounds were scored by someone who had seen the key.")
    found += [f"{what} was not held equal: {reason}." for what, reason in differences_of(trial, plan)]
    off = doses_off(trial)
    if off:
        found.append(f"{len(off)} amounts were given otherwise than planned.")
    found += [f"Amended: {one.reason}" for one in amendments_of(trial)]
    if trial.opened_at:
        for finding in concluded(trial).findings:
            settle = finding.strength.settle
            if finding.claim and settle:
                found.append(f"{finding.sentence} {settle} of each would probably settle it.")
    return tuple(found)
