"""A backup comes back as it was; a cut, foreign, newer or altered one changes nothing."""

from __future__ import annotations

import json
import os
import tarfile
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from uuid import uuid4

import psycopg
import pytest
from django.db import connection
from psycopg import sql

from fieldtally.server import keeping
from fieldtally.server.keeping import NotKept, Place, backup, restore, taken_apart

pytestmark = pytest.mark.django_db
ROOT = Path(__file__).parents[2]
CUTS = 50


@pytest.fixture(scope="module")
def place(django_db_setup):
    """Two databases' worth of room beside the tests' own, on the same cluster."""
    settings = connection.settings_dict
    name = f"scratch_{uuid4().hex[:8]}"
    found = Place(name, settings["HOST"], str(settings["PORT"]), settings["USER"], settings["PASSWORD"])
    yield found
    with found.called("postgres").connected() as there:
        for (one,) in there.execute("SELECT datname FROM pg_database WHERE datname LIKE %s", [f"{name}%"]).fetchall():
            there.execute(sql.SQL("DROP DATABASE {} WITH (FORCE)").format(sql.Identifier(one)))


@pytest.fixture(scope="module")
def made(place, tmp_path_factory):
    """A database with one trial in it, and its backup."""
    environment = {"FT_DB_NAME": place.name, "FT_DEMO": "0", "FT_SECRET": "only-for-tests", "FT_DB_PORT": place.port}
    environment["FT_DB_PASSWORD"] = place.password
    kept = {name: os.environ.get(name) for name in environment}
    os.environ.update(environment)
    try:
        assert ready(place) == 0
        written(place, "Beans to keep")
        path = tmp_path_factory.mktemp("kept") / "all.backup"
        backup(place, path, "a secret")
        yield path
    finally:
        for name, value in kept.items():
            os.environ.pop(name) if value is None else os.environ.update({name: value})


def ready(place: Place) -> int:
    import subprocess
    import sys

    told = subprocess.run([sys.executable, "-m", "fieldtally.server.ready"], cwd=ROOT, capture_output=True, check=False)
    return told.returncode


def written(place: Place, title: str) -> None:
    with place.connected() as there:
        there.execute(
            "INSERT INTO people_trial (id, title, zone, created_at, origin) VALUES (%s, %s, 'UTC', now(), '')",
            [uuid4(), title],
        )


def titles(place: Place) -> list[str]:
    with place.connected() as there:
        return sorted(title for (title,) in there.execute("SELECT title FROM people_trial").fetchall())


def databases(place: Place) -> list[str]:
    with place.called("postgres").connected() as there:
        rows = there.execute("SELECT datname FROM pg_database WHERE datname LIKE %s", [f"{place.name}%"]).fetchall()
    return sorted(name for (name,) in rows)


@contextmanager
def unchanged(place: Place, folder: Path):
    before = titles(place), databases(place), sorted(folder.iterdir())
    yield
    assert (titles(place), databases(place), sorted(folder.iterdir())) == before


def test_a_backup_comes_back_as_it_was_and_what_was_there_is_kept_under_a_number(place, made, monkeypatch):
    monkeypatch.chdir(ROOT)
    assert made.stat().st_mode & 0o077 == 0
    (made.with_name("all.backup.replaced-1")).write_bytes(b"of an earlier time")
    written(place, "Written since")
    there = titles(place)
    secret, rescue = restore(place, made, "another secret")
    assert secret == "a secret"
    assert titles(place) == ["Beans to keep"]
    assert rescue == made.with_name("all.backup.replaced-2")
    assert made.with_name("all.backup.replaced-1").read_bytes() == b"of an earlier time"
    # The rescue copy is a backup of its own.
    assert restore(place, rescue)[0] == "another secret"
    assert titles(place) == there
    restore(place, made)
    elsewhere = replace(place, name=f"{place.name}_elsewhere")
    assert restore(elsewhere, made) == ("a secret", None)
    assert titles(elsewhere) == ["Beans to keep"]


