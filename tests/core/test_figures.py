"""Figures as they are told: the scale's own words, its digits, one plural rule; the page is held to the same cases."""

import json
import re
from pathlib import Path

import pytest
from pydantic import TypeAdapter

from fieldtally.core.quantities.nouns import noun
from fieldtally.core.scales import Scale
from fieldtally.core.verdict.telling.figures import amount, difference

ROOT = Path(__file__).parents[2]
CASES = json.loads((ROOT / "cases" / "figures.json").read_text())
SCALES = {name: TypeAdapter(Scale).validate_python(one) for name, one in CASES["scales"].items()}


@pytest.mark.parametrize(("scale", "value", "told"), [*CASES["amounts"], *CASES["one"]])
def test_amounts(scale, value, told):
    assert amount(value, SCALES[scale]) == told


@pytest.mark.parametrize(("scale", "value", "told"), CASES["differences"])
def test_differences_and_changes(scale, value, told):
    assert difference(value, SCALES[scale]) == told
    assert amount(value, SCALES[scale], "change") == told


@pytest.mark.parametrize(
    ("said", "one", "many"),
    [
        ("box", "box", "boxes"),
        ("patch", "patch", "patches"),
        ("bolts", "bolt", "bolts"),
        ("tanks", "tank", "tanks"),
        ("set of bolts", "set of bolts", "sets of bolts"),
        ("sets of bolts", "set of bolts", "sets of bolts"),
        ("leaf", "leaf", "leaves"),
        ("bus", "bus", "buses"),
        ("cactus", "cactus", "cactuses"),
        ("jar with lid", "jar with lid", "jars with lid"),
    ],
)
def test_a_sample_is_called_by_one_and_by_several(said, one, many):
    assert (noun(said).one, noun(said).many) == (one, many)


def test_nothing_makes_a_plural_by_itself():
    # A letter s behind a word that people chose themselves is how "boxs" came about.
    glued = re.compile(r"(?:word|sample|one|piece|plot|each|own)[\w.\[\]\"'|() ]*\}\}?s\b")
    files = [*(ROOT / "fieldtally").rglob("*.py"), *(ROOT / "fieldtally").rglob("*.html")]
    files += [one for kind in ("vue", "ts") for one in (ROOT / "web" / "src").rglob(f"*.{kind}")]
    assert len(files) > 300
    found = [
        f"{path.name}: {line.strip()}" for path in files for line in path.read_text().splitlines() if glued.search(line)
    ]
    assert found == []
