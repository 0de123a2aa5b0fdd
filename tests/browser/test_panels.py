"""A panel from its plan to what it found: host, pourer, and people at their own devices, one of them without a network."""

import io
import re
from collections import Counter
from dataclasses import asdict, replace

import numpy as np
import soundfile
from playwright.sync_api import expect

from fieldtally.core.design.plan import Checkpoint, Outcome, Plan, Treatment
from fieldtally.core.panels.discriminating import discriminate
from fieldtally.core.panels.grading import PanelAttribute
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.scales import GradeScale, Level
from tests.browser.conftest import PHONE, until
from tests.browser.led import begun, call, joined, running
from tests.browser.views import barriers, no_barrier

PLAN = Plan(
    title="Jars on a shelf",
    question="Does a leaf keep them crisp?",
    zone="Europe/London",
    sample_word="jar",
    treatments=(Treatment("a", "No leaf at all", "untreated", 4), Treatment("b", "Bay leaf", samples=4)),
    outcomes=(Outcome("g", "Crunch", GradeScale(tuple(Level(n, str(n), w) for n, w in enumerate(("soft", "crisp"))))),),
    checkpoints=(Checkpoint("now", "Now", 60, 60, 24 * 60),),
)


def tasted(page, cup: str, *, liked: str = "none") -> None:
    """An answer given in the booth."""
    page.get_by_role("button", name=f"Cup {cup}").click()
    page.get_by_text(liked, exact=True).last.click()
    page.get_by_text("crisp", exact=True).click()
    page.get_by_role("button", name="Give my answer: it is locked then").click()


