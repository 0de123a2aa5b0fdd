"""A whole job without a mouse: from joining to reading the verdict, by keys alone.

At each step the focus is somewhere, and a screen reader is told what cannot be seen happen.
"""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import eventually, until

TITLE, SURE = "Hinges in the rain", "four dry words here"
# What the focus is on, in words: its role or kind, and its name.
FOCUS = """() => {
  const e = document.activeElement;
  if (!e || e === document.body) return 'nothing';
  const label = e.getAttribute('aria-label') || (e.labels?.[0]?.textContent ?? '') || e.textContent;
  return `${e.tagName.toLowerCase()} ${label.trim().replace(/\\s+/g, ' ').slice(0, 80)}`;
}"""
MOST_STOPS = 150


class Keys:
    """Somebody at a keyboard.  There is no mouse: everything is come to by Tab, and pressed by Enter or the space bar."""

    def __init__(self, page: Page) -> None:
        self.page = page

    @property
    def focus(self) -> str:
        return self.page.evaluate(FOCUS)

    def at(self, expected: str) -> None:
        """The focus comes to rest on that."""
        pattern = re.compile(expected)
        focus = eventually(self.page, lambda: self.focus, lambda one: bool(pattern.search(one)), 8)
        assert pattern.search(focus), f"the focus is on {focus!r}, not on {expected!r}"

    def tab_to(self, expected: str, *, back: bool = False) -> None:
        """Press Tab until the focus is on that; it is never lost on the way."""
        pattern, stops = re.compile(expected), []
        for _ in range(MOST_STOPS):
            if pattern.search(self.focus):
                return
            self.page.keyboard.press("Shift+Tab" if back else "Tab")
            stops.append(self.focus)
        raise AssertionError(f"no {expected!r} within {MOST_STOPS} stops: {stops[:60]}")

    def press(self, expected: str, key: str = "Enter", *, back: bool = False) -> None:
        self.tab_to(expected, back=back)
        self.page.keyboard.press(key)

    def type(self, field: str, text: str, *, back: bool = False) -> None:
        self.tab_to(field, back=back)
        self.page.keyboard.press("Control+A")
        self.page.keyboard.type(text)

    def choose(self, field: str, name: str) -> None:
        """Pick from a list by the letters of its name."""
        self.tab_to(field)
        self.page.keyboard.type(name)

    def choose_by_arrows(self, name: str) -> None:
        """Choose one of several, of which the focus is on one."""
        for _ in range(6):
            self.page.keyboard.press("ArrowDown")
            if name in self.focus:
                return
        raise AssertionError(f"no {name!r} among them, but {self.focus!r}")

    def told(self, expected: str) -> None:
        """A screen reader is told that."""
        expect(self.page.locator("p.sr-only[aria-live=polite]").first).to_have_text(re.compile(expected))


def join(keys: Keys) -> None:
    page = keys.page
    page.goto("/join")
    keys.type("^input Your name", "Wren Alder")
    keys.type("^input E-mail", "wren@tarnlane.example")
    keys.type("^input Password", SURE)
    page.keyboard.press("Enter")
    expect(page.get_by_text("If that address has an account already, the letter says so.")).to_be_visible()
    keys.press("^a Open the demo’s mailbox")
    keys.at("^h1 ")
    keys.told("Mailbox")
    keys.press("^a .*/confirm/")
    keys.press("^button This address is mine")
    expect(page.get_by_role("heading", name="Your shelf is empty.")).to_be_visible()
    keys.at("^h1 ")
    keys.told("Shelf")


