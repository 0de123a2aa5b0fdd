"""What a phone in the garden has to load before it can score."""

import gzip
import json
from pathlib import Path

DIST = Path(__file__).parents[2] / "web/dist"
MOST = 200_000


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


def test_scoring_takes_no_more_script_than_it_may():
    files = scripts_of("src/stages/rounds/RoundPage.vue")
    weight = sum(len(gzip.compress((DIST / file).read_bytes())) for file in files)
    assert weight <= MOST, f"{weight:,} bytes of gzipped script in {len(files)} files; {MOST:,} are allowed"
    # The page that is weighed must be the one that scores.
    assert any(file.startswith("assets/RoundPage") for file in files)
