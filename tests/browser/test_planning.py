"""Plans of every kind, from the first word to the allocation; and the app saying what they can and cannot tell."""

import re
from collections import Counter
from dataclasses import replace
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from playwright.sync_api import expect

from fieldtally.server.demo.plans import GHERKINS
from tests.browser import planning as do
from tests.browser.conftest import DESK, PHONE, log_lines
from tests.browser.led import begun, call

PENS, DAHLIAS, PEAS = (
    "Plant-label pens",
    "Cut dahlias in the vase",
    "Soaking peas before sowing",
)


@pytest.fixture
def lead(visitor):
    one = visitor(DESK)
    one.sign_in("lead@tarnlane.example")
    return one


def finish(page, **given_up):
    do.hold_equal(page, "Light", "north window")
    reasons = {
        "A_placebo": "nothing carries it",
        "A_baseline": "all are new",
        "The_measuring_method": "no time to try it",
    }
    do.settle_fairness(page, **{**reasons, **given_up})
    do.seal(page)


def test_all_mixed_on_a_grid_with_guards_graded_in_halves_and_in_percent(lead):
    page = lead.page
    trial = do.begin(page, "Cloches", "Which cloche warms most?")
    do.treatments(page, "Glass", "Fleece", "Film", samples=4)
    page.get_by_label("Kind of treatment 1").select_option("standard")
    do.outcome(page, "Growth", "grade")
    page.get_by_label("with halves").check()
    expect(page.get_by_label("Label of level 2")).to_have_value("½")
    page.get_by_label("Smallest difference that matters").fill("0.5")
    do.outcome(page, "Scorched", "percent")
    page.get_by_label("Share of what").fill("of the leaves")
    page.get_by_label("Better is").select_option("less")
    do.look(page, "daily at 08:00, 4 times", "Day 4")
    do.part(page, "Layout")
    page.get_by_label("They stand in rows and columns").check()
    page.get_by_label("a guard between neighbours in a row").check()
    page.get_by_role("textbox", name="Rows").fill("2")
    page.get_by_role("textbox", name="Columns").fill("7")
    expect(page.get_by_role("alert").filter(has_text="have room for 8 samples").first).to_contain_text(
        "2 × 11 would do"
    )
    page.get_by_role("textbox", name="Columns").fill("11")
    expect(page.get_by_role("region", name="One possible draw").get_by_role("img")).to_have_attribute(
        "aria-label", re.compile("guard")
    )
    do.hold_equal(page, "Light", "north window")
    do.settle_fairness(page, A_placebo="air carries nothing", A_baseline="all sown the same day")
    do.seal(page)
    rows = do.handout(lead, trial)
    assert Counter(row["treatment"] for row in rows) == {"Glass": 4, "Fleece": 4, "Film": 4}
    assert {row["column"] % 2 for row in rows} == {1}
    plan = page.request.get(f"/api/trials/{trial}/plan").json()["plan"]
    assert [level["value"] for level in plan["outcomes"][0]["scale"]["levels"]] == [n / 2 for n in range(11)]
    assert plan["outcomes"][1]["scale"]["kind"] == "percent"
    assert {c["clock"] for c in plan["checkpoints"]} == {480}


def test_blocks_that_start_one_after_another_with_counts_and_an_event(lead):
    page = lead.page
    trial = do.begin(page, "Slug collars", "Which collar keeps slugs off?")
    do.treatments(page, "Copper", "Wool", samples=3)
    do.outcome(page, "Leaves left", "count")
    page.get_by_label("What is counted").fill("leaves")
    page.get_by_label("Out of (empty: open)").fill("12")
    do.outcome(page, "First bite", "event")
    page.get_by_label("What has to be seen").fill("a hole in a leaf")
    page.get_by_label("Better is").select_option("less")
    do.look(page, "every 2 days, five times", "Day 10")
    page.get_by_label("It ends").select_option("half")
    page.get_by_label("judged on").select_option(label="First bite")
    do.part(page, "Layout")
    page.get_by_text("Blocks", exact=True).click()
    for i, name in enumerate(("Upper bed", "Lower bed"), start=1):
        page.get_by_label(f"Name of place {i}").fill(name)
    page.get_by_label("Place 2 starts later by", exact=True).fill("1")
    finish(page)
    rows = do.handout(lead, trial)
    assert set(Counter((row["block"], row["treatment"]) for row in rows).values()) == {3}
    plan = page.request.get(f"/api/trials/{trial}/plan").json()["plan"]
    assert [block["starts"] for block in plan["layout"]["blocks"]] == [0, 1440]
    assert plan["ending"]["kind"] == "half"


