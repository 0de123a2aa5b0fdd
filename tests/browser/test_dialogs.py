"""Every dialog, for everybody: by hand and by keyboard, light and dark; and it gives the focus back."""

import re

import pytest
from playwright.sync_api import Error, expect

from tests.browser.conftest import until
from tests.browser.views import LEAST, SIDEWAYS, SMALL, address, barriers, shown
from tests.depth import cells

DIALOGS = {
    "begin a trial": ("lead", "/", ["Begin a trial"]),
    "acts of a draft": ("lead", "/", ["More for Plant-label pens"]),
    "shortcuts": ("lead", "/account", ["See and change the keys"]),
    "leaving": ("lead", "/account", ["I want to leave"]),
    "how it is worked out": ("lead", "pens/plan", ["How is this worked out?"]),
    "compare designs": ("lead", "pens/plan", [re.compile("[Cc]ompare")]),
    "templates of scales": ("lead", "pens/plan/outcomes", ["Begin from a template"]),
    "scanning a tag": ("scorer", "dahlias", ["Scan a tag"]),
    "skip a look": ("lead", "dahlias", ["Skip Day 6"]),
    "cannot score": ("scorer", "dahlias/rounds/day6", [re.compile("^(Cannot score|One at a time)"), "Cannot score"]),
    "something happened": ("lead", "dahlias/log", [re.compile("^Something happened")]),
    "a way of measuring failed": ("lead", "dahlias/log", ["A way of measuring failed"]),
    "set aside": ("lead", "dahlias", [re.compile("^Sample ")]),
    "open the key": ("lead", "dahlias/verdict", ["I want to open the key"]),
    "why": ("lead", "peas/verdict", ["Why?"]),
    "a photo": ("lead", "dahlias/photos", ["Whole board, Day 1"]),
    "how pairs are compared": ("lead", "peas/verdict", ["summary: Each against each", "How?"]),
    "earlier treatments": ("lead", "pens/plan/treatments", ["From earlier trials"]),
    "finder": ("lead", "/", ["Find"]),
    "a sum for a dose": ("preparer", "dahlias/prepare/mix", ["Work it out"]),
}


SCHEMES = cells(("light", "dark"), ("light",))


@pytest.mark.parametrize("width", cells([360, 1280], [360]))
def test_no_dialog_has_a_barrier_and_each_gives_the_focus_back(visitor, width):
    sessions, found, unopened = {}, {}, []
    for name, (role, path, presses) in DIALOGS.items():
        if role not in sessions:
            sessions[role] = visitor()
            sessions[role].sign_in(f"{role}@tarnlane.example")
        page = sessions[role].page
        page.set_viewport_size({"width": width, "height": 800})
        page.goto(address(sessions[role], path))
        shown(page)
        dialog = page.get_by_role("dialog")
        try:
            for press in presses:
                if dialog.count():
                    break
                if isinstance(press, str) and press.startswith("summary: "):
                    page.locator("summary", has_text=press.removeprefix("summary: ")).click()
                    continue
                button = page.get_by_role("button", name=press).locator("visible=true").first
                said = button.inner_text()
                button.click()
                # The last press may have been the first: its dialog may still be on its way.
                if presses[-1] == said.strip():
                    break
            expect(dialog.get_by_role("heading").first).to_be_visible()
        except (AssertionError, Error):
            unopened.append(name)
            continue
        shown(page)
        for scheme in SCHEMES:
            page.emulate_media(color_scheme=scheme)
            # What a dialog is called and holds is the same in the dark; what can be read there may not be.
            wrong = barriers(page, *(["color-contrast"] if scheme == "dark" else [])) + page.evaluate(SIDEWAYS)
            wrong += page.evaluate(SMALL, LEAST) if width < 700 else []
            if wrong:
                found[f"{name}, {scheme}"] = wrong[:4]
        page.emulate_media(color_scheme="light")
        page.keyboard.press("Escape")
        expect(dialog).to_have_count(0)
        # Given back, wherever it came from.
        until(page, "document.activeElement !== document.body")
    assert (unopened, found) == ([], {})