def test_a_backup_cut_anywhere_changes_nothing(place, made, tmp_path):
    # Without the empty blocks that a tar ends with: of these nothing is missed.
    whole = made.read_bytes().rstrip(b"\0")
    cut = tmp_path / "cut.backup"
    for part in range(CUTS):
        cut.write_bytes(whole[: len(whole) * part // CUTS])
        with unchanged(place, tmp_path), pytest.raises(NotKept, match="nothing was changed"):
            restore(place, cut)


def test_a_dump_that_was_cut_inside_or_flipped_is_told_before_anything_is_touched(place, made, tmp_path):
    whole = bytearray(made.read_bytes())
    whole[len(whole) // 2] ^= 0xFF
    bent = tmp_path / "bent.backup"
    bent.write_bytes(whole)
    with unchanged(place, tmp_path), pytest.raises(NotKept, match="cut short or damaged"):
        restore(place, bent)
    # The dump alone, as earlier versions kept it, cut in the middle: nothing says how long it was but PostgreSQL itself.
    kept = taken_apart(made, tmp_path)
    bare = tmp_path / "bare.dump"
    for share in (0.3, 0.6, 0.9, 0.99):
        content = kept.dump.read_bytes()
        bare.write_bytes(content[: int(len(content) * share)])
        with unchanged(place, tmp_path), pytest.raises(NotKept, match="nothing was changed"):
            restore(place, bare)


def test_a_bare_dump_of_an_earlier_version_still_comes_back(place, made, tmp_path, monkeypatch):
    monkeypatch.chdir(ROOT)
    kept = taken_apart(made, tmp_path)
    bare = tmp_path / "bare.dump"
    bare.write_bytes(kept.dump.read_bytes())
    restore(place, bare)
    assert titles(place) == ["Beans to keep"]


def test_a_foreign_or_newer_file_changes_nothing(place, made, tmp_path, monkeypatch):
    monkeypatch.chdir(ROOT)
    foreign = tmp_path / "no.backup"
    for content in (b"", b"no backup", b"PGDMP and no more", os.urandom(20_000)):
        foreign.write_bytes(content)
        with unchanged(place, tmp_path), pytest.raises(NotKept, match="nothing was changed"):
            restore(place, foreign)
    with tarfile.open(foreign, "w") as tar:
        tar.add(Path(__file__), "a.txt")
    with unchanged(place, tmp_path), pytest.raises(NotKept, match="no backup of Field Tally"):
        restore(place, foreign)
    newer = replace(place, name=f"{place.name}_newer")
    restore(newer, made)
    with newer.connected() as there:
        there.execute(
            "INSERT INTO django_migrations (app, name, applied) VALUES ('people', '0999_from_tomorrow', now())"
        )
    ahead = tmp_path / "ahead.backup"
    backup(newer, ahead)
    with (
        unchanged(place, tmp_path),
        pytest.raises(NotKept, match=r"newer Field Tally than this one .* Nothing was changed"),
    ):
        restore(place, ahead)


def test_a_backup_that_cannot_be_written_leaves_nothing_behind(place, made, tmp_path, monkeypatch):
    def full(*_args, **_more):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(keeping.os, "fsync", full)
    with pytest.raises(NotKept, match="No space left"):
        backup(place, tmp_path / "all.backup")
    assert list(tmp_path.iterdir()) == []
    with pytest.raises(NotKept, match="nothing here yet"):
        backup(replace(place, name="not_there"), tmp_path / "all.backup")


def test_a_restore_while_the_application_is_connected_takes_its_place_all_the_same(place, made, monkeypatch):
    monkeypatch.chdir(ROOT)
    settings = {"host": place.host, "port": place.port, "user": place.user, "password": place.password}
    busy = psycopg.connect(dbname=place.name, **settings)
    busy.execute("SELECT 1")
    restore(place, made)
    with pytest.raises(psycopg.OperationalError):
        busy.execute("SELECT 1")
    assert titles(place) == ["Beans to keep"]


@pytest.fixture
def taken_over(place, monkeypatch):
    """The backup of a release, put back under today's tables: the place, and how many rows each table had."""

    def take(release: str):
        kept = ROOT / "tests" / "server" / "releases" / f"{release}.backup"
        there = place.called(f"{place.name}_last")
        for name, value in (("FT_DB_NAME", there.name), ("FT_DEMO", "0"), ("FT_SECRET", "only-for-tests")):
            monkeypatch.setenv(name, value)
        monkeypatch.setenv("FT_DB_PORT", place.port)
        monkeypatch.setenv("FT_DB_PASSWORD", place.password)
        restore(there, kept)
        with tarfile.open(kept) as tar:
            return there, json.load(tar.extractfile("manifest.json"))["rows"]

    return take


def rows_of(there, table: str) -> int:
    with there.connected() as now:
        return now.execute(sql.SQL("SELECT count(*) FROM {}").format(sql.Identifier(table))).fetchone()[0]


def test_the_first_release_s_data_are_taken_over(taken_over):
    """A backup of release 0.1.0 comes back under today's tables, row for row, with every chain whole."""
    there, was = taken_over("0.1.0")
    renamed = {
        "rounds_reading": "rounds_reading",
        "log_deviation": "rounds_deviation",
        "measuring_photofile": "rounds_photofile",
        "training_traininganswer": "rounds_traininganswer",
    }
    assert {now: rows_of(there, now) for now in renamed} == {now: was[before] for now, before in renamed.items()}
    assert was["rounds_reading"] == 715


def test_the_last_release_s_data_are_taken_over(taken_over):
    """Of release 0.2.0 every table comes back row for row; only what migrating itself writes down grows."""
    there, was = taken_over("0.2.0")
    grows = {"django_migrations", "django_content_type", "auth_permission"}
    assert {table: rows_of(there, table) for table in was if table not in grows} == {
        table: rows for table, rows in was.items() if table not in grows
    }
    assert was["measuring_photofile"] == 91 and was["rounds_reading"] > 700