def test_a_latin_square_with_a_chart_of_shades_and_words(lead):
    page = lead.page
    trial = do.begin(page, "Tea dyes", "Which tea dyes wool darkest?")
    do.treatments(page, "Black", "Green", "Mint", "Rooibos", samples=5)
    do.outcome(page, "Darkness", "shade")
    page.get_by_role("button", name="Add a step").click()
    page.get_by_label("Name of step 5").fill("1")
    do.outcome(page, "Remarks", "note")
    page.get_by_label("What is asked").fill("What strikes you?")
    do.look(page, "after 1 and 3 hours", "3 h")
    do.part(page, "Layout")
    page.get_by_text("Latin square").click()
    panel = page.get_by_role("complementary", name="What this design can tell")
    expect(panel).to_contain_text("Something in the plan cannot be laid out or read yet.")
    do.part(page, "Treatments")
    expect(page.get_by_label("Samples of treatment 1")).to_have_value("4")
    page.get_by_label("Samples of treatment 2").fill("6")
    expect(page.get_by_role("alert").filter(has_text="4 or 8 of every treatment would work, not 6")).to_be_visible()
    page.get_by_label("Samples of treatment 2").fill("4")
    page.get_by_role("button", name="Seal the plan").click()
    expect(page.get_by_role("alert").filter(has_text="Two steps are called “1”.")).to_be_visible()
    page.get_by_label("Name of step 5").fill("deepest")
    expect(panel).to_contain_text("With 4 samples each")
    finish(page)
    rows = do.handout(lead, trial)
    for line in ("row", "column"):
        counts = Counter((row[line], row["treatment"]) for row in rows)
        assert (len(counts), set(counts.values())) == (16, {1})
    expect(page.locator("[aria-label^='Sample ']")).to_have_count(16)


def test_a_split_plot_from_factors_with_a_ladder_and_a_measurement(lead):
    page = lead.page
    trial = do.begin(page, "Glued joints", "Which glue, at which heat?")
    do.part(page, "Treatments")
    page.get_by_role("button", name="Begin with a factor").click()
    page.get_by_label("Name of factor 1").fill("Heat")
    page.get_by_label("hard to change: given to whole plots").check()
    page.get_by_label("Level 1 of Heat").fill("cold")
    page.get_by_label("Level 2 of Heat").fill("warm")
    page.get_by_role("button", name="Add another factor").click()
    page.get_by_label("Name of factor 2").fill("Glue")
    for i, name in enumerate(("hide", "casein"), start=1):
        page.get_by_label(f"Level {i} of Glue").fill(name)
    page.get_by_role("button", name="Take all 4").click()
    expect(page.get_by_label("Name of treatment 4")).to_have_value("warm, casein")
    page.get_by_label("Level 2 of Heat").fill("hot")
    expect(page.get_by_label("Name of treatment 4")).to_have_value("hot, casein")
    page.get_by_role("button", name="cold, casein").click()
    expect(page.get_by_text("3 of 4 combinations are taken")).to_be_visible()
    page.get_by_role("button", name="cold, casein").click()
    do.outcome(page, "Load held", "ladder")
    page.get_by_label("Steps of the load, rising").fill("10, 30, 20")
    expect(page.get_by_role("alert").filter(has_text="In order: 10, 20, 30.")).to_be_visible()
    page.get_by_label("Steps of the load, rising").fill("10, 20, 30")
    do.outcome(page, "Gap", "measurement")
    page.get_by_label("Unit", exact=True).fill("mm")
    page.get_by_label("Finest step").fill("0.1")
    page.get_by_label("Better is").select_option("less")
    do.look(page, "after 2 days", "Day 2")
    do.part(page, "Layout")
    page.get_by_text("Split plot").click()
    page.get_by_label("A whole plot is a").fill("oven load")
    page.get_by_label("Whole oven loads of each level").fill("1")
    expect(page.get_by_role("alert").filter(has_text="two would do, three are better").first).to_be_visible()
    page.get_by_label("Whole oven loads of each level").fill("4")
    finish(page)
    rows = do.handout(lead, trial)
    held = {plot: sorted(row["treatment"] for row in rows if row["plot"] == plot) for plot in {r["plot"] for r in rows}}
    assert len(held) == 8
    for inside in held.values():
        assert len({name.split(",")[0] for name in inside}) == 1
        assert set(Counter(inside).values()) == {2}
    expect(page.get_by_role("heading", name="Oven load 8")).to_be_visible()


