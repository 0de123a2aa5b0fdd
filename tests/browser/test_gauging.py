"""Photos measured: a mark drawn, tried in other lights, run over all and kept; and a scorer trained through two sets."""

import io
import re
from dataclasses import replace

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from fieldtally.core.design.plan import Checkpoint, Outcome, Plan, Treatment
from fieldtally.core.photos.camera import Shot, marked, photo_of
from fieldtally.core.photos.scenes import leaf, truth_of
from fieldtally.core.scales import PercentScale
from tests.browser.conftest import DATABASE, DESK, PHONE, WORKED_OUT, connected, eventually
from tests.browser.led import begun, call, running
from tests.browser.views import barriers

MARIGOLDS = "Colour of dried marigolds"
RUST = Plan(
    title="Rust on the bean leaves",
    question="Which spray holds the rust?",
    zone="Europe/London",
    sample_word="plant",
    treatments=(Treatment("a", "Water", "untreated", 4), Treatment("b", "Nettle brew", samples=4)),
    outcomes=(Outcome("rust", "Rusted leaf", PercentScale("rust", 5), "less", practised=True),),
    checkpoints=(Checkpoint("now", "Now", 60, 60, 24 * 60),),
)


def inside(outline: tuple[tuple[float, float], ...], x: float, y: float, room: float) -> bool:
    """Whether a point lies in an outline, or nearer to it than ``room``."""
    xs, ys = np.array(outline).T
    return bool(min(np.hypot(xs - x, ys - y)) < room or np.hypot(xs.mean() - x, ys.mean() - y) < np.ptp(xs) / 2)


def photo_in_sight(page: Page) -> dict[str, float]:
    """Where the photo is, once it stands still and whole in the window."""
    stage = page.get_by_role("application")
    before = None
    for _ in range(40):
        box = stage.bounding_box()
        if box == before and box["y"] > -1:
            return box
        before = box
        page.wait_for_timeout(150)
    raise AssertionError(f"The photo does not come into sight: {before}")


def drag(page: Page, start: tuple[float, float], end: tuple[float, float]) -> None:
    """Drag over the photo, between points given as shares of it."""
    box = photo_in_sight(page)
    at = [(box["x"] + x * box["width"], box["y"] + y * box["height"]) for x, y in (start, end)]
    page.mouse.move(*at[0])
    page.mouse.down()
    page.mouse.move(*at[1], steps=6)
    page.mouse.up()


def test_a_mark_is_drawn_a_value_read_all_are_run_and_kept(visitor):
    scorer = visitor(DESK)
    page = scorer.sign_in("scorer@tarnlane.example")
    trial = scorer.trial(MARIGOLDS)
    page.goto(f"/trials/{trial}/photos")
    page.get_by_role("link", name="Measure in them").click()
    page.get_by_role("link", name="Shade in the photo").click()
    panel = page.get_by_role("status").filter(has_text="shade on the chart")
    expect(panel).to_contain_text(re.compile(r"\d\.\d+ ± 0\.\d+ steps"))
    expect(page.get_by_text("The card is found, with its size and its colours.")).to_be_visible()
    # A mark on the bare bench is refused, with its reason, and nothing can be run with it.
    drag(page, (0.05, 0.05), (0.25, 0.25))
    expect(panel).to_contain_text("Nothing stands out from the ground inside the mark.")
    every = page.get_by_role("button", name=re.compile(r"Measure all \d+ like this"))
    expect(every).to_be_disabled()
    # Without a reference there is no colour.
    page.get_by_text("None", exact=True).click()
    expect(panel).to_contain_text("a colour cannot be measured")
    page.get_by_text("Photo card", exact=True).click()
    # Round the flower, and then moved a little by keyboard: the value stays.
    drag(page, (0.42, 0.12), (0.86, 0.68))
    expect(panel).to_contain_text(re.compile(r"\d\.\d+ ± 0\.\d+ steps"))
    page.get_by_role("application").press("ArrowRight")
    page.get_by_role("application").press("+")
    expect(panel).to_contain_text(re.compile(r"\d\.\d+ ± 0\.\d+ steps"))
    page.get_by_role("button", name="Show the bare photo").click()
    expect(page.locator("svg image")).to_have_count(0)
    every.click()
    expect(page.get_by_role("heading", name=re.compile("19 of 19 photos measured"))).to_be_visible(timeout=WORKED_OUT)
    expect(page.get_by_role("heading", name=re.compile("Two photos of one thing differ by up to"))).to_be_visible()
    expect(page.get_by_role("heading", name="Beside the eye: Shade by eye")).to_be_visible()
    page.get_by_role("button", name="Keep as readings").click()
    expect(page.get_by_text("16 readings written into your round.")).to_be_visible()
    expect(page.get_by_role("button", name="All kept as readings")).to_be_disabled()
    assert barriers(page) == []
    log = call(scorer, "GET", f"/api/trials/{trial}/log")["entries"]
    kept = [one for one in log if one["outcome"] == "Shade in the photo"]
    assert len(kept) == 16
    page.goto(f"/trials/{trial}/rounds/day14")
    expect(page.get_by_role("columnheader", name="Shade in the photo")).to_be_visible()
    page.get_by_role("link", name="Measure them").click()
    expect(page.get_by_role("heading", name="Measured in photos")).to_be_visible()


