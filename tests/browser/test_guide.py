"""The guide is read, and its links open the place they speak of."""

import re

from playwright.sync_api import expect

from tests.browser.conftest import PHONE
from tests.browser.views import barriers


def test_a_job_is_read_and_its_step_opens_the_place(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    page.get_by_role("link", name="Guide", exact=True).click()
    pages = page.get_by_role("navigation", name="Guide").get_by_role("link")
    expect(pages).to_have_count(11)
    pages.filter(has_text="Does it work at all?").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Does it work at all?")
    assert barriers(page) == []
    page.get_by_role("main").get_by_role("link", name="Fairness").click()
    page.wait_for_url(re.compile(r"/trials/[0-9a-f-]+/plan/fairness"))
    page.goto("/guide/reading-a-verdict-aloud")
    page.get_by_role("main").get_by_role("link", name="headline").click()
    page.wait_for_url(re.compile(r"/trials/[0-9a-f-]+/verdict"))


def test_whoever_has_no_such_trial_is_told_so(visitor):
    scorer = visitor()
    page = scorer.sign_in("viewer@tarnlane.example")
    page.goto("/go/plan/doses")
    expect(page.get_by_role("heading", level=1)).to_contain_text("No trial of yours is being planned yet.")
    page.goto("/go/nonsense")
    expect(page.get_by_role("heading", level=1)).to_contain_text("There is no page at this address.")


def test_it_is_read_on_a_phone_without_an_account(visitor):
    page = visitor(PHONE).page
    page.goto("/guide/what-chance-does")
    expect(page.get_by_role("heading", level=1)).to_have_text("What chance does")
    assert page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth") <= 0
    assert barriers(page) == []
    page.get_by_role("link", name="All pages of the guide").tap()
    expect(page.get_by_role("navigation", name="Guide").get_by_role("link")).to_have_count(11)
    page.goto("/guide/nothing-of-the-kind")
    expect(page.get_by_role("heading", level=1)).to_contain_text("no such page")
