"""From a spreadsheet to a verdict in a few taps; a report that is written beside, published, read by a stranger and taken back."""

import openpyxl
from playwright.sync_api import expect

from tests.browser.conftest import PASSWORD, PHONE, put_column
from tests.browser.led import call
from tests.browser.views import barriers
from tests.secondstep import code_of

PEAS = "Soaking peas before sowing"


def spreadsheet(path):
    """Last year's willow water, as somebody keeps it: a title, joined cells, counts out of twenty."""
    book = openpyxl.Workbook()
    page = book.active
    page.append(["Willow water, last year"])
    page.append([])
    page.append(["Pot", "Bench", "Watered with", "Rooted after 2 weeks", "Root length (cm)"])
    for bench, shift in (("East", 0), ("West", 1)):
        for watered, rooted, long in (("Tap", 8, 3.1), ("Willow water", 15, 5.2)):
            for n in range(4):
                page.append(
                    [
                        len(list(page.rows)) - 2,
                        bench,
                        watered if n == 0 else None,
                        f"{rooted + n % 3 + shift}/20",
                        long + 0.3 * n,
                    ]
                )
    book.save(path)
    return path


def test_a_spreadsheet_is_dropped_in_a_mapping_mended_and_a_verdict_read(visitor, tmp_path):
    person = visitor()
    page = person.sign_in("viewer@tarnlane.example")
    page.goto("/")
    page.get_by_role("main").get_by_role("link", name="Bring in results").click()
    page.locator("input[type=file]").set_input_files(spreadsheet(tmp_path / "willow.xlsx"))
    expect(page.get_by_role("heading", name="willow.xlsx")).to_be_visible()
    # “Watered with” is no word for a treatment that it knows, so it is told which column that is.
    put_column(page, "Watered with", "What it got")
    expect(page.get_by_text("2 treatments on 16 samples in 2 blocks, 32 readings.")).to_be_visible()
    put_column(page, "Bench", "Not used")
    expect(page.get_by_text("2 treatments on 16 samples, 32 readings.")).to_be_visible()
    put_column(page, "Bench", "Where it stands")
    page.get_by_label("The control is").select_option("Tap")
    expect(page.get_by_text("12 empty cells of “Watered with”")).to_be_visible()
    page.get_by_label("Call the trial").fill("Willow water")
    page.get_by_label("Call the trial").press("Tab")
    assert barriers(page) == []
    page.get_by_role("button", name="Bring it in and read the verdict").click()
    page.get_by_role("button", name="Read the verdict", exact=True).click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Willow water did best on rooted")
    expect(page.get_by_text("Brought in from a table: nobody recorded whether scoring was blind.")).to_be_visible()
    expect(page.get_by_text("That this was foreseen: the plan was made afterwards")).to_be_visible()


