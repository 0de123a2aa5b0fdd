"""A plan told in one’s own words, set right, taken over and sealed; lists pasted, numbers for all, steps back; taps and keys counted."""

import re
from datetime import UTC, datetime, timedelta

from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import Visitor, eventually
from tests.browser.hand import Hand
from tests.browser.led import call, joined
from tests.browser.planning import part
from tests.browser.views import barriers

BARRIERS = (
    "Which barrier keeps slugs off: copper tape or wool pellets? In two beds, with bare lettuces as the control, "
    "5 lettuces of each in each bed. Holes counted daily for a week."
)
BOX = re.compile("^What would you tell a friend")
MOST_TAPS, MOST_MINUTES = 40, 5


def begun(hand: Hand, title: str) -> str:
    page = hand.page
    page.goto("/")
    hand.button("Begin a trial")
    hand.write(page.get_by_label("What do you call it?"), title)
    hand.button("Begin", exact=True)
    page.wait_for_url("**/plan**")
    expect(page.get_by_label(BOX)).to_be_visible()
    expect(page.get_by_role("button", name="Which lasts longest?")).to_be_visible()
    return re.search(r"/trials/([0-9a-f-]+)", page.url).group(1)


def plan_of(page: Page, trial: str, ready) -> dict:
    return eventually(page, lambda: page.request.get(f"/api/trials/{trial}/plan").json()["plan"], ready)


def all_answered(hand: Hand) -> None:
    """Everything that fairness asks, one tap each: yes, else as it is."""
    page = hand.page
    part(page, "Fairness")
    hand.taps += 1
    for _ in range(20):
        expect(
            page.get_by_text("before it can be sealed").or_(page.get_by_role("button", name="Seal the plan")).first
        ).to_be_visible()
        asked = page.get_by_role("button", name=re.compile("^(Keep|No): "))
        left = asked.count()
        if not left:
            break
        hand.tap(asked.first)
        eventually(page, asked.count, lambda now, left=left: now < left)


def sealed(hand: Hand) -> None:
    page = hand.page
    expect(page.get_by_text("before it can be sealed")).to_have_count(0)
    hand.button("Seal the plan")
    hand.tap(page.get_by_label("I prepare the samples."))
    hand.tap(page.get_by_role("dialog").get_by_role("button", name="Seal it"))
    expect(page.get_by_text("Key sealed")).to_be_visible()


def test_two_barriers_in_two_beds_are_told_sealed_and_scored_in_five_minutes(visitor):
    lead: Visitor = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    scorer: Visitor = visitor()
    scorer.sign_in("scorer@tarnlane.example")
    hand = Hand(page)
    trial = begun(hand, "Barriers in two beds")
    hand.write(page.get_by_label(BOX), BARRIERS)
    drawn = page.get_by_role("region", name="The plan as it was understood")
    expect(drawn).to_contain_text("30 in all")
    expect(drawn).to_contain_text("control, nothing done")
    expect(page.get_by_text("All that a plan begins with is told.")).to_be_visible()
    assert barriers(page) == []
    hand.button("Take it into the plan")
    expect(page.get_by_label(BOX)).to_have_count(0)
    expect(page.get_by_label("Question", exact=True)).to_have_value(re.compile("^Which barrier"))
    hand.tap(page.get_by_text("all the same way"))
    hand.write(page.get_by_label("Your prediction"), "Copper.")
    page.get_by_label("Your prediction").blur()
    expect(page.get_by_text(re.compile("^Sealed .* Nobody else reads it"))).to_be_visible()
    all_answered(hand)
    sealed(hand)
    print(f"{hand.taps} taps, {hand.keys} keys: {hand.minutes:.1f} minutes")
    assert hand.taps <= MOST_TAPS
    assert hand.minutes <= MOST_MINUTES
    plan = page.request.get(f"/api/trials/{trial}/plan").json()["plan"]
    assert [(one["name"], one["kind"], one["samples"]) for one in plan["treatments"]] == [
        ("Copper tape", "treatment", 5),
        ("Wool pellets", "treatment", 5),
        ("Bare lettuces", "untreated", 5),
    ]
    assert [one["name"] for one in plan["layout"]["blocks"]] == ["Bed 1", "Bed 2"]
    assert [one["name"] for one in plan["checkpoints"]] == [f"Day {n}" for n in range(1, 8)]
    yesterday = datetime.now(UTC) - timedelta(days=1, minutes=5)
    call(lead, "POST", f"/api/trials/{trial}/start", {"at": yesterday.isoformat()})
    joined(lead, trial, scorer, "scorer@tarnlane.example", "scorer")
    scored(scorer.page, trial, "Holes", 30, 7, hidden="Copper")


