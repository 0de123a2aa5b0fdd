"""What went wrong with samples, and what is to be done with them; and measuring methods that fail midway."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from uuid import uuid4

from django.db import transaction
from django.utils import timezone

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.log.deviating import deviate
from fieldtally.server.log.models import Deviation
from fieldtally.server.log.models.deviation import Accident, DeviationKind
from fieldtally.server.log.queries import given_up_outcomes, out_of_play, split_outcomes
from fieldtally.server.log.reasons import before_it, given_reason
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import plan_of

EFFECTS = {"mark": DeviationKind.MARKED, "exclude": DeviationKind.SET_ASIDE, "from": DeviationKind.LEFT_OUT}
"""What is done with the samples: kept and marked, left out altogether, or left out from the moment it happened."""


def record_accident(
    trial: Trial,
    user: User,
    accident: str,
    codes: Sequence[str],
    effect: str,
    what: str,
    *,
    since: datetime,
    at: datetime | None = None,
) -> list[Deviation]:
    """Record ``what`` happened at ``since`` to the samples with ``codes`` (none: to all of them, which can only be marked).

    All or nothing.

    :raises Declined: 409 on a draft; 422 at the field that is wrong.
    """
    now = at or timezone.now()
    if trial.state == "draft":
        raise Declined(409, "There are no samples yet: seal the plan first.")
    said = given_reason(what, "Say what happened; the verdict will tell it.")
    problems = []
    if accident not in Accident.values:
        problems.append(Problem("accident", "Choose what kind of thing happened."))
    if effect not in EFFECTS:
        problems.append(Problem("effect", "Say what is to be done with the samples."))
    if since > now:
        problems.append(Problem("since", "That lies in the future."))
    elif trial.first_moment and since < trial.first_moment:
        problems.append(Problem("since", before_it(trial)))
    wanted = list(dict.fromkeys(code.strip() for code in codes if code.strip()))
    samples = {sample.code: sample for sample in Sample.objects.filter(trial=trial, code__in=wanted)}
    unknown = [code for code in wanted if code not in samples]
    if unknown:
        problems.append(Problem("codes", f"There is no sample {unknown[0]} in this trial."))
    if not wanted and effect in ("exclude", "from"):
        problems.append(Problem("codes", "Say which samples; what happened to all of them can only be marked."))
    out = out_of_play(trial)
    gone = [code for code in wanted if code in samples and effect != "mark" and samples[code].pk in out]
    if gone:
        problems.append(Problem("codes", f"Sample {gone[0]} is left out already."))
    if problems:
        raise Declined(422, *problems)
    event = uuid4()
    with transaction.atomic():
        return [
            deviate(
                trial=trial,
                sample=samples[code] if code else None,
                kind=EFFECTS[effect],
                accident=accident,
                event=event,
                since=since,
                reason=said,
                by=user,
                at=now,
                after_key=trial.opened_at is not None,
            )
            for code in wanted or [""]
        ]


def give_up_method(
    trial: Trial, user: User, outcome: str, reason: str, *, since: datetime | None = None, at: datetime | None = None
) -> Deviation:
    """Withdraw the ``outcome`` (key), whose measuring method turned out not to hold; or with ``since`` split it there: from that moment
    on it is measured in another way, and what was read before is never put together with what is read after.

    Its readings stay in the log.

    :raises Declined: 409 where the trial is a draft or open, or the outcome is withdrawn or split already; 422 at the field.
    """
    now = at or timezone.now()
    if trial.state in ("draft", "opened"):
        raise Declined(409, "A method is given up between the seal and the opening of the key.")
    plan = plan_of(trial)
    if outcome not in {o.key for o in plan.outcomes}:
        raise Declined(422, Problem("outcome", "There is no such outcome in this trial."))
    if outcome in given_up_outcomes(trial):
        raise Declined(409, "It is withdrawn already.")
    said = given_reason(reason, "Say what was wrong with it; the verdict will tell it.")
    if since is not None:
        if outcome in split_outcomes(trial):
            raise Declined(409, "It is split already; withdraw it if the new way fails too.")
        if since > now:
            raise Declined(422, Problem("since", "That lies in the future."))
        if trial.first_moment and since < trial.first_moment:
            raise Declined(422, Problem("since", before_it(trial)))
    return deviate(
        trial=trial,
        about=outcome,
        kind=DeviationKind.WITHDRAWN if since is None else DeviationKind.SPLIT,
        since=since,
        reason=said,
        by=user,
        at=now,
    )