def test_a_panel_is_planned_poured_judged_and_read(visitor):
    host, pourer = visitor(), visitor()
    page = host.sign_in("lead@tarnlane.example")
    pourer.sign_in("preparer@tarnlane.example")
    trial = begun(host, PLAN)
    joined(host, trial, pourer, "preparer@tarnlane.example", "preparer")
    running(host, trial)

    page.goto(f"/trials/{trial}/panels")
    page.get_by_label("A new panel").fill("Leaf or none")
    page.get_by_role("button", name="Plan it").click()
    begin = page.get_by_role("button", name="Draw the cups and begin")
    expect(begin).to_be_disabled()
    page.get_by_text("No leaf at all").click()
    page.get_by_text("Bay leaf").click()
    finds = page.get_by_role("complementary", name="What this panel can find")
    expect(finds).to_contain_text("13 of 24 right answers are needed.")
    page.get_by_label("People", exact=True).fill("6")
    page.get_by_label("People", exact=True).press("Tab")
    expect(finds).to_contain_text("5 of 6 right answers are needed.")
    page.get_by_role("checkbox", name="which is liked best").check()
    page.get_by_label("Words to tap").fill("crisp, soft")
    page.get_by_label("Allergens").fill("celery, mustard")
    page.get_by_label("Pause between sets").fill("0")
    page.get_by_label("Names, with commas").fill("Ada, Ben, Cyd, Dov, Eve, Flo")
    page.get_by_role("button", name="Add them").click()
    expect(page.get_by_role("row").filter(has_text="Flo")).to_be_visible()
    assert barriers(page) == []
    begin.click()
    expect(page.get_by_text("0 of 6 answers are given.")).to_be_visible()
    links = [one.get_attribute("href") for one in page.get_by_role("link", name="Open").all()]
    assert len(set(links)) == 6

    pourer.page.goto(page.url)
    pourer.page.get_by_role("button", name="Show what goes into the cups").click()
    sheet = pourer.page.get_by_role("region", name="Sets to pour")
    expect(sheet.get_by_role("row")).to_have_count(7)
    expect(pourer.page.get_by_role("link", name="Open")).to_have_count(0)
    odd = []
    for row in sheet.get_by_role("row").all()[1:]:
        cups = [one.split(" ", 1) for one in row.locator("td").nth(2).locator("span").all_inner_texts()]
        many = Counter(thing for _, thing in cups)
        odd.append(next(code for code, thing in cups if many[thing] == 1))
        assert len(cups) == 3

    seats = [visitor(PHONE) for _ in links]
    for seat, link, cup, n in zip(seats, links, odd, range(6), strict=True):
        booth = seat.page
        booth.goto(link)
        expect(booth.get_by_text("celery, mustard")).to_be_visible()
        for secret in ("leaf", "Leaf", "Jars", "Crunch"):
            assert secret not in booth.locator("body").inner_text()
        booth.get_by_role("button", name="I have read this and take part").click()
        expect(booth.get_by_role("button", name=f"Cup {cup}")).to_be_visible()
        if n == 0:
            assert barriers(booth) == []
            # Without a network the answer is locked all the same, survives closing the tab, and goes by itself.
            seat.context.set_offline(True)
            tasted(booth, cup, liked=cup)
            expect(booth.get_by_text("answer kept on this device")).to_be_visible()
            expect(booth.get_by_role("heading", name="Thank you.")).to_be_visible()
            seat.context.set_offline(False)
            expect(booth.get_by_text("kept on this device")).to_have_count(0)
        else:
            wrong = next(
                one for one in booth.get_by_role("button", name=re.compile("^Cup")).all_inner_texts() if one != cup
            )
            tasted(booth, wrong if n == 5 else cup)
            expect(booth.get_by_role("heading", name="Thank you.")).to_be_visible()
    # A link that is open on one device opens on no other.
    thief = visitor(PHONE)
    thief.page.goto(links[0])
    expect(thief.page.get_by_role("alert")).to_contain_text("open on another device")

    expect(page.get_by_text("All 6 answers are given.")).to_be_visible()
    assert "right" not in page.get_by_role("region", name="Assessors").inner_text()
    page.get_by_label("Ben was blind").uncheck()
    page.get_by_role("button", name="Close the panel").click()
    expect(page.get_by_text("Closed; what it found is told when you open its key.")).to_be_visible()
    assert host.context.request.get(page.url.replace("/trials/", "/api/trials/")).status in (404, 405)
    call(host, "POST", f"/api/trials/{trial}/key/ask")
    call(host, "POST", f"/api/trials/{trial}/key/open", {"title": PLAN.title})
    page.reload()
    found = discriminate("triangle", 5, 4)
    expect(page.get_by_role("heading", level=1)).to_contain_text(
        f"4 of 5 found the odd one; {found.needed} were needed"
    )
    expect(
        page.get_by_text("Without Ben (was not blind). With everybody counted: 5 of 6 found the odd one")
    ).to_be_visible()
    expect(page.get_by_role("img", name=re.compile("4, and|were 4"))).to_be_visible()
    expect(
        page.get_by_role("row").filter(has_text="Those who were right; no preference shared between the two")
    ).to_be_visible()
    assert barriers(page) == []


