"""Bytes that belong to a row - photos, sounds, files that were made or sent - and lie in it, or outside the database in a store: a folder
that all nodes share, or an object store (``FT_STORE``).

What lies outside stands in its row as a mark with a random name, its length and its SHA-256, so a name tells nothing and nothing else is
ever taken for it.  It is stored before its row is; it goes once the row that held it has gone.  What a transaction that came to nothing
left behind, :func:`swept` takes away.  Rows from before there was a store hold their bytes as ever; :func:`moved` carries them over,
:func:`moved_back` back.
"""

from __future__ import annotations

import hashlib
import json
import logging
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from datetime import timedelta
from functools import partial
from typing import Any
from uuid import uuid4

from django.apps import apps
from django.core.files.base import ContentFile
from django.core.files.storage import Storage, storages
from django.db import models, transaction
from django.db.models.signals import post_delete
from django.http import HttpResponse, HttpResponseRedirect
from django.utils import timezone

log = logging.getLogger(__name__)

OURS = b"\x00field-tally-lies-"
MARK, HERE = OURS + b"outside\x00", OURS + b"here\x00"
"""What stands in a row begins with neither, but where it lies outside; or where it was sent so, and then it lies :data:`HERE`."""
KEPT, SIGNED = "kept", "signed"
"""The stores among Django's storages: as this machine reaches it, and as a browser does."""
LEFT_BEHIND = timedelta(days=1)
"""So old is what no row names, at least, before it is taken away: its row may be on its way."""
SIGNED_FOR = 300
"""Seconds that a signed address opens."""


class Away(Exception):
    """The store does not answer, or does not hold what it was given: a sentence."""


@dataclass(frozen=True)
class Outside:
    """Bytes that lie in the store; ``bytes(it)`` fetches them.

    :raises Away: they cannot be had, or are not those that were kept.
    """

    name: str
    size: int
    sha256: str

    def __bytes__(self) -> bytes:
        with _answering(), _store().open(self.name) as file:
            found: bytes = file.read()
        if len(found) != self.size or hashlib.sha256(found).hexdigest() != self.sha256:
            raise Away("What lies in the store is not what was put there; it is not shown.")
        return found

    def __len__(self) -> int:
        return self.size


class KeptField(models.BinaryField):  # type: ignore[type-arg]
    """Bytes of any length, in the row or in the store; read as bytes, or as :class:`Outside`: ``bytes(…)`` gives them either way."""

    def deconstruct(self) -> Any:
        """To the database it is a column of bytes like any other."""
        name, _, args, kwargs = super().deconstruct()
        return name, "django.db.models.BinaryField", args, kwargs

    def get_db_prep_save(self, value: Any, connection: Any) -> Any:
        """What is saved goes into the store first, where there is one."""
        return super().get_db_prep_save(_kept(value), connection)

    def from_db_value(self, value: Any, *asked: Any) -> bytes | Outside | None:
        """What stands in the row."""
        del asked
        return None if value is None else _read(bytes(value))


def outside() -> bool:
    """Whether there is a store."""
    return KEPT in storages.backends


def _store() -> Storage:
    if not outside():
        raise Away("This lies in a store that is not set here (FT_STORE).")
    return storages[KEPT]


@contextmanager
def _answering() -> Iterator[None]:
    """Whatever a store's client raises is one sentence; the rest stands in the server's own log."""
    try:
        yield
    except Away:
        raise
    except Exception as error:
        log.warning("The store does not answer: %s", type(error).__name__)
        raise Away(
            "The store of photos and files does not answer. Nothing was changed; try again in a minute."
        ) from error


def _read(value: bytes) -> bytes | Outside:
    return Outside(**json.loads(value[len(MARK) :])) if value.startswith(MARK) else value.removeprefix(HERE)


def _kept(value: Any) -> Any:
    """What stands in the row for ``value``; bytes that come out of another row become a copy, for either row may go first."""
    if value is None or hasattr(value, "as_sql"):
        return value
    content = bytes(value)
    if outside() and content:
        return put(content)
    # Nobody makes a mark from outside: what comes with one is kept as what it is.
    return HERE + content if content.startswith(OURS) else content


def put(content: bytes) -> bytes:
    """Put ``content`` into the store; what stands for it in its row."""
    name = uuid4().hex
    with _answering():
        name = _store().save(f"{name[:2]}/{name}", ContentFile(content))
    return MARK + json.dumps(asdict(Outside(name, len(content), hashlib.sha256(content).hexdigest()))).encode()


def watch() -> None:
    """From now on what lies outside goes with its row.  Said once, where there is a store: it makes Django fetch what it deletes."""
    for model, _ in _columns():
        post_delete.connect(_gone, sender=model, dispatch_uid=f"store-{model.__name__}")


