"""Preparing the demo's dahlias anew: doses, mix sheet, tags, giving, the scale, starts room by room; and a shuffle alone."""

import re

import pypdfium2
import zxingcpp
from playwright.sync_api import Page, expect

from fieldtally.core.blinding.checking import check_letter
from tests.browser.conftest import PHONE, ask_device
from tests.browser.planning import part, predict, settle_fairness

DAHLIAS = "Cut dahlias in the vase"
NAMES = ("Plain tap water", "House mix", "Stemkin", "Vaselode")


def step(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Parts of preparing").get_by_role("link", name=re.compile(f"^{name}")).click()


def begun_again(page: Page, visitor_trial: str) -> str:
    """A draft with the dahlias' plan; its id."""
    page.goto(f"/trials/{visitor_trial}/share")
    page.get_by_role("button", name="Begin the next trial").click()
    page.wait_for_url(re.compile(rf"/trials/(?!{visitor_trial})[0-9a-f-]+/plan"))
    predict(page, "The house mix, again.")
    return re.search(r"/trials/([0-9a-f-]+)", page.url).group(1)


def seal(page: Page, *, prepares: bool = True) -> None:
    settle_fairness(page, A_baseline_is_taken="stems of one cutting", A_placebo_stands="all stand in water anyway")
    page.get_by_role("button", name="Seal the plan").click()
    page.get_by_label("I prepare the samples." if prepares else "I stay blind").check()
    page.get_by_role("dialog").get_by_role("button", name="Seal it").click()
    expect(page.get_by_text("Key sealed")).to_be_visible()


def type_doses(page: Page) -> None:
    """A rate that the syringe cannot measure, with the way out by a stock; bleach beside lemon juice, found and mended."""
    part(page, "Doses")
    rate = page.get_by_label("Rate of dose 2 of House mix, sugar and lemon")
    rate.fill("a pinch")
    rate.blur()
    expect(page.get_by_role("alert").filter(has_text="a pinch").first).to_be_visible()
    rate.fill("0.5 mL/L")
    lemon = page.get_by_role("listitem").filter(has=rate)
    expect(lemon).to_contain_text("0.5 milliliters for each 1 liter")
    expect(lemon).to_contain_text("0.2 mL")
    expect(lemon).to_contain_text("too coarse: more than 20 % off either way")
    lemon.get_by_role("button", name="Take the stock way").click()
    expect(lemon).to_contain_text("5 mL of it holds 0.2 mL")
    expect(lemon.get_by_role("button", name="Measure it directly")).to_be_visible()
    lemon.get_by_role("button", name="How?").click()
    expect(lemon.get_by_role("list").last).to_contain_text("0.2 mL")

    region = page.get_by_role("list", name="Doses by sugar")
    expect(region).to_contain_text("× 0.64")
    cleaning = page.get_by_label("Tools and vessels are cleaned with, between treatments")
    cleaning.fill("household bleach")
    clash = page.get_by_role("alert").filter(has_text="must not meet")
    expect(clash.first).to_contain_text("The product’s label and safety data sheet")
    cleaning.fill("hot water")
    expect(clash).to_have_count(0)


def mix(page: Page) -> None:
    """The step with lemon juice is ticked only after its caution is read; a pack that runs out is told."""
    step(page, "Mix")
    squeeze = page.get_by_role("listitem").filter(has_text="Lemon juice. Make a stock")
    squeeze.get_by_role("button", name=re.compile("^Done: Lemon juice")).click()
    expect(squeeze).to_contain_text("Gloves and eye protection.")
    expect(squeeze).to_contain_text("safety data sheet")
    squeeze.get_by_role("button", name="I have read this, and it is done").click()
    expect(squeeze.get_by_role("img", name="ticked", exact=True)).to_be_visible()
    expect(page.get_by_text(re.compile(r"^1 of \d+ steps done"))).to_be_visible()
    page.get_by_label("Product").select_option("Stemkin powder")
    page.get_by_label("Lot").fill("S 99")
    page.get_by_label("Use by").fill("2020-01-01")
    page.get_by_role("button", name="Note the pack").click()
    packs = page.get_by_role("listitem").filter(has_text="lot S 99")
    expect(packs.get_by_role("alert")).to_be_visible()


def print_tags(page: Page, trial: str) -> str:
    """Tags on a sheet of 24, three labels used already: each square leads to a sample and none tells what it gets.  One of
    the addresses."""
    step(page, "Tags and sheets")
    page.get_by_label("Labels on").select_option("A4, 24 labels of 70 × 37 mm")
    page.get_by_label("Labels used already").fill("24")
    expect(page.get_by_role("alert")).to_contain_text("skip fewer")
    page.get_by_label("Labels used already").fill("3")
    expect(page.get_by_role("img", name="24 tags on 2 sheets of 24")).to_be_visible()
    with page.expect_download() as saved:
        page.get_by_role("link", name="Print the tags").click()
    assert saved.value.suggested_filename == f"tags-{trial[:8]}.pdf"
    pages = list(pypdfium2.PdfDocument(saved.value.path()))
    text = "".join(one.get_textpage().get_text_range() for one in pages)
    assert not any(name.casefold() in text.casefold() for name in NAMES)
    squares = [
        code.text for one in pages for code in zxingcpp.read_barcodes(one.render(scale=200 / 72).to_pil().convert("L"))
    ]
    tags = page.request.get(f"/api/trials/{trial}/board").json()["tags"]
    assert len(set(squares)) == len(tags) == 24
    assert all(tag["code"] in text for tag in tags)
    return squares[0]


def give(page: Page, port: int) -> None:
    """All as planned but one, whose powder is weighed: first the scale fails, then it is read."""
    step(page, "Give")
    page.get_by_role("button", name="Look at the key").click()
    card = page.get_by_role("article").filter(has_text="Stemkin powder").first
    code = re.search(r"\d{3}", card.get_attribute("aria-label")).group()
    card = page.get_by_role("article", name=f"Sample {code}")
    card.get_by_role("button", name="was given otherwise").click()
    ask_device(port, '{"ask": "fault", "mode": "nonsense"}')
    card.get_by_role("button", name="from the bench scale").click()
    expect(card.get_by_role("alert")).to_contain_text(
        "sends something that cannot be understood. Type the value instead"
    )
    amount = card.get_by_label("Given of Stemkin powder")
    amount.fill("a spoon")
    card.get_by_role("button", name="Note it").click()
    expect(page.get_by_role("alert").filter(has_text="spoon").last).to_be_visible()
    card.get_by_role("button", name="was given otherwise").click()
    ask_device(port, '{"ask": "fault", "mode": "none"}')
    ask_device(port, '{"ask": "put", "channel": "mass", "value": 2.4}')
    # The scale takes a moment to settle, as scales do: it is read until it has.
    given = card.get_by_label("Given of Stemkin powder")
    for _ in range(40):
        card.get_by_role("button", name="from the bench scale").click()
        expect(given).to_have_value(re.compile(r" g$"))
        if re.match(r"^2\.[345]\d* g$", given.input_value()):
            break
    expect(given).to_have_value(re.compile(r"^2\.[345]\d* g$"))
    card.get_by_role("button", name="Note it").click()
    expect(card).to_contain_text(re.compile(r"2\.[345]\d* g given where 3\.2 g were planned: 2\d % too little"))
    expect(card).to_contain_text("read from Bench scale")
    for block in ("Porch", "Kitchen"):
        page.get_by_role("button", name=re.compile(rf"of {block} as planned")).click()
        expect(page.get_by_role("button", name=re.compile(rf"of {block} as planned"))).to_have_count(0)
    expect(page.get_by_text("All 24 are given.")).to_be_visible()


def start(page: Page) -> None:
    step(page, "Start")
    for block, line in (
        ("Porch", "The clock of 12 of 24 stems is running."),
        ("Kitchen", "The clock of all 24 stems is running."),
    ):
        page.get_by_role("button", name=f"Start {block}").click()
        page.get_by_role("button", name="Start the clock").click()
        expect(page.get_by_text(line)).to_be_visible()


def test_the_dahlias_are_prepared_anew(visitor, server):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun_again(page, lead.trial(DAHLIAS))
    type_doses(page)
    seal(page)
    page.get_by_role("link", name="Prepare", exact=True).first.click()
    mix(page)
    address = print_tags(page, trial)
    give(page, server.ports["scale"])
    start(page)
    rows = page.request.get(f"/api/trials/{trial}/prepared").json()["blocks"]
    assert rows[0]["first_start"] < rows[1]["first_start"]

    phone = visitor(PHONE)
    phone.sign_in("lead@tarnlane.example")
    phone.page.goto(address)
    code = phone.page.locator(".tag.huge .code").inner_text()
    wrong = next(letter for letter in "ZY" if letter != check_letter("999", trial))
    phone.page.get_by_label("Code on the tag").fill(f"999 {wrong}")
    phone.page.get_by_role("button", name="Find it").click()
    expect(phone.page.get_by_role("alert")).to_contain_text(f"letter {wrong} does not go with 999")
    other = next(t for t in page.request.get(f"/api/trials/{trial}/board").json()["tags"] if t["code"] != code)
    phone.page.get_by_label("Code on the tag").fill(f"{other['code']}-{other['check'].lower()}")
    phone.page.get_by_role("button", name="Find it").click()
    expect(phone.page.locator(".tag.huge .code")).to_have_text(other["code"])
    phone.page.get_by_role("link", name="To the board").click()
    expect(phone.page.get_by_role("heading", name=re.compile("dahlias"))).to_be_visible()


def test_somebody_alone_shuffles_and_finds_the_key_again(visitor):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun_again(page, lead.trial(DAHLIAS))
    page.get_by_label("Name of the trial").fill("Dahlias, shuffled")
    seal(page, prepares=False)
    page.goto(f"/trials/{trial}/prepare/shuffle")
    expect(page.get_by_text("Hide the key from yourself")).to_be_visible()
    codes = page.locator("ul .tag .code").all_inner_texts()
    assert len(codes) == 4
    record = page.get_by_role("button", name="Record the shuffle")
    expect(record).to_be_disabled()
    page.get_by_label("All is covered, shuffled and tagged").check()
    record.click()
    expect(page.get_by_text("Shuffled: nobody knows.")).to_be_visible()
    step(page, "Give")
    page.get_by_role("button", name="Show which flask").click()
    expect(page.get_by_role("article").first).to_contain_text("flask")
    for name in NAMES:
        expect(page.get_by_text(name)).to_have_count(0)
    step(page, "Start")
    page.get_by_role("button", name="Start all that wait").click()
    page.get_by_role("button", name="Start the clock").click()
    step(page, "Shuffle")
    for code, letter in zip(codes, "ABCC", strict=True):
        page.get_by_label(f"Letter under {code}").fill(letter)
    page.get_by_role("button", name="The covers are off").click()
    expect(page.get_by_role("alert")).to_contain_text("look again")
    page.get_by_label(f"Letter under {codes[3]}").fill("d")
    page.get_by_role("button", name="The covers are off").click()
    expect(page.get_by_text("The covers are off.")).to_be_visible()
