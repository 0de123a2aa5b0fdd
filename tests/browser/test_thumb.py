"""A whole job on a phone of 360 px, by touch alone: nothing sideways, nothing too small for a thumb, at any step."""

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.views import LEAST, SIDEWAYS, SMALL, barriers, drawn

PHONE = {"viewport": {"width": 360, "height": 740}, "is_mobile": True, "has_touch": True}
TITLE, SURE = "Doorstep mats", "four dry words here"


class Thumb:
    """A thumb on a phone: it taps, and looks at each page it comes to."""

    def __init__(self, page: Page) -> None:
        self.page = page

    def tap(self, what: Locator) -> None:
        what.scroll_into_view_if_needed()
        what.tap()
        drawn(self.page)
        self.look()

    def button(self, name: str | re.Pattern[str]) -> None:
        self.tap(self.page.get_by_role("button", name=name).first)

    def link(self, name: str | re.Pattern[str]) -> None:
        self.tap(self.page.get_by_role("link", name=name).first)

    def write(self, label: str, text: str) -> None:
        field = self.page.get_by_label(label).first
        self.tap(field)
        field.fill(text)
        # Nothing that sticks to the edge of the screen lies over the field that is written in.
        box, bar = field.bounding_box(), self.page.evaluate("innerHeight")
        assert box["y"] >= 0 and box["y"] + box["height"] <= bar
        covered = field.evaluate(
            "(e) => { const b = e.getBoundingClientRect(); const at = document.elementFromPoint(b.x + b.width / 2, b.y + b.height / 2);"
            " return !(at === e || e.contains(at) || e.labels?.[0]?.contains(at)); }"
        )
        assert not covered, f"{label} lies under something"

    def look(self) -> None:
        self.page.wait_for_load_state("domcontentloaded")
        assert self.page.evaluate(SIDEWAYS) == []
        assert self.page.evaluate(SMALL, LEAST) == []

    def part(self, name: str) -> None:
        self.tap(self.page.get_by_role("navigation", name="Parts of the plan").get_by_role("link", name=name))


def planned(thumb: Thumb) -> None:
    page = thumb.page
    page.goto("/join")
    thumb.look()
    thumb.write("Your name", "Ash Alder")
    thumb.write("E-mail", "ash@tarnlane.example")
    thumb.write("Password", SURE)
    thumb.button("Join")
    thumb.link("Open the demo’s mailbox")
    thumb.tap(page.locator("article", has_text="ash@tarnlane.example").get_by_role("link"))
    thumb.button("This address is mine")
    thumb.button("Begin a trial")
    thumb.write("What do you call it?", TITLE)
    thumb.tap(page.get_by_role("button", name="Begin", exact=True))
    page.wait_for_url("**/plan**")
    thumb.write("Question", "Which mat sheds the most mud?")
    thumb.write("Your prediction", "The coarse one.")
    thumb.tap(page.get_by_text("all the same way"))
    thumb.write("One sample is a", "mat")
    thumb.part("Treatments")
    for i, name in enumerate(("Coir", "Bristle"), start=1):
        thumb.button("Add a treatment")
        thumb.write(f"Name of treatment {i}", name)
        thumb.write(f"Samples of treatment {i}", "6")
    thumb.part("Held equal")
    thumb.button("Base batch")
    thumb.write("Setting of Base batch", "one lorry")
    thumb.part("Outcomes")
    thumb.button("Add an outcome")
    thumb.write("Name of the outcome", "Mud left")
    thumb.part("Layout")
    thumb.part("Doses")
    thumb.part("Dry run")
    thumb.part("Looks")
    thumb.write("Write it as you would say it", "after 6 hours")
    thumb.button("Add these looks")
    expect(page.get_by_label("Name of look 1")).to_have_value("6 h")