def test_a_set_is_spilt_a_taster_left_out_and_a_name_erased(visitor):
    host = visitor()
    page = host.sign_in("lead@tarnlane.example")
    trial = begun(host, replace(PLAN, title="Jars that tip"))
    running(host, trial)
    plan = asdict(PanelPlan("Leaf or none", things=("a", "b"), assessors=3))
    panel = call(host, "POST", f"/api/trials/{trial}/panels", {"plan": plan})["id"]
    names = [{"name": name} for name in ("Ada", "Ben", "Cyd")]
    call(host, "POST", f"/api/panels/{panel}/assessors", {"assessors": names})
    call(host, "POST", f"/api/panels/{panel}/begin")
    page.goto(f"/trials/{trial}/panels/{panel}")
    page.get_by_role("button", name="Show what goes into the cups").click()
    row = page.get_by_role("region", name="Sets to pour").get_by_role("row").filter(has_text="Ada")
    expect(row.locator("b")).to_have_count(3)
    before = row.locator("b").all_inner_texts()
    row.get_by_role("button", name="Spilt").click()
    no_barrier(page)
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="Pour another one").click()
    expect(dialog.get_by_role("alert")).to_contain_text("A few words are needed")
    dialog.get_by_label("What happened?").fill("the tray tipped")
    dialog.get_by_role("button", name="Pour another one").click()
    expect(row.locator("b").first).not_to_have_text(before[0])
    people = page.get_by_role("region", name="Assessors")
    people.get_by_role("row").filter(has_text="Ben").get_by_role("button", name="Leave out").click()
    no_barrier(page)
    dialog.get_by_label("Why do they not count?").fill("had a cold")
    dialog.get_by_role("button", name="Leave out").click()
    expect(people.get_by_text("does not count: had a cold")).to_be_visible()
    people.get_by_role("row").filter(has_text="Cyd").get_by_role("button", name="Erase").click()
    no_barrier(page)
    dialog.get_by_role("button", name="Erase the name").click()
    expect(people.get_by_text("Assessor 3")).to_be_visible()
    page.get_by_role("button", name="Close the panel").click()
    expect(dialog).to_contain_text("3 answers are not given yet")
    dialog.get_by_label("Why does it end early?").fill("the jars ran out")
    dialog.get_by_role("button", name="Close it").click()
    expect(page.get_by_text("Ended early: the jars ran out")).to_be_visible()
    expect(page.get_by_text("Closed; what it found is told when you open its key.")).to_be_visible()


def graded(page, attribute: str, codes: list[str], grades: list[int]) -> None:
    for code, grade in zip(codes, grades, strict=True):
        page.get_by_role("group", name=f"{attribute} of {code}").get_by_text(str(grade), exact=True).click()


def test_a_tablet_goes_round_without_a_network_and_a_late_one_joins(visitor):
    host = visitor()
    page = host.sign_in("lead@tarnlane.example")
    trial = begun(host, replace(PLAN, title="Jars handed round"))
    running(host, trial)
    plan = asdict(
        PanelPlan(
            "Grades", "grading", ("a", "b"), assessors=2, free_words=False, attributes=(PanelAttribute("Crunch"),)
        )
    )
    panel = call(host, "POST", f"/api/trials/{trial}/panels", {"plan": plan})["id"]
    call(host, "POST", f"/api/panels/{panel}/assessors", {"assessors": [{"name": "Ada"}, {"name": "Ben"}]})
    call(host, "POST", f"/api/panels/{panel}/begin")
    page.goto(f"/trials/{trial}/panels/{panel}")
    page.get_by_role("button", name="Hand a tablet round").click()
    link = page.get_by_role("link", name="its own link").get_attribute("href")

    tablet = visitor(PHONE)
    hand = tablet.page
    hand.goto(link)
    expect(hand.get_by_role("button", name=re.compile("Ada"))).to_be_enabled()
    assert barriers(hand) == []
    assert "leaf" not in hand.locator("body").inner_text().lower()
    hand.get_by_role("button", name="Keep all here, for a place without a network").click()
    expect(hand.get_by_text("All are kept on this tablet.")).to_be_visible()
    for who, grades in (("Ada", [9, 2]), ("Ben", [3, 8])):
        hand.get_by_role("button", name=re.compile(who)).click()
        hand.get_by_role("button", name="I have read this and take part").click()
        tablet.context.set_offline(True)
        section = hand.get_by_role("region", name="Crunch")
        give = hand.get_by_role("button", name="Give my answer: it is locked then")
        expect(give).to_be_disabled()
        codes = section.locator(".code").all_inner_texts()
        graded(hand, "Crunch", codes, grades)
        give.click()
        expect(hand.get_by_role("heading", name="Thank you.")).to_be_visible()
        if who == "Ada":
            assert barriers(hand) == []
        hand.get_by_role("button", name="Hand it on").click()
        expect(hand.get_by_role("button", name=re.compile(who))).to_be_disabled()
        tablet.context.set_offline(False)
    expect(page.get_by_text("All 2 answers are given.")).to_be_visible()

    page.get_by_role("button", name="One more session").click()
    page.get_by_role("dialog").get_by_role("button", name="Add the session").click()
    expect(page.get_by_text("2 of 4 answers are given.")).to_be_visible()
    page.get_by_label("Names, with commas").fill("Cyd")
    page.get_by_role("button", name="Add them").click()
    expect(page.get_by_text("2 of 6 answers are given.")).to_be_visible()
    page.get_by_role("button", name="QR code for Cyd").click()
    no_barrier(page)
    code = page.get_by_role("dialog").get_by_role("img", name="QR code of the link of Cyd")
    expect(code).to_be_visible()
    until(page, "document.querySelector('[role=dialog] img').naturalWidth > 0")
    page.get_by_role("dialog").get_by_role("button", name="Close").click()
    # Ada goes on to the second session only when told so, and may stop there.
    hand.reload()
    hand.get_by_role("button", name=re.compile("Ada")).click()
    expect(hand.get_by_role("heading", name="Session 1 is done.")).to_be_visible()
    hand.get_by_role("button", name="Begin session 2").click()
    hand.get_by_role("button", name="I do not go on").click()
    no_barrier(hand)
    hand.get_by_role("dialog").get_by_role("button", name="I stop here").click()
    expect(hand.get_by_text("You do not go on.")).to_be_visible()
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_role("button", name="Hand a tablet round")).to_be_visible()
    hand.goto(link)
    expect(hand.get_by_role("alert")).to_contain_text("leads to no panel")


