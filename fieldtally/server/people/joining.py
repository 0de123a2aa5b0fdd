"""Signing up asks for a name besides address and password; letters come from our own templates."""

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from allauth.socialaccount.adapter import DefaultSocialAccountAdapter
from allauth.socialaccount.models import SocialLogin
from django import forms
from django.conf import settings
from django.http import HttpRequest

from fieldtally.server.people.auditing import refused
from fieldtally.server.people.models import User

INVITED_AS = "invited_as"
"""In a session: the address of the invitation that was opened in it."""


class NameForm(forms.Form):
    """The extra field of the sign-up form."""

    name = forms.CharField(max_length=80, error_messages={"required": "Tell the others what to call you."})

    def signup(self, request: HttpRequest, user: User) -> None:
        """Called by the account library once the account is made."""


class ElsewhereAdapter(DefaultSocialAccountAdapter):  # type: ignore[misc]
    """Accounts of people who sign in elsewhere."""

    def is_open_for_signup(self, request: HttpRequest, sociallogin: SocialLogin) -> bool:
        """Whether somebody who has no account yet may join by it: whoever may, or as everybody else may."""
        return bool(settings.PLACE.oidc_joins or AccountAdapter(request).is_open_for_signup(request))

    def populate_user(self, request: HttpRequest, sociallogin: SocialLogin, data: dict[str, Any]) -> User:
        """Their name as they are called there."""
        user: User = super().populate_user(request, sociallogin, data)
        told = sociallogin.account.extra_data or {}
        told = {**(told.get("id_token") or {}), **(told.get("userinfo") or {}), **told}
        whole = f"{data.get('first_name') or ''} {data.get('last_name') or ''}"
        user.name = " ".join(str(told.get("name") or data.get("name") or whole).split())[:80]
        return user


class AccountAdapter(DefaultAccountAdapter):  # type: ignore[misc]
    """How the account library fills our accounts."""

    def save_user(self, request: HttpRequest, user: User, form: Any, commit: bool = True) -> User:
        """Store the new account with its name."""
        user.name = form.cleaned_data["name"].strip()
        saved: User = super().save_user(request, user, form, commit)
        return saved

    def authentication_failed(self, request: HttpRequest, **credentials: Any) -> None:
        """Write down that somebody tried."""
        refused(str(credentials.get("email") or credentials.get("username") or ""))

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        """Whether whoever asks may join: everybody, or who has opened an invitation in this browser."""
        return bool(settings.PLACE.sign_up == "open" or request.session.get(INVITED_AS))

    def is_email_verified(self, request: HttpRequest, email: str) -> bool:
        """Whether the address needs no letter of its own: its owner came by one that invited them."""
        return bool(email) and request.session.get(INVITED_AS, "").lower() == email.lower()
