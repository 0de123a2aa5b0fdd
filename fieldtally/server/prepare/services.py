"""What may be done in preparing: look at the key, tick what is held equal, start exposure, count cycles."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta

from django.db import transaction
from django.utils import timezone

from fieldtally.core.blinding.chain import item
from fieldtally.core.limits import LONGEST_REMARK
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.people.chain import append
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import drawn_key, plan_of, samples_of
from fieldtally.server.prepare.models import Cycle, Exposure, HeldTick, KeyLook

TOGETHER = (
    "Started like this, whoever scores would see which belong together. "
    "Start all of a block at once, or one of each treatment in turn."
)
LONGEST_SETTING = 80
AHEAD = timedelta(hours=1)
"""So far may the clock of a device be ahead without anybody being asked."""
LONGEST_AGO = timedelta(days=366 * 20)


def look_at_key(trial: Trial, user: User, *, at: datetime | None = None) -> None:
    """Record that ``user`` looks at the key; while it is sealed their rounds count as open from now on."""
    if trial.state == "draft":
        raise Declined(409, "There is no key yet: seal the plan first.")
    if trial.opened_at is None:
        with transaction.atomic():
            look = KeyLook.objects.create(trial=trial, by=user, at=at or timezone.now())
            append(trial, "key look", [item("key look", {"at": look.at})], at=look.at)


def start_exposure(
    trial: Trial,
    user: User,
    *,
    block: str | None = None,
    codes: Sequence[str] = (),
    but: Sequence[str] = (),
    at: datetime | None = None,
    now: datetime | None = None,
) -> datetime:
    """Start the clock of samples: of those with ``codes``, of those in ``block`` (key), or of all, without those with codes in ``but``.
    Those that run already are left; the rest start ``at`` that moment (now), or as much later as the plan staggers them inside what is
    started here; it is written down ``now``.

    :raises Declined: 409 before the seal, when all of them run already, or once the key is open; 422 for unknown codes, and at ``at`` where
        that lies in the future or more than twenty years back.
    """
    written = now or timezone.now()
    begins = at or written
    if begins > written + AHEAD:
        raise Declined(422, Problem("at", "That lies in the future; start them when they start."))
    if begins < written - LONGEST_AGO:
        raise Declined(422, Problem("at", "That is more than twenty years ago."))
    with transaction.atomic():
        locked = Trial.objects.select_for_update().get(pk=trial.pk)
        if locked.state == "draft":
            raise Declined(409, "Seal the plan first: codes and layout are drawn then.")
        if locked.state == "opened":
            raise Declined(409, "The key is open; nothing starts any more.")
        later = {sample.pk for sample in _chosen(locked, None, but)} if but else set()
        chosen = [sample for sample in _chosen(locked, block, codes) if sample.pk not in later]
        running = set(Exposure.objects.filter(sample__in=chosen).values_list("sample_id", flat=True))
        waiting = [sample for sample in chosen if sample.pk not in running]
        if not waiting:
            raise Declined(409, "Exposure has started already; the clock is running.")
        if codes or but:
            _not_by_treatment(locked, waiting)
        # Codes picked by hand start as they are picked, whatever the plan staggers.
        first = min(sample.starts for sample in waiting)
        lags = {sample.pk: timedelta(minutes=0 if codes else sample.starts - first) for sample in waiting}
        Exposure.objects.bulk_create(Exposure(sample=s, started_at=begins + lags[s.pk], by=user) for s in waiting)
        began = [item("start", {"sample": s.code, "started_at": begins + lags[s.pk]}) for s in waiting]
        append(locked, "start", began, at=written)
        if locked.started_at is None or begins < locked.started_at:
            Trial.objects.filter(pk=trial.pk).update(started_at=begins)
    return begins


def _not_by_treatment(trial: Trial, starting: Sequence[Sample]) -> None:
    """Whoever scores sees which samples run: were those of one treatment started before those of another, the round would show which belong
    together.  So in each block every treatment has as many running as any other, give or take one, while it has any left to start.

    :raises Declined: 409 where they would not.
    """
    key, own = drawn_key(trial), {sample.pk for sample in starting}
    running = own | set(Exposure.objects.filter(sample__trial=trial).values_list("sample_id", flat=True))
    begun: Counter[tuple[str, str]] = Counter()
    left: Counter[tuple[str, str]] = Counter()
    for sample in samples_of(trial):
        (begun if sample.pk in running else left)[sample.block, key[sample.pk]] += 1
    touched = {sample.block for sample in starting}
    for block in touched:
        treatments = {treatment for where, treatment in (*begun, *left) if where == block}
        behind = min((begun[block, one] for one in treatments if left[block, one]), default=None)
        most = max(begun[block, one] for one in treatments)
        if behind is not None and most > behind + 1:
            raise Declined(409, Problem("codes", TOGETHER))


def _chosen(trial: Trial, block: str | None, codes: Sequence[str]) -> list[Sample]:
    samples = samples_of(trial)
    if codes:
        # A scanned tag tells the sample's id.
        known = {name: sample for sample in samples for name in (sample.code, str(sample.pk))}
        wrong = [code for code in codes if code not in known]
        if wrong:
            raise Declined(422, Problem("codes", f"There is no sample {', '.join(wrong)} in this trial."))
        return [known[code] for code in dict.fromkeys(codes)]
    if block is None:
        return samples
    chosen = [sample for sample in samples if sample.block == block]
    if not chosen:
        raise Declined(422, Problem("block", "There is no such block in this trial."))
    return chosen


def tick_held(trial: Trial, user: User, entry: str, *, at: datetime | None = None) -> HeldTick:
    """Record that ``entry`` (key) of the held-equal sheet is as planned for all samples; once for each entry."""
    if trial.state == "draft":
        raise Declined(409, "Seal the plan first; the sheet is ticked when the samples are prepared.")
    if entry not in {one.key for one in plan_of(trial).held_equal}:
        raise Declined(422, Problem("entry", "This is not on the held-equal sheet."))
    tick, _ = HeldTick.objects.get_or_create(
        trial=trial, entry=entry, defaults={"by": user, "at": at or timezone.now()}
    )
    return tick


def count_cycle(
    trial: Trial, user: User, note: str, settings: Mapping[str, str] | None = None, *, at: datetime | None = None
) -> Cycle:
    """Record that all samples went through one more cycle, with its ``settings`` as written (by key)."""
    if trial.state != "running":
        raise Declined(409, "Cycles are counted while the exposure runs.")
    plan = plan_of(trial)
    if not plan.cycle_word.strip():
        raise Declined(409, "This plan has no cycles.")
    if len(note) > LONGEST_REMARK:
        raise Declined(422, Problem("note", f"Settings in up to {LONGEST_REMARK} letters, please."))
    known = {setting.key for setting in plan.cycle_settings}
    told = {key: text.strip() for key, text in (settings or {}).items() if text.strip()}
    for key, text in told.items():
        if key not in known:
            raise Declined(
                422, Problem(f"settings.{key[:40]}", "This setting is not in the plan any more; load the page anew.")
            )
        if len(text) > LONGEST_SETTING:
            raise Declined(422, Problem(f"settings.{key}", f"A setting of up to {LONGEST_SETTING} letters, please."))
    return Cycle.objects.create(trial=trial, note=note.strip(), set_to=told, by=user, at=at or timezone.now())
