"""The shelf, and the course of a trial: its line in time with how each stop stands."""

from datetime import datetime
from uuid import UUID

from django.utils import timezone
from ninja import Router, Schema

from fieldtally.core.design.plan import LayoutKind, Plan
from fieldtally.core.schedule.calendar import planned_start
from fieldtally.core.schedule.ending import EndingFinding, ending_finding
from fieldtally.core.schedule.naming import called
from fieldtally.core.schedule.slip import slip
from fieldtally.core.schedule.standing import Standing, times_of
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.queries import memberships_of
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of, plans_of, sealed_plan
from fieldtally.server.prepare.queries import KeyKept, key_kept
from fieldtally.server.rounds.outcomes import OutcomeOut, outcomes_out
from fieldtally.server.rounds.queries import CheckpointProgress, Counted, scored_now, values_by_checkpoint
from fieldtally.server.rounds.telling import blinding_told

router = Router()


class CheckpointOut(Schema):
    """A checkpoint on the course; times are None before exposure starts.  ``slip``: how many minutes late the last of it was taken (early
    below 0), None inside its window.  ``done`` of ``expected`` counts readings, ``samples_done`` of ``samples`` those that have all of
    theirs.  ``noted``: it was taken before the seal and stands in a notebook."""

    key: str
    name: str
    offset: int
    cycle: int | None
    baseline: bool
    unplanned: bool
    noted: bool
    standing: Standing
    opens: datetime | None
    due: datetime | None
    closes: datetime | None
    lost: datetime | None
    slip: float | None
    done: int
    expected: int
    samples_done: int
    samples: int


class BlockOut(Schema):
    """A block of the layout."""

    key: str
    name: str
    note: str


class CourseOut(Schema):
    """A trial as its frame shows it."""

    id: UUID
    title: str
    question: str
    sample_word: str
    sample_words: str
    pieces: int
    piece_word: str
    layout: LayoutKind
    plot_word: str
    zone: str
    state: str
    origin: str
    role: str
    is_tasting: bool
    stays_blind: bool
    now: datetime
    sealed_at: datetime | None
    seal: str
    started_at: datetime | None
    opened_at: datetime | None
    samples: int
    set_aside: int
    blocks: list[BlockOut]
    outcomes: list[OutcomeOut]
    checkpoints: list[CheckpointOut]
    may_edit_plan: bool
    may_see_plan: bool
    may_prepare: bool
    may_see_key: bool
    may_score: bool
    may_open_key: bool
    may_lead: bool
    sees_readings: bool
    blinding: str
    """Whether whoever scores could know which is which, in a sentence; empty while there is nothing to say."""
    covered: bool
    """Whether the key lies under covers after a shuffle by hand."""
    cycle_word: str
    cycles: int
    ending: EndingFinding | None
    """How the rule that ends the trial stands, over all samples together."""


def _planned(plan: Plan) -> list[CheckpointProgress]:
    """The looks of a draft, with their times where a start is planned."""
    start = planned_start(plan)
    try:
        times = {} if start is None else times_of(plan, start)
    except (OverflowError, KeyError, ValueError, OSError):
        times = {}
    return [CheckpointProgress(c.key, "upcoming", times.get(c.key)) for c in plan.in_time]


def _checkpoints(seen: Sight, plan: Plan, names: list[str], looks: list[CheckpointProgress]) -> list[CheckpointOut]:
    by_key = {c.key: c for c in plan.checkpoints}
    return [
        CheckpointOut(
            key=look.key,
            name=seen.spoken(called(by_key[look.key]), names),
            offset=by_key[look.key].offset,
            cycle=by_key[look.key].cycle,
            baseline=by_key[look.key].baseline,
            unplanned=by_key[look.key].unplanned,
            noted=plan.noted_before(look.key),
            standing=look.standing,
            opens=look.times.opens if look.times else None,
            due=look.times.due if look.times else None,
            closes=look.times.closes if look.times else None,
            lost=look.times.lost if look.times else None,
            slip=_slip(look),
            done=look.done,
            expected=look.expected,
            samples_done=look.samples_done,
            samples=look.samples,
        )
        for look in looks
    ]


def _slip(look: CheckpointProgress) -> float | None:
    """How many minutes outside its window the last of a look was taken."""
    if look.times is None or look.last_taken_at is None:
        return None
    found = slip(look.times, look.last_taken_at)
    return None if found is None else found.total_seconds() / 60


