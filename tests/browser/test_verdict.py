"""A key is opened, the sentence read, and weights changed until the ranking follows; what lies behind a verdict is told."""

import re
from datetime import UTC, datetime
from uuid import uuid4

from playwright.sync_api import expect

from fieldtally.core.design.plan import Block, Checkpoint, Layout, Outcome, Plan, Treatment
from fieldtally.core.scales import CountScale, EventScale, GradeScale, Level, MeasurementScale, PercentScale
from tests.browser.conftest import PHONE, put_column, until
from tests.browser.led import begun, call, joined, running
from tests.browser.views import barriers

PLAN = Plan(
    title="Oils on spade handles",
    question="Which oil keeps water out?",
    zone="Europe/London",
    sample_word="handle",
    treatments=(
        Treatment("none", "No oil", "untreated", 5, cost=0.5),
        Treatment("oil", "Walnut oil", samples=5, cost=2.0),
    ),
    outcomes=(
        Outcome("shine", "Shine", MeasurementScale("units"), margin=2.0, weight=3.0),
        Outcome("soak", "Soaked through", EventScale("a dark patch"), better="less", primary=False),
    ),
    checkpoints=tuple(Checkpoint(f"m{n}", f"Minute {2 * n}", 2 * n, 0, 1) for n in (1, 2, 3)),
    interim=("m1",),
)
SHINE = {"none": 40.0, "oil": 20.0}
SOAKED = {"none": 1, "oil": 3}


def scored(lead, preparer, trial) -> None:
    """Every handle at every look: without oil it shines more, and soaks through sooner."""
    rows = call(preparer, "POST", f"/api/trials/{trial}/key-looks")["rows"]
    key = {row["code"]: "none" if row["treatment"] == "No oil" else "oil" for row in rows}
    for minute in (1, 2, 3):
        opened = call(lead, "POST", f"/api/trials/{trial}/rounds", {"checkpoint": f"m{minute}"})
        readings = []
        for i, sample in enumerate(opened["samples"]):
            what = key[sample["code"]]
            for outcome, value in (("shine", SHINE[what] + i % 5 * 0.4), ("soak", float(minute >= SOAKED[what]))):
                readings.append(
                    {
                        "id": str(uuid4()),
                        "round": opened["id"],
                        "sample": sample["id"],
                        "outcome": outcome,
                        "kind": "value",
                        "value": value,
                        "reason": "",
                        "taken_at": datetime.now(UTC).isoformat(),
                    }
                )
        call(lead, "POST", f"/api/trials/{trial}/readings", {"readings": readings})


