"""Results of a large trial are worked out by a worker, once however many ask, and anew when something was recorded."""

import pytest
from django_tasks_db.models import DBTaskResult

from fieldtally.server.plan.models import Sample
from fieldtally.server.verdict import results
from fieldtally.server.verdict.models import Result
from tests.server.conftest import make

pytestmark = pytest.mark.django_db


def get(world, capture):
    with capture(execute=True):
        return world.get("lead", "/verdict")


def test_a_large_verdict_is_worked_out_once_and_told_as_it_comes(monkeypatch, django_capture_on_commit_callbacks):
    world = make("opened")
    small = world.get("lead", "/verdict").json()
    Result.objects.all().delete()
    monkeypatch.setattr(results, "AT_ONCE", 0)
    for _ in range(3):
        answer = get(world, django_capture_on_commit_callbacks)
        assert (answer.status_code, answer.json()["under_way"]) == (202, "waiting")
    (task,) = DBTaskResult.objects.filter(task_path__endswith="make_verdict")
    waiting = world.get("lead", "/report.html")
    assert (waiting.status_code, waiting["Refresh"]) == (
        202,
        "2",
    ) and "still being worked out" in waiting.content.decode()
    results.make_verdict.func(*task.args_kwargs["args"])
    whole = get(world, django_capture_on_commit_callbacks)
    assert whole.status_code == 200 and whole.json() == small
    # It is kept: nothing is computed for those who ask after that.
    monkeypatch.setattr(results, "study_of", None)
    assert get(world, django_capture_on_commit_callbacks).json() == small
    assert world.get("lead", "/report.html").status_code == 200


def test_what_is_recorded_afterwards_outdates_it(monkeypatch, django_capture_on_commit_callbacks):
    world = make("opened")
    assert world.get("lead", "/verdict").status_code == 200
    monkeypatch.setattr(results, "AT_ONCE", 0)
    assert get(world, django_capture_on_commit_callbacks).status_code == 200
    code = Sample.objects.filter(trial=world.trial).first().code
    assert world.call("lead", "post", "/aside", {"code": code, "reason": "it had fallen"}).status_code == 204
    assert get(world, django_capture_on_commit_callbacks).status_code == 202
    tasks = DBTaskResult.objects.filter(task_path__endswith="make_verdict")
    results.make_verdict.func(*tasks.latest("enqueued_at").args_kwargs["args"])
    told = get(world, django_capture_on_commit_callbacks).json()
    assert [one["code"] for one in told["samples"] if one["set_aside"]] == [code]


def test_one_that_is_outdated_before_it_is_done_is_given_up(monkeypatch):
    world = make("opened")
    assert world.get("lead", "/verdict").status_code == 200
    row = Result.objects.get(trial=world.trial, part="verdict")
    Result.objects.filter(pk=row.pk).update(key="another", state="waiting", body=b"")
    with pytest.raises(results.Outdated):
        results.work_out(world.trial, row.key)
    assert Result.objects.get(pk=row.pk).body == b""
