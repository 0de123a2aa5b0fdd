"""What runs the tests: what is left to ``./test --all`` is there, a stamp stands for one commit, and one red part hides no other."""

import json
import subprocess
from pathlib import Path

import pytest

from ops import testing
from tests import depth

ROOT = Path(__file__).parents[2]


def test_what_is_left_to_all_is_there():
    for name in depth.DEEP:
        file, _, test = name.partition("::")
        assert f"def {test.split('[')[0]}(" in (ROOT / file).read_text(), name


@pytest.fixture
def checkout(tmp_path, monkeypatch):
    """A checkout with one commit, as ``ops/testing.py`` sees its own."""
    monkeypatch.setattr(testing, "ROOT", tmp_path)
    monkeypatch.setattr(testing, "GREEN", tmp_path / ".ground/green")
    (tmp_path / ".ground").mkdir()
    (tmp_path / ".gitignore").write_text(".ground/\n")

    def git(*words):
        told = ("-c", "user.name=A", "-c", "user.email=a@x.example")
        subprocess.run(["git", *told, *words], cwd=tmp_path, check=True, capture_output=True)

    git("init")
    git("add", ".")
    git("commit", "-m", "one")
    return git


def layers(*commands):
    return [testing.Layer(f"l{i}", 1, [testing.Part(f"part {i}", one)]) for i, one in enumerate(commands)]


def run_whole(monkeypatch, checks, *others):
    made = layers(checks, *others)
    monkeypatch.setattr(testing, "CHECKS", made[0])
    monkeypatch.setattr(testing, "WHOLE", tuple(made[1:]))
    return testing.whole(False)


def test_a_stamp_stands_for_the_commit_that_passed_and_for_no_other(checkout, monkeypatch, tmp_path, capsys):
    assert testing.green() == 1
    assert run_whole(monkeypatch, "true", "true") == 0
    assert testing.green() == 0
    assert set(json.loads(testing.GREEN.read_text())["minutes"]) == {"l0", "l1"}
    (tmp_path / "new").write_text("x")
    assert testing.green() == 1
    # What passed on a tree that is not what was committed stands for nothing.
    testing.GREEN.unlink()
    assert run_whole(monkeypatch, "true", "true") == 0
    checkout("add", ".")
    checkout("commit", "-m", "two")
    assert testing.green() == 1
    assert run_whole(monkeypatch, "true", "touch changed-by-a-test") == 0
    assert not testing.GREEN.exists()
    capsys.readouterr()


def test_all_that_failed_is_told_together(checkout, monkeypatch, capsys):
    assert run_whole(monkeypatch, "echo out of style; false", "echo '2 failed, 3 passed in 1s'; false", "true") == 1
    told = capsys.readouterr().out
    assert "part 0: FAILED\nout of style" in told
    assert "Failed: part 0; part 1" in told
    assert told.rstrip().endswith("3 passed, 2 failed")
    assert not testing.GREEN.exists()
