"""Accounts, invitations, and what guards them."""

import re
from urllib.parse import unquote

import pytest
from django.conf import settings
from django.core.cache import cache
from django.test import Client

from fieldtally.server.people.models import Mail, Membership, User
from tests.server.conftest import make, signed_in, user

pytestmark = pytest.mark.django_db
AUTH = "/_allauth/browser/v1/auth"


@pytest.fixture(autouse=True)
def fresh_counts():
    cache.clear()


def post(client, address, **body):
    return client.post(address, body, content_type="application/json")


def letter_to(email):
    """The newest letter to that address."""
    return Mail.objects.filter(to=email).order_by("pk").last()


def key_in(letter):
    return unquote(re.search(r"/confirm/(\S+)", letter.text).group(1))


def signs_up(client, email="wren@x.example", password="four dry words here"):
    return post(client, f"{AUTH}/signup", name="Wren Holt", email=email, password=password)


def test_join_sign_out_and_in():
    client = Client()
    joined = signs_up(client)
    assert joined.status_code == 401
    assert client.get("/api/me").status_code == 401
    # Not before the address is confirmed.
    assert post(Client(), f"{AUTH}/login", email="wren@x.example", password="four dry words here").status_code == 401
    letter = letter_to("wren@x.example")
    assert "Hello Wren Holt" in letter.text and letter.text.count(settings.ORIGIN) == 1
    assert post(client, f"{AUTH}/email/verify", key=key_in(letter)).status_code == 200
    assert client.get("/api/me").json()["name"] == "Wren Holt"
    assert client.delete(f"{AUTH}/session").status_code == 401
    assert client.get("/api/me").status_code == 401
    assert post(client, f"{AUTH}/login", email="Wren@X.example", password="four dry words here").status_code == 200
    cookie = client.cookies["sessionid"]
    assert cookie["httponly"]
    assert cookie["samesite"] == "Lax"


def test_joining_does_not_tell_which_addresses_are_known():
    user("target")
    known, fresh = (signs_up(Client(), email) for email in ("target@x.example", "fresh@x.example"))
    assert (known.status_code, known.json()) == (fresh.status_code, fresh.json())
    assert sorted(known.headers) == sorted(fresh.headers)
    assert "an account with it already" in letter_to("target@x.example").text
    assert "/confirm/" not in letter_to("target@x.example").text
    # Whoever tried did not change what is there.
    assert User.objects.get(email="target@x.example").name == "Person target"
    assert post(Client(), f"{AUTH}/login", email="target@x.example", password="a long password").status_code == 200


def test_somebody_elses_letter_signs_nobody_in():
    """The key of a letter confirms the address; it opens the account only where its owner joined."""
    signs_up(Client())
    other = Client()
    assert post(other, f"{AUTH}/email/verify", key=key_in(letter_to("wren@x.example"))).status_code == 401
    assert other.get("/api/me").status_code == 401
    assert post(other, f"{AUTH}/email/verify", key="made-up").status_code == 400


def test_who_holds_an_invitation_need_not_confirm_its_address_again():
    world = make("draft")
    asked = world.call("lead", "post", "/invitations", {"email": "wren@x.example", "role": "viewer"})
    assert asked.status_code in (200, 201, 204)
    token = re.search(r"/invited/(\S+)", letter_to("wren@x.example").text).group(1)
    client = Client()
    client.get(f"/api/invitations/{token}")
    assert signs_up(client, "another@x.example").status_code == 401
    client = Client()
    client.get(f"/api/invitations/{token}")
    assert signs_up(client).status_code == 200
    assert client.get("/api/me").json()["email"] == "wren@x.example"


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"name": "", "email": "a@x.example", "password": "four dry words here"}, "name"),
        ({"name": "A", "email": "not an address", "password": "four dry words here"}, "email"),
        ({"name": "A", "email": "a@x.example", "password": "short"}, "password"),
        ({"name": "A", "email": "a@x.example", "password": "password123"}, "password"),
    ],
)
def test_joining_badly_is_said_at_the_field(body, field):
    answer = post(Client(), f"{AUTH}/signup", **body)
    assert answer.status_code == 400
    assert field in {e["param"] for e in answer.json()["errors"]}
    assert not User.objects.exists()


def test_guessing_passwords_is_slowed_down():
    """After ten wrong guesses from one address not even the right password is looked at from there for a while; and no stranger's guesses
    keep the person out who sits elsewhere."""
    user("target")

    def enter(password, where):
        return post(Client(REMOTE_ADDR=where), f"{AUTH}/login", email="target@x.example", password=password)

    for i in range(10):
        assert enter(f"guess {i}", "10.0.0.66").status_code == 400
    held = enter("a long password", "10.0.0.66")
    assert held.status_code == 400
    assert held.json()["errors"][0]["code"] == "too_many_login_attempts"
    assert enter("a long password", "10.0.0.7").status_code == 200


def test_a_forgotten_password_is_set_anew_by_a_letter():
    user("sleepy")
    client = Client()
    assert post(client, f"{AUTH}/password/request", email="sleepy@x.example").status_code == 200
    assert post(client, f"{AUTH}/password/request", email="nobody@x.example").status_code == 200
    assert not Mail.objects.filter(to="nobody@x.example").exists()
    (letter,) = Mail.objects.filter(to="sleepy@x.example")
    key = re.search(r"/new-password/(\S+)", letter.text).group(1)
    assert letter.text.count(settings.ORIGIN) == 1
    assert post(client, f"{AUTH}/password/reset", key=key, password="brand new words here").status_code in (200, 401)
    assert post(client, f"{AUTH}/password/reset", key=key, password="once more and again").status_code == 400
    assert post(Client(), f"{AUTH}/login", email="sleepy@x.example", password="brand new words here").status_code == 200