@router.get("/trials/{trial_id}/course", response={200: CourseOut, 404: ProblemsOut})
def course(request: SignedIn, trial_id: UUID) -> CourseOut:
    """The frame of a trial.  Before the seal only the lead sees what is planned."""
    seen = sight(request, trial_id)
    trial, now = seen.trial, timezone.now()
    plan = plan_of(trial)
    names = plan.telling_names
    sealed = sealed_plan(trial)
    told = seen.may("see_draft")
    counted = Counted.of([trial])
    looks = _planned(plan) if trial.sealed_at is None else counted.progress(trial, plan, now)
    kept = key_kept(trial)
    return CourseOut(
        id=trial.pk,
        title=seen.titled(trial.title, names),
        question=seen.asked(plan.question, names) if told else "",
        sample_word=seen.sample_of(plan, names).one,
        sample_words=seen.sample_of(plan, names).many,
        pieces=plan.pieces if told else 1,
        piece_word=seen.spoken(plan.piece_word, names) if told else "",
        layout=plan.layout.kind if told else "random",
        plot_word=seen.spoken(plan.layout.plot_word, names),
        zone=plan.zone,
        state=seen.told_state,
        origin=trial.origin,
        role=seen.told_role,
        is_tasting=trial.is_tasting,
        stays_blind=seen.stays_blind,
        now=now,
        sealed_at=trial.sealed_at,
        seal=sealed.seal if sealed else "",
        started_at=trial.started_at,
        opened_at=trial.opened_at,
        samples=plan.sample_count if told else 0,
        set_aside=len(counted.deviations.out_of_play),
        blocks=[
            BlockOut(key=b.key, name=seen.spoken(b.name, names), note=seen.spoken(b.note, names))
            for b in (plan.layout.blocks if told and plan.layout.in_blocks else ())
        ],
        outcomes=outcomes_out(seen, plan, names) if told else [],
        checkpoints=_checkpoints(seen, plan, names, looks) if told else [],
        may_edit_plan=seen.may("edit_plan"),
        may_see_plan=seen.may("see_treatments"),
        may_prepare=seen.may("prepare") and told,
        may_see_key=seen.may("see_key"),
        may_score=seen.may("score") and scored_now(trial, plan),
        may_open_key=seen.may("open_key"),
        may_lead=seen.may("invite"),
        sees_readings=seen.may("see_readings") and trial.sealed_at is not None,
        blinding=_blinding(seen, plan, names, looks, kept),
        covered=kept.covered,
        cycle_word=seen.spoken(plan.cycle_word, names) if told else "",
        cycles=len(counted.cycles.get(trial.pk, ())),
        ending=_ending(seen, plan, names, counted)
        if trial.started_at and not trial.opened_at and seen.may("see_readings")
        else None,
    )


def _blinding(seen: Sight, plan: Plan, names: list[str], looks: list[CheckpointProgress], kept: KeyKept) -> str:
    if seen.trial.sealed_at is None:
        return ""
    scored = any(look.done for look in looks)
    told = seen.may("see_treatments")
    return seen.spoken(blinding_told(seen.trial, plan, looked=kept.looked, scored=scored, reasons=told), names)


def _ending(seen: Sight, plan: Plan, names: list[str], counted: Counted) -> EndingFinding | None:
    if plan.ending.kind == "fixed":
        return None
    found = ending_finding(
        plan, values_by_checkpoint(seen.trial, plan.ending.outcome or ""), counted.watched(seen.trial)
    )
    return found and EndingFinding(found.met, seen.spoken(found.says, names))


class ShelfTrial(Schema):
    """A trial on the shelf: enough to draw its course in small."""

    id: UUID
    title: str
    question: str
    state: str
    origin: str
    role: str
    is_tasting: bool
    zone: str
    sample_word: str
    sample_words: str
    samples: int
    started_at: datetime | None
    opened_at: datetime | None
    may_score: bool
    filed: bool
    created_at: datetime
    checkpoints: list[CheckpointOut]


class ShelfOut(Schema):
    """All trials of a person, newest first."""

    now: datetime
    trials: list[ShelfTrial]


@router.get("/shelf", response=ShelfOut)
def shelf(request: SignedIn) -> ShelfOut:
    """The person's trials."""
    now = timezone.now()
    memberships = memberships_of(request.user)
    plans = plans_of([m.trial for m in memberships])
    sealed = [m.trial for m in memberships if m.trial.sealed_at]
    counted = Counted.of(sealed)
    return ShelfOut(
        now=now,
        trials=[_on_shelf(Sight(m.trial, m), plans[m.trial_id], counted, now) for m in memberships],
    )


def _on_shelf(seen: Sight, plan: Plan, counted: Counted, now: datetime) -> ShelfTrial:
    trial = seen.trial
    looks = counted.progress(trial, plan, now) if trial.sealed_at else _planned(plan)
    names = plan.telling_names
    told = seen.may("see_draft")
    return ShelfTrial(
        id=trial.pk,
        title=seen.titled(trial.title, names),
        question=seen.asked(plan.question, names) if told else "",
        state=seen.told_state,
        origin=trial.origin,
        role=seen.told_role,
        is_tasting=trial.is_tasting,
        zone=plan.zone,
        sample_word=seen.sample_of(plan, names).one,
        sample_words=seen.sample_of(plan, names).many,
        samples=plan.sample_count if told else 0,
        started_at=trial.started_at,
        opened_at=trial.opened_at,
        may_score=seen.may("score") and scored_now(trial, plan),
        filed=seen.membership.filed_at is not None,
        created_at=trial.created_at,
        checkpoints=_checkpoints(seen, plan, names, looks) if told else [],
    )