def test_a_key_is_opened_and_weights_turn_the_ranking(visitor):
    lead, preparer = visitor(), visitor()
    page = lead.sign_in("lead@tarnlane.example")
    preparer.sign_in("preparer@tarnlane.example")
    trial = begun(lead, PLAN)
    joined(lead, trial, preparer, "preparer@tarnlane.example", "preparer")
    running(lead, trial)
    scored(lead, preparer, trial)
    page.goto(f"/trials/{trial}/verdict")
    # While it is sealed: all together in ink, and an interim look that says stop or go on and no more.
    expect(page.get_by_text("each is judged at 2.5 % instead of 5 %")).to_be_visible()
    together = page.get_by_role("region", name="How it comes along")
    expect(together.get_by_role("img", name="Shine, all samples together")).to_be_visible()
    page.get_by_role("button", name="Ask whether it is clear already").click()
    assert barriers(page) == []
    page.get_by_role("button", name="Ask", exact=True).click()
    expect(together.get_by_text("Stop.")).to_be_visible()
    assert "No oil" not in page.get_by_role("main").inner_text()
    assert barriers(page) == []
    page.get_by_role("button", name="Write down what I believe").click()
    page.locator("fieldset").first.get_by_text("treated", exact=True).click()
    page.get_by_role("button", name="Write it down").click()
    expect(page.get_by_text("Written down. Nobody sees it")).to_be_visible()
    page.get_by_placeholder("What do you think will happen?").fill("Oil will win by far")
    page.get_by_role("button", name="I want to open the key").click()
    # The trial's own name does as well as its phrase.
    page.get_by_label("Type:").fill(PLAN.title)
    page.get_by_role("button", name="Open the key", exact=True).click()
    # Before any number a line-up: the pictures are picked from by keyboard alone, once, and only then it is told which.
    expect(page.get_by_role("heading", name="One of these twenty pictures is your trial.")).to_be_visible()
    assert "did best" not in page.get_by_role("main").inner_text()
    pictures = page.get_by_role("group", name="Pictures").get_by_role("radio")
    expect(pictures).to_have_count(20)
    assert barriers(page) == []
    page.get_by_role("button", name="This one").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Pick the picture that stands out, first.")
    pictures.first.focus()
    page.keyboard.press("Space")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    expect(pictures.nth(2)).to_be_checked()
    page.get_by_role("button", name="Picture 3 is it").focus()
    page.keyboard.press("Enter")
    told = page.get_by_role("heading", name=re.compile(r"^Picture \d+ is the trial\.$"))
    expect(told).to_be_focused()
    expect(page.get_by_text(re.compile("^You (picked the true one|took another for the true one)"))).to_be_visible()
    assert barriers(page) == []
    page.get_by_role("button", name="Read on").click()
    # What was foreseen, then colour, then the sentence.
    expect(page.get_by_role("heading", name="The key is open.")).to_be_visible()
    expect(page.get_by_text("Oil will win by far")).to_be_visible()
    expect(page.get_by_text("No oil did best on shine at minute 6")).to_be_visible()
    until(page, "document.getAnimations().every((one) => one.playState !== 'running')")  # the colours have come in
    assert barriers(page) == []
    page.get_by_role("button", name="Read the whole verdict").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("No oil")
    expect(page.get_by_role("heading", level=1)).to_contain_text("on shine at minute 6")
    tally = page.get_by_role("region", name="Worth of each treatment").get_by_role("row")
    expect(tally.nth(1)).to_contain_text("No oil")
    for _ in range(3):
        page.get_by_role("button", name="Shine weighs less").click()
    expect(page.get_by_role("button", name="Shine weighs less")).to_be_disabled()
    expect(tally.nth(1)).to_contain_text("Walnut oil")
    page.get_by_role("button", name="Soaked through weighs less").click()
    expect(page.get_by_role("alert")).to_contain_text("At least one outcome has to weigh something.")
    page.get_by_role("button", name="Shine weighs more").click()
    expect(tally.nth(1)).to_contain_text("No oil")
    assert barriers(page) == []
    # The event is told by the time without it, with its stairs and the time by which half had it.
    page.get_by_role("button", name="Soaked through, supporting").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Walnut oil did best on time without soaked through")
    expect(page.get_by_role("img", name="Soaked through: share left")).to_be_visible()
    half = page.get_by_role("region", name="Half by").get_by_role("row")
    expect(half.filter(has_text="Walnut oil")).to_contain_text("5 of 5")
    assert barriers(page) == []


def unfold(page, title):
    """Open a part of the verdict that is folded."""
    page.locator("summary").filter(has_text=title).first.click()


def test_a_member_who_comes_later_picks_from_the_line_up_on_a_phone(visitor):
    viewer = visitor(PHONE)
    page = viewer.sign_in("viewer@tarnlane.example")
    page.goto(f"/trials/{viewer.trial('Soaking peas before sowing')}/line-up")
    pictures = page.get_by_role("group", name="Pictures").locator("label")
    expect(pictures).to_have_count(20)
    assert page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth") <= 0
    box = pictures.nth(7).bounding_box()
    assert box["height"] >= 44 and box["width"] >= 44
    pictures.nth(7).tap()
    page.get_by_role("button", name="Picture 8 is it").tap()
    expect(page.get_by_text("the trial", exact=True)).to_have_count(1)
    assert barriers(page) == []
    page.get_by_role("button", name="Read on").tap()
    expect(page.get_by_role("heading", level=1)).to_contain_text("did best on seeds sprouted")
    # Whoever has read the result picks knowing it, and has picked already.
    page.get_by_role("link", name="Line-up").tap()
    expect(page.get_by_role("heading", name=re.compile(r"^Picture \d+ is the trial\.$"))).to_be_visible()


def test_where_places_change_the_winner_the_page_says_whether_that_is_chance(visitor):
    for screen in ({}, PHONE):
        lead = visitor(screen) if screen else visitor()
        page = lead.sign_in("lead@tarnlane.example")
        page.goto(f"/trials/{lead.trial('Garden twine through a season')}/verdict")
        expect(page.get_by_role("heading", level=1)).to_contain_text(
            "It depends on the place: Poly twine, green did best at Sunny fence; Hemp, waxed did best at Shaded arch"
        )
        expect(page.locator("[data-test=level]")).to_have_text("It depends")
        drawn = page.get_by_role("img", name="Load held: who wins where")
        expect(drawn).to_be_visible()
        # Each place has its winner's letter in large, and every length its dot.
        assert drawn.locator("text.big").all_text_contents() == ["D", "B"]
        expect(drawn.locator("circle")).to_have_count(40)
        unfold(page, "Who wins where, by place")
        where = page.get_by_role("region", name="Who wins where, by place")
        expect(page.get_by_text("Not the same one comes first everywhere.")).to_be_visible()
        expect(where.get_by_role("row", name="Sunny fence")).to_contain_text("by its own test")
        expect(page.get_by_text("by more than chance does")).to_be_visible()
        unfold(page, "In percent of the control")
        uses = page.get_by_role("region", name="What to use when")
        expect(uses).to_contain_text("At Shaded arch Hemp, waxed was best by its own test (23.5 kg)")
        assert page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth") <= 0
        assert barriers(page) == []