def test_an_invitation_gives_its_role_once():
    world = make("draft")
    assert world.call("lead", "post", "/invitations", {"email": "Fern@X.example ", "role": "scorer"}).status_code == 201
    letter = Mail.objects.get()
    token = re.search(r"/invited/(\S+)", letter.text).group(1)
    assert letter.to == "fern@x.example"
    assert "Zebra" not in letter.text + letter.subject
    assert Client().get(f"/api/invitations/{token}").json() == {"invited_by": "Person lead", "role": "scorer"}
    fern = signed_in(user("fern"))
    assert post(fern, f"/api/invitations/{token}").json() == {"trial": str(world.trial.pk)}
    assert Membership.objects.get(user__email="fern@x.example").role == "scorer"
    assert post(signed_in(user("thief")), f"/api/invitations/{token}").status_code == 404
    assert Client().get(f"/api/invitations/{token}").status_code == 404


@pytest.mark.parametrize(
    ("email", "role", "status", "at"),
    [
        ("no address", "scorer", 422, "email"),
        ("a@x.example", "king", 422, "role"),
        ("viewer@x.example", "scorer", 409, "email"),
    ],
)
def test_bad_invitations_are_refused(email, role, status, at):
    answer = make("draft").call("lead", "post", "/invitations", {"email": email, "role": role})
    assert answer.status_code == status
    assert answer.json()["problems"][0]["at"] == at
    assert not Mail.objects.exists()


def second_lead(world, name="second"):
    """Somebody who has taken up an invitation to lead."""
    person = user(name)
    world.call("lead", "post", "/invitations", {"email": person.email, "role": "lead"})
    token = re.search(r"/invited/(\S+)", Mail.objects.get(to=person.email).text).group(1)
    client = signed_in(person)
    assert client.post(f"/api/invitations/{token}").status_code == 200
    return client


def test_two_may_plan_together_and_only_the_one_who_seals_may_choose_to_prepare():
    world = make("draft")
    second = second_lead(world)
    path = f"/api/trials/{world.trial.pk}"
    plan = second.get(f"{path}/plan").json()
    assert plan["may_edit"]
    changed = {**plan["plan"], "why": "we both want to know"}
    kept = second.put(f"{path}/plan", {"plan": changed, "version": 1}, content_type="application/json")
    assert kept.json()["version"] == 2
    stale = world.call("lead", "put", "/plan", {"plan": plan["plan"], "version": 1})
    assert (stale.status_code, world.get("lead", "/plan").json()["plan"]["why"]) == (409, "we both want to know")
    assert world.call("lead", "post", "/seal", {"version": 2, "stay_blind": False}).status_code == 200
    assert world.call("lead", "post", "/key-looks").status_code == 200
    assert second.post(f"{path}/key-looks").status_code == 403


def test_who_comes_to_lead_after_the_seal_stays_blind_and_may_be_taken_out_again():
    world = make("sealed")
    second = second_lead(world)
    assert second.post(f"/api/trials/{world.trial.pk}/key-looks").status_code == 403
    member = next(m for m in world.get("lead", "/people").json()["members"] if m["role"] == "lead" and m["blind"])
    assert world.call("lead", "delete", f"/people/{member['id']}").status_code == 204


def test_people_are_taken_out_but_never_the_lead():
    world = make("running")
    members = {m["role"]: m["id"] for m in world.get("lead", "/people").json()["members"]}
    assert world.call("lead", "delete", f"/people/{members['viewer']}").status_code == 204
    assert world.get("viewer", "/course").status_code == 404
    assert world.call("lead", "delete", f"/people/{members['lead']}").status_code == 409
    assert world.call("scorer", "delete", f"/people/{members['preparer']}").status_code == 403
    sent = world.call("lead", "post", "/invitations", {"email": "z@x.example", "role": "viewer"}).json()
    assert world.get("scorer", "/people").json()["invitations"] == []
    assert world.call("lead", "delete", f"/invitations/{sent['id']}").status_code == 204


def test_a_request_from_another_site_is_not_trusted():
    world = make("running")
    client = signed_in(world.users["lead"], enforce_csrf_checks=True)
    address = f"/api/trials/{world.trial.pk}/key/ask"
    forged = client.post(address, {}, content_type="application/json")
    assert forged.status_code == 403
    client.get("/")
    token = client.cookies["csrftoken"].value
    assert client.post(address, {}, content_type="application/json", HTTP_X_CSRFTOKEN=token).status_code == 200


def test_pages_carry_a_strict_policy_and_no_inline_script():
    page = Client().get("/trials/whatever/verdict")
    policy = page.headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    html = b"".join(page.streaming_content).decode()
    assert all("src=" in tag for tag in re.findall(r"<script[^>]*>", html))
    assert "style=" not in html
    assert page.headers["X-Frame-Options"] == "DENY"
    assert Client().get("/assets/none.js").status_code == 404
    assert Client().get("/api/nothing").status_code == 404


def test_the_mailbox_is_there_in_the_demo_alone(settings):
    assert Client().get("/api/mailbox").status_code == 200
    settings.DEMO = False
    assert Client().get("/api/mailbox").status_code == 404
