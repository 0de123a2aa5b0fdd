"""A trial three weeks old with its notebook: taken up, typed in, scored blind on its day, told as what it was; taps and keys counted."""

import io
import re
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.conftest import Visitor, eventually
from tests.browser.hand import Hand
from tests.browser.led import joined
from tests.browser.planning import part, predict, settle_fairness
from tests.browser.views import barriers

TITLE = "Twine on the fence"
NOW = datetime.now(ZoneInfo("Europe/London"))
BEGAN = (NOW - timedelta(days=21, hours=1)).replace(minute=0, second=0, microsecond=0)
"""So that day 21 is due about an hour ago, at whatever time of the day the test runs."""
PAST = (1, 4, 8, 12, 16)
FIELD = "%Y-%m-%dT%H:%M"


def photo(name: str) -> dict[str, object]:
    out = io.BytesIO()
    Image.new("RGB", (640, 480), (120, 140, 90)).save(out, "JPEG")
    return {"name": name, "mimeType": "image/jpeg", "buffer": out.getvalue()}


def planned(hand: Hand) -> str:
    page = hand.page
    page.goto("/")
    hand.button("Begin a trial")
    hand.write(page.get_by_label("What do you call it?"), TITLE)
    hand.tap(page.get_by_label(re.compile("It has begun already")))
    hand.button("Begin", exact=True)
    page.wait_for_url("**/plan**")
    hand.write(page.get_by_label("Question", exact=True), "Which twine holds longest?")
    hand.tap(page.get_by_text("all the same way"))
    predict(page, "Jute.")
    hand.taps, hand.keys = hand.taps + 1, hand.keys + 5
    part(page, "Treatments")
    hand.taps += 1
    for i, name in enumerate(("Hemp", "Jute"), start=1):
        hand.button("Add a treatment")
        hand.write(page.get_by_label(f"Name of treatment {i}"), name)
    part(page, "Outcomes")
    hand.button("Add an outcome")
    hand.write(page.get_by_label("Name of the outcome"), "Load")
    page.get_by_label("Scale").select_option("measurement")
    hand.write(page.get_by_label("Unit", exact=True).first, "kg")
    hand.taps += 3
    part(page, "Looks")
    hand.write(page.get_by_label("Write it as you would say it"), "after 1, 4, 8, 12, 16 and 21 days")
    hand.button("Add these looks")
    hand.taps += 1
    expect(page.get_by_label(re.compile(r"^Name of look \d+$")).last).to_have_value("Day 21")
    return re.search(r"/trials/([0-9a-f-]+)", page.url).group(1)


def told_so_far(hand: Hand) -> None:
    page = hand.page
    part(page, "So far")
    hand.taps += 1
    hand.write(page.get_by_label("Exposure began on"), BEGAN.strftime(FIELD))
    hand.write(page.get_by_label("How they were chosen"), "in turn along the fence")
    drawn = page.get_by_label(re.compile("^Draw it as it stands"))
    hand.write(drawn, "A B A X\nB A B A")
    expect(page.get_by_role("alert")).to_contain_text("“X” is no treatment of this plan")
    hand.write(drawn, "A B A B\nB A B A")
    expect(page.get_by_text("8 samples. Tap two")).to_be_visible()
    # Two were written the wrong way round: they change places by two taps.
    hand.tap(page.get_by_role("button", name="Hemp 1, change places"))
    hand.tap(page.get_by_role("button", name="Jute 1, change places"))
    expect(drawn).to_have_value("B A A B\nB A B A")
    hand.button("All 5 were taken")
    page.locator("input[type=file]").first.set_input_files(photo("board.jpg"))
    expect(page.get_by_alt_text("Photo of the board or the sheet")).to_be_visible()
    assert barriers(page) == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")