def test_pairs_with_a_curve_and_pass_or_fail(lead):
    page = lead.page
    trial = do.begin(page, "Shelf brackets", "Does the brace help?")
    do.treatments(page, "Plain", "Braced", "Doubled", samples=6)
    do.outcome(page, "Sag", "curve")
    page.get_by_label("Steps of load, dose or time").fill("1 2 4 8")
    page.get_by_label("Better is").select_option("less")
    do.outcome(page, "Holds 10 kg", "passfail")
    do.look(page, "after 1 day", "Day 1")
    do.part(page, "Layout")
    page.get_by_text("Pairs", exact=True).click()
    expect(page.get_by_role("alert").filter(has_text="compares two treatments, not 3; blocks").first).to_be_visible()
    do.part(page, "Treatments")
    page.get_by_role("button", name="Take out treatment 3").click()
    finish(page)
    rows = do.handout(lead, trial)
    assert set(Counter((row["plot"], row["treatment"]) for row in rows).values()) == {1}
    assert len(rows) == 12


def test_the_planner_says_no_and_what_would_help(lead):
    page = lead.page
    page.goto(f"/trials/{lead.trial(PENS)}/plan/treatments")
    panel = page.get_by_role("complementary", name="What this design can tell")
    expect(panel).to_contain_text("Not enough. With 3 labels each, even a perfect result could be luck 1 time in 10.")
    expect(panel).to_contain_text(re.compile(r"1\d of each, \d\d more labels, £\d+\.\d\d more"))
    page.get_by_role("button", name="Compare designs").click()
    table = page.get_by_role("dialog")
    expect(table.get_by_role("row", name=re.compile("names the right one"))).to_contain_text("0 in 100")
    expect(table).to_contain_text("With one treatment less")
    page.get_by_label("With more, of each").fill("20")
    expect(table.get_by_role("row", name=re.compile("labels in all"))).to_contain_text("100")
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("Take that")).click()
    expect(panel).to_contain_text("Enough.")
    page.get_by_label("Samples of treatment 1").fill("10000")
    expect(page.get_by_role("alert").filter(has_text="2,000 of each would fit")).to_be_visible()
    page.get_by_label("Samples of treatment 1").fill("many")
    expect(page.get_by_role("alert").filter(has_text="This is not a number.")).to_be_visible()
    for i in range(1, 6):
        page.get_by_label(f"Samples of treatment {i}").fill("3")
    with page.expect_response(lambda answer: answer.request.method == "PUT" and answer.ok):
        page.get_by_label("Samples of treatment 5").blur()
    expect(panel).to_contain_text("Not enough")


