"""The whole job by clicking and typing, as three people: from the first idea to the exported verdict."""

import csv
import io
import re
import zipfile

import numpy as np
from playwright.sync_api import Page, expect

from fieldtally.core.compare.columns import Column, compare_columns
from tests.browser.conftest import PHONE, log_lines
from tests.browser.planning import part, settle_fairness

TITLE = "Rust on garden tools"
NAMES = ("Bare steel", "Marrow oil", "Quince wax")
# No value that is given at first (90, 75 … and up to 6 more), whatever codes are drawn.
CORRECTED = "70"
TRUTH = {"Bare steel": 1, "Marrow oil": 2, "Quince wax": 4}
SURE = "four dry words here"


def join(page: Page, name: str, email: str) -> None:
    page.get_by_label("Your name").fill(name)
    page.get_by_label("E-mail").fill(email)
    page.get_by_label("Password").fill(SURE)
    page.get_by_role("button", name="Join").click()


def plan(page: Page) -> None:
    page.get_by_role("button", name="Begin a trial").click()
    page.get_by_label("What do you call it?").fill(TITLE)
    page.get_by_role("button", name="Begin", exact=True).click()
    page.wait_for_url("**/plan**")
    page.get_by_label("Question", exact=True).fill("What keeps tools from rusting over a winter?")
    page.get_by_label("Your prediction").fill("Wax, by far.")
    page.get_by_text("all the same way").click()
    page.get_by_label("One sample is a").fill("blade")
    expect(page.get_by_text(re.compile("^Sealed .* Nobody else reads it"))).to_be_visible()
    part(page, "Treatments")
    for i, name in enumerate(NAMES, start=1):
        page.get_by_role("button", name="Add a treatment").click()
        page.get_by_label(f"Name of treatment {i}").fill(name if i < 3 else "marrow OIL")
        page.get_by_label(f"Samples of treatment {i}").fill("3")
    page.get_by_label("Kind of treatment 1").select_option("untreated")
    part(page, "Held equal")
    page.get_by_role("button", name="Base batch").click()
    page.get_by_label("Setting of Base batch").fill("one sheet of steel")
    part(page, "Looks")
    page.get_by_label("Write it as you would say it").fill("every 6 hours, twice")
    page.get_by_label("Write it as you would say it").press("Enter")
    expect(page.get_by_label("Name of look 2")).to_have_value("12 h")
    part(page, "Outcomes")
    page.get_by_role("button", name="Add an outcome").click()
    page.get_by_label("Name of the outcome").fill("Shine")
    page.get_by_label("Smallest difference that matters").fill("1")
    page.get_by_role("button", name="Fold Shine").click()
    page.get_by_role("button", name="Add an outcome").click()
    page.get_by_label("Name of the outcome").fill("Rust")
    page.get_by_label("Scale").select_option("measurement")
    page.get_by_label("Unit", exact=True).fill("mm²")
    page.get_by_label("Lowest plausible").fill("0")
    page.get_by_label("Better is").select_option("less")
    part(page, "Looks")
    page.get_by_label("Rust at 6 h").uncheck()


def mend_and_seal(page: Page) -> str:
    panel = page.get_by_role("complementary", name="What this design can tell")
    expect(panel).to_contain_text("Not enough. With 3 blades each, even a perfect result could be luck 1 time in 10.")
    settle_fairness(page, A_baseline_is_taken="all blades come off one sheet", A_placebo_stands="no carrier")
    page.get_by_role("button", name="Seal the plan").click()
    expect(page.get_by_role("alert").filter(has_text="Two treatments are called “marrow OIL”")).to_be_visible()
    page.get_by_label("Name of treatment 3").fill(NAMES[2])
    for i in (1, 2, 3):
        page.get_by_label(f"Samples of treatment {i}").fill("5")
    expect(panel).to_contain_text("With 5 blades each it would name the best one")
    expect(panel).not_to_contain_text("before it can be sealed")
    page.get_by_role("button", name="How is this worked out?").click()
    expect(page.get_by_role("dialog")).to_contain_text("Simulated 1600 times")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Seal the plan").click()
    page.get_by_role("dialog").get_by_role("button", name="Seal it").click()
    expect(page.get_by_role("dialog")).to_contain_text("Choose one of the two.")
    page.get_by_label("I prepare the samples.").check()
    page.get_by_role("dialog").get_by_role("button", name="Seal it").click()
    expect(page.get_by_text("Key sealed")).to_be_visible()
    trial = re.search(r"/trials/([0-9a-f-]+)", page.url).group(1)
    seal = page.request.get(f"/api/trials/{trial}/course").json()["seal"]
    expect(page.get_by_text(" ".join((seal[:4], seal[4:8], seal[8:12])))).to_be_visible()
    return seal


def invite(page: Page, email: str, role: str) -> None:
    page.get_by_role("link", name="People").click()
    page.get_by_label("E-mail").fill(email)
    page.get_by_label("To", exact=True).select_option(role)
    page.get_by_role("button", name="Send invitation").click()
    expect(page.get_by_text(email)).to_be_visible()