def scored(page: Page, trial: str, outcome: str, many: int, below: int, hidden: str, *, goes_on: bool = False) -> None:
    """One round, by somebody who knows codes alone: numbers under ``below``; ``hidden`` names a treatment.

    Where a digit is a whole grade, the sheet ``goes_on`` by itself.
    """
    page.goto(f"/trials/{trial}")
    page.get_by_role("link", name="Begin scoring").click()
    sheet = page.get_by_role("table")
    expect(sheet).not_to_contain_text(hidden)
    sheet.get_by_label(re.compile(f"^{outcome} of")).first.click()
    for n in range(many):
        page.keyboard.type(str(n % below))
        if not goes_on:
            page.keyboard.press("Enter")
    expect(page.get_by_label(f"{many} scored, 0 to go")).to_be_visible()


def test_what_is_told_is_set_right_at_its_words_and_kept_until_it_is_taken(visitor):
    page = visitor().sign_in("lead@tarnlane.example")
    hand = Hand(page)
    trial = begun(hand, "Stains on boards")
    hand.write(page.get_by_label(BOX), "four stains, 3 boards each; load after 2 weeks. Sheen too.")
    drawn = page.get_by_role("region", name="The plan as it was understood")
    expect(page.get_by_text("names of the 4 that are only counted")).to_be_visible()
    expect(page.get_by_text("In what unit is “Load” measured?")).to_be_visible()
    hand.write(drawn.get_by_label("Name of Stain 1"), "Teak oil")
    hand.write(drawn.get_by_label("Unit of Load"), "kg")
    expect(page.get_by_text("In what unit is “Load” measured?")).to_have_count(0)
    # Words that were not understood: picked in the box, and told what they are.
    page.get_by_label(BOX).evaluate(
        "(box) => { const at = box.value.indexOf('Sheen'); box.focus(); box.setSelectionRange(at, at + 5);"
        " box.dispatchEvent(new Event('select', { bubbles: true })); }"
    )
    expect(page.get_by_text("“Sheen”")).to_be_visible()
    hand.button("looked at", exact=True)
    expect(drawn).to_contain_text("Sheen")
    # A mark that is wrong.
    hand.button(re.compile("^after 2 weeks: when"))
    hand.button("none of these", exact=True)
    expect(page.get_by_text(re.compile("When do you look"))).to_be_visible()
    # Left and come back to: nothing is lost.
    page.reload()
    expect(page.get_by_label(BOX)).to_have_value(re.compile("four stains"))
    expect(drawn).to_contain_text("Load")
    hand.button("Take it into the plan")
    plan = plan_of(page, trial, lambda plan: len(plan["treatments"]) == 4)
    assert {one["samples"] for one in plan["treatments"]} == {3}
    page.reload()
    expect(page.get_by_label("Question", exact=True)).to_be_visible()
    expect(page.get_by_label(BOX)).to_have_count(0)


def paste(field: Locator, text: str) -> None:
    field.evaluate(
        "(field, text) => { const data = new DataTransfer(); data.setData('text', text);"
        " field.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true })); }",
        text,
    )