def test_a_dry_run_shows_a_miss_and_a_false_alarm_before_weeks_are_spent(lead):
    page = lead.page
    page.goto(f"/trials/{begun(lead, replace(GHERKINS, title='Gherkins rehearsed'))}/plan/dry-run")
    played = page.get_by_role("region", name="The trial that was played")
    expect(played.locator("[data-test=ended]")).to_be_visible()
    page.get_by_role("button", name="Play 100 of them").click()
    expect(page.get_by_role("progressbar")).to_be_visible()
    page.get_by_role("button", name="Show one").first.click()
    expect(played.locator("[data-test=ended]")).to_contain_text("A miss: Vine leaf is truly best")
    page.get_by_role("button", name="Suppose they are all alike").click()
    page.get_by_role("button", name="Play another trial").click()
    expect(played.locator("[data-test=ended]")).to_contain_text("Rightly none")
    page.get_by_label("True Crunch of Oak leaf").fill("9")
    page.get_by_role("button", name="Play another trial").click()
    expect(page.get_by_role("alert").filter(has_text="9 is off the scale, from 0 to 4.")).to_be_visible()


def test_a_method_that_cannot_see_what_matters_is_told_so(lead):
    page = lead.page
    do.begin(page, "Pocket rulers", "Which ruler?")
    do.treatments(page, "Steel", "Card", samples=4)
    do.outcome(page, "Length", "measurement")
    page.get_by_label("Unit", exact=True).fill("cm")
    page.get_by_label("Smallest difference that matters").fill("0.2")
    page.get_by_role("button", name="Prove the method first").click()
    page.get_by_role("button", name="Read a thing several times").click()
    page.get_by_label("Thing 1, its readings").fill("12.1, 12.9 11.8")
    method = page.locator("[data-test=method]")
    expect(method).to_contain_text("This method cannot see that difference")
    panel = page.get_by_role("complementary", name="What this design can tell")
    expect(panel).to_contain_text("This method cannot see that difference")
    page.get_by_label("Thing 1, its readings").fill("12.1, 12.12, 12.09")
    expect(method).to_contain_text("It sees the difference")
    page.get_by_label("Unit", exact=True).fill("mm")
    expect(page.get_by_role("alert").filter(has_text="0.2 cm is 2 mm")).to_be_visible()


def test_two_editors_see_each_other_and_overwrite_nothing(visitor):
    one, two = visitor(), visitor()
    for each in (one, two):
        each.sign_in("lead@tarnlane.example")
        each.page.goto(f"/trials/{each.trial(PENS)}/plan/question")
        each.page.get_by_label("Question", exact=True).wait_for()
    one.page.get_by_label("Why it is asked").fill("Half the labels are blank by May.")
    expect(two.page.get_by_label("Why it is asked")).to_have_value("Half the labels are blank by May.")
    expect(two.page.get_by_text("Maren Ashdown changed Question just now.")).to_be_visible()
    # Both change the same thing before either sees the other's words.
    two.context.route("**/plan/version", lambda route: route.abort())
    one.context.route("**/plan/version", lambda route: route.abort())
    with one.page.expect_response(lambda answer: answer.request.method == "PUT" and answer.ok):
        one.page.get_by_label("What the answer would change").fill("Pencils for all.")
    two.page.get_by_label("What the answer would change").fill("Paint for all.")
    box = two.page.get_by_role("alert").filter(has_text="Two of you changed the same thing")
    expect(box).to_contain_text("theirs “Pencils for all.”, yours “Paint for all.”")
    expect(two.page.get_by_label("What the answer would change")).to_have_value("Pencils for all.")
    with two.page.expect_response(lambda answer: answer.request.method == "PUT" and answer.ok):
        box.get_by_role("button", name="Put mine back").click()
    one.context.unroute("**/plan/version")
    expect(one.page.get_by_label("What the answer would change")).to_have_value("Paint for all.")


