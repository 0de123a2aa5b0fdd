"""Whether what is in the database may be reached by others."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.checks import Error, Tags, register


def unfit() -> list[str]:
    """What keeps it from being served at a public address: a sentence each.

    The demo's accounts have passwords that all the world knows, and stay when the demo is no longer served.
    """
    import django

    django.setup()
    from fieldtally.server.demo.accounts import PEOPLE
    from fieldtally.server.people.models import User

    if not settings.PLACE.public:
        return []
    known = User.objects.filter(email__in=[one.email for one in PEOPLE], is_active=True).values_list("email", flat=True)
    return [
        f"{one}: an account of the demo, whose password is known to all. Begin with a fresh database."
        for one in sorted(known)
    ]


@register(Tags.security, deploy=True)
def no_demo_accounts(**told: Any) -> list[Error]:
    """``./manage check --deploy`` says so, too."""
    del told
    return [Error(one, id="fieldtally.E001") for one in unfit()]