def _gone(sender: type[models.Model], instance: models.Model, **told: Any) -> None:
    del told
    for model, field in _columns():
        # What was not read with the row is not fetched for this: it is swept.
        if model is sender and isinstance(lies := instance.__dict__.get(field.attname), Outside):
            transaction.on_commit(partial(_delete, lies.name), robust=True)


def _delete(name: str) -> None:
    with _answering():
        _store().delete(name)


def _columns() -> Iterator[tuple[type[models.Model], KeptField]]:
    for model in apps.get_models():
        for field in model._meta.concrete_fields:
            if isinstance(field, KeptField):
                yield model, field


def _rows(model: type[models.Model], field: KeptField, *, lying: bool) -> list[Any]:
    """The keys of all rows whose bytes lie outside, or whose bytes do not."""
    begins = models.Func(models.F(field.attname), 1, len(MARK), function="SUBSTRING", output_field=models.BinaryField())
    rows = model._default_manager.order_by("pk").annotate(begins=begins)
    some = rows.filter(begins=MARK) if lying else rows.exclude(begins=MARK).exclude(begins=b"")
    return list(some.values_list("pk", flat=True))


def _lying() -> Iterator[tuple[type[models.Model], KeptField, Any, Outside]]:
    """Everything that lies outside, with the row that names it."""
    for model, field in _columns():
        for pk in _rows(model, field, lying=True):
            found = model._default_manager.filter(pk=pk).values_list(field.attname, flat=True).first()
            if isinstance(found, Outside):
                yield model, field, pk, found


def moved() -> int:
    """Carry what lies in rows into the store.  How many.

    :raises Away: there is no store, or it does not answer; what was carried before that has arrived.
    """
    _store()
    count = 0
    for model, field in _columns():
        for pk in _rows(model, field, lying=False):
            with transaction.atomic():
                held = model._default_manager.select_for_update().filter(pk=pk)
                # It may have gone meanwhile, or be there already.
                value = held.values_list(field.attname, flat=True).first()
                if value and not isinstance(value, Outside):
                    count += held.update(**{field.attname: value})
    return count


def moved_back() -> int:
    """Carry what lies in the store back into the rows, so that it can be done without.  How many.

    :raises Away: something cannot be had; what was carried before that has arrived.
    """
    count = 0
    for model, field, pk, lies in _lying():
        # Past the field, which would put it into the store again.
        raw = models.Value(bytes(lies), output_field=models.BinaryField())
        if model._default_manager.filter(pk=pk).update(**{field.attname: raw}):
            count += 1
            _delete(lies.name)
    return count


def swept() -> int:
    """Take away what no row names and is older than a day.  How many.

    :raises Away: the store does not answer.
    """
    before = timezone.now() - LEFT_BEHIND
    with _answering():
        store = _store()
        folders, files = store.listdir("")
        paths = [*files, *(f"{folder}/{file}" for folder in folders for file in store.listdir(folder)[1])]
        old = {path for path in paths if store.get_modified_time(path) < before}
    # Asked after the store was: what came meanwhile is younger.
    left = sorted(old - {lies.name for *_, lies in _lying()}) if old else []
    for path in left:
        _delete(path)
    return len(left)


def checked() -> tuple[int, list[str]]:
    """How much lies outside, and a line for each whose bytes cannot be had or were changed."""
    count, wrong = 0, []
    for model, field, pk, lies in _lying():
        count += 1
        try:
            bytes(lies)
        except Away as away:
            wrong.append(f"{model._meta.label} {pk}, {field.name} ({lies.name}): {away}")
    return count, wrong


def answered(
    content: bytes | Outside, kind: str, name: str, *, attached: bool = False, cache: str = "private, no-store"
) -> HttpResponse:
    """An answer that gives ``content`` under a ``name``: a signed address of the store that opens for :data:`SIGNED_FOR` seconds, where
    browsers reach it (``FT_STORE_PUBLIC``), else the bytes."""
    disposition = f'{"attachment" if attached else "inline"}; filename="{name}"'
    # A name that somebody saves a file by may tell of its trial: it stands in no address.
    if isinstance(content, Outside) and SIGNED in storages.backends and not attached:
        told = {
            "ResponseContentType": kind,
            "ResponseContentDisposition": disposition,
            "ResponseCacheControl": cache,
        }
        signing: Any = storages[SIGNED]
        answer: HttpResponse = HttpResponseRedirect(signing.url(content.name, parameters=told, expire=SIGNED_FOR))
        # The way is not kept; what lies there is.
        cache = "private, no-store"
    else:
        answer = HttpResponse(bytes(content), content_type=kind)
        answer["Content-Disposition"] = disposition
    answer["Cache-Control"] = cache
    return answer