def test_a_file_that_is_no_table_says_so_and_copies_are_asked_about(visitor, tmp_path):
    page = visitor(PHONE).sign_in("viewer@tarnlane.example")
    page.goto("/bring")
    (tmp_path / "x.csv").write_bytes(b"%PDF-1.7 no table")
    page.locator("input[type=file]").set_input_files(tmp_path / "x.csv")
    expect(page.get_by_text("This is no table")).to_be_visible()
    (tmp_path / "y.csv").write_text("treatment,cm\na,1\na,1\na,2\nb,3\nb,4\nb,5\n")
    page.locator("input[type=file]").set_input_files(tmp_path / "y.csv")
    expect(page.get_by_text("1 rows are there twice")).to_be_visible()
    expect(page.get_by_text("It is the same as row 2")).to_be_visible()
    page.get_by_role("button", name="Samples alike: keep them").click()
    expect(page.get_by_text("2 treatments on 6 samples, 6 readings.")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")


def test_a_report_is_written_beside_published_read_and_taken_back(visitor):
    lead, stranger = visitor(), visitor(PHONE)
    page = lead.sign_in("lead@tarnlane.example")
    trial = lead.trial(PEAS)
    page.goto(f"/trials/{trial}/share")
    page.get_by_text("Write beside it, choose photos").click()
    page.get_by_label("What it showed").fill("We sow the soaked ones from now on.")
    page.get_by_role("button", name="Keep what I wrote").click()
    expect(page.get_by_text("Kept.")).to_be_visible()
    page.get_by_role("button", name="Publish it").click()
    address = page.get_by_role("region", name="Report").locator("a[href*='/p/']").inner_text()
    assert barriers(page) == []
    reader = stranger.page
    reader.goto(address)
    expect(reader.get_by_role("heading", name=PEAS)).to_be_visible()
    assert "did best" not in reader.get_by_role("main").inner_text()
    reader.get_by_role("button", name="Plain water").click()
    # Before any number a line-up, which a reader may pass over.
    expect(reader.get_by_role("group", name="Pictures").get_by_role("radio")).to_have_count(20)
    reader.get_by_role("button", name="Read on without picking").click()
    expect(reader.get_by_text("did best on seeds sprouted")).to_be_visible()
    expect(reader.get_by_role("link", name="As PDF")).to_be_visible()
    expect(reader.get_by_text("you too")).to_be_visible()
    assert barriers(reader) == []
    reader.get_by_role("link", name="Read the whole report").click()
    expect(reader.get_by_text("We sow the soaked ones from now on.")).to_be_visible()
    assert "Maren" not in reader.content()
    assert barriers(reader) == []
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_role("button", name="Publish it")).to_be_visible()
    reader.goto(address)
    expect(reader.get_by_text("what stood here was taken back")).to_be_visible()


def test_a_trial_goes_out_as_a_pack_and_comes_back(visitor, tmp_path):
    lead = visitor()
    page = lead.sign_in("lead@tarnlane.example")
    page.goto(f"/trials/{lead.trial(PEAS)}/share")
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save the pack").click()
    saved.value.save_as(tmp_path / "peas.zip")
    page.goto("/bring")
    page.locator("input[type=file]").set_input_files(tmp_path / "peas.zip")
    page.get_by_role("button", name="Open the trial").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("did best on seeds sprouted")
    page.goto("/known")
    page.get_by_label("About a treatment").fill("seaweed")
    page.get_by_role("button", name="Look").click()
    expect(page.get_by_text("first in 2 of 2")).to_be_visible()


def test_two_years_of_one_question_are_taken_together(visitor, tmp_path):
    page = visitor().sign_in("preparer@tarnlane.example")
    for year, more in (("one.csv", 0.0), ("two.csv", 0.4)):
        rows = [f"{'Tap' if i % 2 else 'Willow'},{5 + (0 if i % 2 else 2) + more + i / 20:.2f}" for i in range(12)]
        (tmp_path / year).write_text("treatment,root length (cm)\n" + "\n".join(rows) + "\n")
        page.goto("/bring")
        page.locator("input[type=file]").set_input_files(tmp_path / year)
        page.get_by_role("button", name="Bring it in and read the verdict").click()
        # The worker may have verdicts to work out first.
        expect(page.get_by_text("It is in.")).to_be_visible()
    page.goto("/known")
    page.get_by_role("button", name="Take them together").click()
    expect(page.get_by_text("Over 2 trials Tap lies 1.95 cm below Willow")).to_be_visible()
    expect(page.get_by_text("the trials agree")).to_be_visible()
    assert barriers(page) == []


def test_a_token_is_made_used_and_revoked(visitor):
    person = visitor()
    page = person.sign_in("viewer@tarnlane.example")
    page.goto("/account")
    page.get_by_label("What it is for").fill("Shed computer")
    page.get_by_role("button", name="Make a token").click()
    token = page.get_by_role("status").locator(".code").inner_text()
    plain = visitor()
    header = {"Authorization": f"Bearer {token}"}
    assert plain.context.request.get("/api/me", headers=header).json()["email"] == "viewer@tarnlane.example"
    page.get_by_role("button", name="Revoke").click()
    expect(page.get_by_role("button", name="Revoke")).to_have_count(0)
    assert plain.context.request.get("/api/me", headers=header).status == 401
    assert call(person, "GET", "/api/tokens") == {"tokens": []}


