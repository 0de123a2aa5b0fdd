"""Rounds as people score them: every scale on a phone and at a desk, by keyboard alone, with timers and second looks."""

import re
from dataclasses import replace

from playwright.sync_api import Page, expect

from fieldtally.core.design.plan import Checkpoint, Outcome, Plan, Treatment
from fieldtally.core.scales import (
    CountScale,
    CurveScale,
    EventScale,
    GradeScale,
    LadderScale,
    Level,
    MeasurementScale,
    NoteScale,
    PassFailScale,
    PercentScale,
    ShadeScale,
)
from fieldtally.core.scales.shade import Shade
from tests.browser.conftest import PHONE, log_lines, until
from tests.browser.led import begun, call, running
from tests.browser.views import no_barrier

GRADE = GradeScale(tuple(Level(n, str(n), word) for n, word in enumerate(("gone", "poor", "fair", "good"))))
EVERY = (
    Outcome("g", "Vigour", GRADE),
    Outcome("p", "Upright", PassFailScale("stands", "lies"), primary=False),
    Outcome("e", "First crack", EventScale("a crack"), "less", primary=False),
    Outcome("c", "Buds", CountScale(12, "buds"), primary=False),
    Outcome("m", "Height", MeasurementScale("mm", 1, 0, 900), primary=False, wait=0.02, wait_says="tilt, then look"),
    Outcome("s", "Cover", PercentScale("moss", 5), "less", primary=False),
    Outcome(
        "h",
        "Shade",
        ShadeScale((Shade("pale", "#f2e8cf"), Shade("straw", "#dfc98f"), Shade("amber", "#bf9b4e")), True),
        primary=False,
    ),
    Outcome("l", "Load", LadderScale("kg", (5.0, 10.0), 2), primary=False),
    Outcome("k", "Stretch", CurveScale("mm", "kg", (1.0, 2.0, 3.0, 4.0)), "less", primary=False),
    Outcome("n", "In words", NoteScale("What do you see?"), primary=False),
)
PLAN = Plan(
    title="Every scale there is",
    question="Which twig does best?",
    zone="Europe/London",
    sample_word="twig",
    treatments=(Treatment("a", "Hazel", "standard", 4), Treatment("b", "Willow", samples=4)),
    outcomes=EVERY,
    checkpoints=(Checkpoint("now", "Now", 60, 60, 24 * 60),),
)
EXPECTED = {"g": 2, "p": 1, "e": 0, "c": 3, "m": 87, "s": 30, "h": 2.5, "l": 5, "k": None, "n": None}


def stored(who, trial: str, sample: str) -> dict[str, dict]:
    round_ = call(who, "POST", f"/api/trials/{trial}/rounds", {"checkpoint": "now"})
    ids = {one["code"]: one["id"] for one in round_["samples"]}
    return {r["outcome"]: r for r in round_["readings"] if r["sample"] == ids[sample] and r["take"] == 1}


def at(page: Page, name: str) -> None:
    expect(page.locator("p b", has_text=re.compile(f"^{name}$"))).to_be_visible()