def test_a_sealed_plan_is_amended_with_a_reason_and_never_silently(lead):
    page = lead.page
    page.goto(f"/trials/{lead.trial(DAHLIAS)}/plan/equal")
    expect(page.get_by_label("Setting of Vase")).to_be_disabled()
    page.get_by_role("button", name="Amend the plan").click()
    page.get_by_label("Setting of Water").fill("400 mL, rain")
    changed = page.get_by_role("list", name="What this amendment changes")
    expect(changed).to_contain_text("Changed: thing held equal “Water” (setting).")
    do.part(page, "Treatments")
    page.get_by_label("Samples of treatment 2").fill("9")
    expect(changed).to_contain_text("Treatments and their numbers are drawn into the codes")
    page.get_by_label("Samples of treatment 2").fill("3")
    expect(changed).not_to_contain_text("drawn into the codes")
    page.get_by_role("button", name="Amend the plan").click()
    expect(page.get_by_role("alert").filter(has_text="Say why the plan is changed")).to_be_visible()
    page.get_by_label("Why?", exact=True).fill("the tap ran dry")
    page.get_by_role("button", name="Amend the plan").click()
    expect(page.get_by_text("the tap ran dry")).to_be_visible()
    expect(page.get_by_text("Sealed, and amended since")).to_be_visible()
    page.goto(f"/trials/{lead.trial(DAHLIAS)}/log")
    expect(log_lines(page).filter(has_text="Plan amended: the tap ran dry")).to_be_visible()


def test_a_new_treatment_is_added_to_a_running_trial_and_started_by_itself(lead, visitor):
    page, trial = lead.page, lead.trial(DAHLIAS)
    page.goto(f"/trials/{trial}/plan/treatments")
    page.get_by_role("button", name="Amend the plan").click()
    page.get_by_role("button", name="Add stems to the trial").click()
    changed = page.get_by_role("list", name="What this amendment changes")
    page.get_by_role("textbox", name="Name of the new treatment").fill("Cloudy vinegar")
    # The control stands beside it already; nothing else does.
    expect(changed).to_contain_text("4 of Plain tap water and 4 of Cloudy vinegar (new)")
    expect(changed).to_contain_text("Cloudy vinegar is compared only with what is added beside it: Plain tap water.")
    page.get_by_label("How many of Stemkin powder are added").fill("2")
    expect(changed).to_contain_text("Added: 10 stems")
    expect(changed).to_contain_text("hardly any difference between them can be clear")
    page.get_by_role("button", name="Add nothing").click()
    expect(changed).to_contain_text("Nothing yet")
    page.get_by_role("button", name="Add stems to the trial").click()
    page.get_by_role("textbox", name="Name of the new treatment").fill("Cloudy vinegar")
    page.get_by_label("What this block is called").fill("Added for the show")
    page.get_by_label("Why?", exact=True).fill("a third maker sent some")
    expect(changed).to_contain_text("Added for the show")
    page.get_by_role("button", name="Amend the plan").click()
    expect(page.get_by_text("Sealed, and amended since")).to_be_visible()
    expect(
        page.get_by_text(re.compile("Added for the show, .*: 4 of Cloudy vinegar, 4 of Plain tap water"))
    ).to_be_visible()

    preparer = visitor(DESK)
    preparer.sign_in("preparer@tarnlane.example")
    preparer.page.goto(f"/trials/{trial}/prepare/start")
    preparer.page.get_by_role("button", name="Start Added for the show").click()
    preparer.page.get_by_role("button", name="Start the clock").click()
    row = preparer.page.get_by_role("listitem").filter(has_text="Added for the show")
    expect(row).to_contain_text("8 stems")
    expect(row.get_by_label("8 of 8 started")).to_be_visible()

    scorer = visitor(PHONE)
    scorer.sign_in("scorer@tarnlane.example")
    tags = scorer.context.request.get(f"/api/trials/{trial}/board").json()["tags"]
    assert sum(tag["block"] != tags[0]["block"] for tag in tags) >= 8
    assert "inegar" not in scorer.context.request.get(f"/api/trials/{trial}/log").text()


