"""Take the pictures of docs/screenshots from a running demo: ``python ops/pictures.py http://127.0.0.1:8000``."""

import re
import shutil
import sys
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, Page, sync_playwright

FOLDER = Path(__file__).parents[1] / "docs/screenshots"
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--no-first-run",
]
PASSWORD = "tarn-lane-demo"  # noqa: S105
DESK = {"viewport": {"width": 1280, "height": 800}}
PHONE = {"viewport": {"width": 390, "height": 844}, "is_mobile": True, "has_touch": True, "device_scale_factor": 2}
DAHLIAS, PEAS = "Cut dahlias in the vase", "Soaking peas before sowing"
GHERKINS = "Crunch of bottled gherkins"
MARIGOLDS = "Colour of dried marigolds"
TWINES = "Garden twine through a season"


class Camera:
    """Signed in as somebody, at a screen."""

    def __init__(self, browser: Browser, address: str, who: str, **screen: Any) -> None:
        self.context = browser.new_context(base_url=address, **screen)
        self.page: Page = self.context.new_page()
        if who:
            self.page.goto("/sign-in")
            self.page.get_by_label("E-mail").fill(f"{who}@tarnlane.example")
            self.page.get_by_label("Password").fill(PASSWORD)
            self.page.get_by_role("button", name="Sign in").click()
            self.page.wait_for_url("**/")

    def at(self, path: str, title: str = "") -> Page:
        """The page at ``path``, of the trial of that title where one is given."""
        if title:
            trials = self.context.request.get("/api/shelf").json()["trials"]
            path = f"/trials/{next(t['id'] for t in trials if t['title'] == title)}{path}"
        self.page.goto(path)
        self.page.wait_for_load_state("networkidle")
        self.page.wait_for_timeout(400)
        return self.page

    def keep(self, name: str) -> None:
        """Store what is on the screen."""
        self.page.screenshot(path=FOLDER / f"{name}.png")


def _sent(who: Camera, path: str, body: object) -> Any:
    """The answer to what somebody sends."""
    token = next(c["value"] for c in who.context.cookies() if c["name"] == "csrftoken")
    answer = who.context.request.post(path, headers={"X-CSRFToken": token}, data=body)
    return answer.json()


def _panels(browser: Browser, address: str, lead: Camera, phone: Camera) -> None:
    """A panel from its plan to its result: the held one of the gherkins, and one of the dahlias that is under way."""
    lead.at("/panels", GHERKINS).get_by_text("Leaf or no leaf").click()
    lead.page.get_by_text("Which is liked better").wait_for()
    lead.keep("panel-result")
    lead.at("/panels", DAHLIAS).get_by_label("A new panel").fill("By the scent of the vase")
    lead.page.get_by_role("button", name="Plan it").click()
    lead.page.get_by_text("What is put before them?").wait_for()
    for box in lead.page.locator("fieldset", has_text="What is put before them?").locator("label").all()[:2]:
        box.click()
    lead.page.get_by_text("13 of 24 right answers are needed.").wait_for()
    panel = lead.page.url.rsplit("/", 1)[1]
    names = ["Ada", "Bram", "Cleo", "Dov", "Edie", "Finn"]
    _sent(lead, f"/api/panels/{panel}/assessors", {"assessors": [{"name": name} for name in names]})
    out = _sent(lead, f"/api/panels/{panel}/begin", {})
    phone.page.goto(out["assessors"][0]["link"])
    phone.page.get_by_role("button", name="I have read this").click()
    phone.page.get_by_role("button", name=re.compile("^Cup")).nth(1).click()
    phone.page.wait_for_timeout(400)
    phone.keep("panel-booth")
    phone.page.get_by_role("button", name="Give my answer").click()
    phone.page.get_by_role("heading", name="Thank you.").wait_for()


