"""The log, a page at a time: every line once, in order, down to where it begins."""

from importlib import import_module
from itertools import pairwise

import pytest

from tests.server.conftest import make, score

pytestmark = pytest.mark.django_db
log_door = import_module("fieldtally.server.log.api.log")


def pages(world, role):
    found, before = [], ""
    for _ in range(50):
        page = world.clients[role].get(f"/api/trials/{world.trial.pk}/log", {"before": before}).json()
        found.append(page["entries"])
        if page["earlier"] is None:
            return found
        before = page["earlier"]
    raise AssertionError("The log has no end.")


@pytest.mark.parametrize("role", ["lead", "scorer"])
def test_every_line_stands_on_one_page(role, monkeypatch):
    world = make("running")
    score(world, "c-2")
    world.call("lead", "post", "/notes", {"text": "it hailed"})
    whole = pages(world, role)
    assert len(whole) == 1
    # All readings of a round are stored in one moment: pages are parted inside it, and nothing is lost or told twice.
    monkeypatch.setattr(log_door, "MOST_SHOWN", 7)
    parted = pages(world, role)
    assert len(parted) > 5

    def told(entries):
        return sorted(str(sorted((k, str(v)) for k, v in one.items())) for one in entries)

    assert told([one for page in parted for one in page]) == told(whole[0])
    for page in parted:
        assert all(a["at"] >= b["at"] for a, b in pairwise(page))


@pytest.mark.parametrize("before", ["soon", "2026-01-01T00:00:00 x", "2026-01-01T00:00:00", " ", "9999-99-99"])
def test_what_is_no_page_is_the_newest_one(before):
    world = make("running")
    page = world.clients["lead"].get(f"/api/trials/{world.trial.pk}/log", {"before": before})
    assert page.status_code == 200
    assert len(page.json()["entries"]) > 12