def test_a_spot_of_colour_is_picked_and_one_photo_is_marked_by_hand(visitor):
    scorer = visitor(DESK)
    page = scorer.sign_in("scorer@tarnlane.example")
    trial = scorer.trial(MARIGOLDS)
    page.goto(f"/trials/{trial}/gauge/day14/faded")
    panel = page.get_by_role("status").filter(has_text="colour difference since Fresh")
    expect(panel).to_contain_text("ΔE2000")
    page.get_by_role("button", name=re.compile("Measure all")).click()
    expect(page.get_by_role("heading", name=re.compile("19 of 19 photos measured"))).to_be_visible(timeout=WORKED_OUT)
    shots = page.get_by_role("list", name="Photos of this look").get_by_role("button")
    shots.nth(4).click()
    page.get_by_role("button", name="Outline, point by point").click()
    box = photo_in_sight(page)
    for x, y in ((0.5, 0.25), (0.75, 0.25), (0.75, 0.55), (0.5, 0.55)):
        page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])
    page.get_by_role("button", name="Close the outline").click()
    expect(panel).to_contain_text("ΔE2000")
    page.get_by_role("button", name=re.compile(r"Only \d{3} with these marks")).click()
    table = f"/api/trials/{trial}/gauge/day14/faded"

    def by_hand() -> list[str]:
        return [
            p["code"]
            for p in call(scorer, "GET", table)["photos"]
            if len(p["gauging"]["marks"]["thing"]["points"]) == 4
        ]

    assert len(eventually(page, by_hand)) == 1
    # White paper is marked by hand where there is no card: the pale field of the card serves here.
    page.get_by_text("White paper", exact=True).click()
    expect(panel).to_contain_text("Mark the white area on the photo.")
    drag(page, (0.06, 0.86), (0.1, 0.9))
    expect(panel).not_to_contain_text("Mark the white area on the photo.")


def test_what_counts_is_picked_on_the_photo_and_a_photo_without_the_card_is_refused(visitor):
    lead = visitor(DESK)
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun(lead, replace(RUST, title="Rust by photo", outcomes=(replace(RUST.outcomes[0], practised=False),)))
    running(lead, trial)
    rng = np.random.default_rng(12)
    scene, shot = leaf(35, rng), Shot(width=1000, kelvin=3600, stops=-0.7, tilt=5)
    page.goto(f"/trials/{trial}/photos")
    # The gauge begins with the lowest code: that one has the card.
    codes = sorted(one["code"] for one in call(lead, "GET", f"/api/trials/{trial}/board")["tags"])
    for code, shown in ((codes[0], scene.with_card()), (codes[1], scene)):
        written = io.BytesIO()
        Image.fromarray(photo_of(shown, shot, rng)).save(written, "JPEG", quality=92)
        page.get_by_label(f"Photo of {code}, Now").set_input_files(
            {"name": "leaf.jpg", "mimeType": "image/jpeg", "buffer": written.getvalue()}
        )
        expect(page.get_by_role("button", name=f"{code}, Now")).to_be_visible()
    page.get_by_role("link", name="Measure in them").click()
    panel = page.get_by_role("status").filter(has_text="share of the area")
    # Before a colour is picked so much differs that the gauge does not guess.
    expect(panel).to_contain_text("pick a colour that counts, and one that does not")
    mark = marked(scene, shot).points
    across, down = [x for x, _ in mark], [y for _, y in mark]
    drag(page, (min(across) - 0.01, min(down) - 0.01), (max(across) + 0.01, max(down) + 0.01))
    # One spot of rust and one of sound green are picked where they are.
    rust = max(
        (one for one in scene.shapes if one.counts == "spot"), key=lambda one: np.ptp([x for x, _ in one.outline])
    )
    sound = next(
        (x, y)
        for x, y in (
            (scene.centre[0] + dx, scene.centre[1] + dy) for dx in range(-30, 31, 6) for dy in range(-30, 31, 6)
        )
        if all(not inside(one.outline, x, y, 4) for one in scene.shapes if one.counts == "spot")
    )
    middle = tuple(np.mean(rust.outline, axis=0))
    picks = page.get_by_role("button", name="Pick on the photo")
    for n, point in ((0, middle), (1, sound)):
        picks.nth(n).click()
        seen = marked(scene, shot, [point, point, point]).points[0]
        box = photo_in_sight(page)
        page.mouse.click(box["x"] + seen[0] * box["width"], box["y"] + seen[1] * box["height"])
        expect(page.get_by_role("button", name=re.compile("^Take #"))).to_have_count(n + 1)
    true = truth_of(scene).cover

    def near(read: float | None) -> bool:
        return read is not None and abs(read - true) < 2.5

    def told() -> float | None:
        found = re.search(r"(\d+(?:\.\d+)?) ± ", panel.inner_text())
        return float(found.group(1)) if found else None

    # Measured anew a moment after the last pick.
    read = eventually(page, told, near, 60)
    assert near(read), (read, true)
    page.get_by_role("button", name="Measure all 2 like this").click()
    expect(page.get_by_role("heading", name="1 of 2 photos measured")).to_be_visible(timeout=WORKED_OUT)
    expect(
        page.get_by_text("No card was found on this photo: what counts cannot be told by its colour").first
    ).to_be_visible(timeout=WORKED_OUT)
    page.get_by_role("button", name="Keep as readings").click()
    expect(page.get_by_text("One reading written into your round.")).to_be_visible()
    log = call(lead, "GET", f"/api/trials/{trial}/log")["entries"]
    devices = {one["code"]: one["source"] for one in log if one["source"].startswith("read from photo gauge, ±")}
    assert list(devices) == [codes[0]]
    assert "marked" not in devices[codes[0]]


