"""Files on their way in: kept, looked at, and brought in by the background worker."""

from __future__ import annotations

import logging
import secrets
from dataclasses import asdict
from datetime import timedelta
from functools import partial
from threading import Thread
from typing import Any
from uuid import UUID

from django.db import connection, transaction
from django.utils import timezone
from django_tasks import task
from pydantic import TypeAdapter, ValidationError

from fieldtally.core.problems import Problem, Refused
from fieldtally.core.tables.choices import Choices
from fieldtally.core.tables.columns import Meaning
from fieldtally.core.tables.foreign import Foreign, read_foreign
from fieldtally.core.tables.importing import ImportedTable, bring
from fieldtally.core.tables.meaning import guess
from fieldtally.core.trialpack.reading import read_pack
from fieldtally.server.answers import Declined
from fieldtally.server.people.models import User
from fieldtally.server.share.models import Import
from fieldtally.server.share.pack_reader import bring_in

log = logging.getLogger(__name__)
FAILED = (
    "Something went wrong here while it came in; nothing of it was stored. Try it again; if it fails again, whoever runs this "
    "server finds why in its log."
)
BROKEN_OFF = (
    "It was broken off while it came in, as when the server was restarted; nothing of it was stored. Bring it in again."
)
SILENT = timedelta(minutes=10)
KEPT_FOR = timedelta(days=7)
MOST_KEPT = 10
LARGEST_PACK = 200_000_000
_meanings: TypeAdapter[Meaning] = TypeAdapter(Meaning)
_choices: TypeAdapter[Choices] = TypeAdapter(Choices)


def keep(user: User, name: str, content: bytes) -> Import:
    """Keep a file, and what its columns seem to mean.

    :raises Refused: it can be read neither as a pack nor as a table.
    """
    pack = content.startswith(b"PK\x03\x04") and b"datapackage.json" in content[:200]
    with transaction.atomic():
        # What waits for its plan to be sealed is needed then.
        others = Import.objects.exclude(state="waits", trial__isnull=False)
        others.filter(at__lt=timezone.now() - KEPT_FOR).delete()
        if others.filter(by=user).count() >= MOST_KEPT:
            old = others.filter(by=user).order_by("at").values_list("pk", flat=True)[:1]
            Import.objects.filter(pk__in=list(old)).delete()
        if pack:
            read_pack(content)
            return Import.objects.create(by=user, name=name[:200], kind="pack", content=content)
        return Import.objects.create(by=user, name=name[:200], kind="table", content=content, asked=_guessed(content))


def _guessed(content: bytes) -> dict[str, Any]:
    """What the table in ``content`` seems to mean; nothing else of it is held while the file is stored."""
    table = read_foreign(content)
    return {"sheet": table.sheet, "meaning": asdict(guess(table))}


def table_of(row: Import) -> Foreign:
    """The table of a file."""
    return read_foreign(bytes(row.content), row.asked.get("sheet", ""))


def meaning_in(document: object) -> Meaning:
    """What columns mean, as somebody sent it."""
    try:
        return _meanings.validate_python(document)
    except ValidationError as error:
        raise Declined(422, Problem("meaning", "What the columns mean cannot be read.")) from error


def tried(row: Import) -> ImportedTable:
    """The trial that the table of ``row`` would be.

    :raises Refused: something cannot be read, or must be answered first.
    """
    asked = row.asked
    meaning, chosen = meaning_in(asked["meaning"]), _choices.validate_python(asked.get("choices", {}))
    title = asked.get("title") or row.name.rsplit(".", 1)[0]
    table = table_of(row)
    # Its bytes are not needed any more, and there may be a hundred million of them.
    row.content = b""
    return bring(
        table,
        meaning,
        title,
        row.by.called,
        timezone.now(),
        chosen,
        zone=asked.get("zone") or "UTC",
        seed=secrets.token_hex(16),
    )


def mean(row: Import, asked: dict[str, Any]) -> None:
    """Keep what the columns of a table mean as it is said now; it has not been carried in with that yet."""
    row.asked, row.state = asked, "new"
    row.save(update_fields=["asked", "state"])


def start(row: Import) -> None:
    """Queue it."""
    with transaction.atomic():
        Import.objects.filter(pk=row.pk).update(
            state="running", done=0, total=0, problems=[], warnings=[], moved_at=timezone.now()
        )
        transaction.on_commit(lambda: carry_in.enqueue(str(row.pk)))


def _tell(pk: UUID, done: int, total: int) -> None:
    """Say how far it is, over a connection of its own: what is on its way in is not seen by anybody before all of it is."""

    def write() -> None:
        try:
            Import.objects.filter(pk=pk).update(done=done, total=total, moved_at=timezone.now())
        finally:
            connection.close()

    teller = Thread(target=write)
    teller.start()
    teller.join()


def _failed(pk: UUID, says: str) -> None:
    Import.objects.filter(pk=pk, state="running").update(state="failed", problems=[{"at": "", "says": says}])


def given_up(row: Import) -> Import:
    """``row``, told as failed where nothing was heard of it for long: what carried it in was ended from outside."""
    if row.state == "running" and row.moved_at and timezone.now() - row.moved_at > SILENT:
        _failed(row.pk, BROKEN_OFF)
        row.refresh_from_db()
    if row.state == "waits" and row.trial_id is None:
        # Its draft was thrown away.
        Import.objects.filter(pk=row.pk).update(state="new")
        row.refresh_from_db()
    return row


@task()
def carry_in(import_id: str) -> None:
    """Bring a file in, all of it or nothing."""
    row = Import.objects.select_related("by").filter(pk=import_id, state="running").first()
    if row is None:
        return

    tell = partial(_tell, row.pk)
    warnings: tuple[str, ...] = ()
    try:
        if row.kind == "pack":
            trial = bring_in(read_pack(bytes(row.content)), row.by, "pack", tell)
        else:
            brought = tried(row)
            warnings = brought.warnings
            trial = bring_in(brought.pack, row.by, "table", tell)
    except Refused as refused:
        told = [{"at": one.at, "says": one.says} for one in refused.problems]
        Import.objects.filter(pk=row.pk).update(state="refused", problems=told)
        return
    except Exception:
        # Whatever it was: it ends with a sentence, and what went wrong stands in the server's own log.
        log.exception("A file could not be brought in")
        _failed(row.pk, FAILED)
        return
    Import.objects.filter(pk=row.pk).update(state="done", trial=trial, warnings=list(warnings), content=b"")