def plan(keys: Keys) -> None:
    page = keys.page
    keys.press("^button Begin a trial")
    keys.at("^input What do you call it")
    page.keyboard.type(TITLE)
    page.keyboard.press("Enter")
    page.wait_for_url("**/plan**")
    keys.told(TITLE)
    keys.type("^textarea Question|^input Question", "Which oil keeps a hinge from squeaking?")
    keys.type("^textarea Your prediction", "None of them.")
    keys.tab_to("^input (all the same way|as each label says)")
    keys.choose_by_arrows("all the same way")
    keys.type("^input One sample is a", "hinge")
    keys.press("^a On to|^a Treatments")
    keys.at("^h2 |^h1 ")
    for i, name in enumerate(("Bare", "Walnut oil"), start=1):
        keys.press("^button Add a treatment")
        # The new field has the focus: who types on does not press the button again.
        keys.at(f"^input Name of treatment {i}")
        page.keyboard.type(name)
        keys.type(f"^input Samples of treatment {i}", "6")
    part(keys, "Held equal")
    keys.press("^button Base batch")
    keys.type("^input Setting of Base batch", "one box")
    part(keys, "Outcomes")
    keys.press("^button Add an outcome")
    keys.at("^input Name of the outcome")
    page.keyboard.type("Squeak")
    part(keys, "Looks")
    keys.type("^input Write it as you would say it", "after 6 hours")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Name of look 1")).to_have_value("6 h")


def part(keys: Keys, name: str) -> None:
    keys.press(f"^a .*{name}", back=True)
    keys.at("^h2 |^h1 ")
    keys.told(name)


def fair_and_sealed(keys: Keys) -> str:
    page = keys.page
    part(keys, "Fairness")
    # All that a person vouches for is kept, all else given up with a reason.
    while page.get_by_role("button", name="Keep: ").count():
        left = page.get_by_role("button", name="Keep: ").count()
        keys.press("^button Keep: ")
        expect(page.get_by_role("button", name="Keep: ")).to_have_count(left - 1)
    while page.get_by_role("button", name="Give up:").count():
        left = page.get_by_role("button", name="Give up:").count()
        keys.press("^button Give up:")
        keys.at("^input Reason for giving up")
        page.keyboard.type("a try-out")
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="Give up:")).to_have_count(left - 1)
    keys.press("^button Seal the plan")
    # The focus goes into the dialog, and stays there.
    keys.at("^input I stay blind|^input I prepare")
    keys.choose_by_arrows("I prepare the samples")
    keys.press("^button Seal it")
    expect(page.get_by_text("Key sealed")).to_be_visible()
    until(page, "document.activeElement !== document.body")
    return re.search(r"/trials/([0-9a-f-]+)", page.url).group(1)


def started(keys: Keys) -> dict[str, str]:
    page = keys.page
    keys.press("^a Prepare")
    keys.at("^h1 |^h2 ")
    keys.press("^a .*Give")
    keys.press("^button Look at the key")
    expect(page.get_by_role("article")).to_have_count(12)
    key = {
        re.search(r"\d{3}", one): "Walnut oil" if "Walnut oil" in one else "Bare"
        for one in page.get_by_role("article").all_inner_texts()
    }
    keys.press("^button All 12")
    expect(page.get_by_text("All 12 are given.")).to_be_visible()
    keys.press("^a .*Start", back=True)
    keys.press("^button Start exposure")
    keys.press("^button Start the clock")
    expect(page.get_by_text("The clock of all 12 hinges is running.")).to_be_visible()
    until(page, "document.activeElement !== document.body")
    return {found.group(): name for found, name in key.items()}


def scored(keys: Keys, key: dict[str, str]) -> None:
    page = keys.page
    # On a narrow window, as it is on a phone with a keyboard: pads are pressed by Tab and Enter.
    page.set_viewport_size({"width": 640, "height": 800})
    keys.press("^a .*6 h", back=True)
    keys.told("6 h")
    codes = list(key)
    for i in range(12):
        code = page.locator(".tag.huge .code").inner_text()
        grade = 4 if key[code] == "Walnut oil" else 1 + codes.index(code) % 2
        if i < 2:
            keys.press(f"^button {grade}")
        else:
            # A digit gives the grade from wherever the focus is.
            page.keyboard.press(str(grade))
        if i < 11:
            expect(page.locator(".tag.huge .code")).not_to_have_text(code)
            here = page.locator(".tag.huge .code").inner_text()
            keys.told(rf"^Kept; next {here}, place \d+")
            keys.at("Squeak|pads|^(?!nothing)")
    keys.told("that was the last one")
    expect(page.get_by_role("heading", name="All scored.")).to_be_visible()
    page.set_viewport_size({"width": 1280, "height": 800})


