"""A request of somebody who is signed in: what every door is handed, but for those that are open to all."""

from django.http import HttpRequest

from fieldtally.server.people.models import User


class SignedIn(HttpRequest):
    """A request whose ``user`` is a person: the API turns others away before a door is reached."""

    user: User
