"""A place for a society: passkeys, a sign-in of its own, joining by invitation, teams, and who begins trials; as administrators see it."""

import re
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Browser, expect

from tests.browser.conftest import DATABASE, DESK, PASSWORD, PHONE, Server, Visitor, connected, free_port
from tests.browser.views import barriers
from tests.standin_oidc import CLIENT, SECRET, signing_in

LEAD = "lead@tarnlane.example"


@pytest.fixture
def chosen_place(server):
    """The same place with settings of a society: chosen members begin trials, joining is by invitation, a sign-in of its own."""
    with signing_in() as elsewhere:
        port = free_port()
        told = {
            "FT_PORT": str(port),
            "FT_TRIALS": "chosen",
            "FT_SIGN_UP": "invited",
            "FT_OIDC": elsewhere.address,
            "FT_OIDC_CLIENT": CLIENT,
            "FT_OIDC_SECRET": SECRET,
            "FT_OIDC_NAME": "the Growers' Union",
        }
        other = Server(f"http://127.0.0.1:{port}", {**server.environment, **told})
        other.start()
        yield other, elsewhere
        other.process.terminate()
        other.process.wait(20)


def at_desk(browser: Browser, where: Server) -> Visitor:
    return Visitor(browser, where, **DESK)


def lock_of_a_device(visitor: Visitor) -> None:
    """A device whose own lock says yes, and that keeps passkeys."""
    session = visitor.context.new_cdp_session(visitor.page)
    session.send("WebAuthn.enable")
    session.send(
        "WebAuthn.addVirtualAuthenticator",
        {
            "options": {
                "protocol": "ctap2",
                "transport": "internal",
                "hasResidentKey": True,
                "hasUserVerification": True,
                "isUserVerified": True,
                "automaticPresenceSimulation": True,
            }
        },
    )


def signs_in(visitor: Visitor, at: str, email: str = LEAD) -> None:
    page = visitor.page
    page.goto(f"{at}/sign-in")
    page.get_by_label("E-mail").fill(email)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in", exact=True).click()


def test_a_passkey_is_made_signs_in_by_itself_and_after_a_password_and_is_done_away_with(visitor, server):
    # Passkeys are for a name: an address of numbers has none.
    at = f"http://localhost:{urlsplit(server.address).port}"
    person = visitor(PHONE)
    page = person.page
    lock_of_a_device(person)
    signs_in(person, at)
    page.wait_for_url(f"{at}/")
    page.goto(f"{at}/account")
    own = page.get_by_role("region", name="Passkeys")
    own.get_by_role("button", name="Make one on this device").click()
    own.get_by_label("What do you call the device?").fill("Phone in the shed")
    own.get_by_label("Your password").fill("not it")
    own.get_by_role("button", name="Make it").click()
    expect(own.get_by_role("alert")).to_be_visible()
    own.get_by_label("Your password").fill(PASSWORD)
    own.get_by_role("button", name="Make it").click()
    expect(own.get_by_text("Kept. From now on it signs you in by itself.")).to_be_visible()
    expect(own.get_by_text("Phone in the shed")).to_be_visible()
    expect(own.get_by_text("Keep these on paper.")).to_be_visible()
    assert barriers(page) == []

    page.get_by_role("main").get_by_role("button", name="Sign out", exact=True).click()
    expect(page.get_by_role("button", name="Sign in with a passkey")).to_be_visible()
    page.get_by_role("button", name="Sign in with a passkey").click()
    page.wait_for_url(f"{at}/")
    assert page.request.get(f"{at}/api/me").json()["email"] == LEAD

    # A password alone opens nothing any more.
    page.goto(f"{at}/account")
    page.get_by_role("main").get_by_role("button", name="Sign out", exact=True).click()
    signs_in(person, at)
    page.get_by_role("button", name="Use a passkey").click()
    page.wait_for_url(f"{at}/")

    page.goto(f"{at}/account")
    expect(own.get_by_text(re.compile("last used"))).to_be_visible()
    own.get_by_role("button", name=re.compile("Phone in the shed")).click()
    own.get_by_label("Your password").fill(PASSWORD)
    own.get_by_role("button", name="Do away with it").click()
    expect(own.get_by_text("Gone. It opens nothing any more")).to_be_visible()
    page.get_by_role("main").get_by_role("button", name="Sign out", exact=True).click()
    signs_in(person, at)
    page.wait_for_url(f"{at}/")