def sound(hertz: float) -> dict:
    at = np.arange(44_100 * 2) / 44_100
    written = io.BytesIO()
    soundfile.write(written, 0.4 * np.sin(2 * np.pi * hertz * at), 44_100, format="WAV")
    return {"name": f"{hertz:.0f}.wav", "mimeType": "audio/wav", "buffer": written.getvalue()}


def test_sounds_are_uploaded_played_in_step_and_judged(visitor):
    host = visitor()
    page = host.sign_in("lead@tarnlane.example")
    trial = begun(host, replace(PLAN, title="Jars that snap"))
    running(host, trial)
    page.goto(f"/trials/{trial}/panels")
    page.get_by_label("A new panel").fill("By ear")
    page.get_by_role("button", name="Plan it").click()
    page.get_by_text("A, B and X", exact=True).first.click()
    page.get_by_text("No leaf at all").click()
    page.get_by_text("Bay leaf").click()
    page.get_by_text("Files, played in step and equally loud.").click()
    page.get_by_label("Names, with commas").fill("Ada")
    page.get_by_role("button", name="Add them").click()
    expect(page.get_by_text("2 of them have no sound yet.").first).to_be_visible()
    wrong = {"name": "notes.wav", "mimeType": "audio/wav", "buffer": b"these are words"}
    page.get_by_label("File for No leaf at all").set_input_files(wrong)
    expect(page.get_by_text("This is no sound that can be read here")).to_be_visible()
    for name, hertz in (("No leaf at all", 440), ("Bay leaf", 452)):
        page.get_by_label(f"File for {name}").set_input_files(sound(hertz))
        expect(page.get_by_text(f"{hertz}.wav, 2 s")).to_be_visible()
    assert barriers(page) == []
    page.get_by_role("button", name="Draw the cups and begin").click()
    link = page.get_by_role("link", name="Open").get_attribute("href")
    ear = visitor(PHONE)
    booth = ear.page
    booth.goto(link)
    expect(booth.get_by_role("heading", name="Before you listen")).to_be_visible()
    booth.get_by_role("button", name="I have read this and take part").click()
    for name in ("First", "Second", "X"):
        play = booth.get_by_role("button", name=f"Listen to {name}")
        play.click()
        expect(play).to_have_attribute("aria-pressed", "true")
    assert barriers(booth) == []
    booth.get_by_text("X is like the second").click()
    booth.get_by_role("button", name="Give my answer: it is locked then").click()
    expect(booth.get_by_role("heading", name="Thank you.")).to_be_visible()
    expect(page.get_by_text("All 1 answers are given.")).to_be_visible()