def _gauged(scorer: Camera) -> None:
    """Photos measured by one recipe, and a finished set of practice."""
    scorer.at("/gauge/day14/shade", MARIGOLDS).get_by_role("button", name=re.compile("Measure all")).click()
    scorer.page.get_by_role("heading", name="19 of 19 photos measured").wait_for(timeout=90_000)
    scorer.page.wait_for_timeout(1_500)
    scorer.page.evaluate("window.scrollTo(0, 90)")
    scorer.page.wait_for_timeout(400)
    scorer.keep("gauge")
    scorer.at("/training", MARIGOLDS)
    scorer.page.get_by_role("button", name="Another set").click()
    for n in range(12):
        scorer.page.get_by_text(f"{n + 1} of 12", exact=True).wait_for()
        scorer.page.get_by_role("button", name=re.compile(r"^(1|2|3|4|5) ")).nth((0, 4, 2, 1, 3)[n % 5]).click()
    scorer.page.get_by_text("Eye against gauge.").wait_for(timeout=600_000)
    scorer.page.wait_for_timeout(600)
    scorer.keep("training")


TOLD = (
    "Which twine lasts longest: hemp, nylon or jute? Jute is what we use now. 8 lengths of each in every place, on the sunny fence and "
    "in the shaded arch. Load in kg after 4, 8 and 12 weeks."
)


def _told(lead: Camera) -> None:
    """A new plan, told in words."""
    lead.at("/").get_by_role("button", name="Begin a trial").click()
    lead.page.get_by_label("What do you call it?").fill("Twines for the arch")
    lead.page.get_by_role("button", name="Begin", exact=True).click()
    lead.page.get_by_label(re.compile("^What would you tell a friend")).fill(TOLD)
    lead.page.get_by_text("All that a plan begins with is told.").wait_for()
    lead.page.get_by_role("heading", name="Say it").evaluate("one => one.scrollIntoView()")
    lead.keep("plan")


WILLOW = """Rooting in willow water, last year;;;;
;;;;
Pot;Bench;Watered with;Rooted week 2;Root length week 4 (cm)
1;East;Tap water;8/20;3,1
2;East;Tap water;9/20;3,4
3;East;Willow water;15/20;5,2
4;East;Willow water;16/20;5,6
5;West;Tap water;9/20;3,0
6;West;Tap water;10/20;3,8
7;West;Willow water;17/20;5,9
8;West;Willow water;15/20;5,1
"""


def _shared(lead: Camera, phone: Camera) -> None:
    """A table that is brought in; the report, and its published page on a phone."""
    lead.at("/bring").locator("input[type=file]").set_input_files(
        {"name": "willow.csv", "mimeType": "text/csv", "buffer": WILLOW.encode()}
    )
    lead.page.get_by_text("2 treatments on 8 samples").wait_for()
    lead.page.get_by_role("button", name=re.compile("^Rooted")).click()
    lead.page.get_by_role("heading", name="What the columns mean").evaluate("one => one.scrollIntoView()")
    lead.page.wait_for_timeout(400)
    lead.keep("bring")
    lead.at("/share", PEAS).get_by_role("button", name="Publish it").click()
    address = lead.page.locator("a[href*='/p/']").inner_text()
    trial = lead.page.url.split("/trials/")[1].split("/")[0]
    lead.at(f"/api/trials/{trial}/report.html")
    lead.keep("report")
    phone.page.goto(address)
    phone.page.get_by_role("button", name="Plain water").click()
    phone.page.get_by_role("button", name="Read on without picking").click()
    phone.page.get_by_text("What readers expected").wait_for()
    phone.keep("published")


def main(address: str) -> None:
    """Take them all."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=ARGUMENTS)
        lead = Camera(browser, address, "lead", **DESK)
        for name, path, title in (
            ("shelf", "/", ""),
            ("board", "", DAHLIAS),
            ("key", "/verdict", DAHLIAS),
            ("verdict", "/verdict", TWINES),
            ("tasting", "/tasting", ""),
            ("photos", "/photos", DAHLIAS),
            ("agreement", "/agreement", DAHLIAS),
        ):
            lead.at(path, title)
            lead.keep(name)
        _told(lead)
        preparer = Camera(browser, address, "preparer", **DESK)
        preparer.at("/prepare/mix", DAHLIAS)
        preparer.keep("prepare-mix")
        scorer = Camera(browser, address, "scorer", **DESK)
        scorer.at("/today")
        scorer.keep("today")
        scorer.at("/rounds/day6", DAHLIAS)
        scorer.keep("round-sheet")
        phone = Camera(browser, address, "scorer", **PHONE)
        phone.at("/rounds/day6", DAHLIAS)
        phone.keep("round-phone")
        _gauged(scorer)
        _panels(browser, address, lead, phone)
        _shared(lead, phone)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000")