def sealed(thumb: Thumb) -> str:
    page = thumb.page
    thumb.part("Fairness")
    for press in ("Keep: ", "Give up:"):
        buttons = page.get_by_role("button", name=press)
        while left := buttons.count():
            thumb.tap(buttons.first)
            if press == "Give up:":
                page.get_by_placeholder("because").last.fill("a try-out")
                thumb.tap(page.get_by_role("button", name="Give it up").last)
            expect(buttons).to_have_count(left - 1)
    thumb.button("Seal the plan")
    expect(page.get_by_role("dialog").get_by_role("heading").first).to_be_visible()
    assert barriers(page) == []
    thumb.tap(page.get_by_label("I prepare the samples."))
    thumb.tap(page.get_by_role("dialog").get_by_role("button", name="Seal it"))
    expect(page.get_by_text("Key sealed", exact=True)).to_be_visible()
    return re.search(r"/trials/([0-9a-f-]+)", page.url).group(1)


def begun(thumb: Thumb) -> dict[str, str]:
    page = thumb.page
    thumb.tap(page.get_by_role("link", name="Prepare", exact=True).locator("visible=true").first)
    parts = page.get_by_role("navigation", name="Parts of preparing")
    thumb.tap(parts.get_by_role("link", name=re.compile("^Give")))
    thumb.button("Look at the key")
    rows = page.get_by_role("article")
    expect(rows).to_have_count(12)
    key = {re.search(r"\d{3}", one).group(): "Coir" if "Coir" in one else "Bristle" for one in rows.all_inner_texts()}
    thumb.button("All 12")
    expect(page.get_by_text("All 12 are given.")).to_be_visible()
    thumb.tap(parts.get_by_role("link", name=re.compile("^Start")))
    thumb.button("Start exposure")
    assert barriers(page) == []
    thumb.button("Start the clock")
    expect(page.get_by_text("The clock of all 12 mats is running.")).to_be_visible()
    return key


def scored(thumb: Thumb, trial: str, key: dict[str, str]) -> None:
    page = thumb.page
    page.goto(f"/trials/{trial}")
    thumb.link(re.compile("^6 h"))
    code = page.locator(".tag.huge .code")
    for i in range(12):
        own = code.inner_text()
        if i == 5:
            # Laid on its side: every pad and “Cannot score” are in sight, without scrolling.
            page.set_viewport_size({"width": 740, "height": 360})
            drawn(page)
            for one in [*page.locator(".pad").all(), page.get_by_role("button", name="Cannot score")]:
                expect(one).to_be_in_viewport(ratio=0.99)
            assert page.evaluate(SIDEWAYS) == []
            assert page.evaluate(SMALL, LEAST) == []
        if i == 6:
            page.set_viewport_size(PHONE["viewport"])
        thumb.button(re.compile(f"^{4 if key[own] == 'Bristle' else 1 + int(own) % 2} "))
        if i < 11:
            expect(code).not_to_have_text(own)
    expect(page.get_by_role("heading", name="All scored.")).to_be_visible()


def opened(thumb: Thumb, trial: str) -> None:
    page = thumb.page
    page.goto(f"/trials/{trial}/verdict")
    thumb.button("I want to open the key")
    thumb.write("Type:", page.get_by_role("dialog").locator("b.code").inner_text())
    thumb.tap(page.get_by_role("dialog").get_by_role("button", name="Open the key"))
    expect(page.get_by_text("Bristle").first).to_be_visible()
    page.goto(f"/trials/{trial}/verdict")
    # Whoever prepared has scored, too: no verdict may stand on that.
    expect(page.get_by_role("heading", level=1)).to_contain_text("No verdict on mud left")
    # All that is folded, unfolded; and each chart as its table.
    for _ in range(40):
        closed = page.locator("main details:not([open]) > summary")
        if not closed.count():
            break
        closed.first.tap()
        drawn(page)
    thumb.look()
    for where in ("/log", "/share", "/people", "/plan"):
        page.goto(f"/trials/{trial}{where}")
        page.wait_for_load_state("networkidle")
        thumb.look()


def test_a_whole_job_by_touch_at_360_px(visitor):
    thumb = Thumb(visitor(PHONE).page)
    planned(thumb)
    trial = sealed(thumb)
    key = begun(thumb)
    scored(thumb, trial, key)
    opened(thumb, trial)
