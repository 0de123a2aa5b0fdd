"""What the papers for developers say about the tree is so."""

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
HOMES = (ROOT, ROOT / "fieldtally", ROOT / "cases", ROOT / "docs", ROOT / "web/src/stages/rounds")


@pytest.mark.parametrize("paper", ["docs/architecture.md", "SECURITY.md"])
def test_every_file_that_is_named_is_there(paper):
    named = re.findall(r"[\w./-]+\.(?:py|ts|vue|json|md)\b", (ROOT / paper).read_text())
    made_up = {"core/scales/NAME.py", "server/STAGE/api/NAME.py", "web/src/stages/STAGE/NamePage.vue"}
    beside = {"services.py", "queries.py", "amounts.ts", "test_sight.py", "VerdictPage.vue"}
    assert len(named) >= 4
    missing = [one for one in named if one not in made_up | beside and not any((home / one).exists() for home in HOMES)]
    assert missing == []


def test_the_words_of_the_glossary_are_those_of_the_code():
    """Each is used; none of those that it replaces is."""
    own = [
        path
        for folder in ("fieldtally", "web/src", "tests")
        for path in (ROOT / folder).rglob("*")
        if path.suffix in (".py", ".ts", ".vue") and "migrations" not in path.parts and path.name != "test_papers.py"
    ]
    written = "\n".join(path.read_text() for path in own)
    names = {path.name for path in own} | {part for path in own for part in path.parts}
    rows = [line.split("|")[1:4] for line in (ROOT / "docs" / "glossary.md").read_text().splitlines()[7:]]
    assert len(rows) > 20
    words = set(re.findall(r"\w+", written))
    unused = [
        word
        for word, _, _ in rows
        for one in re.findall(r"`(\w+)`", word)
        if not any(used.startswith(one) for used in words)
    ]
    rejected = [one for _, _, others in rows for one in re.findall(r"`([^`]+)`", others)]
    still = [
        one
        for one in rejected
        if one in names or (one in written and re.search(rf"(?<!\w){re.escape(one)}(?!\w)", written))
    ]
    assert (unused, still) == ([], [])