def test_sixteen_by_two_factors_one_of_each_are_planned_sealed_in_sixty_taps_and_scored(visitor):
    lead: Visitor = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    scorer: Visitor = visitor()
    scorer.sign_in("scorer@tarnlane.example")
    hand = Hand(page)
    trial = begun(hand, "Sixteen glazes fired twice over")
    hand.write(page.get_by_label(BOX), "Which glaze crazes least? Crazing graded 0 to 5 after 1 week.")
    hand.button("Take it into the plan")
    hand.tap(page.get_by_text("all the same way"))
    hand.write(page.get_by_label("Your prediction"), "The ash ones.")
    page.get_by_label("Your prediction").blur()
    expect(page.get_by_text(re.compile("^Sealed .* Nobody else reads it"))).to_be_visible()
    part(page, "Treatments")
    hand.button("Begin with a factor")
    hand.write(page.get_by_label("Name of factor 1"), "glaze")
    paste(page.get_by_label("Level 1 of glaze"), "\n".join(f"Glaze {n}" for n in range(1, 17)))
    hand.taps += 2
    hand.button("Add another factor")
    hand.write(page.get_by_label("Name of factor 2"), "cooling")
    hand.write(page.get_by_label("Level 1 of cooling"), "slow")
    page.keyboard.press("Enter")
    hand.type("quick")
    hand.button("Take all 32")
    expect(page.get_by_label(re.compile(r"^Name of treatment \d+$"))).to_have_count(32)
    hand.write(page.get_by_label("Numbers for all at once"), "1 each")
    page.keyboard.press("Enter")
    plan_of(
        page,
        trial,
        lambda plan: len(plan["treatments"]) == 32 and {one["samples"] for one in plan["treatments"]} == {1},
    )
    hand.taps += 1
    all_answered(hand)
    sealed(hand)
    print(f"{hand.taps} taps, {hand.keys} keys: {hand.minutes:.1f} minutes")
    assert hand.taps <= 60
    week_ago = datetime.now(UTC) - timedelta(days=7, minutes=5)
    call(lead, "POST", f"/api/trials/{trial}/start", {"at": week_ago.isoformat()})
    joined(lead, trial, scorer, "scorer@tarnlane.example", "scorer")
    scored(scorer.page, trial, "Crazing", 32, 6, hidden="Glaze", goes_on=True)


def test_lists_are_pasted_numbers_set_for_all_and_steps_taken_back(visitor):
    page = visitor().sign_in("lead@tarnlane.example")
    hand = Hand(page)
    trial = begun(hand, "Twenty-seven on cloth")
    part(page, "Treatments")
    hand.button("Add a treatment")
    paste(page.get_by_label("Name of treatment 1"), "\n".join(f"Soap {n}" for n in range(1, 27)))
    expect(page.get_by_label(re.compile(r"^Name of treatment \d+$"))).to_have_count(26)
    page.get_by_label("Name of treatment 26").focus()
    page.keyboard.press("Enter")
    hand.type("Water")
    page.get_by_label("Kind of treatment 27").select_option("untreated")
    plan_of(page, trial, lambda plan: len(plan["treatments"]) == 27 and plan["treatments"][26]["kind"] == "untreated")
    hand.write(page.get_by_label("Numbers for all at once"), "3, controls six")
    hand.button("Set", exact=True)
    expect(page.get_by_text("“controls six” is no number here")).to_be_visible()
    hand.write(page.get_by_label("Numbers for all at once"), "3, controls 6")
    page.keyboard.press("Enter")
    plan = plan_of(page, trial, lambda plan: len(plan["treatments"]) == 27 and plan["treatments"][26]["samples"] == 6)
    assert {one["samples"] for one in plan["treatments"][:26]} == {3}
    hand.button("Undo", exact=True)
    expect(page.get_by_label("Samples of treatment 27")).not_to_have_value("6")
    hand.button("Redo", exact=True)
    expect(page.get_by_label("Samples of treatment 27")).to_have_value("6")
    assert barriers(page) == []


def test_a_plan_begins_as_in_an_earlier_trial(visitor):
    page = visitor().sign_in("lead@tarnlane.example")
    hand = Hand(page)
    trial = begun(hand, "Soaking beans")
    # The newest of them, whatever other tests have begun here.
    newest = page.request.get("/api/patterns/earlier").json()[0]
    like = page.request.get(f"/api/trials/{newest['trial']}/pattern").json()
    page.get_by_role("button", name=newest["title"], exact=True).first.click()
    plan = plan_of(page, trial, lambda plan: len(plan["treatments"]) == len(like["treatments"]))
    assert plan["title"] == "Soaking beans" and plan["treatments"][0]["name"] == like["treatments"][0]["name"]
    expect(page.get_by_label(BOX)).to_have_count(0)
    expect(page.get_by_label("Question", exact=True)).to_have_value(like["question"])


