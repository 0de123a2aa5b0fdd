"""A tasting by itself, from the shelf to what was found: ready in twelve taps, judged on phones and a tablet, read to the end."""

import json
import re
import subprocess
import sys
from pathlib import Path

from playwright.sync_api import expect

from tests.browser.conftest import DESK, PHONE
from tests.browser.led import call
from tests.browser.views import SIDEWAYS, SMALL, barriers, drawn, shown

ROOT = Path(__file__).parents[2]
NARROW = {"viewport": {"width": 360, "height": 740}, "is_mobile": True, "has_touch": True}
SONGS = ("On bread", "By itself", "With cheese")


class Taps:
    """Presses of a finger, counted; typing is not tapping."""

    def __init__(self) -> None:
        self.many = 0

    def __call__(self, target) -> None:
        target.tap()
        self.many += 1


def fits(page) -> None:
    """Nobody is kept from it, nothing sticks out at the side, and a finger finds everything."""
    shown(page)
    drawn(page)
    assert barriers(page) == []
    assert page.evaluate(SIDEWAYS) == []
    assert page.evaluate(SMALL, 43.5) == []


def test_a_tasting_is_ready_in_twelve_taps(visitor):
    host = visitor(NARROW)
    page = host.sign_in("lead@tarnlane.example")
    page.goto("/")
    tap = Taps()
    tap(page.get_by_role("link", name="Hold a tasting"))
    expect(page.get_by_role("heading", name="Hold a tasting")).to_be_visible()
    fits(page)
    first, second = page.get_by_label("Thing A"), page.get_by_label("Thing B")
    tap(first)
    page.keyboard.type("Crab apple jelly")
    # Enter goes on to the next one.
    page.keyboard.press("Enter")
    expect(second).to_be_focused()
    page.keyboard.type("Sloe jelly")
    finds = page.get_by_role("complementary", name="What this panel can find")
    expect(finds).to_contain_text("8 of 12 right answers are needed.")
    tap(page.get_by_role("button", name="None known"))
    for group in page.get_by_role("radiogroup").all():
        tap(group.get_by_text("Yes", exact=True))
    tap(page.get_by_role("button", name="Seal it and pour"))
    expect(page.get_by_text("0 of 12 answers are given.")).to_be_visible()
    assert tap.many <= 12
    # The host's page is for the phone in the hand that pours.
    fits(page)
    tap(page.get_by_role("button", name="Show what goes into the cups"))
    expect(page.get_by_text("Assessor 12").first).to_be_visible()
    fits(page)
    # It is a trial of its own kind: no board, no looks.
    page.goto(re.sub(r"/panels/.*", "", page.url))
    expect(page).to_have_url(re.compile(r"/panels$"))
    expect(page.get_by_role("link", name="Board")).to_have_count(0)


def test_what_is_missing_is_said_where_it_is_missing(visitor):
    page = visitor().sign_in("lead@tarnlane.example")
    page.goto("/tasting")
    page.get_by_label("Thing A").fill("Sloe")
    page.get_by_role("button", name="Seal it and pour").click()
    expect(page.get_by_text("Say what people may be allergic to")).to_be_visible()
    page.get_by_role("button", name="None known").click()
    page.get_by_role("button", name="Seal it and pour").click()
    expect(page.get_by_text("What is it called?")).to_be_visible()
    page.get_by_label("Thing B").fill("Sloe")
    page.get_by_role("button", name="Seal it and pour").click()
    expect(page.get_by_text("Two of them have this name")).to_be_visible()
    assert barriers(page) == []
    # Names pasted with lines between fill as many fields.
    page.get_by_text("Which is which?").click()
    page.get_by_label("Thing A").focus()
    page.evaluate("""() => {
      const data = new DataTransfer();
      data.setData("text", "Sloe\\nRowan\\nQuince\\nMedlar");
      document.activeElement.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
    }""")
    expect(page.get_by_label("Thing D")).to_have_value("Medlar")


def tally(*words):
    done = subprocess.run(
        [sys.executable, "-m", "fieldtally.cli", *words, "--json"],
        capture_output=True,
        text=True,
        cwd=ROOT,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)


def answered(booth, odd, *, right=True):
    """One set: the odd cup, or another one."""
    cups = booth.get_by_role("button", name=re.compile("^Cup"))
    expect(cups).to_have_count(3)
    codes = [one.get_attribute("aria-label").removeprefix("Cup ") for one in cups.all()]
    lone = next(code for code in codes if code in odd)
    wanted = lone if right else next(code for code in codes if code != lone)
    booth.get_by_role("button", name=f"Cup {wanted}").click()
    booth.get_by_role("button", name="Give my answer: it is locked then").click()


