"""What may be done with plans: begin, save a draft, seal."""

from __future__ import annotations

import secrets
from datetime import datetime

from django.db import transaction
from django.utils import timezone

from fieldtally.core.blinding.allocation import allocate
from fieldtally.core.blinding.seal import canonical, seal_of, sealed_document
from fieldtally.core.design.document import document_of, plan_in
from fieldtally.core.design.plan import Plan
from fieldtally.core.design.soundness import problems_in
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.people import acts as people
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Checkpoint, Draft, KeyEntry, Outcome, Sample, SealedPlan

LONGEST_TEXT = 5_000
MOST_ENTRIES = 400


def begin(user: User, plan: Plan) -> Trial:
    """A new trial with its first draft."""
    with transaction.atomic():
        trial = people.begin_trial(user, plan.title, plan.zone)
        Draft.objects.create(trial=trial, document=document_of(plan), saved_by=user)
    return trial


def save_draft(trial: Trial, user: User, plan: Plan, version: int) -> int:
    """Keep ``plan`` as the next version after ``version``, and say which that is.  A draft need not be sound yet.

    :raises Declined: 409 when sealed, or when somebody else has saved since ``version``; 422 when it cannot be kept.
    """
    _keepable(plan)
    with transaction.atomic():
        locked = Trial.objects.select_for_update().get(pk=trial.pk)
        if locked.sealed_at:
            raise Declined(409, "This plan is sealed; it cannot be changed any more.")
        draft = Draft.objects.get(pk=trial.pk)
        if draft.version != version:
            raise Declined(
                409,
                Problem(
                    "version", f"{draft.saved_by.called} has changed this plan since. Look at the new version first."
                ),
            )
        draft.document, draft.version, draft.saved_by = document_of(plan), version + 1, user
        draft.save()
        Trial.objects.filter(pk=trial.pk).update(title=plan.title.strip()[:200] or locked.title, zone=plan.zone[:64])
    return draft.version


def _keepable(plan: Plan) -> None:
    """Refuse what no draft may hold."""
    if len(plan.title) > 200:
        raise Declined(422, Problem("title", "A name of up to 200 letters, please."))
    for name in ("treatments", "outcomes", "checkpoints"):
        if len(getattr(plan, name)) > MOST_ENTRIES:
            raise Declined(422, Problem(name, f"More than {MOST_ENTRIES} entries are too many for one trial."))
    texts = [plan.question, plan.prediction, plan.sample_word, plan.zone]
    texts += [text for t in plan.treatments for text in (t.name, t.note)]
    if any(len(text) > LONGEST_TEXT for text in texts) or len(plan.zone) > 64:
        raise Declined(422, "One of the texts is too long to be kept.")
    for name, entries in (
        ("treatments", plan.treatments),
        ("outcomes", plan.outcomes),
        ("checkpoints", plan.checkpoints),
        ("layout.blocks", plan.layout.blocks),
    ):
        for i, entry in enumerate(entries):
            if len(entry.key) > 40:
                raise Declined(422, Problem(f"{name}.{i}.key", "This key is too long."))


def seal(trial: Trial, user: User, version: int, *, at: datetime | None = None, seed: str | None = None) -> SealedPlan:
    """Fix the draft: draw the allocation and the codes, and store the document under its SHA-256.

    :raises Declined: 409 when sealed already or changed since ``version``; 422 with every reason why it is not sound.
    """
    now = at or timezone.now()
    with transaction.atomic():
        locked = Trial.objects.select_for_update().get(pk=trial.pk)
        if locked.sealed_at:
            raise Declined(409, "This plan is sealed already.")
        draft = Draft.objects.get(pk=trial.pk)
        if draft.version != version:
            raise Declined(
                409, Problem("version", "The plan has changed since you looked at it. Look again before you seal.")
            )
        plan = plan_in(draft.document)
        problems = problems_in(plan)
        if problems:
            raise Declined(422, *problems)
        drawn_seed = seed or secrets.token_hex(16)
        allocation = allocate(plan, drawn_seed)
        document = sealed_document(plan, drawn_seed, allocation)
        sealed = SealedPlan.objects.create(
            trial=trial, canonical=canonical(document), seal=seal_of(document), at=now, by=user
        )
        samples = [
            Sample(trial=trial, code=allotted.code, block=allotted.block or "", place=allotted.place)
            for allotted in allocation
        ]
        Sample.objects.bulk_create(samples)
        KeyEntry.objects.bulk_create(
            KeyEntry(sample=sample, treatment=allotted.treatment)
            for sample, allotted in zip(samples, allocation, strict=True)
        )
        Outcome.objects.bulk_create(Outcome(trial=trial, key=outcome.key) for outcome in plan.outcomes)
        Checkpoint.objects.bulk_create(Checkpoint(trial=trial, key=checkpoint.key) for checkpoint in plan.checkpoints)
        Trial.objects.filter(pk=trial.pk).update(sealed_at=now)
    return sealed