def follow_invitation(page: Page, name: str, email: str) -> None:
    page.goto("/mailbox")
    page.locator("article", has_text=email).get_by_role("link").click()
    page.get_by_role("link", name="Join").click()
    join(page, name, email)
    page.get_by_role("button", name=f"Take it on as {name}").click()
    expect(page.get_by_role("heading", name=TITLE)).to_be_visible()


def prepare(page: Page) -> dict[str, str]:
    page.get_by_role("link", name="Prepare", exact=True).first.click()
    parts = page.get_by_role("navigation", name="Parts of preparing")
    parts.get_by_role("link", name=re.compile("^Give")).click()
    page.get_by_role("button", name="Look at the key").click()
    rows = page.get_by_role("article")
    expect(rows).to_have_count(15)
    key = {
        re.search(r"\d{3}", row.inner_text()).group(): next(n for n in NAMES if n in row.inner_text())
        for row in rows.all()
    }
    page.get_by_role("button", name="All 15").click()
    expect(page.get_by_text("All 15 are given.")).to_be_visible()
    parts.get_by_role("link", name=re.compile("^Start")).click()
    page.get_by_role("button", name="Start exposure").click()
    page.get_by_role("button", name="Start the clock").click()
    expect(page.get_by_text("The clock of all 15 blades is running.")).to_be_visible()
    return key


def grade(code: str, key: dict[str, str]) -> int:
    return min(5, TRUTH[key[code]] + int(code) % 2)


def score_on_a_phone(page: Page, trial: str, key: dict[str, str]) -> None:
    page.goto(f"/trials/{trial}")
    page.get_by_role("link", name=re.compile("^6 h")).click()
    done: list[str] = []
    for i in range(15):
        code = page.locator(".tag.huge .code").inner_text()
        assert code not in done
        done.append(code)
        if i == 2:  # a slip of the thumb, taken back
            page.get_by_role("button", name="0 nothing left").click()
            expect(page.locator(".tag.huge .code")).not_to_have_text(code)
            page.get_by_role("button", name=f"Undo {code}").click()
            expect(page.locator(".tag.huge .code")).to_have_text(code)
        if i == 5:
            page.get_by_role("button", name="Cannot score").click()
            page.get_by_role("button", name="too dark to tell").click()
        else:
            page.get_by_role("button", name=re.compile(f"^{grade(code, key)} ")).click()
        if i < 14:
            expect(page.locator(".tag.huge .code")).not_to_have_text(code)
        for name in NAMES:
            assert name not in page.content()
    expect(page.get_by_role("heading", name="All scored.")).to_be_visible()
    expect(page.get_by_text("Everything scored is stored on the server.")).to_be_visible()
    expect(page.get_by_role("img", name="15 scored, 0 to go")).to_be_visible()


def score_on_a_sheet(page: Page, trial: str, key: dict[str, str]) -> str:
    """By keyboard alone; one rust value is corrected afterwards.  The code of that sample."""
    page.goto(f"/trials/{trial}/rounds/{last_look(page, trial)}")
    expect(page.get_by_role("columnheader", name="Rust")).to_be_visible()
    codes = [row.inner_text() for row in page.locator("tbody th .code").all()]
    for i, code in enumerate(codes):
        page.keyboard.press(str(grade(code, key)))
        value = 90 - 15 * grade(code, key) + int(code) % 7
        if i == 1:
            page.keyboard.type("-4")
            page.keyboard.press("Enter")
            expect(page.get_by_role("alert")).to_contain_text("below the plausible range")
            page.keyboard.press("Control+A")
        page.keyboard.type(str(value))
        page.keyboard.press("Enter")
    expect(page.get_by_role("img", name="15 scored, 0 to go")).to_be_visible()
    cell = page.get_by_label(f"Rust of {codes[0]}")
    cell.fill(CORRECTED)
    cell.press("Enter")
    expect(page.locator("tbody svg[aria-label='on this device only']")).to_have_count(0)
    return codes[0]


def last_look(page: Page, trial: str) -> str:
    return page.request.get(f"/api/trials/{trial}/course").json()["checkpoints"][-1]["key"]


def open_key(page: Page, trial: str) -> None:
    page.goto(f"/trials/{trial}/verdict")
    page.get_by_role("button", name="I want to open the key").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Type:").fill("Something else")
    dialog.get_by_role("button", name="Open the key").click()
    expect(dialog.get_by_role("alert")).to_contain_text("Type “open ")
    dialog.get_by_label("Type:").fill(dialog.locator("b.code").inner_text())
    dialog.get_by_role("button", name="Open the key").click()
    # Whoever leaves the page before that has not opened it.
    expect(page.get_by_role("heading", level=1)).to_contain_text(re.compile("The key is open|One of these twenty"))


