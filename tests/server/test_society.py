"""A place for a society: who begins trials, teams that are invited together, and what only administrators may change."""

import pytest
from django.test import Client, override_settings

from fieldtally.core.problems import Refused
from fieldtally.core.trialpack.reading import read_pack
from fieldtally.server.answers import Declined
from fieldtally.server.people.models import Audited, Invitation, Mail, Membership, Team, User
from fieldtally.server.plan.services import begin
from fieldtally.server.prepare.queries import tools_of
from fieldtally.server.settings import PLACE
from fieldtally.server.share.erasing import erase
from fieldtally.server.share.pack_reader import bring_in
from tests.server.conftest import PLAN, make, signed_in, user
from tests.server.test_packs import packed

pytestmark = pytest.mark.django_db
CHOSEN = override_settings(PLACE=PLACE.model_copy(update={"trials": "chosen"}))


def administrator() -> tuple[User, Client]:
    person = user("head")
    User.objects.filter(pk=person.pk).update(administers=True)
    person.refresh_from_db()
    return person, signed_in(person)


def sent(client: Client, method: str, path: str, body=None):
    return getattr(client, method)(f"/api{path}", body, content_type="application/json")


def test_where_members_are_chosen_only_they_and_administrators_begin_or_bring_in_trials():
    world = make("opened")
    pack = packed(world.trial)
    head, office = administrator()
    person = user("Ada")
    client = signed_in(person)
    with CHOSEN:
        assert client.get("/api/me").json()["may_begin"] is False
        for path, body in (
            ("/trials", {"title": "Mine", "zone": "UTC"}),
            ("/methods/trial", {"text": "a,b\n1,2\n2,3\n3,5", "title": "Strips"}),
        ):
            refused = sent(client, "post", path, body)
            assert refused.status_code == 403, path
            assert "chosen members" in refused.json()["problems"][0]["says"]
        with pytest.raises(Declined):
            begin(person, PLAN)
        with pytest.raises(Refused, match="chosen members"):
            bring_in(read_pack(pack), person)
        assert office.get("/api/place").json()["chosen"] is True
        assert sent(office, "post", "/trials", {"title": "Ours", "zone": "UTC"}).status_code == 201
        assert sent(office, "post", f"/place/members/{person.pk}", {"begins_trials": True}).status_code == 204
        assert client.get("/api/me").json()["may_begin"] is True
        assert sent(client, "post", "/trials", {"title": "Mine", "zone": "UTC"}).status_code == 201
        told = office.get("/api/place/members", {"sought": "ada"}).json()["members"][0]
        assert told["begins_trials"] and told["on"]
        assert sent(office, "post", f"/place/members/{person.pk}", {"begins_trials": False}).status_code == 204
        assert sent(client, "post", "/trials", {"title": "Mine", "zone": "UTC"}).status_code == 403
    assert [one.what for one in Audited.objects.filter(person=person.pk, what__startswith="may")] == [
        "may_not_begin",
        "may_begin",
    ]
    assert sent(client, "post", "/trials", {"title": "Everybody again", "zone": "UTC"}).status_code == 201
    assert head.administers


def test_a_team_is_kept_by_administrators_and_invited_by_who_leads():
    world = make("draft")
    _, office = administrator()
    three = [user(name) for name in ("Ada", "Ben", "Cleo")]
    made = sent(office, "post", "/place/teams", {"name": " Thursday  tasters ", "members": [one.pk for one in three]})
    assert made.status_code == 201
    (team,) = made.json()
    assert team["name"] == "Thursday tasters" and len(team["members"]) == 3
    for body, at in (
        ({"name": "", "members": [three[0].pk]}, "name"),
        ({"name": "thursday TASTERS", "members": [three[0].pk]}, "name"),
        ({"name": "Nobody", "members": [0, -1, 10**30]}, "members"),
        ({"name": "Crowd", "members": list(range(600))}, "members"),
    ):
        refused = sent(office, "post", "/place/teams", body)
        assert (refused.status_code, refused.json()["problems"][0]["at"]) == (422, at)
    for method, path in (("get", "/place/teams"), ("post", "/place/teams"), ("delete", f"/place/teams/{team['id']}")):
        assert sent(world.clients["lead"], method, path, {"name": "x", "members": []}).status_code == 404

    lead = world.clients["lead"]
    assert world.get("lead", "/people").json()["teams"] == [{"id": team["id"], "name": "Thursday tasters", "many": 3}]
    assert world.get("scorer", "/people").json()["teams"] == []
    Membership.objects.create(trial=world.trial, user=three[0], role="viewer")
    before = Mail.objects.count()
    asked = world.call("lead", "post", "/invitations/team", {"team": team["id"], "role": "scorer"})
    assert asked.status_code == 201
    assert (asked.json()["invited"], asked.json()["already"], asked.json()["links"]) == (2, 1, [])
    assert Mail.objects.count() == before + 2
    again = world.call("lead", "post", "/invitations/team", {"team": team["id"], "role": "scorer"}).json()
    assert (again["invited"], again["already"]) == (0, 3)
    assert Invitation.objects.filter(trial=world.trial).count() == 2
    assert world.call("scorer", "post", "/invitations/team", {"team": team["id"], "role": "scorer"}).status_code == 403
    gone = world.call("lead", "post", "/invitations/team", {"team": 999_999, "role": "scorer"})
    assert gone.status_code == 422 and gone.json()["problems"][0]["at"] == "team"

    changed = sent(office, "put", f"/place/teams/{team['id']}", {"name": "Tasters", "members": [three[1].pk]})
    assert [one["name"] for one in changed.json()[0]["members"]] == ["Person Ben"]
    assert sent(office, "put", "/place/teams/999999", {"name": "No", "members": [three[1].pk]}).status_code == 404
    assert sent(office, "delete", f"/place/teams/{team['id']}").status_code == 204
    assert sent(office, "delete", f"/place/teams/{team['id']}").status_code == 404
    assert lead.get("/api/me").status_code == 200