def test_the_next_trial_begins_with_what_was_weak_about_the_last(lead):
    page = lead.page
    page.goto(f"/trials/{lead.trial(PEAS)}/share")
    page.get_by_role("button", name="Begin the next trial").click()
    page.wait_for_url("**/plan/question")
    expect(page.get_by_text("Begun from “Soaking peas before sowing”")).to_be_visible()
    expect(page.get_by_text("tray knocked over by the cat")).to_be_visible()
    page.get_by_role("button", name=re.compile("Mended: .*knocked over")).click()
    expect(page.get_by_text("tray knocked over by the cat")).to_have_count(0)
    do.part(page, "Treatments")
    page.get_by_role("button", name="From earlier trials").click()
    page.get_by_label("Look for a treatment").fill("hemp")
    page.get_by_role("button", name="Take Hemp, waxed").click()
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_label("Name of treatment 4")).to_have_value("Hemp, waxed")
    do.part(page, "Outcomes")
    page.get_by_role("button", name="Begin from a template").click()
    page.get_by_role("button", name=re.compile("^Look, smell and feel")).click()
    expect(page.get_by_text("Together with the others of “Look, smell and feel”")).to_have_count(3)


def test_looks_stand_on_the_calendar_with_weekends_and_clashes(lead):
    page = lead.page
    today = datetime.now(ZoneInfo(GHERKINS.zone))
    saturday = today + timedelta(days=14 - (today.weekday() + 2) % 7)
    planned = replace(GHERKINS, title="Gherkins on the calendar", starts_on=saturday.strftime("%Y-%m-%dT10:00"))
    page.goto(f"/trials/{begun(lead, planned)}/plan/looks")
    expect(page.get_by_text(re.compile(r"looks? falls? on a weekend"))).to_be_visible()
    started = page.request.get(f"/api/trials/{lead.trial(DAHLIAS)}/course").json()["started_at"]
    page.get_by_label("Start of exposure, meant for").fill(started[:16])
    page.get_by_label("Write it as you would say it").fill("after 9 days")
    page.get_by_role("button", name="Add these looks").click()
    expect(page.get_by_text("With Cut dahlias in the vase: Day 9")).to_be_visible()
    expect(page.locator("header").get_by_text(re.compile(r"^Day 9, \w{3} \d+ \w{3}"))).to_be_visible()
    page.get_by_label("Write it as you would say it").fill("every now and then")
    page.get_by_role("button", name="Add these looks").click()
    expect(page.get_by_role("alert").filter(has_text="“now” is no unit of time here")).to_be_visible()
    page.get_by_role("button", name="Take out Day 9").click()


def test_what_differed_after_all_is_recorded_where_it_was_ticked(visitor):
    preparer = visitor(PHONE)
    page = preparer.sign_in("preparer@tarnlane.example")
    page.goto(f"/trials/{preparer.trial(DAHLIAS)}/prepare/start")
    page.get_by_role("button", name="Vase differed").click()
    page.get_by_role("button", name="Record it").click()
    expect(page.get_by_role("alert")).to_contain_text("Say how it differed")
    page.get_by_label("How did Vase differ?").fill("one was green glass")
    page.get_by_role("button", name="Record it").click()
    expect(page.get_by_text("Differed: one was green glass")).to_be_visible()