def opened_and_read(keys: Keys, trial: str) -> None:
    page = keys.page
    keys.press("^a .*[Bb]oard")
    keys.at("^h1 ")
    keys.press("^a .*Verdict|^a .*Key")
    keys.at("^h1 ")
    keys.press("^button I want to open the key")
    keys.at("^input Type: open ")
    phrase = page.get_by_role("dialog").locator("b.code").inner_text()
    page.keyboard.type("open 1")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text(f"Type “{phrase}”")
    field = page.get_by_label("Type:")
    expect(field).to_have_attribute("aria-invalid", "true")
    assert page.locator(f"#{field.get_attribute('aria-describedby')}").inner_text()
    keys.type("^input Type: open ", phrase, back=True)
    page.keyboard.press("Enter")
    expect(page.get_by_text("Walnut oil").first).to_be_visible()
    keys.press("^button Read the whole verdict")
    # The same person prepared and scored: no verdict may stand on that, and its first sentence says so.
    sentence = page.get_by_role("heading", level=1)
    expect(sentence).to_contain_text("No verdict on squeak")
    expect(sentence).to_contain_text("the scores cannot be taken as blind")
    until(page, "document.activeElement !== document.body")
    keys.press("^summary .*[Ee]ach against")
    expect(page.get_by_role("table").first).to_be_visible()
    assert page.request.get(f"/api/trials/{trial}/course").json()["state"] == "opened"


def test_a_whole_job_by_keyboard_alone(visitor):
    keys = Keys(visitor().page)
    join(keys)
    plan(keys)
    trial = fair_and_sealed(keys)
    key = started(keys)
    scored(keys, key)
    opened_and_read(keys, trial)


def test_shortcuts_are_changed_and_switched_off(visitor):
    scorer = visitor()
    page = scorer.sign_in("scorer@tarnlane.example")
    page.goto(f"/trials/{scorer.trial('Cut dahlias in the vase')}/rounds/day8")
    cell = page.locator("input[data-at='0,0']")
    expect(cell).to_be_focused()
    # Where the focus always is, too.
    page.keyboard.press("?")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("give that grade and go on")
    page.keyboard.press("Escape")
    expect(cell).to_be_focused()
    page.keyboard.press("Control+/")
    dialog.get_by_role("button", name="Another key: undo the last score").press("Enter")
    page.keyboard.press("5")
    expect(dialog.get_by_role("alert")).to_contain_text("Digits give grades")
    dialog.get_by_role("button", name="Another key: undo the last score").press("Enter")
    page.keyboard.press("/")
    expect(dialog.get_by_role("alert")).to_contain_text("is taken: find a trial")
    dialog.get_by_role("button", name="Another key: undo the last score").press("Enter")
    page.keyboard.press("b")
    expect(dialog.get_by_role("alert")).to_have_count(0)
    expect(dialog.locator("kbd", has_text=re.compile("^b$"))).to_be_visible()
    dialog.get_by_label("Switch off all that are one key alone").check()
    page.keyboard.press("Escape")
    page.reload()
    page.goto("/")
    shelf = page.get_by_role("heading", level=1)
    expect(shelf).to_be_visible()
    page.keyboard.press("/")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("Control+/")
    expect(dialog.locator("kbd", has_text="/").first).to_be_visible()
    dialog.get_by_label("Switch off all that are one key alone").uncheck()
    page.keyboard.press("Escape")
    page.keyboard.press("/")
    expect(page.get_by_role("dialog").get_by_role("heading").first).to_be_visible()