def test_a_password_is_changed_by_whoever_knows_the_old_one(visitor, passwords):
    page = visitor().sign_in("viewer@tarnlane.example")
    page.goto("/account")
    page.get_by_label("Password so far").fill("not this one")
    page.get_by_label("New password").fill("a quiet hedge in March")
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_role("alert")).to_be_visible()
    page.get_by_label("Password so far").fill(PASSWORD)
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_text("You stay signed in here.")).to_be_visible()
    visitor().sign_in("viewer@tarnlane.example", "a quiet hedge in March")


def test_a_receipt_is_taken_and_holds_while_the_record_grows(visitor, tmp_path):
    scorer = visitor()
    page = scorer.sign_in("scorer@tarnlane.example")
    trial = scorer.trial(PEAS)
    page.goto(f"/trials/{trial}/share")
    with page.expect_download() as coming:
        page.get_by_role("link", name="Take a receipt").click()
    path = tmp_path / "receipt.json"
    coming.value.save_as(path)
    part = page.locator("div", has=page.get_by_role("heading", name="A receipt")).last
    part.get_by_label("A receipt from a file").or_(part.locator("input[type=file]")).first.set_input_files(path)
    expect(part.get_by_role("status")).to_contain_text("It holds: nothing up to entry")
    part.get_by_label("Check a receipt").fill("f" * 64)
    part.get_by_role("button", name="Check it").click()
    expect(part.get_by_role("status")).to_contain_text("It does not hold")
    part.get_by_label("Check a receipt").fill("not a receipt")
    part.get_by_role("button", name="Check it").click()
    expect(part).to_contain_text("it names no link of 64 hexadecimal digits")
    assert barriers(page) == []


def test_somebody_signs_in_in_two_steps_with_codes_on_paper_and_turns_it_off_again(visitor):
    one = visitor(PHONE)
    page = one.sign_in("viewer@tarnlane.example")
    page.goto("/account")
    steps = page.get_by_role("region", name="Two steps")
    steps.get_by_role("button", name="Set it up").click()
    steps.get_by_label("Your password").fill("not it at all")
    steps.get_by_role("button", name="Go on").click()
    expect(steps.get_by_role("alert")).to_be_visible()
    steps.get_by_label("Your password").fill(PASSWORD)
    steps.get_by_role("button", name="Go on").click()
    expect(steps.get_by_alt_text("A square that holds the key for your app")).to_be_visible()
    assert barriers(page) == [] and page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    steps.get_by_label("The code it shows now").fill("12")
    steps.get_by_role("button", name="Turn it on").click()
    expect(steps.get_by_role("alert")).to_be_visible()
    steps.get_by_label("The code it shows now").fill(code_of(steps.locator(".code").first.inner_text()))
    steps.get_by_role("button", name="Turn it on").click()
    expect(steps.get_by_text("Keep these on paper")).to_be_visible()
    codes = steps.get_by_role("status").get_by_role("listitem").all_inner_texts()
    assert len(codes) == 10 and barriers(page) == []
    again = visitor(PHONE).page
    again.goto("/sign-in")
    again.get_by_label("E-mail").fill("viewer@tarnlane.example")
    again.get_by_label("Password").fill(PASSWORD)
    again.get_by_role("button", name="Sign in").click()
    again.get_by_label("Code").fill("000 000")
    again.get_by_role("button", name="Sign in").click()
    expect(again.get_by_role("alert")).to_be_visible()
    again.get_by_label("Code").fill(codes[0])
    again.get_by_role("button", name="Sign in").click()
    again.wait_for_url("**/")
    again.goto("/account")
    steps = again.get_by_role("region", name="Two steps")
    expect(steps.get_by_text("9 of the codes on paper are left")).to_be_visible()
    steps.get_by_role("button", name="Turn it off").click()
    steps.get_by_label("Your password").fill(PASSWORD)
    steps.get_by_role("button", name="Go on").click()
    expect(steps.get_by_text("Your password alone signs you in now.")).to_be_visible()
