"""Nobody is lost: from anywhere to anywhere by keyboard, by a few letters and under the thumb."""

import re
from collections import Counter

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import PHONE, eventually, kept_by_the_worker
from tests.browser.views import barriers

DAHLIAS, PENS = "Cut dahlias in the vase", "Plant-label pens"
PLACES = {
    "Today": "Today",
    "Shelf": "Shelf",
    "What we know": "What we know",
    "Bench sums": "Bench sums",
    "Practise": "Practise",
    "Methods compared": "Methods compared",
    "Bring in results": "Bring in results",
    "Guide": "Guide",
    "Your account": "Your account",
}


def places(page: Page):
    return page.get_by_role("navigation", name="Places")


def focused(page: Page) -> str:
    return page.evaluate("document.activeElement.tagName")


def arrived(page: Page, title: str, on: str = "H1") -> None:
    """The page has its title, says so, and its heading has the focus."""
    expect(page).to_have_title(f"{title}, Field Tally")
    expect(page.locator("#content + p[aria-live]")).to_have_text(title)
    assert eventually(page, lambda: focused(page) == on), focused(page)


def test_every_place_is_one_press_away_and_takes_the_focus(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    page.goto("/methods")
    heading = page.get_by_role("heading", level=1)
    expect(heading).to_be_visible()
    page.keyboard.press("Tab")
    expect(page.get_by_role("link", name="To the content")).to_be_focused()
    page.keyboard.press("Enter")
    expect(heading).to_be_focused()
    page.keyboard.press("Tab")
    assert page.evaluate("document.activeElement.closest('#content') !== null")
    for name, title in PLACES.items():
        link = places(page).get_by_role("link", name=name, exact=True)
        link.focus()
        page.keyboard.press("Enter")
        arrived(page, title)
        expect(link).to_have_attribute("aria-current", "page")
    page.goto(f"/trials/{lead.trial(DAHLIAS)}/log")
    expect(page).to_have_title(f"Log, {DAHLIAS}, Field Tally")
    expect(places(page).get_by_role("link")).to_have_count(10)
    page.get_by_role("link", name="Photos", exact=True).focus()
    page.keyboard.press("Enter")
    arrived(page, f"Photos, {DAHLIAS}")


def test_the_parts_of_a_plan_take_the_focus_and_so_does_what_is_added(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    page.goto(f"/trials/{lead.trial(PENS)}/plan")
    page.get_by_role("link", name="On to Treatments").focus()
    page.keyboard.press("Enter")
    arrived(page, f"Treatments, {PENS}", "H2")
    rows = page.get_by_label(re.compile(r"^Name of treatment \d+$"))
    before = rows.count()
    page.get_by_role("button", name="Add a treatment").focus()
    page.keyboard.press("Enter")
    expect(rows.last).to_be_focused()
    # The space that once pressed the button again.
    page.keyboard.type("Water only")
    expect(rows).to_have_count(before + 1)
    expect(rows.last).to_have_value("Water only")
    page.get_by_role("button", name=f"Take out treatment {before + 1}", exact=True).focus()
    page.keyboard.press("Enter")
    expect(rows).to_have_count(before)
    assert eventually(page, lambda: focused(page) != "BODY")


def test_a_few_letters_find_trials_codes_pages_and_sums(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    page.goto(f"/trials/{lead.trial(DAHLIAS)}")
    expect(page.get_by_role("heading", level=1)).to_have_text(DAHLIAS)
    tag = page.locator(".tag .code").first
    # The heading is there before the tags: what is typed must be a code.
    expect(tag).to_have_text(re.compile(r"\d{3}"))
    code = tag.inner_text().strip()
    page.keyboard.press("/")
    field = page.get_by_role("combobox")
    expect(field).to_be_focused()
    page.keyboard.type(code)
    expect(page.get_by_role("option").first).to_contain_text(code)
    assert barriers(page) == []
    expect(page.get_by_role("option", name=code, selected=True)).to_be_visible()
    page.keyboard.press("Enter")
    arrived(page, f"Sample, {code}")
    # Whoever presses Enter before the answer is there is led all the same.
    page.goto(f"/trials/{lead.trial(DAHLIAS)}")
    expect(tag).to_have_text(code)
    page.keyboard.press("/")
    expect(field).to_be_focused()
    page.keyboard.type(f"{code}\n")
    arrived(page, f"Sample, {code}")
    page.keyboard.press("/")
    page.keyboard.type("dilut")
    expect(page.get_by_role("option").filter(has_text="sum").first).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    # What opened it was the page: the focus is where it was.
    assert eventually(page, lambda: focused(page) == "H1")
    page.keyboard.press("/")
    page.keyboard.type("soaking")
    expect(page.get_by_role("option")).to_have_count(1)
    page.keyboard.press("Enter")
    expect(page).to_have_title("Verdict, Soaking peas before sowing, Field Tally")


def test_the_finder_knows_what_the_device_has_without_a_network_and_tells_blind_eyes_nothing(visitor):
    scorer = visitor(PHONE)
    page = scorer.sign_in("scorer@tarnlane.example")
    page.goto("/")
    expect(page.get_by_role("link", name=DAHLIAS)).to_be_visible()
    places(page).get_by_role("button", name="Find").tap()
    page.get_by_role("combobox").fill("sugar")
    expect(page.get_by_text("Nothing called “sugar” is here.")).to_be_visible()
    kept_by_the_worker(page)
    scorer.context.set_offline(True)
    page.get_by_role("combobox").fill("dahlias")
    page.get_by_role("option").filter(has_text=DAHLIAS).tap()
    scorer.context.set_offline(False)
    expect(page).to_have_title(f"Board, {DAHLIAS}, Field Tally")


def test_a_draft_is_renamed_filed_away_and_deleted_and_the_focus_comes_back(visitor):
    lead = visitor()
    page = lead.sign_in("viewer@tarnlane.example")
    page.get_by_role("button", name="Begin a trial").click()
    page.get_by_label("What do you call it?").fill("Knots")
    page.get_by_role("dialog").get_by_role("button", name="Begin").click()
    page.wait_for_url(re.compile("/plan"))
    page.goto("/")
    more = page.get_by_role("button", name="More for Knots")
    more.click()
    page.keyboard.press("Escape")
    expect(more).to_be_focused()
    page.keyboard.press("Enter")
    page.get_by_label("Name").fill("Knots in twine")
    page.get_by_role("button", name="Rename it").click()
    more = page.get_by_role("button", name="More for Knots in twine")
    more.click()
    page.get_by_role("button", name="File it away").click()
    away = page.get_by_text("Filed away")
    away.click()
    more.click()
    page.get_by_role("button", name="Take it back onto the shelf").click()
    expect(away).to_have_count(0)
    more.click()
    page.get_by_role("button", name="Delete this draft").click()
    page.get_by_role("button", name="Delete it for good").click()
    expect(page.get_by_text("Knots in twine")).to_have_count(0)
    assert eventually(page, lambda: focused(page) != "BODY")


@pytest.mark.parametrize("dark", [False, True], ids=["light", "dark"])
def test_more_places_are_under_the_thumb(visitor, dark):
    viewer = visitor({**PHONE, "color_scheme": "dark" if dark else "light"})
    page = viewer.sign_in("viewer@tarnlane.example")
    bar = places(page)
    assert bar.bounding_box()["y"] > 700
    bar.get_by_role("button", name="More").tap()
    sheet = page.get_by_role("dialog", name="More places")
    assert barriers(page) == []
    sheet.get_by_role("link", name="Guide").tap()
    expect(page).to_have_title("Guide, Field Tally")
    expect(page.get_by_role("dialog")).to_have_count(0)
    # Nothing lies under the bar at the end of a page.
    page.evaluate("window.scrollTo(0, document.documentElement.scrollHeight)")
    last = page.locator("#content a").last.bounding_box()
    assert last["y"] + last["height"] <= bar.bounding_box()["y"]
    bar.get_by_role("button", name="More").tap()
    sheet.get_by_role("button", name="Sign out").tap()
    expect(page.get_by_role("button", name="Sign in")).to_be_visible()
    expect(places(page)).to_have_count(0)


def test_no_part_of_a_plan_stands_alone_in_a_row(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    page.goto(f"/trials/{lead.trial(PENS)}/plan")
    parts = page.get_by_role("navigation", name="Parts of the plan").get_by_role("link")
    expect(parts).to_have_count(9)
    for width in (1024, 1280, 1440, 1920):
        page.set_viewport_size({"width": width, "height": 800})
        rows = Counter(round(one.bounding_box()["y"]) for one in parts.all())
        assert min(rows.values()) > 1, (width, rows)


def test_a_plan_that_is_being_judged_is_told_as_neither_faulty_nor_fair(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    held = []

    def hold(route):
        held.append(route)

    page.route("**/api/outlook", hold)
    page.goto(f"/trials/{lead.trial(PENS)}/plan/fairness")
    expect(page.get_by_role("heading", name="Fairness")).to_be_visible()
    assert eventually(page, lambda: held)
    said = page.locator("#content").inner_text()
    assert "cannot be laid out" not in said
    assert "0 of 0" not in said
    assert "as fair as" not in said
    for route in held:
        route.continue_()
    page.unroute("**/api/outlook")
    expect(page.get_by_text(re.compile(r"^\d+ of \d+ kept"))).to_be_visible()


def test_a_panel_whose_key_is_open_is_there_to_be_read(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    page.goto(f"/trials/{lead.trial('Crunch of bottled gherkins')}/panels")
    panels = page.get_by_role("main").get_by_role("listitem")
    expect(panels).to_have_count(2)
    for one in panels.all():
        # What it found stands on the list, in its one sentence.
        expect(one).to_contain_text(re.compile("found the odd one; 12 were needed|were named right"))