def sealed_as_of_now(hand: Hand) -> None:
    page = hand.page
    settle_fairness(page, Same_tool="as it was", A_baseline="nobody looked", The_measuring="a spring scale")
    hand.taps += 20
    hand.button("Seal the plan")
    expect(page.get_by_role("dialog")).to_contain_text("sealed as of now")
    hand.tap(page.get_by_role("dialog").get_by_role("button", name="Seal it"))
    expect(page.get_by_text("5 looks stand in the notebook")).to_be_visible()


def typed_in(hand: Hand, trial: str) -> None:
    """The five looks, in the order of the places, one of them on another day than the others of its sheet."""
    page = hand.page
    hand.write(page.get_by_label("Who looked, if not you"), "Aunt Lime")
    for n, day in enumerate(PAST):
        hand.tap(page.get_by_role("link", name=re.compile(f"Type in Day {day}\\b")))
        sheet = page.get_by_role("table")
        expect(sheet).to_contain_text("Hemp 1")
        field = page.get_by_label(re.compile("^It was looked at on"))
        expect(field).to_have_value((BEGAN + timedelta(days=day)).strftime(FIELD))
        if n == 0:
            hand.write(field, (NOW + timedelta(days=3)).strftime(FIELD))
            expect(page.get_by_text("That day and hour lie in the future.")).to_be_visible()
            hand.write(field, (BEGAN + timedelta(days=day, hours=2)).strftime(FIELD))
        if n == 1:
            hand.button("Hemp 2 was looked at on another day")
            own = page.get_by_label("Hemp 2 was looked at on", exact=True)
            hand.write(own, (BEGAN + timedelta(days=day + 1)).strftime(FIELD))
        hand.tap(sheet.get_by_label(re.compile("^Load of")).first)
        for i in range(8):
            hand.type(f"{20 - n - (i % 3)}.{i}")
            page.keyboard.press("Enter")
            hand.keys += 1
        expect(page.get_by_label("8 scored, 0 to go")).to_be_visible()
        if n == 1:
            assert barriers(page) == []
        hand.tap(page.get_by_role("link", name="To the board"))
        expect(page.get_by_role("heading", name=TITLE)).to_be_visible()
    expect(page.get_by_text("in the notebook")).to_have_count(0)
    read = page.request.get(f"/api/trials/{trial}/log").json()
    assert read["readings"] == 40
    assert {line["written_at"] is not None for line in read["entries"] if line["what"] == "value"} == {True}


def a_mouse(hand: Hand) -> None:
    """What happened on day 1 is told with its own day."""
    page = hand.page
    hand.tap(page.get_by_role("button", name=re.compile(r"^Sample \d")).first)
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What kind of thing").select_option("eaten")
    hand.tap(dialog.get_by_text("Keep, and mark"))
    hand.write(dialog.get_by_label("When (time of this device)"), (BEGAN + timedelta(hours=26)).strftime(FIELD))
    hand.write(dialog.get_by_label("What happened?"), "a mouse at the knot")
    hand.taps += 2
    hand.tap(dialog.get_by_role("button", name="Write it down"))
    expect(dialog).to_have_count(0)


def read_again(hand: Hand, trial: str) -> None:
    """From the log, at a look that is long over: it lands at that sample with the pads for the second reading."""
    page = hand.page
    page.goto(f"/trials/{trial}/log")
    hand.taps += 1
    expect(page.get_by_text("written down later").first).to_be_visible()
    hand.tap(page.get_by_role("link", name=re.compile(r"^Read \d{3} again")).first)
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Both readings stay")
    hand.tap(dialog.get_by_label(re.compile("^Load")).first)
    hand.type("17.5")
    hand.tap(dialog.get_by_role("button", name="Keep it"))
    expect(page.get_by_text(re.compile("beside 17.5"))).to_be_visible()


