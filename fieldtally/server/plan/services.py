"""What may be done with plans: begin, save a draft, predict, seal, amend, begin again from an earlier one."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime
from typing import Protocol

from django.db import transaction
from django.utils import timezone

from fieldtally.core.blinding.allocation import allocate
from fieldtally.core.blinding.chain import item
from fieldtally.core.blinding.seal import amended_document, canonical, seal_of, sealed_document
from fieldtally.core.design.changes import changes, forbidden, held_to
from fieldtally.core.design.document import document_of, plan_in
from fieldtally.core.design.fair.judges import Known
from fieldtally.core.design.fairness import fairness_problems
from fieldtally.core.design.plan import Earlier, Plan
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.people import services as people
from fieldtally.server.people.chain import append
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import (
    Amendment,
    Checkpoint,
    Draft,
    KeyEntry,
    Outcome,
    Prediction,
    Sample,
    SealedPlan,
)
from fieldtally.server.plan.queries import checkpoints_of, flaws_in, outcomes_of, plan_of, predictions_of

LONGEST_TEXT = 5_000
LONGEST_PREDICTION = 2_000
MOST_ENTRIES = 400


class Named(Protocol):
    """An entry of a plan: it has a key."""

    @property
    def key(self) -> str:
        """Unique among its kind."""


def begin(user: User, plan: Plan) -> Trial:
    """A new trial with its first draft."""
    with transaction.atomic():
        trial = people.begin_trial(user, plan.title, plan.zone)
        if plan.tasting:
            trial.is_tasting = True
            trial.save(update_fields=["is_tasting"])
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


def rename_draft(trial: Trial, user: User, title: str) -> None:
    """Call a draft something else; whoever has it open is told so as of any other change.

    :raises Declined: 409 when sealed; 422 without a name, or with one that is too long.
    """
    named = " ".join(title.split())
    if not named:
        raise Declined(422, Problem("title", "A trial needs a name."))
    with transaction.atomic():
        draft = Draft.objects.select_for_update().get(pk=trial.pk)
        save_draft(trial, user, replace(plan_in(draft.document), title=named), draft.version)


def _keepable(plan: Plan) -> None:
    """Refuse what no draft may hold."""
    if len(plan.title) > 200:
        raise Declined(422, Problem("title", "A name of up to 200 letters, please."))
    for name in ("treatments", "outcomes", "checkpoints", "factors", "held_equal", "fairness"):
        if len(getattr(plan, name)) > MOST_ENTRIES:
            raise Declined(422, Problem(name, f"More than {MOST_ENTRIES} entries are too many for one trial."))
    texts = [plan.question, plan.why, plan.decision, plan.hazards, plan.zone]
    texts += [plan.sample_word, plan.sample_words, plan.piece_word]
    texts += [text for t in plan.treatments for text in (t.name, t.note, t.changes)]
    texts += [text for entry in plan.held_equal for text in (entry.what, entry.setting)]
    texts += [text for stand in plan.fairness for text in (stand.item, stand.reason)]
    if any(len(text) > LONGEST_TEXT for text in texts) or len(plan.zone) > 64:
        raise Declined(422, "One of the texts is too long to be kept.")
    named: tuple[tuple[str, Sequence[Named]], ...] = (
        ("treatments", plan.treatments),
        ("outcomes", plan.outcomes),
        ("checkpoints", plan.checkpoints),
        ("layout.blocks", plan.layout.blocks),
        ("factors", plan.factors),
        ("held_equal", plan.held_equal),
    )
    for name, entries in named:
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
        problems = [*flaws_in(plan), *fairness_problems(plan, Known(len(predictions_of(locked))))]
        if problems:
            raise Declined(422, *problems)
        drawn_seed = seed or secrets.token_hex(16)
        allocation = allocate(plan, drawn_seed)
        document = sealed_document(plan, drawn_seed, allocation)
        sealed = SealedPlan.objects.create(
            trial=trial, canonical=canonical(document), seal=seal_of(document), at=now, by=user
        )
        samples = [
            Sample(
                trial=trial,
                code=allotted.code,
                block=allotted.block or "",
                place=allotted.place,
                plot=allotted.plot,
                row=allotted.row,
                column=allotted.column,
                starts=allotted.starts,
            )
            for allotted in allocation
        ]
        Sample.objects.bulk_create(samples)
        KeyEntry.objects.bulk_create(
            KeyEntry(sample=sample, treatment=allotted.treatment)
            for sample, allotted in zip(samples, allocation, strict=True)
        )
        Outcome.objects.bulk_create(Outcome(trial=trial, key=outcome.key) for outcome in plan.outcomes)
        Checkpoint.objects.bulk_create(Checkpoint(trial=trial, key=checkpoint.key) for checkpoint in plan.checkpoints)
        Trial.objects.filter(pk=trial.pk).update(sealed_at=now, plan_seal=sealed.seal)
        trial.plan_seal = sealed.seal
        append(trial, "seal", [item("seal", {"seal": sealed.seal})], at=now)
    return sealed


def predict(trial: Trial, user: User, text: str, *, at: datetime | None = None) -> Prediction | None:
    """Write down what ``user`` expects; the newest text counts.  None where that is what stands already.

    :raises Declined: 409 once the key is open; 422 where the text is too long.
    """
    if trial.opened_at:
        raise Declined(409, "The key is open; what is foreseen now counts no more.")
    if len(text) > LONGEST_PREDICTION:
        raise Declined(422, Problem("text", f"A prediction of up to {LONGEST_PREDICTION:,} letters, please."))
    newest = Prediction.objects.filter(trial=trial, by=user).last()
    if text.strip() == (newest.text if newest else ""):
        return None
    return Prediction.objects.create(trial=trial, by=user, text=text.strip(), at=at or timezone.now())


def amend(
    trial: Trial, user: User, plan: Plan, reason: str, taken: frozenset[str], *, at: datetime | None = None
) -> Amendment:
    """Change a sealed plan for ``reason``: a new version beside the old one, never over it.

    ``taken`` are the looks (keys) that have readings.

    :raises Declined: 409 while there is nothing to amend, or once the key is open; 422 with what may not be changed.
    """
    now = at or timezone.now()
    _keepable(plan)
    with transaction.atomic():
        locked = Trial.objects.select_for_update().get(pk=trial.pk)
        if locked.state == "draft":
            raise Declined(409, "This plan is still a draft: change it as you like, nothing needs amending.")
        if locked.state == "opened":
            raise Declined(409, "The key is open: what was planned cannot be changed any more.")
        before = plan_of(locked)
        changed = changes(before, plan)
        pinned = held_to(before, plan)
        problems = [*forbidden(before, plan, taken), *flaws_in(pinned)]
        if problems:
            raise Declined(422, *problems)
        if not changed:
            raise Declined(422, Problem("plan", "Nothing has changed, so there is nothing to amend."))
        if not reason.strip():
            raise Declined(422, Problem("reason", "Say why the plan is changed; the verdict will tell it."))
        if len(reason) > LONGEST_PREDICTION:
            raise Declined(422, Problem("reason", f"A reason of up to {LONGEST_PREDICTION:,} letters, please."))
        earlier = Amendment.objects.filter(trial=trial).last()
        follows = earlier.seal if earlier else SealedPlan.objects.get(pk=trial.pk).seal
        document = amended_document(pinned, follows, reason.strip(), changed, now.astimezone(UTC).isoformat())
        amendment = Amendment.objects.create(
            trial=trial,
            number=(earlier.number if earlier else 0) + 1,
            canonical=canonical(document),
            seal=seal_of(document),
            at=now,
            by=user,
        )
        told = item("amendment", {"number": amendment.number, "seal": amendment.seal})
        append(trial, "amendment", [told], at=now)
        named, looked_at = outcomes_of(locked), checkpoints_of(locked)
        Outcome.objects.bulk_create(Outcome(trial=trial, key=o.key) for o in plan.outcomes if o.key not in named)
        Checkpoint.objects.bulk_create(
            Checkpoint(trial=trial, key=c.key) for c in plan.checkpoints if c.key not in looked_at
        )
        Trial.objects.filter(pk=trial.pk).update(plan_seal=amendment.seal)
        trial.plan_seal = amendment.seal
    return amendment


def begin_again(user: User, plan: Plan, weaknesses: tuple[str, ...]) -> Trial:
    """A new draft from the plan of an earlier trial, with what was weak about that one; nobody has promised anything yet.

    :raises Declined: 409 of a tasting, which is asked again by a fresh panel.
    """
    if plan.tasting:
        raise Declined(409, "A tasting is asked again by a fresh panel, or held anew from the shelf.")
    copied = replace(
        plan,
        title=f"{plan.title[:180]}, again",
        starts_on=None,
        fairness=tuple(stand for stand in plan.fairness if stand.kept),
        earlier=Earlier(plan.title, weaknesses),
    )
    return begin(user, copied)