def test_somebody_practises_and_sees_the_truth_at_the_end(visitor):
    who = visitor(PHONE)
    page = who.sign_in("scorer@tarnlane.example")
    page.goto("/practice")
    page.get_by_text("Two leaves").click()
    page.get_by_label("Sets").fill("0")
    page.get_by_role("button", name="Begin the run").click()
    expect(page.get_by_text("From 1 to 60 sets, please.")).to_be_visible()
    page.get_by_label("Sets").fill("3")
    assert barriers(page) == []
    page.get_by_role("button", name="Begin the run").click()
    for place in range(1, 4):
        expect(page.get_by_text(f"{place} of 3")).to_be_visible()
        expect(page.get_by_role("img")).to_have_count(3)
        page.get_by_role("button", name=re.compile("^Cup")).first.click()
        page.get_by_role("button", name="Give my answer: it is locked then").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("You found the odd one")
    expect(page.get_by_role("row")).to_have_count(4)
    assert barriers(page) == []
    page.get_by_role("link", name="Practice").click()
    expect(page.get_by_role("link", name="See each set")).to_be_visible()
    page.get_by_text("Your own cups").click()
    page.get_by_label("The helper pours").fill("tap water")
    page.get_by_label("or", exact=True).fill("a pinch of salt")
    page.get_by_label("Sets").fill("2")
    page.get_by_role("button", name="Begin the run").click()
    expect(page.get_by_text("Your helper pours from a sheet of their own.")).to_be_visible()
    run = page.url.rsplit("/", 1)[1]
    helper = visitor()
    helper.page.goto(call(who, "GET", f"/api/practice/{run}")["helper"])
    expect(helper.page.get_by_role("row")).to_have_count(3)
    expect(helper.page.get_by_text("a pinch of salt").first).to_be_visible()
    assert barriers(helper.page) == []
    page.goto("/practice")
    page.get_by_role("button", name="Remove").first.click()
    no_barrier(page)
    page.get_by_role("dialog").get_by_role("button", name="Remove it").click()
    expect(page.get_by_role("button", name="Remove")).to_have_count(1)


def test_on_a_slow_line_nobody_is_taken_for_somebody_else(visitor):
    host = visitor()
    page = host.sign_in("lead@tarnlane.example")
    trial = begun(host, replace(PLAN, title="Jars far away"))
    running(host, trial)
    page.goto(f"/trials/{trial}/panels")
    page.get_by_label("A new panel").fill("By letter")
    page.get_by_role("button", name="Plan it").click()
    expect(page.get_by_label("Name of the panel")).to_have_value("By letter")
    line = page.context.new_cdp_session(page)
    line.send("Network.enable")
    line.send(
        "Network.emulateNetworkConditions",
        {"offline": False, "latency": 2_000, "downloadThroughput": -1, "uploadThroughput": -1},
    )
    for name in ("By hand", "By eye", "By ear"):
        # Each is sent before the one before it is answered.
        page.get_by_label("Name of the panel").fill(name)
        page.wait_for_timeout(700)
    expect(page.get_by_text("Saved. What is asked is fixed once it has begun.")).to_be_visible()
    expect(page.get_by_text("Somebody else changed this panel")).to_have_count(0)
    line.send(
        "Network.emulateNetworkConditions",
        {"offline": False, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1},
    )
    page.reload()
    expect(page.get_by_label("Name of the panel")).to_have_value("By ear")
