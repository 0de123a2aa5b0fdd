"""Do the instruments agree? Planned from the first box, sealed, read, and told without a winner; begun from a table that was compared."""

import re
from datetime import UTC, datetime
from uuid import uuid4

from playwright.sync_api import Page, expect

from tests.browser.conftest import eventually
from tests.browser.hand import Hand
from tests.browser.led import call, joined
from tests.browser.planning import part
from tests.browser.test_telling import all_answered, begun, plan_of, sealed
from tests.browser.views import barriers

TABLE = "strip [mg/L]\tmeter [g/L]\ttruth\n0\t0.0002\tblank\n10\t0.009\t10\n25\t0.021\t20\n25\t0.024\t\n"


def instrument(hand: Hand, called: str, name: str, unit: str) -> None:
    page = hand.page
    hand.button(f"Change {called}")
    field = page.get_by_label("Name of the instrument")
    hand.write(field, name)
    hand.write(page.get_by_label("Unit", exact=True), unit)


def planned(hand: Hand) -> str:
    page = hand.page
    trial = begun(hand, "Nitrate kits")
    hand.button("Do the instruments agree?")
    expect(page.get_by_label("Question", exact=True)).to_have_value("Do the instruments agree?")
    expect(page.get_by_label("Claim")).to_have_value("agree")
    hand.write(page.get_by_label("All are told in"), "mg/L")
    part(page, "What is read")
    hand.button("Add something to read")
    hand.write(page.get_by_label("Name of treatment 3"), "Ten")
    page.get_by_label("What is known of Ten").select_option("known")
    hand.write(page.get_by_label("It holds (0: a blank)").last, "10")
    hand.button("Add something to read")
    hand.write(page.get_by_label("Name of treatment 4"), "Table salt")
    page.get_by_label("What is known of Table salt").select_option("other")
    part(page, "Instruments")
    instrument(hand, "First instrument", "Strip", "mg/L")
    instrument(hand, "Second instrument", "Scale", "g")
    # An instrument of something else cannot be held against it, and says so at once.
    expect(page.get_by_label("What this design can tell")).to_contain_text("Scale reads in g, which is no mg/L")
    hand.write(page.get_by_label("Name of the instrument"), "Meter")
    hand.write(page.get_by_label("Unit", exact=True), "g/L")
    expect(page.get_by_label("What this design can tell")).to_contain_text(
        "readings of each, how far two instruments part"
    )
    expect(page.get_by_label("Better is")).to_have_count(0)
    assert barriers(page) == []
    return trial


def readings_of(page: Page, lead, scorer, trial: str) -> None:
    rows = call(lead, "POST", f"/api/trials/{trial}/key-looks")["rows"]
    holds = {"Blank": 0.0, "From the field": 22.0, "Ten": 10.0, "Table salt": 0.0}
    true = {row["code"]: holds[row["treatment"]] for row in rows}
    plan = plan_of(page, trial, lambda found: found["outcomes"])
    strip, meter = (one["key"] for one in plan["outcomes"])
    look = plan["checkpoints"][0]["key"]
    held = call(scorer, "POST", f"/api/trials/{trial}/rounds", {"checkpoint": look})
    given = [
        {
            "id": str(uuid4()),
            "round": held["id"],
            "sample": sample["id"],
            "outcome": outcome,
            "kind": "value",
            "value": value,
            "taken_at": datetime.now(UTC).isoformat(),
        }
        for i, sample in enumerate(held["samples"])
        for outcome, value in (
            (strip, true[sample["code"]] * 1.2 + i % 3),
            (meter, (true[sample["code"]] + 0.1 * (i % 2)) / 1000),
        )
    ]
    call(scorer, "POST", f"/api/trials/{trial}/readings", {"readings": given})


def test_instruments_are_planned_sealed_read_and_told_and_nothing_wins(visitor):
    lead, scorer = visitor(), visitor()
    page = lead.sign_in("lead@tarnlane.example")
    scorer.sign_in("scorer@tarnlane.example")
    hand = Hand(page)
    trial = planned(hand)
    # A dry run plays out who wins, and here nobody does.
    expect(page.get_by_role("navigation", name="Parts of the plan").get_by_role("link", name="Dry run")).to_have_count(
        0
    )
    all_answered(hand)
    sealed(hand)
    call(lead, "POST", f"/api/trials/{trial}/start", {})
    joined(lead, trial, scorer, "scorer@tarnlane.example", "scorer")
    readings_of(page, lead, scorer, trial)
    call(lead, "POST", f"/api/trials/{trial}/key/ask")
    call(lead, "POST", f"/api/trials/{trial}/key/open", {"title": "Nitrate kits"})
    page.goto(f"/trials/{trial}/verdict")
    said = page.get_by_role("heading", level=1)
    expect(said).to_contain_text(re.compile("finds something in|Strip reads|Between"))
    pair = page.get_by_role("img", name=re.compile("Strip"))
    expect(pair.first).to_be_visible()
    expect(page.get_by_role("heading", name="Against what is really there")).to_be_visible()
    expect(page.get_by_text("That another substance fools none of them")).to_have_count(0)
    assert not re.search(r"\b(winner|did best|control)\b", page.get_by_role("main").inner_text())
    assert barriers(page) == []
    page.goto(f"/trials/{trial}/share")
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"/trials/{trial}/verdict")
    expect(said).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")


def test_a_table_that_was_compared_becomes_such_a_trial(visitor):
    page = visitor().sign_in("lead@tarnlane.example")
    page.goto("/methods")
    page.get_by_label("The table, pasted").fill(TABLE)
    page.get_by_role("button", name="Compare", exact=True).click()
    expect(page.get_by_role("region", name="What the methods show")).to_be_visible()
    page.get_by_label("Keep what was entered under a name").fill("Strip beside the meter")
    page.get_by_role("button", name="Make a trial of it").click()
    page.wait_for_url("**/plan**")
    expect(page.get_by_label("Question", exact=True)).to_have_value("Do strip and meter agree?")
    trial = re.search(r"/trials/([0-9a-f-]+)", page.url).group(1)
    plan = eventually(page, lambda: page.request.get(f"/api/trials/{trial}/plan").json()["plan"], bool)
    assert [one["name"] for one in plan["treatments"]] == ["Blank", "10 mg/L", "20 mg/L", "Not known"]