def rested(booth):
    """Through the pause between two sets."""
    booth.get_by_role("button", name="I am ready").click()


def sat_down(booth):
    booth.get_by_role("button", name="I have read this and take part").click()
    expect(booth.get_by_role("button", name=re.compile("^Cup"))).to_have_count(3)


def test_twelve_people_judge_over_three_dishes_on_phones_and_a_tablet(visitor, tmp_path):
    host = visitor()
    page = host.sign_in("lead@tarnlane.example")
    page.goto("/tasting")
    page.get_by_label("Thing A").fill("Crab apple jelly")
    page.get_by_label("Thing B").fill("Sloe jelly")
    page.get_by_label("Their names, if you know them").fill(", ".join(f"T{n}" for n in range(1, 13)))
    page.get_by_label("What may somebody be allergic to?").fill("celery")
    for group in page.get_by_role("radiogroup").all():
        group.get_by_text("Yes", exact=True).click()
    page.locator("summary").filter(has_text="More, if you like").click()
    page.get_by_label("Asked over several?").fill(", ".join(SONGS))
    page.get_by_role("checkbox", name="everybody may see how they did").check()
    page.get_by_label("What do you call it?").fill("An evening of jelly")
    finds = page.get_by_role("complementary", name="What this panel can find")
    expect(finds).to_contain_text("of 36 right answers are needed, counted by person")
    assert barriers(page) == []
    page.get_by_role("button", name="Seal it and pour").click()
    expect(page.get_by_text("0 of 36 answers are given.")).to_be_visible()
    with page.expect_response(lambda answer: answer.url.endswith("/pour")) as told:
        page.get_by_role("button", name="Show what goes into the cups").click()
    odd = set()
    for one in told.value.json()["sets"]:
        things = [cup["thing"] for cup in one["cups"]]
        odd |= {cup["code"] for cup in one["cups"] if things.count(cup["thing"]) == 1}
    sheet = page.get_by_role("region", name="Sets to pour")
    expect(sheet.get_by_role("row")).to_have_count(37)
    for dish in SONGS:
        expect(sheet.get_by_text(dish).first).to_be_visible()
    assert barriers(page) == []
    panel = page.url.rsplit("/", 1)[1]
    links = {one["number"]: one["link"] for one in call(host, "GET", f"/api/panels/{panel}")["assessors"]}

    # A phone that answers; one without a network; one whose owner stops after a set.
    plain, far, weary = visitor(NARROW), visitor(PHONE), visitor(PHONE)
    for phone, number in ((plain, 1), (far, 2), (weary, 3)):
        phone.page.goto(links[number])
        expect(phone.page.get_by_text("celery")).to_be_visible()
        sat_down(phone.page)
        for secret in ("jelly", "Crab", "Sloe", "evening"):
            assert secret not in phone.page.locator("body").inner_text()
    fits(plain.page)
    expect(plain.page.get_by_text(re.compile("^(On bread|By itself|With cheese)$"))).to_be_visible()
    far.context.set_offline(True)
    for phone in (plain, far):
        for i in range(3):
            if i:
                rested(phone.page)
            answered(phone.page, odd, right=True)
        expect(phone.page.get_by_role("heading", name="Thank you.")).to_be_visible()
    expect(far.page.get_by_text("3 answers kept on this device")).to_be_visible()
    far.context.set_offline(False)
    expect(far.page.get_by_text("kept on this device")).to_have_count(0)
    answered(weary.page, odd, right=False)
    weary.page.get_by_role("button", name="I do not go on").click()
    weary.page.get_by_role("button", name="I stop here").click()
    expect(weary.page.get_by_text("You do not go on.")).to_be_visible()

    # A seat moves to another phone by six digits that are read out.
    page.get_by_role("button", name="Move T4 to another phone").click()
    dialog = page.get_by_role("dialog")
    code = dialog.locator(".code").inner_text()
    assert barriers(page) == []
    dialog.get_by_role("button", name="Done").click()
    other = visitor(NARROW)
    other.page.goto("/seat")
    fits(other.page)
    other.page.get_by_label("Code").fill("000 000" if code != "000 000" else "111 111")
    other.page.get_by_role("button", name="Take my seat").click()
    expect(other.page.get_by_text("No seat goes by this code")).to_be_visible()
    other.page.get_by_label("Code").fill(code)
    other.page.get_by_role("button", name="Take my seat").click()
    sat_down(other.page)

    # All others on a tablet that goes round.
    page.get_by_role("button", name="Hand a tablet round").click()
    tablet = visitor(DESK)
    tablet.page.goto(page.get_by_role("link", name="its own link").get_attribute("href"))
    for number in range(5, 13):
        tablet.page.get_by_role("button", name=re.compile(rf"^\s*{number}\s*T{number}\b")).click()
        sat_down(tablet.page)
        for i in range(3):
            if i:
                rested(tablet.page)
            answered(tablet.page, odd, right=(number + i) % 3 > 0)
        tablet.page.get_by_role("button", name="Hand it on").click()
    for i in range(3):
        if i:
            rested(other.page)
        answered(other.page, odd)
    expect(other.page.get_by_role("heading", name="Thank you.")).to_be_visible()

    expect(page.get_by_text("34 of 36 answers are given.")).to_be_visible()
    assert "right" not in page.get_by_role("region", name="Assessors").inner_text()
    page.get_by_role("button", name="Close the panel").click()
    page.get_by_label("Why does it end early?").fill("One did not go on.")
    page.get_by_role("button", name="Close it").click()
    page.get_by_role("button", name="Open the key of this panel").click()
    page.get_by_role("button", name="Open it").click()
    heading = page.get_by_role("heading", level=1)
    expect(heading).to_contain_text("12 people, 2 or more sets each. 25 of 34 found the odd one")
    apart = page.get_by_role("list", name="Over each by itself")
    expect(apart.get_by_role("listitem")).to_have_count(3)
    expect(page.get_by_text("One person did not go on; what they answered counts.")).to_be_visible()
    assert barriers(page) == []
    sentence = heading.inner_text().replace("\u00a0", " ")

    # The answers as a table give the same numbers through the command.
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save the answers as a table").click()
    saved.value.save_as(tmp_path / "answers.csv")
    again = tally("panel", "triangle", "--answers", str(tmp_path / "answers.csv"))
    found = call(host, "GET", f"/api/panels/{panel}/result")["finding"]
    assert (again["n"], again["correct"], again["persons"]) == (34, 25, 12)
    assert abs(again["p"] - found["found"]["p"]) < 1e-9
    assert again["needed"] == found["found"]["needed"]

    # The same first sentence on the list, the verdict, the report and the published page.
    trial = page.url.split("/trials/")[1].split("/")[0]
    page.goto(f"/trials/{trial}/panels")
    expect(page.get_by_text(sentence)).to_be_visible()
    expect(page.get_by_role("img", name="25 of 34 right")).to_be_visible()
    page.goto(f"/trials/{trial}/verdict")
    expect(page.get_by_text(sentence).first).to_be_visible(timeout=45_000)
    page.goto(f"/api/trials/{trial}/report.html")
    expect(page.get_by_text(sentence).first).to_be_visible()

    token = call(host, "POST", f"/api/trials/{trial}/publish", {"out": True})["token"]
    reader = visitor(NARROW)
    reader.page.goto(f"/p/{token}")
    expect(reader.page.get_by_text(sentence)).to_be_visible()
    fits(reader.page)

    # A fresh panel asks again, after the key; its plan and its people fit a phone, too.
    page.goto(f"/trials/{trial}/panels/{panel}")
    page.set_viewport_size({"width": 360, "height": 740})
    fits(page)
    page.get_by_role("button", name="Plan a fresh panel").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("An evening of jelly, again")
    fits(page)
    page.get_by_label("Names, with commas").fill("Una, Vic")
    page.get_by_role("button", name="Add them").click()
    page.get_by_role("button", name="Draw the cups and begin").click()
    expect(page.get_by_text("0 of 6 answers are given.")).to_be_visible()

    # Everybody who took part may keep a card.
    plain.page.reload()
    expect(
        plain.page.get_by_role("heading", name="You found it in 3 of 3; guessing finds 1 on average.")
    ).to_be_visible()
    fits(plain.page)


def test_the_host_is_told_on_a_phone_who_is_done_late_and_spilt(visitor):
    host = visitor(NARROW)
    page = host.sign_in("lead@tarnlane.example")
    asked = {
        "zone": "Europe/London",
        "things": ["Rowan", "Quince"],
        "panel": {"title": "", "allergens": "none known", "pause": 0},
        "people": [{"name": "Fern"}, {"name": "Moss"}],
        "fairness": [{"item": one, "kept": True} for one in ("placebo", "blind_pour", "same_cups")],
    }
    made = call(host, "POST", "/api/tastings", asked)
    page.goto(f"/trials/{made['trial']}/panels/{made['id']}")
    page.get_by_role("button", name="Show what goes into the cups").click()
    page.get_by_role("button", name="The set of Fern was spilt").click()
    fits(page)
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What happened?").fill("the tray tipped")
    dialog.get_by_role("button", name="Pour another one").click()
    people = page.get_by_role("list", name="Assessors")
    expect(people.get_by_text("a set was spilt")).to_be_visible()
    fits(page)
