"""The application log at work: what each sample was planned to get, what it was given, and by how much that differs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from fieldtally.core.design.letters import letter_of
from fieldtally.core.design.plan import Plan
from fieldtally.core.dosing.log import given_in, off_plan
from fieldtally.core.dosing.workbench import DoseTold, workbench
from fieldtally.core.limits import LONGEST_REMARK
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.amounts import told
from fieldtally.server.answers import Declined
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.queries import drawn_key, is_covered, key_of, plan_of, samples_of, shuffle_of, versions_of
from fieldtally.server.prepare.models import Application
from fieldtally.server.prepare.queries import applications_of, started_samples

MOST_AT_ONCE = 2_000
LONGEST_WRITTEN = 60


@dataclass(frozen=True)
class Entry:
    """One amount as the preparer's device sends it: an id of its own, the sample (code), the dose (key; empty: the treatment as a
    whole), the amount as written (empty: as planned), and whether it ``corrects`` what was noted last or was given beside it."""

    id: UUID
    code: str
    dose: str
    given: str
    note: str
    corrects: bool = False


@dataclass(frozen=True)
class GivenDose:
    """What a sample is planned to get of one dose, and what it was given last, how far off that is, by whom and when."""

    dose: str
    product: str
    planned: str
    unit: str
    times: int
    given_times: int
    given: str
    off: str
    matters: bool
    note: str
    by: str
    at: datetime | None


@dataclass(frozen=True)
class Handed:
    """What one sample gets: its treatment with its letter (or, after a shuffle of flasks, the flask it is given from)."""

    code: str
    block: str
    place: int
    row: int | None
    column: int | None
    letter: str
    treatment: str
    doses: tuple[GivenDose, ...]
    started_at: datetime | None


def handed(trial: Trial, user: User) -> list[Handed]:
    """Who gets what, for eyes that see it: sample by sample in the order of the board, with what was given already."""
    plan = plan_of(trial)
    blocks = {block.key: block.name for block in plan.layout.blocks}
    started = started_samples(trial)
    names = _names(trial, plan)
    planned = _planned(trial, plan)
    given: dict[tuple[UUID, str], list[Application]] = {}
    for one in applications_of(trial):
        given.setdefault((one.sample_id, one.dose), []).append(one)
    return [
        Handed(
            sample.code,
            blocks.get(sample.block, ""),
            sample.place,
            sample.row,
            sample.column,
            *names.get(sample.pk, ("", "")),
            tuple(
                _given(dose, times, given.get((sample.pk, dose.dose if dose else ""), []))
                for dose, times in planned.get(sample.pk, [(None, 1)])
            ),
            started.get(sample.pk),
        )
        for sample in samples_of(trial)
    ]


def _names(trial: Trial, plan: Plan) -> dict[UUID, tuple[str, str]]:
    """The letter and name that each sample is given from."""
    if is_covered(trial):
        shuffled = shuffle_of(trial)
        flasks = shuffled.flasks if shuffled else {}
        return {sample: ("", f"flask {flasks[key]}" if flasks else "") for sample, key in drawn_key(trial).items()}
    treatments = {t.key: (letter_of(i), t.name) for i, t in enumerate(plan.treatments)}
    return {sample: treatments[key] for sample, key in key_of(trial).items()}


def _planned(trial: Trial, plan: Plan) -> dict[UUID, list[tuple[DoseTold | None, int]]]:
    """The doses that each sample is planned to get, with how often; nothing measured where the key lies under covers."""
    if is_covered(trial):
        return {}
    bench = {treated.treatment: treated.doses for treated in workbench(plan).treated}
    times = {dose.key: dose.times for treatment in plan.treatments for dose in treatment.doses}
    found = {}
    for sample, key in key_of(trial).items():
        doses: list[tuple[DoseTold | None, int]] = [(dose, times[dose.dose]) for dose in bench.get(key, ())]
        found[sample] = doses or [(None, 1)]
    return found


def _given(dose: DoseTold | None, times: int, rows: list[Application]) -> GivenDose:
    last = rows[-1] if rows else None
    off = off_plan(last.planned, last.given, last.unit) if last and last.planned and last.given is not None else None
    return GivenDose(
        dose=dose.dose if dose else "",
        product=dose.product if dose else "",
        planned=dose.says if dose else "",
        unit=dose.unit if dose else "",
        times=times,
        given_times=len(rows),
        given="" if last is None else told(last.given, last.unit) if last.given is not None else "given",
        off=off.says if off and off.matters else "",
        matters=bool(off and off.matters),
        note=last.note if last else "",
        by=last.by.called if last else "",
        at=last.at if last else None,
    )


def write_applications(
    trial: Trial, user: User, entries: Sequence[Entry], *, given_at: datetime | None = None, now: datetime | None = None
) -> int:
    """Record what samples were given, each entry once however often it is sent; all or nothing.  How many are new.

    :raises Declined: 409 before the seal or once the key is open; 422 at each entry that cannot be used.
    """
    stored_at = now or timezone.now()
    if len(entries) > MOST_AT_ONCE:
        raise Declined(422, f"At most {MOST_AT_ONCE:,} amounts at once.")
    with transaction.atomic():
        locked = Trial.objects.select_for_update().get(pk=trial.pk)
        if locked.state in ("draft", "opened"):
            raise Declined(409, "What is given is noted between the seal and the opening of the key.")
        known = set(Application.objects.filter(pk__in=[one.id for one in entries]).values_list("pk", flat=True))
        fresh = list({one.id: one for one in entries if one.id not in known}.values())
        rows = _rows(locked, user, fresh, min(given_at or stored_at, stored_at), stored_at)
        Application.objects.bulk_create(rows)
    return len(rows)


def _rows(trial: Trial, user: User, fresh: Sequence[Entry], at: datetime, stored_at: datetime) -> list[Application]:
    plan, version = plan_of(trial), versions_of(trial)
    samples = {sample.code: sample for sample in samples_of(trial)}
    planned = _planned(trial, plan)
    last = {(one.sample_id, one.dose): one.pk for one in applications_of(trial)}
    problems, rows = [], []
    for i, one in enumerate(fresh):
        sample = samples.get(one.code)
        doses = {d.dose if d else "": d for d, _ in planned.get(sample.pk, [(None, 1)])} if sample else {}
        if sample is None:
            problems.append(Problem(f"entries.{i}.code", f"There is no sample {one.code} in this trial."))
            continue
        if one.dose not in doses:
            problems.append(Problem(f"entries.{i}.dose", f"Sample {one.code} is not planned to get this."))
            continue
        if len(one.note) > LONGEST_REMARK or len(one.given) > LONGEST_WRITTEN:
            problems.append(Problem(f"entries.{i}.note", f"A note of up to {LONGEST_REMARK} letters, please."))
            continue
        dose = doses[one.dose]
        amount = dose.value if dose else None
        if dose and one.given.strip():
            try:
                amount = given_in(one.given, dose.unit, plan.system)
            except Refused as refused:
                problems.append(Problem(f"entries.{i}.given", refused.problems[0].says))
                continue
        rows.append(
            Application(
                id=one.id,
                trial=trial,
                sample=sample,
                dose=one.dose,
                planned=dose.value if dose else None,
                given=amount,
                unit=dose.unit if dose else "",
                written=one.given.strip(),
                version=version,
                note=one.note.strip(),
                supersedes_id=last.get((sample.pk, one.dose)) if one.corrects else None,
                by=user,
                at=at,
                stored_at=stored_at,
            )
        )
        last[sample.pk, one.dose] = one.id
    if problems:
        raise Declined(422, *problems)
    return rows
