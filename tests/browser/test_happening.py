"""What happens on the way: photos, accidents, methods that fail, second codes, what scorers believe, conditions, paper typed twice."""

import re
from dataclasses import replace

from playwright.sync_api import expect

from fieldtally.core.design.plan import Checkpoint, Outcome, Plan, Treatment
from fieldtally.core.scales import GradeScale, Level, MeasurementScale
from tests.browser.conftest import PHONE, eventually, log_lines, until
from tests.browser.led import begun, call, joined, running
from tests.browser.test_offline import kept_by_the_worker
from tests.browser.views import barriers
from tests.server.pictures import picture, wide

PLAN = Plan(
    title="Twigs in a jar",
    question="Which twig does best?",
    zone="Europe/London",
    sample_word="twig",
    treatments=(Treatment("a", "Hazel", "standard", 4), Treatment("b", "Willow", samples=4)),
    outcomes=(
        Outcome("g", "Vigour", GradeScale(tuple(Level(n, str(n), w) for n, w in enumerate(("gone", "poor", "good"))))),
        Outcome("m", "Height", MeasurementScale("mm", 1, 0, 900), primary=False),
    ),
    checkpoints=(Checkpoint("now", "Now", 60, 60, 24 * 60),),
)


def shot(name="twig.jpg", **how):
    return {"name": name, "mimeType": "image/jpeg", "buffer": picture("JPEG", (640, 480), **how)}


def test_photos_are_taken_on_a_phone_kept_without_a_network_and_compared_at_a_desk(visitor):
    lead = visitor(PHONE)
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun(lead, PLAN)
    running(lead, trial)
    page.goto(f"/trials/{trial}/rounds/now")
    kept_by_the_worker(page)
    code = page.locator(".tag.huge .code").inner_text()
    camera = page.get_by_label(f"Photo of {code}")
    camera.set_input_files(shot())
    expect(page.get_by_role("status").filter(has_text="Photo stored.")).to_be_visible()
    # A second one in lamplight, without a network: it waits on the device and goes by itself.
    lead.context.set_offline(True)
    camera.set_input_files(shot(tint=(1.2, 0.9, 0.5), seed=2))
    expect(page.get_by_role("status").filter(has_text="Photo kept on this device")).to_be_visible()
    lead.context.set_offline(False)
    assert wait_for_photos(lead, trial, 2)
    # What is no picture is told at once, and nothing of it is kept.
    for name, sent, says in (
        ("notes.jpg", b"no picture at all", "whatever its name says"),
        ("wide.png", wide(), "30,000 × 20 pixels"),
    ):
        camera.set_input_files({"name": name, "mimeType": "image/jpeg", "buffer": sent})
        expect(page.get_by_role("alert").filter(has_text=says)).to_be_visible()
    # Both stay on the device until somebody decides: one is discarded, one is kept as a note, whose picture is refused again.
    kept = page.get_by_role("region", name="What was not taken")
    expect(kept.get_by_text("2 were not taken. They are still on this device.")).to_be_visible()
    kept.get_by_role("button", name="Discard it").first.click()
    expect(kept.get_by_role("alert")).to_have_count(1)
    kept.get_by_role("button", name="Keep it as a note in the log").click()
    expect(kept.get_by_text("30,000 × 20 pixels")).to_be_visible()
    kept.get_by_role("button", name="Discard it").click()
    expect(kept).to_have_count(0)
    told = [one["words"] for one in call(lead, "GET", f"/api/trials/{trial}/log")["entries"] if one["what"] == "note"]
    assert len(told) == 1 and f"Photo of {code}" in told[0] and "30,000 × 20 pixels" in told[0]
    assert len(call(lead, "GET", f"/api/trials/{trial}/photos")["photos"]) == 2

    desk = visitor()
    page = desk.sign_in("lead@tarnlane.example")
    page.goto(f"/trials/{trial}/photos")
    page.get_by_label("Photo of the whole board, Now").set_input_files(shot(seed=3))
    expect(page.get_by_role("button", name="Whole board, Now")).to_be_visible()
    page.get_by_label("Photo of Vigour 2").set_input_files(shot(seed=4))
    expect(page.get_by_role("button", name="Vigour 2")).to_be_visible()
    page.get_by_role("button", name=f"{code}, Now").first.click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Beside").select_option(index=1)
    expect(dialog.get_by_role("status")).to_contain_text("The light of these two was plainly different")
    dialog.get_by_label("laid over each other").check()
    expect(dialog.get_by_label("How much of the other one is seen")).to_be_visible()
    assert barriers(page) == []
    dialog.get_by_role("button", name="Take it away").click()
    dialog.get_by_label("Why is it taken away?").fill("a finger before the lens")
    dialog.get_by_role("button", name="Take it away").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("button", name=f"{code}, Now")).to_have_count(1)
    # The pads show what a level looks like.
    page.goto(f"/trials/{trial}/rounds/now")
    page.get_by_role("button", name="One at a time").click()
    expect(page.get_by_role("button", name="2 good").locator("img")).to_be_visible()


