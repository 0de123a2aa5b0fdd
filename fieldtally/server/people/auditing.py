"""Writing the audit log, and forgetting it in time."""

from __future__ import annotations

import ipaddress
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from django.conf import settings
from django.utils import timezone

from fieldtally.server.hosting.proxies import VISITOR
from fieldtally.server.people.models import Audited, Happening, User


def audited(what: Happening, person: int | None, trial: UUID | None = None) -> None:
    """Write down that it happened now, from wherever this request comes."""
    try:
        address = str(ipaddress.ip_address(VISITOR.get()))
    except ValueError:
        address = None
    Audited.objects.create(at=timezone.now(), what=what, person=person, trial=trial, address=address)


def forget_old(now: datetime) -> int:
    """Drop what is older than the place keeps it; how many that were."""
    return Audited.objects.filter(at__lt=now - timedelta(days=settings.PLACE.keep_audit)).delete()[0]


def refused(email: str) -> None:
    """Somebody tried to come in as ``email``: that is kept as a number, or as nobody's; the address itself is not."""
    tried = (
        User.objects.filter(email__iexact=email.strip()).values_list("pk", flat=True).first() if email.strip() else None
    )
    audited(Happening.REFUSED, tried)


def listen() -> None:
    """Write down who comes and goes, as the account library tells it."""
    from allauth.account import signals
    from django.contrib.auth.signals import user_logged_out

    signals.user_signed_up.connect(_joined, dispatch_uid="audit-joined")
    signals.user_logged_in.connect(_signed_in, dispatch_uid="audit-signed-in")
    user_logged_out.connect(_signed_out, dispatch_uid="audit-signed-out")
    for one in (signals.password_changed, signals.password_set, signals.password_reset):
        one.connect(_password, dispatch_uid="audit-password")


def _joined(sender: Any, user: User, **told: Any) -> None:
    audited(Happening.JOINED, user.pk)


def _signed_in(sender: Any, user: User, **told: Any) -> None:
    audited(Happening.SIGNED_IN, user.pk)


def _signed_out(sender: Any, user: User | None, **told: Any) -> None:
    if user is not None:
        audited(Happening.SIGNED_OUT, user.pk)


def _password(sender: Any, user: User, **told: Any) -> None:
    audited(Happening.PASSWORD, user.pk)
