"""Planning by clicking and typing, in the steps that every plan takes."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import Page, expect

from tests.browser.conftest import Visitor


def part(page: Page, name: str) -> None:
    """Go to that part of the plan."""
    page.get_by_role("navigation", name="Parts of the plan").get_by_role("link", name=name).click()


def begin(page: Page, title: str, question: str) -> str:
    """A new trial with its question; its id."""
    page.goto("/")
    page.get_by_role("button", name="Begin a trial").click()
    page.get_by_label("What do you call it?").fill(title)
    page.get_by_role("button", name="Begin", exact=True).click()
    page.wait_for_url("**/plan**")
    page.get_by_label("Question", exact=True).fill(question)
    page.get_by_text("all the same way").click()
    predict(page, "The second one.")
    return re.search(r"/trials/([0-9a-f-]+)", page.url).group(1)


def predict(page: Page, text: str) -> None:
    page.get_by_label("Your prediction").fill(text)
    page.get_by_label("Your prediction").blur()
    expect(page.get_by_text(re.compile("^Sealed .* Nobody else reads it"))).to_be_visible()


def treatments(page: Page, *names: str, samples: int) -> None:
    """Name the treatments; the first is the usual way."""
    part(page, "Treatments")
    for i, name in enumerate(names, start=1):
        page.get_by_role("button", name="Add a treatment").click()
        page.get_by_label(f"Name of treatment {i}").fill(name)
        page.get_by_label(f"Samples of treatment {i}").fill(str(samples))


def hold_equal(page: Page, what: str, setting: str) -> None:
    part(page, "Held equal")
    page.get_by_role("button", name=what, exact=True).click()
    page.get_by_label(f"Setting of {what}").fill(setting)


def look(page: Page, rule: str, last: str) -> None:
    """Add looks by a rule; ``last`` is the name of the last one they make."""
    part(page, "Looks")
    page.get_by_label("Write it as you would say it").fill(rule)
    page.get_by_role("button", name="Add these looks").click()
    expect(page.get_by_label(re.compile(r"^Name of look \d+$")).last).to_have_value(last)


def outcome(page: Page, name: str, scale: str) -> None:
    """A new outcome on a scale of that kind, opened."""
    part(page, "Outcomes")
    page.get_by_role("button", name="Add an outcome").click()
    page.get_by_label("Name of the outcome").fill(name)
    page.get_by_label("Scale").select_option(scale)


def settle_fairness(page: Page, **given_up: str) -> None:
    """Give up items by the beginning of their titles, for the reasons given; keep all that a person may vouch for."""
    part(page, "Fairness")
    for title, reason in given_up.items():
        row = page.get_by_role("listitem", name=title.replace("_", " "))
        row.get_by_role("button", name="Give up:").click()
        row.get_by_placeholder("because").fill(reason)
        row.get_by_placeholder("because").press("Enter")
        expect(row).to_contain_text(f"Given up: {reason}")
    keep = page.get_by_role("button", name="Keep: ")
    while keep.count():
        left = keep.count()
        keep.first.click()
        expect(keep).to_have_count(left - 1)


def seal(page: Page) -> None:
    """Seal a plan that has nothing open, as one who prepares the samples."""
    expect(page.get_by_text("before it can be sealed")).to_have_count(0)
    page.get_by_role("button", name="Seal the plan").click()
    page.get_by_label("I prepare the samples.").check()
    page.get_by_role("dialog").get_by_role("button", name="Seal it").click()
    expect(page.get_by_text("Key sealed")).to_be_visible()


def handout(visitor: Visitor, trial: str) -> list[dict[str, Any]]:
    """Every sample with its place and what it gets."""
    token = next(c["value"] for c in visitor.context.cookies() if c["name"] == "csrftoken")
    request = visitor.context.request
    rows = request.post(f"/api/trials/{trial}/key-looks", headers={"X-CSRFToken": token}, data={}).json()["rows"]
    places = {tag["code"]: tag for tag in request.get(f"/api/trials/{trial}/board").json()["tags"]}
    return [{**places[row["code"]], **row} for row in rows]