def test_every_scale_is_scored_with_a_thumb(visitor):
    lead = visitor(PHONE)
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun(lead, PLAN)
    running(lead, trial)
    page.goto(f"/trials/{trial}/rounds/now")
    at(page, "Vigour")
    code = page.locator(".tag.huge .code").inner_text()
    page.get_by_role("button", name="2 fair").click()
    at(page, "Upright")
    page.get_by_role("button", name="stands").click()
    at(page, "First crack")
    page.get_by_role("button", name="Not yet").click()
    at(page, "Buds")
    more = page.get_by_role("button", name="One more")
    for _ in range(4):
        more.click()
    page.get_by_role("button", name="One fewer").click()
    expect(page.get_by_role("img", name="3 counted")).to_be_visible()
    assert more.bounding_box()["height"] >= 100
    page.get_by_role("button", name="Keep 3").click()
    at(page, "Height")
    page.get_by_role("button", name="Wait 0.02 min, then tilt, then look").click()
    expect(page.get_by_role("list", name="Timers").get_by_role("alert")).to_contain_text("tilt, then look")
    page.reload()
    expect(page.get_by_role("list", name="Timers")).to_contain_text(code)
    page.get_by_role("button", name=f"Done with the timer of {code}").click()
    at(page, "Height")
    page.get_by_role("textbox", name="Height").fill("2000")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("alert")).to_contain_text("above the plausible range")
    page.get_by_role("textbox", name="Height").fill("87")
    page.get_by_role("button", name="Keep it").click()
    at(page, "Cover")
    page.get_by_role("button", name="Like this: 25 %").click()
    page.get_by_role("button", name="5 more").click()
    expect(page.get_by_role("img", name="What 30 % looks like")).to_be_visible()
    page.get_by_role("button", name="Keep it").click()
    at(page, "Shade")
    page.get_by_role("button", name="2½ in between").click()
    at(page, "Load")
    for _ in range(3):
        page.get_by_role("button", name="It held").click()
    expect(page.get_by_text("time 2 of 2")).to_be_visible()
    page.get_by_role("button", name="It broke; 5 kg was held").click()
    page.get_by_role("button", name="Keep it").click()
    at(page, "Stretch")
    for step, value in (("1", "2"), ("2", "4"), ("3", "6"), ("4", "11")):
        page.get_by_role("textbox", name=f"At {step} kg").fill(value)
    expect(page.get_by_role("status").filter(has_text="Leaves the straight line between 3 and 4 kg.")).to_be_visible()
    page.get_by_role("button", name="Keep it").click()
    at(page, "In words")
    page.get_by_label("What do you see?").fill("a little moss")
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator(".tag.huge .code")).not_to_have_text(code)
    expect(page.get_by_role("img", name="1 scored, 7 to go")).to_be_visible()
    found = stored(lead, trial, code)
    assert {key: row["value"] for key, row in found.items() if EXPECTED[key] is not None} == {
        key: value for key, value in EXPECTED.items() if value is not None
    }
    assert (found["k"]["responses"], found["n"]["words"]) == ([2, 4, 6, 11], "a little moss")


