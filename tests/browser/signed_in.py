"""Sign the demo's people in, many times each, without a form: prints the keys of their sessions by address, as JSON."""

import json
import time
from importlib import import_module

import django

MANY = 60


def sessions() -> dict[str, list[str]]:
    """New sessions, as signing in with the password makes them."""
    from django.conf import settings
    from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY

    from fieldtally.server.demo.accounts import PEOPLE
    from fieldtally.server.people.models import User

    store = import_module(settings.SESSION_ENGINE).SessionStore
    made: dict[str, list[str]] = {}
    for user in User.objects.filter(email__in=[one.email for one in PEOPLE]):
        for _ in range(MANY):
            session = store()
            session[SESSION_KEY] = str(user.pk)
            session[BACKEND_SESSION_KEY] = settings.AUTHENTICATION_BACKENDS[0]
            session[HASH_SESSION_KEY] = user.get_session_auth_hash()
            session["account_authentication_methods"] = [
                {"method": "password", "at": time.time(), "email": user.email},
            ]
            session.create()
            made.setdefault(user.email, []).append(session.session_key)
    return made


if __name__ == "__main__":
    django.setup()
    print(json.dumps(sessions()))
