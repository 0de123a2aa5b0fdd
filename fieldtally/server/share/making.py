"""Files of a trial to take along: made in the request while the trial is small, by a worker otherwise, and fetched when they are ready."""

from __future__ import annotations

import logging
import re
from collections.abc import Callable
from dataclasses import asdict, dataclass
from datetime import timedelta
from typing import Literal
from uuid import UUID

from django.db import transaction
from django.utils import timezone
from django_tasks import task
from pydantic import TypeAdapter

from fieldtally.core.trialpack.pack import write_pack
from fieldtally.server.answers import Declined, missing
from fieldtally.server.hosting.replica import from_replica
from fieldtally.server.people.models import Membership, Trial, User
from fieldtally.server.people.sight import Sight
from fieldtally.server.plan.queries import is_covered, sealed_document
from fieldtally.server.prepare.queries import has_seen_key
from fieldtally.server.printing import Paper
from fieldtally.server.share.models import MadeFile, Report
from fieldtally.server.share.pack_writer import Outgoing
from fieldtally.server.share.printed import report_pdf
from fieldtally.server.share.report import report_of
from fieldtally.server.share.sheets import Sheets
from fieldtally.server.share.workbook import workbook_of
from fieldtally.server.verdict.results import tip_of, worked_out

log = logging.getLogger(__name__)
KEPT_FOR = timedelta(days=1)
LOST_AFTER = timedelta(minutes=5)
FAILED = "It could not be made. Ask for it again; if that fails too, whoever runs this server finds why in its log."
BROKEN_OFF = "Making it was broken off, as when the server is restarted. Ask for it again."
WORKBOOK = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
What = Literal["readings", "pack", "workbook", "report"]
Tell = Callable[[str, int, int], None]
"""Told what is being done, and how much of how much is."""


@dataclass(frozen=True)
class Wanted:
    """Which file: of a report, on which ``paper``, whether only its first page (``short``), and whether with the values of all samples
    (``whole``) where they are many."""

    what: What
    paper: Paper = "a4"
    short: bool = False
    whole: bool = False


@dataclass(frozen=True)
class Made:
    """A file: its bytes, their type, its name."""

    content: bytes
    kind: str
    name: str


_wanted: TypeAdapter[Wanted] = TypeAdapter(Wanted)


def quiet(says: str, done: int, total: int) -> None:
    """Tell nobody."""


def _plain(title: str, ending: str) -> str:
    return (re.sub(r"[^a-z0-9]+", "-", title.casefold()).strip("-") or "trial") + ending


def _titled(seen: Sight, ending: str) -> str:
    # While the key is sealed the title may name a treatment: the file is then called after the trial's random id.
    return _plain(seen.trial.title if seen.may("see_treatments") else f"trial {str(seen.trial.pk)[:8]}", ending)


def allowed(seen: Sight, wanted: Wanted) -> None:
    """Go on only if this person may have that file now.

    :raises Declined: 403; 409 where there is nothing to take along yet.
    """
    if wanted.what in ("workbook", "report"):
        seen.need("see_report")
        return
    seen.need("take_tables")
    if seen.trial.sealed_at is None:
        raise Declined(409, "There is nothing to take along yet: the plan is not sealed.")


def _with_key(seen: Sight, user: User) -> bool:
    """Whether tables name treatments for this person.  While the key is sealed they do so only for someone who may see it and has done so
    already: taking a table along is no way to look at it unrecorded."""
    covered = is_covered(seen.trial)
    return seen.may("see_verdict") or (not covered and seen.may("see_key") and has_seen_key(seen.trial, user))


def _sheets(seen: Sight, user: User) -> Sheets:
    """The tables this person may have."""
    own = None if seen.may("see_all_readings") else user.pk
    return Sheets(seen, with_key=_with_key(seen, user), own_only=own)


def _scope(seen: Sight, user: User) -> str:
    """What a file of this person tells: one that was made while they might read more, or less, is not theirs any more."""
    told = (_with_key(seen, user), seen.may("see_all_readings"), seen.may("see_treatments"))
    return " ".join(str(one) for one in told)


def made(seen: Sight, user: User, wanted: Wanted, tell: Tell = quiet) -> Made:
    """The file, as ``user`` may have it.

    :raises Declined: they may not, or there is nothing yet.
    """
    allowed(seen, wanted)
    trial = seen.trial
    if wanted.what == "readings":
        tell("Reading what was scored …", 0, 0)
        text = "\ufeff" + _sheets(seen, user).long_table().csv()
        return Made(text.encode(), "text/csv; charset=utf-8", _titled(seen, "-readings.csv"))
    if wanted.what == "pack":
        return Made(_pack(seen, user, tell), "application/zip", _titled(seen, "-trial-pack.zip"))
    if wanted.what == "workbook":
        tell("Reading what was scored …", 0, 0)
        report, sheets = report_of(trial), Outgoing(trial).sheets()
        content = workbook_of(
            report, trial.title, sheets, lambda done, total: tell("Writing the sheets …", done, total)
        )
        return Made(content, WORKBOOK, _plain(trial.title, ".xlsx"))
    return _report(trial, wanted, names=True, tell=tell)