def photos_of_then(hand: Hand, trial: str) -> None:
    """Ten photos of looks in the notebook."""
    page = hand.page
    page.goto(f"/trials/{trial}/photos")
    hand.taps += 1
    for n in range(10):
        field = page.get_by_label(re.compile(r"^Photo of \d{3}, Day (1|4)$")).nth(0)
        field.set_input_files(photo(f"{n}.jpg"))
        hand.taps += 2
        eventually(
            page,
            lambda: len(page.request.get(f"/api/trials/{trial}/photos").json()["photos"]),
            lambda many, n=n: many == n + 1,
        )
        expect(page.get_by_role("button", name=re.compile("^Photo of|Day"))).not_to_have_count(0)
    taken = {
        datetime.fromisoformat(one["taken_at"])
        for one in page.request.get(f"/api/trials/{trial}/photos").json()["photos"]
    }
    assert taken <= {BEGAN + timedelta(days=day, hours=more) for day in PAST for more in (0, 2)}


def scored_blind(page: Page, trial: str) -> None:
    """Somebody else, who knows codes alone."""
    page.goto(f"/trials/{trial}")
    expect(page.get_by_text("in the notebook")).to_have_count(0)
    page.get_by_role("link", name="Begin scoring").click()
    sheet = page.get_by_role("table")
    expect(sheet).not_to_contain_text("Hemp")
    sheet.get_by_label(re.compile("^Load of")).first.click()
    for i in range(8):
        page.keyboard.type(f"{12 + i}")
        page.keyboard.press("Enter")
    expect(page.get_by_label("8 scored, 0 to go")).to_be_visible()


def told(page: Page, trial: str) -> str:
    page.goto(f"/trials/{trial}/verdict")
    page.get_by_role("button", name="I want to open the key").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Type:").fill(dialog.locator("b.code").inner_text())
    dialog.get_by_role("button", name="Open the key").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text(re.compile("The key is open|One of these twenty"))
    verdict = eventually(
        page,
        lambda: page.request.get(f"/api/trials/{trial}/verdict").json(),
        lambda answer: "not_claimed" in answer,
        60,
    )
    return " ".join([*verdict["not_claimed"], *verdict["happened"], verdict["blinding_told"]])


def test_a_trial_that_has_begun_is_taken_up_typed_in_scored_blind_and_told(visitor):
    lead: Visitor = visitor({"viewport": {"width": 1280, "height": 800}, "timezone_id": "Europe/London"})
    page = lead.sign_in("lead@tarnlane.example")
    scorer: Visitor = visitor()
    scorer.sign_in("scorer@tarnlane.example")
    hand = Hand(page)
    trial = planned(hand)
    told_so_far(hand)
    sealed_as_of_now(hand)
    typed_in(hand, trial)
    a_mouse(hand)
    read_again(hand, trial)
    photos_of_then(hand, trial)
    print(f"{hand.taps} taps, {hand.keys} keys: {hand.minutes:.1f} minutes")
    assert hand.minutes < 15
    course = page.request.get(f"/api/trials/{trial}/course").json()
    assert course["started_at"].startswith(BEGAN.astimezone(ZoneInfo("UTC")).strftime("%Y-%m-%dT%H:%M"))
    assert [one["noted"] for one in course["checkpoints"]].count(True) == 5
    joined(lead, trial, scorer, "scorer@tarnlane.example", "scorer")
    scored_blind(scorer.page, trial)
    said = told(page, trial)
    assert "That nothing was known when the plan was sealed: that was 21 days after the start" in said
    assert "with Day 1, Day 4, Day 8, Day 12 and Day 16 seen" in said
    assert "they were looked at before the seal by people who could know which was which" in said
    assert "in turn along the fence" in said
    assert "5 of 6 rounds were looked at before the seal, open to see; 1 blind since" in said
    assert "a mouse at the knot" in said
    assert "was read 2 times on load" in said
    report = page.request.get(f"/api/trials/{trial}/report.html").text()
    assert "Aunt Lime" in report and "chosen by hand (in turn along the fence)" in report
