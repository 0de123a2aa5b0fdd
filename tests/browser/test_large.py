"""A trial of hundreds of samples by six outcomes: its sheet is light, its verdict and files are made while one waits."""

import re
from datetime import UTC, datetime
from uuid import uuid4

import openpyxl
import pytest
from playwright.sync_api import expect

from fieldtally.core.design.plan import Block, Checkpoint, Layout, Outcome, Plan, Treatment
from fieldtally.core.scales import PassFailScale
from tests.browser.conftest import WORKED_OUT
from tests.browser.led import begun, call, running
from tests.browser.views import SIDEWAYS, barriers, drawn, shown
from tests.depth import cells

SAMPLES, BEDS, MOST_ELEMENTS = 720, 6, 3_000
ASPECTS = ("Upright", "Green", "Dry", "Whole", "Straight", "Clean")
PLAN = Plan(
    title="A field of leeks",
    question="Which leeks stand?",
    zone="Europe/London",
    sample_word="leek",
    treatments=tuple(
        Treatment(key, name, "standard" if key == "a" else "treatment", SAMPLES // BEDS // 3)
        for key, name in (("a", "Straw"), ("b", "Leaves"), ("c", "Soil"))
    ),
    layout=Layout("blocks", tuple(Block(f"b{i}", f"Bed {i}") for i in range(BEDS))),
    outcomes=tuple(
        Outcome(name.lower(), name, PassFailScale("yes", "no"), primary=name == ASPECTS[0]) for name in ASPECTS
    ),
    checkpoints=(Checkpoint("now", "Now", 0, 60, 24 * 60),),
)


@pytest.fixture(scope="module")
def field():
    """The trial that the tests of this file lead on, one after the other: its id."""
    return {}


def test_a_long_sheet_is_as_light_as_a_short_one(visitor, field):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    field["id"] = trial = begun(lead, PLAN)
    running(lead, trial)
    page.goto(f"/trials/{trial}/rounds/now")
    expect(page.locator("input[data-at='0,0']")).to_be_focused()
    assert page.evaluate("document.querySelectorAll('*').length") <= MOST_ELEMENTS
    for _ in range(2 * len(ASPECTS)):
        page.keyboard.press("1")
    expect(page.locator("input[data-at='2,0']")).to_be_focused()
    # Far below, where no row is yet, by code; and back by undoing.
    samples = call(lead, "POST", f"/api/trials/{trial}/rounds", {"checkpoint": "now"})["samples"]
    assert len(samples) == SAMPLES
    page.get_by_label("Go to code").fill(samples[-1]["code"])
    page.get_by_label("Go to code").press("Enter")
    expect(page.locator(f"input[data-at='{SAMPLES - 1},0']")).to_be_focused()
    page.keyboard.press("0")
    expect(page.locator(f"input[data-at='{SAMPLES - 1},1']")).to_be_focused()
    page.keyboard.press("Control+z")
    expect(page.locator(f"input[data-at='{SAMPLES - 1},0']")).to_have_value("")
    expect(page.locator(f"input[data-at='{SAMPLES - 1},0']")).to_be_focused()
    page.keyboard.press("Control+z")
    expect(page.locator("input[data-at='1,5']")).to_be_focused()
    assert page.evaluate("document.querySelectorAll('*').length") <= MOST_ELEMENTS
    expect(page.get_by_role("table")).to_have_attribute("aria-rowcount", str(SAMPLES + 1))
    page.goto(f"/trials/{trial}")
    page.get_by_role("navigation", name="Places on this board").get_by_role("link", name="Bed 5").click()
    expect(page.get_by_role("heading", name="Bed 5")).to_be_in_viewport()


def test_its_verdict_and_its_workbook_are_made_while_one_waits(visitor, field, tmp_path):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    trial = field["id"]
    round_ = call(lead, "POST", f"/api/trials/{trial}/rounds", {"checkpoint": "now"})
    at = datetime.now(UTC).isoformat()
    readings = [
        {
            "id": str(uuid4()),
            "round": round_["id"],
            "sample": sample["id"],
            "outcome": outcome.key,
            "kind": "value",
            "value": (i * 7 + k) % 3 % 2,
            "taken_at": at,
        }
        for i, sample in enumerate(round_["samples"])
        for k, outcome in enumerate(PLAN.outcomes)
    ]
    for start in range(0, len(readings), 500):
        call(lead, "POST", f"/api/trials/{trial}/readings", {"readings": readings[start : start + 500]})
    call(lead, "POST", f"/api/trials/{trial}/key/ask")
    call(lead, "POST", f"/api/trials/{trial}/key/open", {"title": PLAN.title})
    page.goto(f"/trials/{trial}/verdict")
    expect(page.get_by_text("This trial is large; what stands behind its verdict is being worked out.")).to_be_visible()
    expect(page.get_by_role("heading", name=re.compile("Upright"))).to_be_visible(timeout=WORKED_OUT)
    page.goto(f"/trials/{trial}/share")
    with page.expect_download(timeout=WORKED_OUT) as saved:
        page.get_by_role("link", name="Save the workbook").click()
        expect(page.get_by_role("status").filter(has_text="…")).to_be_visible()
    saved.value.save_as(tmp_path / "field.xlsx")
    assert saved.value.suggested_filename == "a-field-of-leeks.xlsx"
    book = openpyxl.load_workbook(tmp_path / "field.xlsx")
    assert book["samples"].max_row == SAMPLES + 1
    # The old address says how far it is, and is the file in the end.
    pack = lead.context.request.get(f"/api/trials/{trial}/pack.zip", headers={"Accept": "text/html"})
    assert pack.status in (200, 202)
    page.goto(f"/trials/{trial}/verdict")
    expect(page.get_by_role("heading", name=re.compile("Upright"))).to_be_visible()
    # Much of everything has no barrier either, and nothing sticks out.
    for where in cells(("", "/verdict", "/log", "/share", "/agreement"), ("", "/verdict")):
        page.goto(f"/trials/{trial}{where}")
        shown(page)
        for width in cells((320, 1280), (320,)):
            page.set_viewport_size({"width": width, "height": 800})
            drawn(page)
            assert (where, width, barriers(page)) == (where, width, [])
            assert (where, width, page.evaluate(SIDEWAYS)) == (where, width, [])