def test_whoever_the_society_knows_comes_in_and_begins_no_trials_until_they_are_chosen(browser, chosen_place):
    where, elsewhere = chosen_place
    fresh, office = at_desk(browser, where), at_desk(browser, where)
    page = fresh.page
    page.goto("/sign-in")
    expect(page.get_by_role("link", name="Join")).to_have_count(0)
    page.get_by_role("button", name="Sign in with the Growers' Union").click()
    expect(page.get_by_role("heading", name="Your shelf is empty.")).to_be_visible()
    expect(page.get_by_text("Trials are begun here by chosen members")).to_be_visible()
    expect(page.get_by_role("button", name="Begin a trial")).to_have_count(0)
    assert page.request.get("/api/me").json()["name"] == "Ada Fell"

    desk = office.sign_in(LEAD)
    desk.goto("/place")
    members = desk.get_by_role("region", name="Members")
    members.get_by_label("Name or address").fill("Ada")
    members.get_by_role("button", name="Ada Fell may begin trials").click()
    expect(members.get_by_text("begins trials")).to_be_visible()
    assert barriers(desk) == []
    page.reload()
    expect(page.get_by_role("button", name="Begin a trial")).to_be_visible()

    # A team is made, and asked to a trial together.
    desk.get_by_role("button", name="Make a team").click()
    dialog = desk.get_by_role("dialog")
    dialog.get_by_label("Its name").fill("Thursday tasters")
    dialog.get_by_role("button", name="Keep it").click()
    expect(dialog.get_by_role("alert")).to_contain_text("Choose who belongs to it")
    dialog.get_by_label("Add somebody: name or address").fill("Ada")
    dialog.get_by_role("button", name="Ada Fell", exact=True).click()
    dialog.get_by_role("button", name="Keep it").click()
    expect(desk.get_by_role("region", name="Teams").get_by_text("Ada Fell")).to_be_visible()
    assert barriers(desk) == []
    trial = office.trial("Cut dahlias in the vase")
    desk.goto(f"/trials/{trial}/people")
    desk.get_by_label("Or a whole team, to do the same").select_option(label="Thursday tasters, 1 member")
    desk.get_by_role("button", name="Invite the team").click()
    expect(desk.get_by_text("1 was invited.")).to_be_visible()
    assert barriers(desk) == []

    elsewhere.refuses = True
    page.goto("/account")
    page.get_by_role("main").get_by_role("button", name="Sign out", exact=True).click()
    page.get_by_role("button", name="Sign in with the Growers' Union").click()
    expect(page.get_by_role("alert")).to_contain_text("did not let you in here")
    for one in (fresh, office):
        assert one.complaints == []
        one.context.close()


def test_joining_is_by_invitation_alone_and_its_letter_opens_the_door(browser, chosen_place):
    where, _ = chosen_place
    office, guest = at_desk(browser, where), at_desk(browser, where)
    desk = office.sign_in(LEAD)
    trial = office.trial("Cut dahlias in the vase")
    desk.goto(f"/trials/{trial}/people")
    desk.get_by_label("E-mail").fill("guest@fell.example")
    desk.get_by_role("button", name="Send invitation").click()
    expect(desk.get_by_text("invited as scorer, not answered yet").first).to_be_visible()
    page = guest.page
    page.goto("/join")
    expect(page.get_by_text(re.compile("invit", re.IGNORECASE)).first).to_be_visible()
    letters = guest.context.request.get("/api/mailbox").json()
    token = next(one["text"] for one in letters if one["to"] == "guest@fell.example").split("/invited/")[1].split()[0]
    page.goto(f"/invited/{token}")
    page.get_by_role("link", name="Join").click()
    page.get_by_label("Name").fill("Guest of the lane")
    page.get_by_label("E-mail").fill("guest@fell.example")
    page.get_by_label("Password").fill("a long enough password")
    page.get_by_role("button", name="Join").click()
    page.get_by_role("button", name="Take it on as Guest of the lane").click()
    page.wait_for_url(f"**/trials/{trial}**")
    with connected(DATABASE) as connection:
        rows = connection.execute("SELECT count(*) FROM people_user WHERE email = 'guest@fell.example'").fetchone()
    assert rows == (1,)
    for one in (office, guest):
        assert one.complaints == []
        one.context.close()
