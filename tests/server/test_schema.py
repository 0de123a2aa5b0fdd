"""Whatever is sent to whichever door: no server error, and every answer has the shape that the schema promises."""

import pytest
import schemathesis
from django.core.signals import request_finished, request_started
from django.db import close_old_connections
from django.test import Client
from hypothesis import HealthCheck, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import response_schema_conformance

from fieldtally.server.wsgi import application
from tests.server.conftest import make

pytestmark = pytest.mark.django_db
schema = schemathesis.openapi.from_wsgi("/api/openapi.json", application)
schema.config.phases.coverage.enabled = False
LEAVES = "/api/account/leave"


@schema.include(path_regex="^/api/").exclude(path=LEAVES).parametrize()
@settings(
    max_examples=4,
    deadline=None,
    derandomize=True,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.filter_too_much, HealthCheck.too_slow],
)
def test_no_door_breaks(case, world):
    if "trial_id" in case.path_parameters:
        case.path_parameters["trial_id"] = str(world.trial.pk)
    client: Client = world.clients["lead"]
    cookies = {name: morsel.value for name, morsel in client.cookies.items()}
    headers = {"Accept-Encoding": "identity"}
    case.call_and_validate(cookies=cookies, headers=headers, checks=[not_a_server_error, response_schema_conformance])


@pytest.fixture
def world():
    # All requests of a test share its transaction, which must not be closed between them.
    for signal in (request_started, request_finished):
        signal.disconnect(close_old_connections)
    yield make("running")
    for signal in (request_started, request_finished):
        signal.connect(close_old_connections)
