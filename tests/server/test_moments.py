"""What the database tells of a moment is what the core tells of it."""

from datetime import UTC, datetime, timedelta, timezone

import pytest
from django.db.models import DateTimeField, Value

from fieldtally.core.blinding.chain import moment
from fieldtally.server.moments import Epoch, Iso
from fieldtally.server.people.models import User

from .conftest import user

pytestmark = pytest.mark.django_db
MOMENTS = [
    datetime(2027, 3, 4, 9, 0, tzinfo=UTC),
    datetime(2027, 3, 4, 9, 0, 0, 120_000, tzinfo=UTC),
    datetime(2027, 3, 28, 1, 30, 59, 999_999, tzinfo=timezone(timedelta(hours=5, minutes=30))),
    datetime(1969, 12, 31, 23, 59, 59, 1, tzinfo=UTC),
    datetime(2038, 1, 20, tzinfo=UTC),
]


@pytest.mark.parametrize("at", MOMENTS)
def test_the_same_to_the_microsecond(at):
    user("anybody")
    given = Value(at, output_field=DateTimeField())
    told, seconds = User.objects.annotate(told=Iso(given), seconds=Epoch(given)).values_list("told", "seconds").get()
    assert told == moment(at)
    assert datetime.fromtimestamp(seconds, UTC) == at
