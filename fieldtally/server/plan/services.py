"""What may be done with plans: begin, save a draft, predict, seal, amend, begin again from an earlier one."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime
from typing import Protocol

from django.db import transaction
from django.utils import timezone

from fieldtally.core.blinding.allocation import Allotted, allocate, allocate_added
from fieldtally.core.blinding.chain import item
from fieldtally.core.blinding.seal import More, amended_document, canonical, seal_of, sealed_document
from fieldtally.core.design.changes import changes, forbidden, held_to
from fieldtally.core.design.document import document_of, plan_in
from fieldtally.core.design.fair.judges import Known
from fieldtally.core.design.fairness import fairness_problems
from fieldtally.core.design.following import followed
from fieldtally.core.design.later import new_blocks
from fieldtally.core.design.plan import Earlier, Plan
from fieldtally.core.design.sound.treatments import MOST_SAMPLES
from fieldtally.core.design.starts import first_given
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.schedule.standing import times_of
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
from fieldtally.server.plan.queries import checkpoints_of, flaws_in, outcomes_of, plan_of, predictions_of, shuffle_of
from fieldtally.server.plan.signals import plan_sealed

LONGEST_TEXT = 5_000
LONGEST_PREDICTION = 2_000
NOT_DECIDED_THEN = (
    "It can have been decided at any moment since the plan was sealed, or amended last, and not in the future."
)
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
    for name in (
        "treatments",
        "groups",
        "kinds",
        "shared_costs",
        "outside",
        "outcomes",
        "checkpoints",
        "factors",
        "held_equal",
        "fairness",
    ):
        if len(getattr(plan, name)) > MOST_ENTRIES:
            raise Declined(422, Problem(name, f"More than {MOST_ENTRIES} entries are too many for one trial."))
    texts = [plan.question, plan.why, plan.decision, plan.hazards, plan.zone]
    texts += [plan.sample_word, plan.sample_words, plan.piece_word]
    texts += [text for t in plan.treatments for text in (t.name, t.note, t.changes)]
    texts += [
        text
        for t in plan.treatments
        for dose in t.doses
        for text in (dose.rate, dose.tool, dose.vessel, dose.water, dose.rinse, dose.check)
    ]
    texts += [
        *(one.what for one in plan.shared_costs),
        *(one.name for one in plan.outside),
        *plan.kinds,
        *(text for group in plan.groups for text in (group.name, group.hazards, group.cleaning)),
    ]
    if plan.agreement is not None:
        texts.append(plan.agreement.unit)
    if plan.begun is not None:
        if len(plan.begun.samples) > MOST_SAMPLES:
            raise Declined(
                422, Problem("begun.samples", f"More than {MOST_SAMPLES:,} samples are too many for one trial.")
            )
        texts += [plan.begun.how, *(one.name for one in plan.begun.samples)]
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
        first = first_given(plan)
        if first is not None and first > now:
            problems.append(Problem("begun.on", "That lies in the future: what is still to begin is planned as usual."))
        elif first is not None:
            problems += _taken_ahead(plan, first, now)
        if plan.added_blocks:
            problems.append(Problem("layout.blocks", "Nothing can be added to what is not sealed yet: give numbers."))
        if problems:
            raise Declined(422, *problems)
        drawn_seed = seed or secrets.token_hex(16)
        allocation = allocate(plan, drawn_seed)
        document = sealed_document(plan, drawn_seed, allocation)
        sealed = SealedPlan.objects.create(
            trial=trial, canonical=canonical(document), seal=seal_of(document), at=now, by=user
        )
        _put_down(trial, allocation)
        Outcome.objects.bulk_create(Outcome(trial=trial, key=outcome.key) for outcome in plan.outcomes)
        Checkpoint.objects.bulk_create(Checkpoint(trial=trial, key=checkpoint.key) for checkpoint in plan.checkpoints)
        Trial.objects.filter(pk=trial.pk).update(sealed_at=now, plan_seal=sealed.seal)
        trial.plan_seal = sealed.seal
        append(trial, "seal", [item("seal", {"seal": sealed.seal})], at=now)
        plan_sealed.send(None, trial=trial, user=user, plan=plan, now=now)
    return sealed


def _put_down(trial: Trial, allocation: Sequence[Allotted]) -> None:
    """The samples of an allocation, and apart from them the key."""
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


def _stamped(before: Plan, plan: Plan, now: datetime) -> Plan:
    """``plan`` with the moment ``now`` at what it adds to ``before``."""
    new = {block.key for block in new_blocks(before, plan)}
    at = now.astimezone(UTC).isoformat()
    blocks = tuple(
        replace(block, added=replace(block.added, at=at)) if block.added is not None and block.key in new else block
        for block in plan.layout.blocks
    )
    return replace(plan, layout=replace(plan.layout, blocks=blocks))


def _more(trial: Trial, before: Plan, plan: Plan, second: frozenset[str]) -> More | None:
    """The samples that ``plan`` adds to ``before``, drawn; None where it adds none.

    :raises Declined: 409 after a shuffle by hand, which hid who is who.
    """
    new = new_blocks(before, plan)
    if not new:
        return None
    if shuffle_of(trial) is not None:
        raise Declined(
            409,
            "This trial was shuffled by hand, so nobody could tell what to put beside what: ask it in a trial of its own.",
        )
    codes = frozenset(Sample.objects.filter(trial=trial).values_list("code", flat=True))
    while True:
        seed = secrets.token_hex(16)
        drawn = allocate_added(plan, new[0].key, seed, codes)
        # What is drawn follows from the plan, its codes and the seed alone; another seed is tried where a second code was met.
        if not second & {one.code for one in drawn}:
            return More(seed, drawn)


def _taken_ahead(plan: Plan, first: datetime, now: datetime) -> list[Problem]:
    """Looks that are said to have been taken though they still lie ahead: they would never be scored, and not blind."""
    times = times_of(plan, first)
    return [
        Problem("begun.taken", f"“{one.name.strip()}” still lies ahead, so it was not taken yet.")
        for one in plan.checkpoints
        if plan.noted_before(one.key) and not one.baseline and one.cycle is None and times[one.key].opens > now
    ]


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
    trial: Trial,
    user: User,
    plan: Plan,
    reason: str,
    taken: frozenset[str],
    *,
    second: frozenset[str] = frozenset(),
    decided: datetime | None = None,
    at: datetime | None = None,
) -> Amendment:
    """Change a sealed plan for ``reason``: a new version beside the old one, never over it.  ``decided``: when it was, where it is written
    down later.

    ``taken`` are the looks (keys) that have readings, ``second`` the second codes of samples, which no sample may get that is added.

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
        # Whoever amends need not have read what stands where.
        plan = _stamped(before, replace(plan, begun=before.begun), now)
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
        if decided is not None and not (earlier.at if earlier else locked.sealed.at) <= decided <= now:
            raise Declined(422, Problem("decided", NOT_DECIDED_THEN))
        follows = earlier.seal if earlier else SealedPlan.objects.get(pk=trial.pk).seal
        more = _more(locked, before, pinned, second)
        then = decided.astimezone(UTC).isoformat() if decided is not None else ""
        document = amended_document(
            pinned, follows, reason.strip(), changed, now.astimezone(UTC).isoformat(), more, then
        )
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
        if more is not None:
            _put_down(trial, more.allocation)
        Trial.objects.filter(pk=trial.pk).update(plan_seal=amendment.seal)
        trial.plan_seal = amendment.seal
    return amendment


