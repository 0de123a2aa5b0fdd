"""Keep everything that people have entered in one file, and put it back: what ./backup and ./restore do.

A backup is a tar of ``manifest.json`` (rows in each table, migrations, size and SHA-256 of each part), ``secret`` (what sign-ins are
signed with, so that the same file starts elsewhere) and ``database.dump`` (of pg_dump), all of one moment.  It is written whole or not at
all.

It is put back into a database of its own first and checked there (parts, tables, rows, migrations, the chain of each trial); only then does
that one take the old one's place.  What was there before is kept beside the file under the next free number.  A cut, foreign or newer file
changes nothing.  A bare dump of earlier versions is read too; it cannot prove its rows.

``python -m fieldtally.server.keeping backup FILE`` and ``restore FILE``, as the owner of the database that ./backup and ./restore have set.
"""

from __future__ import annotations

import hashlib
import io
import json
import os
import subprocess
import sys
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

import psycopg
from psycopg import sql

from fieldtally.server.hosting.place import place as here

FORMAT, VERSION = "field-tally-backup", 1
DUMP, SECRET, MANIFEST = "database.dump", "secret", "manifest.json"
BARE = b"PGDMP"
CHUNK = 1 << 20
ELSEWHERE = "Photos, sounds and files lie in the store (FT_STORE) and are not in it: keep a copy of the store as well."
RENAMES = 50
TABLES = "SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY tablename"
MIGRATIONS = "SELECT app || '.' || name FROM django_migrations ORDER BY 1"


class NotKept(Exception):
    """What keeps a backup from being made or put back, in a sentence."""


@dataclass(frozen=True)
class Place:
    """A database, and who owns it."""

    name: str
    host: str
    port: str
    user: str
    password: str

    @classmethod
    def of_environment(cls) -> Place:
        """The one of this place, as its owner.

        :raises Wrong: the settings are.
        """
        at = here(checked=False).owned_by
        host, port = at["HOST"] or "127.0.0.1", at["PORT"] or "5432"
        for name, value in at.get("OPTIONS", {}).items():
            # PostgreSQL's own programs take these from the environment.
            os.environ.setdefault(f"PG{name.upper()}", value)
        return cls(at["NAME"], host, port, at["USER"], at["PASSWORD"])

    def called(self, name: str) -> Place:
        """Another database beside this one."""
        return Place(name, self.host, self.port, self.user, self.password)

    @contextmanager
    def connected(self, *, autocommit: bool = True) -> Iterator[psycopg.Connection]:
        """A connection to it."""
        with psycopg.connect(
            host=self.host,
            port=self.port,
            user=self.user,
            password=self.password,
            dbname=self.name,
            autocommit=autocommit,
        ) as there:
            yield there

    def run(self, program: str, *asked: str) -> subprocess.CompletedProcess[str]:
        """One of PostgreSQL's own programs on it."""
        command = [program, "-h", self.host, "-p", self.port, "-U", self.user, "-d", self.name, *asked]
        return subprocess.run(  # noqa: S603
            command, env={**os.environ, "PGPASSWORD": self.password}, capture_output=True, text=True, check=False
        )

    def exists(self) -> bool:
        """Whether there is such a database."""
        with self.called("postgres").connected() as there:
            return there.execute("SELECT 1 FROM pg_database WHERE datname = %s", [self.name]).fetchone() is not None


def backup(place: Place, path: Path, secret: str = "") -> None:
    """Write all of ``place`` to ``path``, where only this user may read it.

    :raises NotKept: there is nothing to keep, or it could not be written.
    """
    if not place.exists():
        raise NotKept("There is nothing here yet to be backed up.")
    part = path.with_name(f"{path.name}.{uuid4().hex[:8]}.part")
    try:
        with tempfile.TemporaryDirectory(dir=path.parent) as folder:
            dump = Path(folder) / DUMP
            manifest = _dumped(place, dump)
            written = {DUMP: dump, **({SECRET: _text(Path(folder) / SECRET, secret)} if secret else {})}
            manifest["parts"] = {
                name: {"size": one.stat().st_size, "sha256": _digest(one)} for name, one in written.items()
            }
            descriptor = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
            with os.fdopen(descriptor, "wb") as out:
                with tarfile.open(fileobj=out, mode="w") as tar:
                    _add(tar, MANIFEST, json.dumps(manifest, indent=1).encode())
                    for name, one in written.items():
                        tar.add(one, arcname=name, filter=_nobody)
                out.flush()
                os.fsync(out.fileno())
        part.replace(path)
    except OSError as error:
        raise NotKept(f"The backup failed; nothing was written: {error.strerror or error}.") from error
    finally:
        part.unlink(missing_ok=True)