def test_a_scorer_is_trained_through_two_sets_and_may_score_then(visitor):
    lead = visitor(PHONE)
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun(lead, RUST)
    running(lead, trial)
    page.goto(f"/trials/{trial}/rounds/now")
    expect(page.get_by_text("scored only by those who have shown in practice that they are ready")).to_be_visible()
    page.get_by_role("link", name="Practise now").click()
    expect(page.get_by_text("Scored only by those who are ready: you are not yet")).to_be_visible()
    for number, off in ((1, 4), (2, -3)):
        page.get_by_role("button", name=re.compile("Grade a set|Another set")).click()
        page.wait_for_url(re.compile(r"/training/[0-9a-f-]{36}$"))
        made = page.url.rsplit("/", 1)[1]
        with connected(DATABASE) as database:
            rows = database.execute(
                "SELECT place, truth FROM training_traininganswer WHERE set_id = %s ORDER BY place", [made]
            ).fetchall()
        assert len(rows) == 12
        assert all(one["truth"] is None for one in call(lead, "GET", f"/api/training/{made}")["things"])
        for place, truth in rows:
            expect(page.get_by_text(f"{place + 1} of 12", exact=True)).to_be_visible()
            field = page.get_by_label("Rusted leaf")
            field.fill(str(max(0, min(100, truth + (off if place % 2 else -off)))))
            page.get_by_role("button", name="Keep it").click()
        heading = "You are ready to score this." if number == 2 else "Not ready yet."
        expect(page.get_by_role("heading", name=heading)).to_be_visible()
        expect(page.get_by_role("list", name="The set").get_by_text("True:")).to_have_count(12)
        if number == 2:
            expect(page.get_by_text("Eye against gauge.")).to_be_visible(timeout=WORKED_OUT)
            assert barriers(page) == []
        page.get_by_role("link", name="On", exact=True).click()
    expect(page.get_by_text(re.compile("You are ready until"))).to_be_visible()
    page.goto(f"/trials/{trial}/rounds/now")
    expect(page.get_by_label("Rusted leaf")).to_be_visible()
    expect(page.get_by_text("scored only by those who have shown")).to_have_count(0)


def test_two_scorers_grade_five_together_and_write_down_what_they_agree_on(visitor):
    lead, scorer = visitor(DESK), visitor(PHONE)
    lead.sign_in("lead@tarnlane.example")
    scorer.sign_in("scorer@tarnlane.example")
    trial = lead.trial(MARIGOLDS)
    lead.page.goto(f"/trials/{trial}/together")
    lead.page.get_by_role("button", name="Draw five samples").click()
    scorer.page.goto(f"/trials/{trial}/together")
    for person, pads in ((lead, "22344"), (scorer, "23344")):
        for n, pad in enumerate(pads):
            expect(person.page.get_by_text(f"{n + 1} of 5", exact=True)).to_be_visible()
            person.page.get_by_role("button", name=re.compile(rf"^{pad} ")).click()
    expect(lead.page.get_by_text("Finished: ")).to_be_visible()
    show = lead.page.get_by_role("button", name="Look at them together")
    expect(show).to_be_enabled()
    show.click()
    expect(lead.page.get_by_role("heading", name=re.compile(r"You were 0\.2 steps apart on average"))).to_be_visible()
    lead.page.get_by_label("What did you agree on?").fill("The middle of the head is left out.")
    lead.page.get_by_role("button", name="Write it into the log").click()
    expect(lead.page.get_by_text("Scorers together: The middle of the head is left out.")).to_be_visible()
    lead.page.goto(f"/trials/{trial}/log")
    expect(lead.page.get_by_text("Scorers together: The middle of the head is left out.")).to_be_visible()