def _drawn_together(plan: Plan) -> Plan:
    """``plan`` with what was added later among all others, with as many samples as the fewest of these have."""
    first = plan.first_drawn
    if first is plan:
        return plan
    fewest = min(one.samples for one in first.treatments)
    return replace(
        plan,
        layout=first.layout,
        treatments=tuple(one if one.samples > 0 else replace(one, samples=fewest) for one in plan.treatments),
    )


def begin_again(
    user: User, plan: Plan, weaknesses: tuple[str, ...], found: tuple[str, ...] = (), only: Sequence[str] = ()
) -> Trial:
    """A new draft from the plan of an earlier trial, with what was weak about that one and what it ``found``; nobody has promised anything
    yet.  It is a follow-up where ``only`` some of the treatments (keys) are asked again.

    :raises Declined: 422 with fewer than two treatments left; 409 of a tasting, which is asked again by a fresh panel.
    """
    if plan.tasting:
        raise Declined(409, "A tasting is asked again by a fresh panel, or held anew from the shelf.")
    together = _drawn_together(plan)
    try:
        asked = followed(together, only) if only else together
    except Refused as refused:
        raise Declined(422, *refused.problems) from refused
    title = f"{plan.title[:180]}, {'followed up' if only else 'again'}"
    return begin(user, replace(_unbegun(asked), title=title, earlier=Earlier(plan.title, weaknesses, found)))


def _unbegun(plan: Plan) -> Plan:
    """``plan`` as one begins with it anew: no day, nothing taken, nothing given up."""
    kept = tuple(stand for stand in plan.fairness if stand.kept)
    return replace(plan, starts_on=None, begun=None, fairness=kept)


def as_pattern(plan: Plan) -> Plan:
    """A plan to begin another trial with: treatments, scales, looks, places and numbers of ``plan``, nothing of what happened in it.

    :raises Declined: 409 of a tasting.
    """
    if plan.tasting:
        raise Declined(409, "A tasting is held anew from the shelf.")
    return replace(_unbegun(_drawn_together(plan)), title="", earlier=None)
