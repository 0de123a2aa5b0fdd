"""Every view, for everybody: on several widths, light and dark, magnified, without motion, in their own colours, on paper.

A window of 1280 px magnified to 200 % shows what one of 640 px shows, and to 400 % what one of 320 px shows.
"""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import DESK
from tests.browser.views import LEAST, SIDEWAYS, SMALL, VIEWS, WORDLESS, address, all_views, barriers, drawn, shown
from tests.depth import cells

HEIGHTS = {320: 640, 360: 740, 768: 1024, 1280: 800, 1920: 1080}
WIDTHS = cells(tuple(HEIGHTS), (360, 1280))
"""One of each way in which the frame stands: what sticks out or is too small for a finger is looked for on all."""
READ_AT = cells((360, 1280), (1280,))
"""Where names, roles and order are looked through."""
DARK = cells(tuple(VIEWS), ("plan", "board", "round", "verdict", "log", "panel"))
"""Views whose dark colours are looked at: one of each kind of drawing."""


def test_no_view_has_a_barrier_on_any_width(visitor):
    found = {}
    for name, page in all_views(visitor, DESK):
        if said := page.evaluate(WORDLESS):
            found[name] = said
        page.emulate_media(color_scheme="light")
        for width in WIDTHS:
            page.set_viewport_size({"width": width, "height": HEIGHTS[width]})
            drawn(page)
            wrong = page.evaluate(SIDEWAYS)
            wrong += barriers(page) if width in READ_AT else []
            wrong += page.evaluate(SMALL, LEAST) if width < 700 else []
            if wrong:
                found[f"{name} at {width}"] = wrong[:4]
        page.set_viewport_size(DESK["viewport"])
        if name in DARK:
            page.emulate_media(color_scheme="dark")
            drawn(page)
            if wrong := barriers(page, "color-contrast"):
                found[f"{name}, dark"] = wrong[:4]
    assert found == {}


def test_in_their_own_colours_what_is_given_is_seen(visitor):
    scorer = visitor()
    page = scorer.sign_in("scorer@tarnlane.example")
    page.emulate_media(forced_colors="active")
    page.set_viewport_size({"width": 360, "height": 740})
    page.goto(address(scorer, "dahlias/rounds/day6"))
    page.locator(".pad").nth(1).click()
    page.get_by_role("button", name="Before").click()
    given = page.locator("[aria-pressed=true]").first
    given.wait_for()
    style = "(e) => { const s = getComputedStyle(e); return [s.backgroundColor, s.color]; }"
    assert given.evaluate(style) != page.locator(".pad[aria-pressed=false]").first.evaluate(style)
    page.get_by_role("button", name=re.compile("^Undo")).click()


def test_without_motion_nothing_moves(visitor):
    scorer = visitor()
    page = scorer.sign_in("scorer@tarnlane.example")
    page.emulate_media(reduced_motion="reduce")
    page.set_viewport_size({"width": 360, "height": 740})
    page.goto(address(scorer, "dahlias/rounds/day6"))
    code = page.locator(".tag.huge .code")
    before = code.inner_text()
    page.locator(".pad").nth(1).click()
    expect(page.get_by_text(re.compile("^(Kept|kept)")).or_(code.filter(has_not_text=before)).first).to_be_attached()
    moving = "document.getAnimations().filter((a) => a.effect.getComputedTiming().duration > 10).length"
    assert page.evaluate(moving) == 0
    page.get_by_role("button", name=re.compile("^Undo")).click()


@pytest.mark.parametrize("path", ["peas/verdict", "dahlias/log", "dahlias/prepare/mix", "pens/plan/treatments"])
def test_a_printed_view_is_whole_and_keeps_within_the_page(visitor, path):
    import pypdfium2

    lead = visitor()
    role = "preparer" if "prepare" in path else "lead"
    page = lead.sign_in(f"{role}@tarnlane.example")
    page.goto(address(lead, path))
    shown(page)
    folds = page.locator("details.fold")
    inside = folds.count()
    pdf = pypdfium2.PdfDocument(page.pdf(format="A4", margin=dict.fromkeys(("top", "bottom", "left", "right"), "12mm")))
    for sheet in pdf:
        width, _ = sheet.get_size()
        words = sheet.get_textpage()
        for i in range(words.count_chars()):
            left, _, right, _ = words.get_charbox(i)
            assert right <= width and left >= 0
    text = "".join(sheet.get_textpage().get_text_range() for sheet in pdf)
    assert len(text) > 200
    if path == "dahlias/log":
        # Days that are folded on the screen are all there on paper.
        assert inside > 2
        assert len(re.findall(r"\d\d:\d\d", re.sub(r"\s", "", text))) > page.get_by_role("listitem").count()


def test_a_title_of_200_letters_leaves_room_for_the_page(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    page.get_by_role("button", name="Begin a trial").click()
    title = ("How long do garden gloves of seven makes last in the wet hedge along the lower path " * 3)[:200].strip()
    page.get_by_label("What do you call it?").fill(title)
    page.get_by_role("button", name="Begin", exact=True).click()
    page.wait_for_url("**/plan**")
    trial = re.search(r"/trials/([0-9a-f-]+)", page.url).group(1)
    page.set_viewport_size({"width": 360, "height": 740})
    for where in ("", "/log", "/people"):
        page.goto(f"/trials/{trial}{where}")
        shown(page)
        name = page.get_by_text(title[:60]).first
        assert name.bounding_box()["height"] < 110
        whole = page.get_by_role("button", name="The whole name")
        expect(whole).to_have_attribute("aria-expanded", "false")
        whole.click()
        expect(page.get_by_role("button", name="Two lines of it")).to_be_visible()
        assert name.bounding_box()["height"] > 110
        assert page.evaluate(SIDEWAYS) == []
    page.goto("/")
    assert page.get_by_text(title[:60]).first.bounding_box()["height"] < 90