def _pack(seen: Sight, user: User, tell: Tell) -> bytes:
    tell("Reading what was scored …", 0, 0)
    sheets = _sheets(seen, user)
    title = seen.titled(seen.trial.title, sheets.names)
    if sheets.with_key and sheets.own_only is None:
        out = Outgoing(seen.trial)
        tables = out.sheets()
        tell("Packing it …", 0, 0)
        return write_pack("field-tally-trial", title, tables, out.documents(), out.moments(), out.files(), out.chain())
    # Who prepares has the key; with the readings of others beside it they would have the verdict.
    documents = {"plan.json": {"seal": seen.trial.sealed.seal, "sealed": sealed_document(seen.trial)}}
    return write_pack("field-tally-trial", title, sheets.pack(), documents if sheets.with_key else {})


def _report(trial: Trial, wanted: Wanted, *, names: bool, tell: Tell) -> Made:
    tell("Reading the verdict …", 0, 0)
    report = report_of(trial, names=names)
    tell("Setting the pages …", 0, 0)
    content = report_pdf(report, full=not wanted.short, paper=wanted.paper, whole=wanted.whole)
    return Made(content, "application/pdf", _plain(trial.title, "-report.pdf"))


def made_for_readers(kept: Report, wanted: Wanted, tell: Tell = quiet) -> Made:
    """The report as a file for whoever reads the published page."""
    return _report(kept.trial, wanted, names=kept.names, tell=tell)


# By a worker


def ask(trial: Trial, user: User | None, wanted: Wanted) -> MadeFile:
    """Have a worker make it; who asks again while it is being made is given the same.  Readers of the published page (no ``user``) share
    one until something changes."""
    now = timezone.now()
    with transaction.atomic():
        MadeFile.objects.filter(asked_at__lt=now - KEPT_FOR).delete()
        Trial.objects.select_for_update(of=("self",), no_key=True).get(pk=trial.pk)
        mine = MadeFile.objects.filter(trial=trial, by=user, wanted=asdict(wanted)).defer("content")
        key = "" if user is not None else _shared_key(trial)
        for row in mine:
            going = row.state in ("waiting", "running") and row.moved_at > now - LOST_AFTER
            if going or (key and row.state == "done" and row.key == key):
                return row
        MadeFile.objects.filter(pk__in=[row.pk for row in mine]).delete()
        row = MadeFile.objects.create(trial=trial, by=user, wanted=asdict(wanted), key=key, asked_at=now, moved_at=now)
        transaction.on_commit(lambda: make_file.enqueue(str(row.pk)))
    return row


def _shared_key(trial: Trial) -> str:
    kept = Report.objects.get(pk=trial.pk)
    return f"{tip_of(trial)} {kept.saved_at.isoformat()} {kept.names}"


@task(priority=0)
def make_file(file_id: str) -> None:
    """Make one file, and keep it to be fetched."""
    row = MadeFile.objects.select_related("trial", "by").defer("content").filter(pk=file_id).first()
    if row is None or row.state != "waiting":
        return

    def tell(says: str, done: int, total: int) -> None:
        MadeFile.objects.filter(pk=file_id).update(
            state="running", says=says, done=done, total=total, moved_at=timezone.now()
        )

    wanted = _wanted.validate_python(row.wanted)
    try:
        if row.trial.state == "opened":
            tell("Working the verdict out …", 0, 0)
            worked_out(row.trial)
        with from_replica():
            if row.by is None:
                file = made_for_readers(Report.objects.select_related("trial").get(pk=row.trial_id), wanted, tell)
            else:
                seen = Sight(row.trial, Membership.objects.get(trial=row.trial, user=row.by))
                file = made(seen, row.by, wanted, tell)
        if row.by is not None:
            MadeFile.objects.filter(pk=row.pk).update(key=_scope(seen, row.by))
    except Declined as declined:
        _failed(row, declined.problems[0].says)
    except Exception:
        log.exception("A file could not be made")
        _failed(row, FAILED)
    else:
        MadeFile.objects.filter(pk=row.pk).update(
            state="done", says="", content=file.content, kind=file.kind, name=file.name, moved_at=timezone.now()
        )


def _failed(row: MadeFile, says: str) -> None:
    MadeFile.objects.filter(pk=row.pk).update(state="failed", says=says, moved_at=timezone.now())


def asked_for(seen: Sight, user: User, file_id: UUID) -> MadeFile:
    """The file that ``user`` asked for; told as failed where nothing was heard of it.

    :raises Declined: 404 where it is not theirs, gone, or tells what they may not read any more; 403 where they may have none.
    """
    row = MadeFile.objects.defer("content").filter(pk=file_id, trial=seen.trial, by=user).first()
    if row is None or (row.state == "done" and row.key != _scope(seen, user)):
        raise missing()
    allowed(seen, _wanted.validate_python(row.wanted))
    return _heard_of(row)


def asked_for_by_reader(kept: Report, file_id: UUID) -> MadeFile:
    """The file that readers of the published report share.

    :raises Declined: 404 where there is none, or it was published otherwise since, as without names: what was made before is worth nothing.
    """
    row = MadeFile.objects.defer("content").filter(pk=file_id, trial=kept.trial, by=None).first()
    if row is None or row.key != _shared_key(kept.trial):
        raise missing()
    return _heard_of(row)


def _heard_of(row: MadeFile) -> MadeFile:
    if row.state in ("waiting", "running") and timezone.now() - row.moved_at > LOST_AFTER:
        _failed(row, BROKEN_OFF)
        row.refresh_from_db()
    return row