def test_an_open_verdict_is_carried_into_the_next_plan(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    page.goto(f"/trials/{lead.trial('Crunch of bottled gherkins')}/verdict")
    box = page.get_by_role("region", name="What would settle it")
    expect(box).to_contain_text("in all, £")
    box.get_by_role("button", name=re.compile("^Plan the next one")).first.click()
    page.wait_for_url(re.compile("/plan/question"))
    expect(page.get_by_text("Crunch of bottled gherkins, again").first).to_be_visible()


def brought_in(page, title, column, rows):
    """A table brought in as somebody has it, and its verdict read."""
    page.goto("/bring")
    text = f"pot,tie,{column}\n" + "\n".join(f"{n},{tie},{value}" for n, (tie, value) in enumerate(rows, 1))
    page.locator("input[type=file]").set_input_files(
        {"name": "ties.csv", "mimeType": "text/csv", "buffer": text.encode()}
    )
    expect(page.get_by_role("heading", name="ties.csv")).to_be_visible()
    put_column(page, "tie", "What it got")
    expect(page.get_by_text(re.compile("3 treatments on"))).to_be_visible()
    page.get_by_label("Call the trial").fill(title)
    page.get_by_label("Call the trial").press("Tab")
    page.get_by_role("button", name="Bring it in and read the verdict").click()
    page.get_by_role("button", name="Read the verdict", exact=True).click()


def test_a_shared_first_place_and_nothing_to_tell_apart_are_said_so(visitor):
    person = visitor()
    page = person.sign_in("viewer@tarnlane.example")
    grades = {"Wire": (3, 4, 4, 3, 5, 4), "Raffia": (3, 4, 4, 3, 5, 4), "Paper": (1, 2, 1, 2, 1, 0)}
    brought_in(page, "Twist ties", "grade", [(tie, grade) for tie, own in grades.items() for grade in own])
    expect(page.get_by_role("heading", level=1)).to_contain_text("Wire and Raffia share the first place")
    expect(page.locator("[data-test=level]")).to_have_text("Too close to call")
    unfold(page, "Each against each")
    pairs = page.get_by_role("region", name="Each against each")
    expect(pairs.get_by_role("columnheader", name="Beats, in 100")).to_be_visible()
    page.get_by_role("button", name="Why?").first.click()
    expect(page.get_by_role("dialog")).to_contain_text("Wire and Raffia share the first place.")
    page.get_by_role("dialog").get_by_role("button", name="Close").click()
    brought_in(page, "Slug rings", "bitten", [(tie, "no") for tie in grades for _ in range(8)])
    expect(page.get_by_role("heading", level=1)).to_contain_text("Nothing to tell apart on bitten")
    expect(page.get_by_role("heading", level=1)).to_contain_text("up to 31 in 100 may still do so")
    expect(page.locator("[data-test=level]")).to_have_text("Nothing to tell apart")
    assert barriers(page) == []


def test_two_methods_are_held_against_each_other(visitor):
    person = visitor(PHONE)
    page = person.sign_in("viewer@tarnlane.example")
    page.goto("/methods")
    page.get_by_label("The table, pasted").fill("a,b\n1,2\n2,x\n3,3")
    page.get_by_role("button", name="Compare", exact=True).click()
    expect(page.get_by_text("at least two of them")).to_be_visible()
    page.get_by_role("button", name="Use the example").click()
    page.get_by_role("button", name="Compare", exact=True).click()
    expect(page.get_by_text("Between strip and meter no bias is shown")).to_be_visible()
    expect(page.get_by_text("One reading lies between two fields of a chart")).to_be_visible()
    page.get_by_role("button", name="meter and kit").click()
    expect(page.get_by_text("At the limit meter and kit disagree on 2 of 8")).to_be_visible()
    page.get_by_role("button", name="strip and meter").click()
    page.get_by_label("Keep what was entered under a name").fill("Well water")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("Kept as “Well water”.")).to_be_visible()
    page.reload()
    page.get_by_role("button", name=re.compile("^Well water")).click()
    expect(page.get_by_label("The table, pasted")).to_have_value(re.compile("^sample\tstrip"))
    expect(page.get_by_text("Between strip and meter no bias is shown")).to_be_visible()
    expect(page.get_by_text("strip finds something", exact=False)).to_contain_text("wrong substance in 1 of 1")
    page.get_by_text("What the columns mean").click()
    page.get_by_label("What truth means").select_option("nothing")
    expect(page.get_by_text("Against what is really there")).to_have_count(0)
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    assert barriers(page) == []


