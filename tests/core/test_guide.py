"""The guide: ten jobs and what chance does, in order, whose links lead to places that there are."""

import re
from pathlib import Path

ROOT = Path(__file__).parents[2]
PAGES = sorted((ROOT / "docs" / "guide").glob("[0-9]*.md"))
ROUTES = (ROOT / "web" / "src" / "shell" / "router.ts").read_text()
PLACES = (ROOT / "web" / "src" / "stages" / "guide" / "GoPage.vue").read_text()
PARTS = (ROOT / "web" / "src" / "stages" / "plan" / "planParts.ts").read_text()


def links(page):
    return re.findall(r"\]\(app:(/[^)]*)\)", page.read_text())


def test_there_are_ten_jobs_and_a_page_on_chance_and_the_index_names_them():
    assert len(PAGES) == 11
    index = (ROOT / "docs" / "guide" / "README.md").read_text()
    for page in PAGES:
        title = page.read_text().splitlines()[0]
        assert title.startswith("# ")
        assert f"[{title[2:]}]({page.name})" in index


def test_every_job_is_a_list_of_steps_with_links_into_the_app():
    for page in PAGES[:-1]:
        text = page.read_text()
        steps = re.findall(r"^\d+\. ", text, re.MULTILINE)
        assert 4 <= len(steps) <= 8, page.name
        assert links(page), page.name
        assert "safe" not in re.findall(r"[a-z]+", text.lower()), page.name


def test_every_link_leads_to_a_place_that_there_is():
    found = {link for page in PAGES for link in links(page)}
    assert len(found) > 12
    for link in found:
        if link == "/":
            continue
        first, *rest = link.strip("/").split("/")
        if first != "go":
            assert re.search(rf'path: "/{first}[/:?"]', ROUTES), link
            continue
        assert re.search(rf'^  "?{rest[0]}"?: \{{ states', PLACES, re.MULTILINE), link
        if rest[0] == "plan":
            assert f'key: "{rest[1]}"' in PARTS, link
        else:
            assert re.search(rf'path: "{rest[0]}[/":]', ROUTES), link