def core_pairs(rows: list[dict[str, str]], outcome: str, checkpoint: str, kind: str) -> dict[frozenset[str], float]:
    own = [row for row in rows if row["outcome"] == outcome and row["checkpoint"] == checkpoint]
    (found,) = compare_columns(
        np.array([[float(row["value"])] for row in own]),
        [Column(kind)],
        np.array([NAMES.index(row["treatment"]) for row in own]),
        NAMES,
        np.zeros(len(own), dtype=int),
        np.random.default_rng(0),
    )
    return {frozenset((pair.a, pair.b)): pair.p for pair in found.pairs}


def honest(p: float) -> str:
    """p as the screen shows it: two digits that count."""
    return f"{p:.{max(0, 1 - int(np.floor(np.log10(p))))}f}".rstrip("0").rstrip(".")


def test_the_whole_job(visitor):
    lead, scorer, viewer = visitor(), visitor(PHONE), visitor()
    lead.page.goto("/join")
    join(lead.page, "Odd Fenn", "odd@tools.example")
    # The same page as for an address that is known already; what there is to know stands in the letter.
    expect(lead.page.get_by_text("If that address has an account already, the letter says so.")).to_be_visible()
    lead.page.get_by_role("link", name="Open the demo’s mailbox").click()
    lead.page.locator("article", has_text="odd@tools.example").get_by_role("link").click()
    lead.page.get_by_role("button", name="This address is mine").click()
    expect(lead.page.get_by_role("heading", name="Your shelf is empty.")).to_be_visible()
    plan(lead.page)
    seal = mend_and_seal(lead.page)
    assert re.fullmatch(r"[0-9a-f]{64}", seal)
    trial = re.search(r"/trials/([0-9a-f-]+)", lead.page.url).group(1)
    invite(lead.page, "scorer@tools.example", "scorer")
    invite(lead.page, "viewer@tools.example", "viewer")
    follow_invitation(scorer.page, "Pim Lark", "scorer@tools.example")
    follow_invitation(viewer.page, "Dot Reed", "viewer@tools.example")
    key = prepare(lead.page)

    score_on_a_phone(scorer.page, trial, key)
    desk = visitor()
    desk.sign_in("scorer@tools.example", SURE)
    corrected = score_on_a_sheet(desk.page, trial, key)
    desk.page.goto(f"/trials/{trial}/log")
    row = log_lines(desk.page).filter(has_text=corrected).filter(has_text=f"{CORRECTED} mm²")
    expect(row).to_contain_text("was")

    desk.page.goto(f"/trials/{trial}/verdict")
    expect(desk.page.get_by_text("The lead opens it, when the trial is over.")).to_be_visible()
    expect(desk.page.get_by_role("button", name="I want to open the key")).to_have_count(0)
    token = next(c["value"] for c in desk.context.cookies() if c["name"] == "csrftoken")
    asked = desk.page.request.post(f"/api/trials/{trial}/key/ask", headers={"X-CSRFToken": token}, data={})
    assert asked.status == 403
    viewer.page.goto(f"/trials/{trial}")
    for name in NAMES:
        assert name not in viewer.page.content()

    open_key(lead.page, trial)
    for page in (lead.page, viewer.page):
        page.goto(f"/trials/{trial}/verdict")
        expect(page.get_by_role("heading", level=1)).to_contain_text(
            re.compile("Quince wax did best on shine at .*, planned for 12 h"), timeout=90_000
        )
        expect(page.locator("[data-test=level]")).to_have_text("Clear")
    page = viewer.page
    page.get_by_role("button", name="Why?").click()
    expect(page.get_by_role("dialog")).to_contain_text("beats each other one in its own pair test at 0.05")
    page.keyboard.press("Escape")

    page.get_by_role("link", name="Share", exact=True).first.click()
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save the readings").click()
    rows = list(csv.DictReader(io.StringIO(saved.value.path().read_text("utf-8-sig"))))
    assert len(rows) == 14 + 15 + 15
    assert {row["sample"]: row["treatment"] for row in rows} == key
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save the pack").click()
    with zipfile.ZipFile(saved.value.path()) as files:
        assert seal in files.read("plan.json").decode()
        assert len(files.read("readings.csv").decode().splitlines()) > 46

    page.goto(f"/trials/{trial}/verdict")
    page.locator("summary").filter(has_text="Each against each").click()
    lines = page.get_by_role("region", name="Each against each").get_by_role("row")
    expect(lines).to_have_count(1 + 3)  # drawn once the fold has told that it is open
    shown = lines.all()[1:]
    expected = core_pairs(rows, "Shine", "12 h", "grade")
    letters = dict(zip("ABC", NAMES, strict=True))
    for line in shown:
        cells = [cell.inner_text() for cell in line.locator("th, td").all()]
        pair = frozenset(letters[letter] for letter in re.findall(r"\b[ABC]\b", cells[0]))
        assert cells[3] == honest(expected[pair]), (cells, expected)
    expect(page.get_by_role("button", name="Rust, supporting")).to_be_visible()
    page.get_by_role("button", name="Rust, supporting").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text(re.compile("rust at .* planned for 12 h"))
