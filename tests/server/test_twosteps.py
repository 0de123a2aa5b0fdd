"""Signing in in two steps, as a browser does it."""

import pytest
from allauth.mfa.models import Authenticator
from django.test import Client

from fieldtally.server.people.models import Audited, Happening
from tests.secondstep import code_of
from tests.server.conftest import signed_in, user

pytestmark = pytest.mark.django_db
AT = "/_allauth/browser/v1"
PASSWORD = "a long password"


def ask(client, method, path, **body):
    if not body:
        return getattr(client, method)(f"{AT}{path}")
    return getattr(client, method)(f"{AT}{path}", body, content_type="application/json")


def set_up():
    """Somebody with a second step: they, the key of their app, and their codes on paper."""
    person = user("careful")
    client = signed_in(person)
    # Setting it up asks for the password first, however one came in.
    assert ask(client, "post", "/account/authenticators/totp", code="000000").status_code in (400, 401)
    assert ask(client, "post", "/auth/reauthenticate", password="not it").status_code == 400
    assert ask(client, "post", "/auth/reauthenticate", password=PASSWORD).status_code == 200
    secret = client.get(f"{AT}/account/authenticators/totp").json()["meta"]["secret"]
    assert ask(client, "post", "/account/authenticators/totp", code="000000").status_code == 400
    done = ask(client, "post", "/account/authenticators/totp", code=code_of(secret))
    assert done.status_code == 200, done.json()
    codes = client.get(f"{AT}/account/authenticators/recovery-codes").json()["data"]["unused_codes"]
    return person, client, secret, codes


def test_the_password_alone_opens_nothing_once_a_second_step_is_set_up():
    person, _, _, codes = set_up()
    assert len(codes) == 10
    fresh = Client()
    first = ask(fresh, "post", "/auth/login", email=person.email, password=PASSWORD)
    assert first.status_code == 401
    assert {"id": "mfa_authenticate", "is_pending": True}.items() <= next(
        flow for flow in first.json()["data"]["flows"] if flow["id"] == "mfa_authenticate"
    ).items()
    assert fresh.get("/api/me").status_code == 401
    assert ask(fresh, "post", "/auth/2fa/authenticate", code="123").status_code == 400
    assert fresh.get("/api/me").status_code == 401
    # The code that set it up is used; the next one is another half minute's, or one of those on paper.
    assert ask(fresh, "post", "/auth/2fa/authenticate", code=codes[0]).status_code == 200
    assert fresh.get("/api/me").json()["email"] == person.email
    # Each of those opens once.
    again = Client()
    ask(again, "post", "/auth/login", email=person.email, password=PASSWORD)
    assert ask(again, "post", "/auth/2fa/authenticate", code=codes[0]).status_code == 400


def test_the_key_of_an_app_is_kept_so_that_the_database_alone_does_not_tell_it(settings):
    person, _, secret, _ = set_up()
    kept = Authenticator.objects.get(user=person, type="totp")
    assert secret not in str(kept.data) and kept.wrap().validate_code("000000") is False
    settings.SECRET_KEY = "another place's secret, with which nothing here was kept"
    assert kept.wrap().validate_code(code_of(secret)) is False


def test_it_is_taken_away_with_the_password_and_both_are_in_the_audit_log(django_capture_on_commit_callbacks):
    with django_capture_on_commit_callbacks(execute=True):
        person, client, _, _ = set_up()
    assert ask(client, "delete", "/account/authenticators/totp").status_code == 200
    assert not Authenticator.objects.filter(user=person, type="totp").exists()
    assert ask(Client(), "post", "/auth/login", email=person.email, password=PASSWORD).status_code == 200
    told = list(Audited.objects.filter(person=person.pk).values_list("what", flat=True))
    assert Happening.SECOND_STEP in told and Happening.NO_SECOND_STEP in told


def test_a_square_is_drawn_for_a_second_step_and_for_nothing_else():
    client = signed_in(user("careful"))
    drawn = client.post("/api/account/square", {"text": "otpauth://totp/x?secret=ABC"}, content_type="application/json")
    assert drawn.json()["picture"].startswith("data:image/svg+xml")
    refused = client.post("/api/account/square", {"text": "https://elsewhere.example"}, content_type="application/json")
    assert refused.status_code == 422


def test_who_leaves_takes_their_second_step_along():
    person, client, _, _ = set_up()
    left = client.post("/api/account/leave", {"email": person.email}, content_type="application/json")
    assert left.status_code == 204 and not Authenticator.objects.filter(user=person).exists()
