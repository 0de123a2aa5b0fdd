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