def test_a_look_is_skipped_and_another_taken_unplanned(visitor):
    scorer = visitor(PHONE)
    page = scorer.sign_in("scorer@tarnlane.example")
    trial = scorer.trial(DAHLIAS)
    page.goto(f"/trials/{trial}")
    page.get_by_role("button", name="Look now, unplanned").click()
    page.get_by_role("button", name="Begin the look").click()
    expect(page.get_by_role("alert")).to_be_visible()
    page.get_by_label("Why?").fill("two heads hung down over night")
    page.get_by_role("button", name="Begin the look").click()
    page.wait_for_url("**/rounds/u*")
    expect(page.get_by_role("group", name="Freshness")).to_be_visible()
    stops = page.request.get(f"/api/trials/{trial}/course").json()["checkpoints"]
    assert [s["unplanned"] for s in stops].count(True) == 1
    page.goto(f"/trials/{trial}")
    name = page.get_by_role("button", name=re.compile("^Skip ")).inner_text().removeprefix("Skip ")
    page.get_by_role("button", name=f"Skip {name}").click()
    page.get_by_label("Why?").fill("the hall is locked")
    page.get_by_role("button", name="Skip it").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    stops = {s["name"]: s["standing"] for s in page.request.get(f"/api/trials/{trial}/course").json()["checkpoints"]}
    assert stops[name] == "skipped"


def test_a_dose_is_worked_out_at_the_bench_with_a_way_around_a_coarse_tool(visitor):
    page = visitor(PHONE).sign_in("preparer@tarnlane.example")
    page.get_by_role("link", name="Bench sums").click()
    page.get_by_label("Rate on the label").fill("4 mL")
    page.get_by_label("Size of one sample").fill("100 mL")
    page.get_by_role("button", name="Work it out").click()
    expect(page.get_by_role("alert")).to_contain_text("is not a rate")
    page.get_by_label("Rate on the label").fill("4 mL/L")
    page.get_by_label("Measured with").fill("10 mL by 0.5 mL")
    page.get_by_role("button", name="Work it out").click()
    expect(page.get_by_role("status")).to_contain_text("0.4 mL for each.")
    expect(page.get_by_role("list", name="Advice")).to_contain_text("Make a stock: 5 mL made up to 62.5 mL")
    page.get_by_role("button", name="The same in another unit").click()
    page.get_by_label("Amount").fill("1 gal")
    page.get_by_label("In", exact=True).fill("L")
    page.get_by_role("button", name="Work it out").click()
    expect(page.get_by_role("alert")).to_contain_text("They differ")
    page.get_by_label("Gallons, pints and spoons are").select_option("imperial")
    page.get_by_role("button", name="Work it out").click()
    expect(page.get_by_role("status")).to_contain_text("1 imperial gallon is 4.54609 L.")


def test_nothing_is_sealed_beside_what_a_field_cannot_take(lead):
    page = lead.page
    page.goto(f"/trials/{begun(lead, replace(GHERKINS, title='Gherkins by halves'))}/plan/treatments")
    field = page.get_by_label("Samples of treatment 1")
    field.fill("8.5")
    expect(page.get_by_text("A whole number, please.")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Seal")).first.click()
    expect(field).to_be_focused()
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_what_is_typed_outlasts_a_failed_save_and_a_reload(lead):
    page = lead.page
    trial = begun(lead, replace(GHERKINS, title="Gherkins in a tunnel"))
    page.goto(f"/trials/{trial}/plan/question")
    page.route(
        f"**/api/trials/{trial}/plan",
        lambda route: route.abort() if route.request.method == "PUT" else route.continue_(),
    )
    page.get_by_label("Question", exact=True).fill("Does the tunnel keep them crisp?")
    expect(page.get_by_role("status").filter(has_text="kept on this device and sent by itself")).to_be_visible()
    page.on("dialog", lambda asked: asked.accept())
    page.reload()
    expect(page.get_by_label("Question", exact=True)).to_have_value("Does the tunnel keep them crisp?")
    page.unroute(f"**/api/trials/{trial}/plan")
    with page.expect_response(lambda answer: answer.request.method == "PUT" and answer.ok):
        page.get_by_label("Question", exact=True).press("End")
    expect(page.get_by_role("status").filter(has_text="kept just now")).to_be_visible()
    assert call(lead, "GET", f"/api/trials/{trial}/plan")["plan"]["question"] == "Does the tunnel keep them crisp?"