def test_nobody_is_invited_where_one_of_a_team_cannot_be():
    world = make("draft")
    team = Team.objects.create(name="All")
    team.members.set([user("Ada"), user("Ben")])
    wrong = world.call("lead", "post", "/invitations/team", {"team": team.pk, "role": "king"})
    assert wrong.status_code == 422
    assert not Invitation.objects.filter(trial=world.trial).exists()


def test_whoever_leaves_for_good_leaves_their_teams():
    person = user("Ada")
    team = Team.objects.create(name="All")
    team.members.set([person])
    erase(person, person.email)
    assert not team.members.exists()


LEAF = {"name": "Leaf", "scale": {"kind": "percent", "what": "green"}, "better": "more", "margin": 5}


def test_scales_and_places_are_lent_to_everybody_and_taken_away_by_who_lent_them():
    ada, ben = user("Ada"), user("Ben")
    one, other = signed_in(ada), signed_in(ben)
    kept = sent(one, "post", "/scales/shared", {"name": " Leaf  health ", "attributes": [LEAF]})
    assert kept.status_code == 201 and kept.json()["name"] == "Leaf health"
    found = other.get("/api/scales").json()
    assert found["templates"][0]["attributes"][0]["scale"]["what"] == "green"
    assert found["templates"][0]["serves"] == "kept for everybody here by Person Ada"
    assert found["mine"] == [] and one.get("/api/scales").json()["mine"] == [found["templates"][0]["key"]]
    for body, status in (
        ({"name": "", "attributes": [LEAF]}, 422),
        ({"name": "None", "attributes": []}, 422),
        ({"name": "Leaf health", "attributes": [LEAF]}, 409),
        ({"name": "Odd", "attributes": [{"name": "x", "scale": {"kind": "nonsense"}}]}, 422),
    ):
        assert sent(other, "post", "/scales/shared", body).status_code == status, body
    thing = found["templates"][0]["key"].removeprefix("shared-")
    assert sent(other, "delete", f"/scales/shared/{thing}").status_code == 404
    assert sent(one, "delete", f"/scales/shared/{thing}").status_code == 204

    places = [{"name": "Bed 1", "note": "sunny"}, {"name": " ", "note": ""}, {"name": "Bed 2"}]
    lent = sent(one, "post", "/sites", {"name": "The two beds", "places": places}).json()
    assert [part["name"] for part in lent[0]["places"]] == ["Bed 1", "Bed 2"] and lent[0]["mine"]
    assert other.get("/api/sites").json()[0]["mine"] is False
    assert sent(other, "delete", f"/sites/{lent[0]['id']}").status_code == 404
    _, office = administrator()
    assert sent(office, "delete", f"/sites/{lent[0]['id']}").json() == []
    assert sent(one, "post", "/sites", {"name": "Nowhere", "places": [{"name": " "}]}).status_code == 422


def test_a_tool_that_hangs_there_for_everybody_measures_for_all_and_is_its_owners():
    ada, ben = user("Ada"), user("Ben")
    one, other = signed_in(ada), signed_in(ben)
    mine = sent(one, "post", "/tools", {"text": "shared syringe: 1 mL by 0.01 mL", "shared": True}).json()["tools"]
    assert [(tool["shared"], tool["mine"]) for tool in mine] == [(True, True)]
    sent(one, "post", "/tools", {"text": "own spoon: 5 mL by 5 mL"})
    theirs = other.get("/api/tools").json()["tools"]
    assert [(tool["name"], tool["mine"]) for tool in theirs] == [("shared syringe", False)]
    assert [tool.name for tool in tools_of(ben)] == ["shared syringe"]
    assert sent(other, "delete", f"/tools/{theirs[0]['id']}").status_code == 404
    hidden = next(tool for tool in one.get("/api/tools").json()["tools"] if not tool["shared"])
    _, office = administrator()
    assert sent(office, "delete", f"/tools/{hidden['id']}").status_code == 404
    assert sent(office, "delete", f"/tools/{theirs[0]['id']}").status_code == 200
    assert other.get("/api/tools").json()["tools"] == []
