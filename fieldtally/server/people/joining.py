"""Signing up asks for a name besides address and password; letters come from our own templates."""

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from django import forms
from django.http import HttpRequest

from fieldtally.server.people.models import User

INVITED_AS = "invited_as"
"""In a session: the address of the invitation that was opened in it."""


class NameForm(forms.Form):
    """The extra field of the sign-up form."""

    name = forms.CharField(max_length=80, error_messages={"required": "Tell the others what to call you."})

    def signup(self, request: HttpRequest, user: User) -> None:
        """Called by the account library once the account is made."""


class AccountAdapter(DefaultAccountAdapter):  # type: ignore[misc]
    """How the account library fills our accounts."""

    def save_user(self, request: HttpRequest, user: User, form: Any, commit: bool = True) -> User:
        """Store the new account with its name."""
        user.name = form.cleaned_data["name"].strip()
        saved: User = super().save_user(request, user, form, commit)
        return saved

    def is_email_verified(self, request: HttpRequest, email: str) -> bool:
        """Whether the address needs no letter of its own: its owner came by one that invited them."""
        return bool(email) and request.session.get(INVITED_AS, "").lower() == email.lower()
