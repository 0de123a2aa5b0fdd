"""Publishing a report at an address that nobody guesses, and taking it back."""

from __future__ import annotations

import secrets

from django.utils import timezone

from fieldtally.server.answers import Declined
from fieldtally.server.people.models import Trial, User
from fieldtally.server.share.models import Report


def put_out(trial: Trial, user: User, *, names: bool) -> Report:
    """Publish the report of ``trial``; ``names``: people are named in it.  Where it is out already it keeps its address."""
    kept, _ = Report.objects.get_or_create(trial=trial)
    kept.token = kept.token or secrets.token_urlsafe(24)
    kept.names, kept.published_at, kept.published_by = names, timezone.now(), user
    kept.save()
    return kept


def take_back(trial: Trial) -> None:
    """Take the report back; the old address is then worth nothing."""
    kept, _ = Report.objects.get_or_create(trial=trial)
    kept.token, kept.names, kept.published_at, kept.published_by = "", False, None, None
    kept.save()


def published_report(token: str) -> Report:
    """The report at that address.

    :raises Declined: 404 where there is none, or none any more.
    """
    kept = Report.objects.select_related("trial").filter(token=token).first() if token else None
    if kept is None or kept.trial.opened_at is None:
        raise Declined(404, "There is nothing here: the address is wrong, or what stood here was taken back.")
    return kept