def _dumped(place: Place, dump: Path) -> dict[str, Any]:
    """Write the dump, and count what is in it, both of one moment."""
    with place.connected(autocommit=False) as there:
        there.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        (snapshot,) = there.execute("SELECT pg_export_snapshot()").fetchone() or ("",)
        told = place.run(
            "pg_dump", f"--snapshot={snapshot}", "--format=custom", "--no-owner", "--no-acl", f"--file={dump}"
        )
        if told.returncode:
            raise NotKept(f"The backup failed; nothing was written: {told.stderr.strip()}")
        return {
            "format": FORMAT,
            "version": VERSION,
            "made_at": datetime.now(UTC).isoformat(timespec="seconds"),
            "rows": _counted(there),
            "migrations": [name for (name,) in there.execute(MIGRATIONS).fetchall()],
        }


def _counted(there: psycopg.Connection) -> dict[str, int]:
    tables = [name for (name,) in there.execute(TABLES).fetchall()]
    found = {}
    for table in tables:
        (many,) = there.execute(sql.SQL("SELECT count(*) FROM {}").format(sql.Identifier(table))).fetchone() or (0,)
        found[table] = int(many)
    return found


def _add(tar: tarfile.TarFile, name: str, content: bytes) -> None:
    member = tarfile.TarInfo(name)
    member.size, member.mode = len(content), 0o600
    tar.addfile(member, io.BytesIO(content))


def _nobody(member: tarfile.TarInfo) -> tarfile.TarInfo:
    """A member without whose file it was."""
    member.uid = member.gid = 0
    member.uname = member.gname = ""
    member.mode = 0o600
    return member


def _text(path: Path, text: str) -> Path:
    path.write_text(text, encoding="utf-8")
    return path


def _digest(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


@dataclass(frozen=True)
class Kept:
    """A backup that was taken apart: its dump, its secret, and what it says of itself (None: an earlier version says nothing)."""

    dump: Path
    secret: str
    manifest: dict[str, Any] | None


def taken_apart(path: Path, folder: Path) -> Kept:
    """The parts of the backup ``path``, each as long and as it was when it was written.

    :raises NotKept: it is cut, damaged, newer, or no backup.
    """
    foreign = NotKept(f"{path} is no backup of Field Tally; nothing was changed.")
    damaged = NotKept(f"{path} is cut short or damaged; nothing was changed.")
    try:
        with path.open("rb") as file:
            if file.read(len(BARE)) == BARE:
                return Kept(path, "", None)
        with tarfile.open(path, mode="r:") as tar:
            names = tar.getnames()
            if not names or names[0] != MANIFEST:
                raise foreign
            manifest = json.loads((tar.extractfile(MANIFEST) or io.BytesIO()).read())
            if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
                raise foreign
            if manifest.get("version") != VERSION:
                raise NotKept(f"{path} was made by a newer Field Tally than this one; nothing was changed.")
            for name, told in manifest["parts"].items():
                if name not in (DUMP, SECRET):
                    raise foreign
                _extract(tar, name, folder / name)
                if (folder / name).stat().st_size != told["size"] or _digest(folder / name) != told["sha256"]:
                    raise damaged
    except tarfile.ReadError as error:
        raise (damaged if _begins_like_one(path) else foreign) from error
    except (OSError, EOFError, ValueError, KeyError, TypeError, AttributeError) as error:
        raise damaged from error
    secret = folder / SECRET
    return Kept(folder / DUMP, secret.read_text(encoding="utf-8") if secret.exists() else "", manifest)


def _begins_like_one(path: Path) -> bool:
    with path.open("rb") as file:
        return file.read(len(MANIFEST)) in (MANIFEST.encode(), b"")


def _extract(tar: tarfile.TarFile, name: str, to: Path) -> None:
    source = tar.extractfile(name)
    if source is None:
        raise EOFError(name)
    with to.open("wb") as out:
        while chunk := source.read(CHUNK):
            out.write(chunk)


def restore(place: Place, path: Path, secret: str = "") -> tuple[str, Path | None]:
    """Put the backup ``path`` in the place of what is in ``place``, once it has been checked in a database of its own.

    Returns its secret, and where what was there before is kept (None: there was nothing).

    :raises NotKept: it cannot be; nothing was changed.
    """
    fresh = place.called(f"{place.name}_in_{uuid4().hex[:12]}")
    with tempfile.TemporaryDirectory() as folder:
        kept = taken_apart(path, Path(folder))
        with place.called("postgres").connected() as there:
            there.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(fresh.name)))
        try:
            _put(fresh, kept, path)
            rescue = None
            if place.exists():
                rescue = _numbered(path)
                backup(place, rescue, secret)
            _swap(place, fresh)
        finally:
            with place.called("postgres").connected() as there:
                there.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(fresh.name)))
    return kept.secret, rescue