def wait_for_photos(who, trial, many):
    photos = eventually(
        who.page,
        lambda: call(who, "GET", f"/api/trials/{trial}/photos")["photos"],
        lambda found: len(found) == many,
    )
    return len(photos) == many


def test_words_that_tell_a_treatment_are_asked_about_and_what_is_noted_offline_arrives(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun(lead, replace(PLAN, title="Twigs and words"))
    running(lead, trial)
    page.goto(f"/trials/{trial}/log")
    kept_by_the_worker(page)
    page.reload()
    words = page.get_by_label("What happened? Typed, or spoken with the keyboard’s microphone.")
    write = page.get_by_role("button", name="Write it into the log")
    name = PLAN.treatments[0].name
    words.fill(f"the {name.upper()} ones drooped")
    write.click()
    expect(page.get_by_role("alert").filter(has_text="which treatment is meant")).to_contain_text(f"“{name.upper()}”")
    page.get_by_role("button", name="Keep these words").click()
    expect(words).to_have_value("")
    expect(log_lines(page).filter(has_text="ones drooped")).to_be_visible()
    # Without a network: a note with a photo, and conditions.  All of it arrives by itself, once, in its order.
    lead.context.set_offline(True)
    words.fill("a gust took the lid")
    page.get_by_label("With a photo").set_input_files(shot(seed=9))
    write.click()
    expect(page.get_by_text("Kept on this device; it is sent by itself.")).to_be_visible()
    page.get_by_role("button", name="Note them").click()
    page.get_by_label("Temperature").fill("7.5")
    page.get_by_role("button", name="Note them").click()
    expect(page.get_by_text("What you noted is kept on this device and sent by itself.")).to_be_visible()
    lead.context.set_offline(False)
    assert wait_for_photos(lead, trial, 1)
    entries = call(lead, "GET", f"/api/trials/{trial}/log")["entries"]
    assert [one["words"] for one in entries if one["what"] == "note"].count("a gust took the lid") == 1
    assert next(one for one in entries if one["words"] == "a gust took the lid")["photos"]
    until(page, f"fetch('/api/trials/{trial}/conditions').then((a) => a.json()).then((a) => a.conditions.length === 1)")


def test_accidents_and_a_method_that_fails_are_told_in_the_log_and_change_the_round(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun(lead, replace(PLAN, title="Twigs and a mouse"))
    running(lead, trial)
    page.goto(f"/trials/{trial}")
    expect(page.locator("button .tag .code")).to_have_count(8)
    first, second = page.locator("button .tag .code").all_inner_texts()[:2]
    page.get_by_role("button", name=f"Sample {first}").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What kind of thing").select_option(label="Eaten or gnawed")
    dialog.get_by_role("button", name="Write it down").click()
    expect(dialog.get_by_role("alert")).to_contain_text("Say what happened")
    dialog.get_by_label("What happened?", exact=True).fill("a mouse in the jar")
    dialog.get_by_text("Leave out from then on").click()
    dialog.get_by_role("button", name="Write it down").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_text("a mouse in the jar").first).to_be_visible()
    page.goto(f"/trials/{trial}/log")
    page.get_by_role("button", name="Something happened to twigs").click()
    dialog.get_by_label("Which twigs").fill(f"{second} 000")
    dialog.get_by_label("What happened?", exact=True).fill("hail")
    dialog.get_by_role("button", name="Write it down").click()
    expect(dialog.get_by_role("alert")).to_contain_text("There is no sample 000")
    dialog.get_by_label("Which twigs").fill(second)
    dialog.get_by_role("button", name="Write it down").click()
    expect(log_lines(page).filter(has_text="kept, and marked").filter(has_text=second)).to_be_visible()
    page.get_by_role("button", name="A way of measuring failed").click()
    dialog.get_by_label("Which outcome").select_option(label="Height")
    dialog.get_by_label("What was wrong with it?").fill("the ruler had shrunk")
    dialog.get_by_role("button", name="Withdraw it").click()
    expect(log_lines(page).filter(has_text="Height was withdrawn")).to_contain_text("the ruler had shrunk")
    page.get_by_role("button", name="Note them").click()
    page.get_by_label("Temperature").fill("99")
    page.get_by_role("button", name="Note them").click()
    expect(page.get_by_role("alert").filter(has_text="lies between -60 and 70 °C")).to_be_visible()
    page.get_by_label("Temperature").fill("7.5")
    page.get_by_label("Rain").fill("2")
    page.get_by_role("button", name="Note them").click()
    expect(page.get_by_role("region", name="Conditions")).to_contain_text("7.5 °C, 2 mm of rain, by Maren Ashdown.")
    page.goto(f"/trials/{trial}/rounds/now")
    expect(page.get_by_role("rowheader")).to_have_count(7)
    expect(page.get_by_role("columnheader").filter(has_text="Height")).to_have_count(0)
    page.goto(f"/trials/{trial}")
    page.get_by_role("button", name=f"Sample {first}").click()
    dialog.get_by_label("Why is it put back?").fill("it was the jar beside it")
    dialog.get_by_role("button", name="Put it back").click()
    page.goto(f"/trials/{trial}/rounds/now")
    expect(page.get_by_role("rowheader")).to_have_count(8)


def test_second_codes_are_brought_by_a_helper_and_what_is_believed_waits_for_the_key(visitor):
    lead, helper, scorer = visitor(), visitor(PHONE), visitor(PHONE)
    lead.sign_in("lead@tarnlane.example")
    helper.sign_in("preparer@tarnlane.example")
    scorer.sign_in("scorer@tarnlane.example")
    title = "Twigs that come back"
    trial = begun(lead, replace(PLAN, title=title, repeats=0.2, outcomes=PLAN.outcomes[:1]))
    joined(lead, trial, helper, "preparer@tarnlane.example", "preparer")
    joined(lead, trial, scorer, "scorer@tarnlane.example", "scorer")
    running(lead, trial)
    page = helper.page
    page.goto(f"/trials/{trial}")
    table = page.get_by_role("table").filter(has_text="comes back as")
    expect(table.locator("td.code")).to_have_count(4)
    cells = table.locator("td.code").all_inner_texts()
    new = dict(zip(cells[1::2], cells[::2], strict=True))
    page = scorer.page
    page.goto(f"/trials/{trial}/rounds/now")
    seen = []
    for _ in range(10):
        code = page.locator(".tag.huge .code").inner_text()
        seen.append(code)
        if code in new:
            expect(page.get_by_text("brought to you", exact=True)).to_be_visible()
        page.get_by_role("button", name=re.compile("^2 good")).click()
        expect(page.locator(".tag.huge .code").filter(has_text=code)).to_have_count(0)
    assert set(new) < set(seen)
    expect(page.get_by_role("heading", name="All scored.")).to_be_visible()
    page.get_by_role("button", name="Write down what I believe").click()
    believed = page.get_by_role("region", name="What you believe")
    assert believed.get_by_role("group").count() == 8
    believed.get_by_role("group").first.get_by_text("control").click()
    believed.get_by_role("button", name="Write it down").click()
    expect(page.get_by_role("status").filter(has_text="Nobody sees it before the key opens")).to_be_visible()
    page = lead.page
    page.goto(f"/trials/{trial}/agreement")
    expect(page.get_by_text(re.compile("2 of 2, under second codes"))).to_be_visible()
    call(lead, "POST", f"/api/trials/{trial}/key/ask")
    call(lead, "POST", f"/api/trials/{trial}/key/open", {"title": title})
    page.goto(f"/trials/{trial}/verdict")
    expect(page.get_by_role("heading", name="Did the blinding hold?")).to_be_visible()


def test_what_was_given_before_is_shown_where_the_plan_says_so(visitor):
    lead = visitor(PHONE)
    page = lead.sign_in("lead@tarnlane.example")
    looks = (Checkpoint("first", "First", 1, 0, 10), Checkpoint("now", "Now", 60, 40, 24 * 60))
    trial = begun(
        lead, replace(PLAN, title="Twigs seen again", show_previous=True, checkpoints=looks, outcomes=PLAN.outcomes[:1])
    )
    running(lead, trial)
    page.goto(f"/trials/{trial}/rounds/first")
    for _ in range(8):
        code = page.locator(".tag.huge .code").inner_text()
        page.get_by_role("button", name=re.compile("^1 poor")).click()
        expect(page.locator(".tag.huge .code").filter(has_text=code)).to_have_count(0)
    page.goto(f"/trials/{trial}/rounds/now")
    expect(page.get_by_text("You gave, First: 1")).to_be_visible()


def test_a_paper_sheet_is_typed_twice_and_what_differs_is_put_right(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun(lead, replace(PLAN, title="Twigs on paper", outcomes=PLAN.outcomes[:1]))
    running(lead, trial)
    page.goto(f"/trials/{trial}/rounds/now")
    expect(page.locator("input[data-at='0,0']")).to_be_focused()
    page.get_by_label(re.compile("Copied from a paper sheet")).check()
    page.locator("input[data-at='0,0']").focus()
    for key in "21021021":
        page.keyboard.press(key)
    expect(page.get_by_role("img", name="8 scored, 0 to go")).to_be_visible()
    page.get_by_role("button", name="Type it a second time").click()
    fields = page.get_by_role("textbox", name=re.compile("again"))
    expect(fields).to_have_count(8)
    fields.first.focus()
    for key in "21021011":
        page.keyboard.press(key)
        page.keyboard.press("Enter")
    # The last field keeps the focus; leaving it says that it is done.
    page.keyboard.press("Tab")
    expect(page.get_by_role("alert")).to_contain_text("First 2, now 1.")
    expect(page.get_by_role("button", name="Note it in the log")).to_be_disabled()
    page.get_by_role("button", name="This one is right").click()
    expect(page.get_by_text("8 of 8 typed again; 1 differed.")).to_be_visible()
    page.get_by_role("button", name="Note it in the log").click()
    expect(page.get_by_role("img", name="8 scored, 0 to go")).to_be_visible()
    round_ = call(lead, "POST", f"/api/trials/{trial}/rounds", {"checkpoint": "now"})
    values = {r["sample"]: (r["value"], r["source"], r["reason"]) for r in round_["readings"]}
    assert [values[one["id"]][0] for one in round_["samples"]] == [2, 1, 0, 2, 1, 0, 1, 1]
    assert values[round_["samples"][6]["id"]][1:] == ("paper", "typed twice, and this one is right")
    page.goto(f"/trials/{trial}/log")
    expect(log_lines(page).filter(has_text="of 8 scores 1 differed, and 1 was put right.")).to_be_visible()
