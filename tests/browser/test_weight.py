"""What a phone in the garden has to load before it can score."""

import json
import re
from pathlib import Path

import pytest

DIST = Path(__file__).parents[2] / "web/dist"
MOST = 130_000
"""Of what is sent: brotli, as every browser takes it."""


def scripts_of(page: str) -> set[str]:
    """The files of script that opening ``page`` (a source path) takes, itself and the entry with all they import."""
    manifest = json.loads((DIST / ".vite/manifest.json").read_text())
    found: set[str] = set()

    def take(name: str) -> None:
        if manifest[name]["file"] not in found:
            found.add(manifest[name]["file"])
            for other in manifest[name].get("imports", ()):
                take(other)

    take("index.html")
    take(page)
    return found


def sent(file: str) -> int:
    """How many bytes of ``file`` are sent; one that compressing makes no smaller is sent as it is."""
    small = DIST / f"{file}.br"
    return (small if small.exists() else DIST / file).stat().st_size


@pytest.mark.parametrize("page", ["RoundPage", "TodayPage", "ShelfPage"])
def test_a_page_takes_no_more_script_than_it_may(page):
    files = scripts_of(f"src/stages/rounds/{page}.vue")
    weight = sum(sent(file) for file in files)
    assert weight <= MOST, f"{weight:,} bytes of script in {len(files)} files; {MOST:,} are allowed"
    # The page that is weighed must be the one that is meant.
    assert any(file.startswith(f"assets/{page}") for file in files)


def test_scripts_come_compressed_and_are_kept_for_good(visitor):
    one = visitor()
    page = one.context.request.get("/").text()
    script = re.search(r'src="(/assets/[^"]+\.js)"', page).group(1)
    answer = one.context.request.get(script, headers={"Accept-Encoding": "br"})
    assert answer.headers["content-encoding"] == "br"
    assert "immutable" in answer.headers["cache-control"]