def _put(fresh: Place, kept: Kept, path: Path) -> None:
    """Load ``kept`` into the empty database ``fresh``, bring it to this version and check it."""
    damaged = f"{path} is cut short or damaged; nothing was changed."
    told = fresh.run("pg_restore", "--no-owner", "--no-acl", "--exit-on-error", "--single-transaction", str(kept.dump))
    if told.returncode:
        raise NotKept(damaged)
    with fresh.connected() as there:
        tables = {name for (name,) in there.execute(TABLES).fetchall()}
        if not {"people_trial", "django_migrations"} <= tables:
            raise NotKept(f"{path} is no backup of Field Tally; nothing was changed.")
        if kept.manifest is not None and _counted(there) != kept.manifest["rows"]:
            raise NotKept(damaged)
    environment = {
        **os.environ,
        "FT_DATABASE": "",
        "FT_OWNER": "",
        "FT_DB_HOST": fresh.host,
        "FT_DB_PORT": fresh.port,
        "FT_DB_USER": fresh.user,
        "FT_DB_PASSWORD": fresh.password,
        "FT_DB_NAME": fresh.name,
        "FT_DB_APP_PASSWORD": here(checked=False).serves_with or os.environ.get("FT_DB_APP_PASSWORD", ""),
        "FT_DEMO": "0",
        "DJANGO_SETTINGS_MODULE": "fieldtally.server.settings",
    }
    if not here(checked=False).secret.get_secret_value():
        environment["FT_SECRET"] = uuid4().hex
    ready = subprocess.run(
        [sys.executable, "-m", "fieldtally.server.ready", "--restored"],
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )
    if ready.returncode:
        raise NotKept(f"{path} cannot be used here: {ready.stderr.strip().splitlines()[-1]} Nothing was changed.")


def _numbered(path: Path) -> Path:
    """The next name beside ``path`` that nothing has."""
    number = 1
    while (found := path.with_name(f"{path.name}.replaced-{number}")).exists():
        number += 1
    return found


def _swap(place: Place, fresh: Place) -> None:
    """Let ``fresh`` take the name of ``place``; the old one goes once that is done."""
    old = f"{place.name}_was_{uuid4().hex[:12]}"
    rename = sql.SQL("ALTER DATABASE {} RENAME TO {}")
    leave = "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = ANY(%s) AND pid <> pg_backend_pid()"
    was = place.exists()
    with place.called("postgres").connected() as there:
        for left in range(RENAMES, 0, -1):
            there.execute(leave, [[place.name, fresh.name]])
            try:
                # One transaction: whoever looks finds either the old one or the new one.
                with there.transaction():
                    if was:
                        there.execute(rename.format(sql.Identifier(place.name), sql.Identifier(old)))
                    there.execute(rename.format(sql.Identifier(fresh.name), sql.Identifier(place.name)))
                break
            except psycopg.errors.ObjectInUse as error:
                # Somebody came back in between.
                if left == 1:
                    raise NotKept("The database is in use and could not be replaced; nothing was changed.") from error
        if was:
            there.execute(sql.SQL("DROP DATABASE {} WITH (FORCE)").format(sql.Identifier(old)))


def main(asked: list[str]) -> int:
    """``backup FILE`` or ``restore FILE``."""
    try:
        verb, file = asked
    except ValueError:
        print("Say backup or restore, and a file.", file=sys.stderr)
        return 2
    place, path, own = Place.of_environment(), Path(file), Path(os.environ.get("FT_SECRET_FILE", "/nowhere"))
    secret = own.read_text(encoding="utf-8") if own.is_file() else ""
    try:
        if verb == "backup":
            backup(place, path, secret)
            print(f"Backed up to {path}.", file=sys.stderr)
            if here(checked=False).store:
                print(ELSEWHERE, file=sys.stderr)
            return 0
        came, rescue = restore(place, path, secret)
    except NotKept as error:
        print(error, file=sys.stderr)
        return 1
    if came and own.parent.is_dir():
        descriptor = os.open(own, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
        with os.fdopen(descriptor, "w", encoding="utf-8") as out:
            out.write(came)
    if rescue is not None:
        print(f"What was there is kept in {rescue}.", file=sys.stderr)
    print(f"Restored from {path}.", file=sys.stderr)
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