def test_every_scale_is_typed_at_a_desk_without_a_mouse(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun(lead, replace(PLAN, title="Every scale at a desk"))
    running(lead, trial)
    page.goto(f"/trials/{trial}/rounds/now")
    expect(page.locator("input[data-at='0,0']")).to_be_focused()
    code = page.locator("[role=rowheader] .code").first.inner_text()
    for typed in ("2", "1", "0"):
        page.keyboard.press(typed)
    for typed in ("3", "87", "30", "2.5", "5", "2 4 6 11", "a little moss"):
        page.keyboard.type(typed)
        page.keyboard.press("Enter")
    expect(page.locator("input[data-at='1,0']")).to_be_focused()
    expect(page.get_by_role("img", name="1 scored, 7 to go")).to_be_visible()
    page.keyboard.press("x")
    page.keyboard.press("Escape")
    found = stored(lead, trial, code)
    assert {key: row["value"] for key, row in found.items() if EXPECTED[key] is not None} == {
        key: value for key, value in EXPECTED.items() if value is not None
    }


def test_sixty_samples_of_three_attributes_take_fewer_than_two_hundred_keys(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    three = tuple(Outcome(key, key.title(), GRADE, primary=key == "taste") for key in ("taste", "smell", "bite"))
    treatments = tuple(replace(one, samples=30) for one in PLAN.treatments)
    trial = begun(lead, replace(PLAN, title="Sixty of three", outcomes=three, treatments=treatments))
    running(lead, trial)
    page.goto(f"/trials/{trial}/rounds/now")
    expect(page.locator("input[data-at='0,0']")).to_be_focused()
    keys = 0
    for n in range(180):
        page.keyboard.press(str(n % 4))
        keys += 1
    expect(page.get_by_role("img", name="60 scored, 0 to go")).to_be_visible()
    assert keys < 200
    expect(page.get_by_role("img", name=re.compile("on this device only"))).to_have_count(0)
    round_ = call(lead, "POST", f"/api/trials/{trial}/rounds", {"checkpoint": "now"})
    found = {(r["sample"], r["outcome"]): r["value"] for r in round_["readings"]}
    cells = [(s["id"], o["key"]) for s in round_["samples"] for o in round_["outcomes"]]
    assert [found[cell] for cell in cells] == [float(n % 4) for n in range(180)]


def test_a_value_that_stands_out_is_read_again_and_both_stay(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun(lead, replace(PLAN, title="One stands out", outcomes=(replace(EVERY[4], primary=True, wait=None),)))
    running(lead, trial)
    page.goto(f"/trials/{trial}/rounds/now")
    expect(page.locator("input[data-at='0,0']")).to_be_focused()
    for value in ("87", "85", "88", "86", "84", "87", "85", "12"):
        page.keyboard.type(value)
        page.keyboard.press("Enter")
    bar = page.get_by_role("list", name="Worth a second look")
    expect(bar).to_contain_text("12 mm lies far below the others. Look again?")
    code = bar.locator(".code").inner_text()
    bar.get_by_role("button", name=f"Read {code} again").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("the median of all readings counts")
    no_barrier(page)
    # None of the values that were given first.
    dialog.get_by_role("textbox", name="Height").fill("83")
    dialog.get_by_role("button", name="Keep it").click()
    expect(bar).to_have_count(0)
    expect(page.get_by_text("read again: 83")).to_be_visible()
    log = f"fetch('/api/trials/{trial}/log').then((answer) => answer.json())"
    until(page, f"{log}.then((told) => told.entries.some((one) => one.value === 83))")
    page.goto(f"/trials/{trial}/log")
    rows = log_lines(page).filter(has_text=code)
    expect(rows.filter(has_text="12 mm")).to_have_count(1)
    expect(rows.filter(has_text="83 mm")).to_have_count(1)


def test_attributes_of_a_group_are_scored_together_with_a_thumb(visitor):
    lead = visitor(PHONE)
    page = lead.sign_in("lead@tarnlane.example")
    table = tuple(Outcome(k, k.title(), GRADE, primary=k == "taste", group="At the table") for k in ("taste", "smell"))
    trial = begun(lead, replace(PLAN, title="Two at once", outcomes=table))
    running(lead, trial)
    page.goto(f"/trials/{trial}/rounds/now")
    at(page, "At the table")
    code = page.locator(".tag.huge .code").inner_text()
    page.get_by_role("group", name="Smell").get_by_role("button", name=re.compile("^3")).click()
    expect(page.get_by_role("group", name="Smell")).to_contain_text("good")
    expect(page.locator(".tag.huge .code")).to_have_text(code)
    page.get_by_role("group", name="Taste").get_by_role("button", name=re.compile("^1")).click()
    expect(page.locator(".tag.huge .code")).not_to_have_text(code)
    until(page, f"fetch('/api/trials/{trial}/log').then((a) => a.json()).then((told) => told.readings === 2)")
    assert {key: row["value"] for key, row in stored(lead, trial, code).items()} == {"smell": 3, "taste": 1}


def test_the_log_takes_notes_and_is_searched(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun(lead, replace(PLAN, title="Notes", outcomes=EVERY[:1]))
    running(lead, trial)
    page.goto(f"/trials/{trial}/log")
    page.get_by_label("What happened?").fill("A blackbird sat on the twigs.")
    page.get_by_role("button", name="Write it into the log").click()
    lines = log_lines(page)
    expect(lines.filter(has_text="A blackbird sat on the twigs.")).to_be_visible()
    page.get_by_label("Search the log").fill("blackbird twigs")
    expect(page.get_by_role("status")).to_contain_text("1 of ")
    page.get_by_label("Search the log").fill("heron")
    expect(page.get_by_role("status")).to_contain_text("0 of ")
    page.get_by_label("Search the log").fill("")
    page.get_by_role("search").get_by_role("combobox").select_option("preparing")
    expect(lines.filter(has_text="Exposure started")).to_be_visible()
    expect(lines.filter(has_text="blackbird")).to_have_count(0)