MARKS = {
    "Sauces": ["Beet juice", "Mustard", "Plum jam", "Curry paste", "Soy sauce", "Gravy", "Pesto"],
    "Drinks": ["Black tea", "Coffee", "Red cordial", "Cocoa", "Elder wine", "Cider"],
    "Inks": ["Fountain ink", "Marker", "Ball pen", "Stamp ink"],
    "Earths": ["Loam", "Clay", "Soot", "Brick dust", "Rust"],
    "Powders": ["Chalk", "Flour", "Icing sugar", "Talc", "Starch"],
}
"""Twenty-seven substances; powders are not rinsed."""


def test_27_substances_on_three_cloths_with_groups_and_a_stage_that_five_skip(visitor):
    lead: Visitor = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    scorer: Visitor = visitor()
    scorer.sign_in("scorer@tarnlane.example")
    hand = Hand(page)
    trial = begun(hand, "Marks on three cloths")
    names = [name for group in MARKS.values() for name in group]
    told = "Which substance marks worst? On three cloths: cotton, linen and wool. Stain graded 0 to 5 after 2 days, one of each."
    hand.write(page.get_by_label(BOX), "\n".join((told, *names)))
    drawn = page.get_by_role("region", name="The plan as it was understood")
    expect(drawn).to_contain_text("81 in all")
    hand.button("Take it into the plan")
    expect(page.get_by_label("Question", exact=True)).to_have_value(re.compile("^Which substance"))
    hand.tap(page.get_by_text("all the same way"))
    hand.write(page.get_by_label("Your prediction"), "Curry.")
    page.get_by_label("Your prediction").blur()
    expect(page.get_by_text(re.compile("^Sealed .* Nobody else reads it"))).to_be_visible()
    part(page, "Treatments")
    expect(page.get_by_label(re.compile(r"^Name of treatment \d+$"))).to_have_count(27)
    for n, (name, members) in enumerate(MARKS.items(), start=1):
        hand.button("Add a group")
        hand.write(page.get_by_label(f"Name of group {n}"), name)
        for one in members:
            hand.tap(
                page.get_by_role("group", name=f"Treatments of {name}").get_by_role("button", name=one, exact=True)
            )
    hand.write(page.get_by_label("What could hurt someone").nth(2), "solvents: open a window")
    assert barriers(page) == []
    part(page, "Looks")
    hand.button("Take look 1 in two parts")
    hand.write(page.get_by_label("Part of look 2"), "rinsed")
    # The first part is for all; it is the second that powders skip.
    hand.tap(page.get_by_role("button", name=re.compile(": for some only$")).nth(1))
    groups = page.get_by_role("group", name=re.compile("Only these groups$"))
    for name in list(MARKS)[:-1]:
        hand.tap(groups.get_by_role("button", name=name, exact=True))
    plan = plan_of(
        page, trial, lambda plan: len(plan["checkpoints"]) == 2 and len(plan["checkpoints"][1]["only"]["groups"]) == 4
    )
    assert [one["samples"] for one in plan["treatments"]] == [1] * 27 and len(plan["layout"]["blocks"]) == 3
    hand.taps += 2
    all_answered(hand)
    sealed(hand)
    print(f"{hand.taps} taps, {hand.keys} keys: {hand.minutes:.1f} minutes")
    assert hand.minutes <= 15
    ago = datetime.now(UTC) - timedelta(days=2, minutes=5)
    call(lead, "POST", f"/api/trials/{trial}/start", {"at": ago.isoformat()})
    joined(lead, trial, scorer, "scorer@tarnlane.example", "scorer")
    screen = scorer.page
    screen.goto(f"/trials/{trial}")
    looks = lead.context.request.get(f"/api/trials/{trial}/course").json()["checkpoints"]
    assert [one["samples"] for one in looks] == [81, 66]
    screen.goto(f"/trials/{trial}/rounds/{looks[1]['key']}")
    sheet = screen.get_by_role("table")
    expect(sheet).not_to_contain_text("Curry")
    sheet.get_by_label(re.compile("^Stain of")).first.click()
    for n in range(66):
        screen.keyboard.type(str(n % 6))
    expect(screen.get_by_label("66 scored, 0 to go")).to_be_visible()
