"""What every screen owes its user: nothing lost without a network, plain words on mistakes, no barrier, no blind spot."""

import re

from playwright.sync_api import expect

from tests.browser.conftest import PASSWORD, PHONE

DAHLIAS, PEAS, PENS = "Cut dahlias in the vase", "Soaking peas before sowing", "Plant-label pens"
GHERKINS = "Crunch of bottled gherkins"
MARIGOLDS = "Colour of dried marigolds"


def test_what_is_scored_without_a_network_is_kept_and_sent_later(visitor):
    scorer = visitor(PHONE)
    page = scorer.sign_in("scorer@tarnlane.example")
    trial = scorer.trial(DAHLIAS)
    page.goto(f"/trials/{trial}/rounds/day7")
    page.get_by_role("group", name="Freshness").wait_for()
    code = page.locator(".tag.huge .code").inner_text()
    scorer.context.route("**/readings", lambda route: route.abort())
    page.get_by_role("button", name="4 outer petals soften").click()
    page.get_by_role("button", name="Not yet").click()
    expect(page.get_by_role("img", name=re.compile("1 of them on this device only"))).to_be_visible()
    expect(page.get_by_text("No connection. Go on")).to_be_visible()
    page.reload()
    expect(page.get_by_role("img", name=re.compile("1 of them on this device only"))).to_be_visible()
    assert page.locator(".tag.huge .code").inner_text() != code
    scorer.context.unroute("**/readings")
    page.reload()
    expect(page.get_by_role("img", name="1 scored, 24 to go")).to_be_visible()
    log = scorer.context.request.get(f"/api/trials/{trial}/log").json()["entries"]
    assert len([e for e in log if e["code"] == code and e["checkpoint"] == "Day 7"]) == 2


def test_a_session_that_ended_loses_nothing(visitor):
    scorer = visitor(PHONE)
    page = scorer.sign_in("scorer@tarnlane.example")
    trial = scorer.trial(DAHLIAS)
    page.goto(f"/trials/{trial}/rounds/day9")
    page.get_by_role("group", name="Freshness").wait_for()
    scorer.context.clear_cookies(name="sessionid")
    page.get_by_role("button", name="3 outer row limp").click()
    again = page.get_by_role("region", name="Sign in again")
    expect(again).to_contain_text("Nothing is lost: what you typed is on this page and this device.")
    again.get_by_label("Password").fill(PASSWORD)
    again.get_by_role("button", name="Sign in and keep it").click()
    # Mended in place: the page is the same, and what was scored has gone.
    expect(again).to_have_count(0)
    expect(page.get_by_role("group", name="Petal drop")).to_be_visible()
    page.goto("/")
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    log = scorer.context.request.get(f"/api/trials/{trial}/log").json()["entries"]
    assert [e["value"] for e in log if e["checkpoint"] == "Day 9"] == [3]


def test_a_wrong_password_and_a_forgotten_one(visitor, passwords):
    page = visitor().page
    page.goto("/sign-in")
    page.get_by_label("E-mail").fill("viewer@tarnlane.example")
    page.get_by_label("Password").fill("not this one")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_be_visible()
    page.get_by_role("link", name="Forgotten the password?").click()
    expect(page.get_by_role("heading", name="A new password")).to_be_visible()
    page.get_by_label("E-mail").fill("viewer@tarnlane.example")
    page.get_by_role("button", name="Send me a link").click()
    page.get_by_role("link", name="Open the demo’s mailbox").click()
    page.locator("article", has_text="viewer@tarnlane.example").first.get_by_role("link").click()
    page.get_by_label("New password").fill("short")
    page.get_by_role("button", name="Set it").click()
    expect(page.get_by_role("alert")).to_contain_text("short")
    page.get_by_label("New password").fill("tarn-lane-demo-too")
    page.get_by_role("button", name="Set it").click()
    expect(page.get_by_text("Your new password is set.")).to_be_visible()
    page.get_by_role("link", name="Sign in").click()
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()
    page.get_by_label("E-mail").fill("viewer@tarnlane.example")
    page.get_by_label("Password").fill("tarn-lane-demo-too")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Nothing is due right now.")


def test_a_stranger_is_sent_to_the_door_and_unknown_trials_are_not_there(visitor):
    someone = visitor()
    someone.page.goto("/trials/6f1f0f6a-0000-4000-8000-000000000000/verdict")
    expect(someone.page.get_by_role("button", name="Sign in")).to_be_visible()
    someone.sign_in("scorer@tarnlane.example")
    someone.page.goto("/trials/6f1f0f6a-0000-4000-8000-000000000000/verdict")
    expect(
        someone.page.get_by_role("heading", name="There is nothing here, or it is not yours to see.")
    ).to_be_visible()


def test_shortcuts_are_listed(visitor):
    scorer = visitor()
    page = scorer.sign_in("scorer@tarnlane.example")
    page.goto(f"/trials/{scorer.trial(DAHLIAS)}/rounds/day8")
    page.get_by_role("columnheader", name="Freshness").wait_for()
    page.locator("body").click(position={"x": 5, "y": 5})
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("give that grade and go on")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
