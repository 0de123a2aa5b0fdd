"""Take the pictures of docs/screenshots from a running demo: ``python ops/pictures.py http://127.0.0.1:8000``."""

import shutil
import sys
from pathlib import Path

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
DAHLIAS, PEAS, PENS = "Cut dahlias in the vase", "Soaking peas before sowing", "Plant-label pens"
GHERKINS = "Crunch of bottled gherkins"


class Camera:
    """Signed in as somebody, at a screen."""

    def __init__(self, browser: Browser, address: str, who: str, **screen: object) -> None:
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


def main(address: str) -> None:
    """Take them all."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=ARGUMENTS)
        lead = Camera(browser, address, "lead", **DESK)
        for name, path, title in (
            ("shelf", "/", ""),
            ("plan", "/plan/question", PENS),
            ("plan-fairness", "/plan/fairness", PENS),
            ("board", "", DAHLIAS),
            ("key", "/verdict", DAHLIAS),
            ("verdict", "/verdict", PEAS),
            ("board-open", "", PEAS),
            ("log", "/log", DAHLIAS),
            ("photos", "/photos", DAHLIAS),
            ("agreement", "/agreement", DAHLIAS),
        ):
            lead.at(path, title)
            lead.keep(name)
        lead.at("/plan/doses", DAHLIAS)
        lead.page.get_by_text("House mix, sugar and lemon").first.wait_for()
        lead.page.evaluate("window.scrollTo(0, 1480)")
        lead.page.wait_for_timeout(600)
        lead.keep("plan-doses")
        lead.at("/plan/dry-run", PENS).get_by_role("button", name="Play 100 of them").click()
        lead.page.get_by_role("button", name="Show one").first.click(timeout=60_000)
        lead.page.wait_for_timeout(600)
        lead.page.evaluate("window.scrollTo(0, 430)")
        lead.page.wait_for_timeout(300)
        lead.keep("plan-dry-run")
        preparer = Camera(browser, address, "preparer", **DESK)
        preparer.at("/prepare/mix", DAHLIAS)
        preparer.keep("prepare-mix")
        preparer.at("/prepare/tags", DAHLIAS)
        preparer.keep("prepare-tags")
        preparer.at("/prepare/give", DAHLIAS).get_by_role("button", name="Look at the key").click()
        preparer.page.get_by_role("article").nth(3).wait_for()
        preparer.page.wait_for_timeout(300)
        preparer.keep("prepare")
        scorer = Camera(browser, address, "scorer", **DESK)
        scorer.at("/today")
        scorer.keep("today")
        scorer.at("/rounds/day6", DAHLIAS)
        scorer.keep("round-sheet")
        phone = Camera(browser, address, "scorer", **PHONE)
        phone.at("/rounds/day6", DAHLIAS)
        phone.keep("round-phone")
        phone.at("", DAHLIAS)
        phone.keep("board-phone")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000")
