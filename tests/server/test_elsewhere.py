"""Signing in by a sign-in of the place's own (OpenID Connect), there and back."""

from urllib.parse import urlsplit

import httpx
import pytest
from django.conf import settings as ours
from django.test import Client

from fieldtally.server.people.models import Audited, User
from fieldtally.server.settings import PLACE
from fieldtally.server.share.erasing import erase
from tests.server.conftest import user
from tests.standin_oidc import CLIENT, SECRET, signing_in

pytestmark = pytest.mark.django_db
GO = "/_allauth/browser/v1/auth/provider/redirect"


@pytest.fixture
def elsewhere(settings):
    with signing_in() as place:
        app = {
            "provider_id": ours.ELSEWHERE,
            "name": "the Society",
            "client_id": CLIENT,
            "secret": SECRET,
            "settings": {"server_url": place.address},
        }
        settings.SOCIALACCOUNT_PROVIDERS = {"openid_connect": {"OAUTH_PKCE_ENABLED": True, "APPS": [app]}}
        settings.PLACE = PLACE.model_copy(update={"oidc": place.address, "oidc_name": "the Society"})
        yield place


def came_by(client: Client, to: str = "/sign-in?back=1"):
    """There and back; where that leads."""
    sent = client.post(GO, {"provider": ours.ELSEWHERE, "process": "login", "callback_url": to})
    assert sent.status_code == 302, sent.content
    back = urlsplit(httpx.get(sent["Location"], follow_redirects=False).headers["Location"])
    return client.get(f"{back.path}?{back.query}")


def test_whoever_it_knows_joins_and_comes_back_as_the_same(elsewhere):
    client = Client()
    assert client.get("/api/doorstep").json()["elsewhere"] == "the Society"
    came = came_by(client)
    assert came.status_code == 302 and came["Location"].endswith("/sign-in?back=1")
    told = client.get("/api/me").json()
    assert (told["name"], told["email"]) == ("Ada Fell", "ada@fell.example")
    again = Client()
    came_by(again)
    assert again.get("/api/me").json()["id"] == told["id"]
    assert User.objects.count() == 1
    assert Audited.objects.filter(what="signed_in", person=told["id"]).exists()


def test_a_confirmed_address_is_its_owners_account_and_an_unconfirmed_one_is_nobodys(elsewhere):
    known = user("ada")
    elsewhere.who["email"] = known.email
    client = Client()
    came_by(client)
    assert client.get("/api/me").json()["id"] == known.pk
    elsewhere.who.update(sub="78", email_verified=False)
    thief = Client()
    came_by(thief)
    assert thief.get("/api/me").status_code == 401
    assert User.objects.count() == 1


def test_where_it_does_not_let_anybody_join_only_members_come_in(elsewhere, settings):
    settings.PLACE = settings.PLACE.model_copy(update={"oidc_joins": False, "sign_up": "invited"})
    client = Client()
    came_by(client)
    assert client.get("/api/me").status_code == 401
    assert not User.objects.exists()


def test_a_refusal_leads_back_to_signing_in_with_a_word(elsewhere):
    elsewhere.refuses = True
    client = Client()
    came = came_by(client)
    assert came.status_code == 302
    assert urlsplit(came["Location"]).path == "/sign-in" and "back=" in came["Location"]
    assert client.get("/api/me").status_code == 401


def test_nothing_comes_of_a_made_up_way_back(elsewhere):
    client = Client()
    made_up = client.get(f"/signed-in/{ours.ELSEWHERE}/login/callback/?code=1&state=2")
    assert made_up.status_code < 500
    assert client.get("/api/me").status_code == 401
    assert client.get("/signed-in/nowhere/login/callback/?code=1&state=2").status_code in (302, 404)
    # Only a page of ours is led to afterwards.
    sent = client.post(GO, {"provider": ours.ELSEWHERE, "process": "login", "callback_url": "https://evil.example/"})
    assert "evil" not in sent.get("Location", "") and client.get("/api/me").status_code == 401


def test_whoever_leaves_for_good_is_known_there_no_longer(elsewhere):
    client = Client()
    came_by(client)
    person = User.objects.get()
    erase(person, person.email)
    came_by(Client())
    assert User.objects.filter(email="ada@fell.example").count() == 1
    assert User.objects.count() == 2