MULCHES = Plan(
    title="Weeds under thirty covers",
    question="Which cover keeps weeds down?",
    zone="Europe/London",
    sample_word="patch",
    treatments=tuple(
        Treatment(f"t{n:02d}", "Bare soil" if n == 0 else f"Cover {n:02d}", "untreated" if n == 0 else "treatment", 1)
        for n in range(30)
    ),
    layout=Layout("blocks", (Block("n", "North bed"), Block("s", "South bed"), Block("w", "West bed"))),
    outcomes=(
        Outcome("weeds", "Weeds", CountScale(None, "weeds"), better="less"),
        Outcome("damp", "Damp", PercentScale(), primary=False),
        Outcome("looks", "Tidiness", GradeScale(tuple(Level(n, "EDCBA"[n]) for n in range(5))), primary=False),
    ),
    checkpoints=(
        Checkpoint("before", "Minute 2", 2, 0, 1, stage="before hoeing"),
        Checkpoint("after", "Minute 2", 2, 0, 1, stage="after hoeing"),
    ),
)


def test_thirty_treatments_in_three_places_are_read_on_one_screen(visitor):
    lead, preparer = visitor(), visitor()
    page = lead.sign_in("lead@tarnlane.example")
    preparer.sign_in("preparer@tarnlane.example")
    trial = begun(lead, MULCHES)
    joined(lead, trial, preparer, "preparer@tarnlane.example", "preparer")
    running(lead, trial)
    key = {row["code"]: row["treatment"] for row in call(preparer, "POST", f"/api/trials/{trial}/key-looks")["rows"]}
    for stage in ("before", "after"):
        opened = call(lead, "POST", f"/api/trials/{trial}/rounds", {"checkpoint": stage})
        readings = []
        for i, sample in enumerate(opened["samples"]):
            name = key[sample["code"]]
            place = 0 if name == "Bare soil" else int(name[-2:])
            good = place if stage == "before" else 29 - place
            for outcome, value in (("weeds", 60 - 2 * good + i % 3), ("damp", 10 + 2 * place), ("looks", place % 5)):
                readings.append(
                    {
                        "id": str(uuid4()),
                        "round": opened["id"],
                        "sample": sample["id"],
                        "outcome": outcome,
                        "kind": "value",
                        "value": float(value),
                        "reason": "",
                        "taken_at": datetime.now(UTC).isoformat(),
                    }
                )
        call(lead, "POST", f"/api/trials/{trial}/readings", {"readings": readings})
    call(lead, "POST", f"/api/trials/{trial}/key/ask", {})
    call(lead, "POST", f"/api/trials/{trial}/key/open", {"title": MULCHES.title})
    page.goto(f"/trials/{trial}/verdict")
    expect(page.get_by_role("heading", level=1)).to_contain_text("after hoeing")
    uses = page.get_by_role("region", name="What to use when")
    for bed in ("North bed", "South bed", "West bed"):
        says = uses.get_by_text(re.compile(f"^At {bed} .* (was best|were best together) .* (was|were) last"))
        expect(says).to_be_visible()
        assert says.bounding_box()["y"] + says.bounding_box()["height"] <= page.viewport_size["height"]
    # Stages are parts of one moment, and nothing tells them as time.
    expect(uses.get_by_text("By time")).to_have_count(0)
    rows = (
        "[...document.querySelectorAll('table')].filter((one) => one.checkVisibility()).map((one) => one.rows.length)"
    )
    assert page.evaluate(f"Math.max(0, ...{rows})") <= 13
    expect(uses).not_to_contain_text(re.compile("Fast|Lasting"))
    unfold(page, "Each against each")
    pairs = page.get_by_role("region", name="Each against each").get_by_role("row")
    expect(pairs).to_have_count(13)
    page.get_by_role("button", name="All 435 pairs").click()
    expect(pairs).to_have_count(436)
    assert page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth") <= 0
