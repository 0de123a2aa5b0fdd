"""Signing in in two steps: how the account library keeps what a second step is checked by."""

from __future__ import annotations

import base64
from functools import cache
from typing import Any

from allauth.mfa import signals
from allauth.mfa.adapter import DefaultMFAAdapter
from allauth.mfa.models import Authenticator
from cryptography.fernet import Fernet, InvalidToken
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF
from django.conf import settings

from fieldtally.server.people.auditing import audited
from fieldtally.server.people.models import Happening

STEPS = (Authenticator.Type.TOTP, Authenticator.Type.WEBAUTHN)
PURPOSE = b"field-tally second step"


@cache
def _key(secret: str) -> Fernet:
    made = HKDF(algorithm=SHA256(), length=32, salt=None, info=PURPOSE).derive(secret.encode())
    return Fernet(base64.urlsafe_b64encode(made))


class TwoSteps(DefaultMFAAdapter):  # type: ignore[misc]
    """What is kept in the database opens nothing by itself: it is encrypted with what only this place's settings hold."""

    def encrypt(self, text: str) -> str:
        """As it is kept."""
        return _key(settings.SECRET_KEY).encrypt(text.encode()).decode()

    def decrypt(self, encrypted_text: str) -> str:
        """What was kept; nothing that any code matches where the place's secret is another one since."""
        try:
            return _key(settings.SECRET_KEY).decrypt(encrypted_text.encode()).decode()
        except InvalidToken:
            return "A" * 32

    def get_public_key_credential_rp_entity(self) -> dict[str, str]:
        """What a passkey is for: this place, by the name in its public address."""
        return {**super().get_public_key_credential_rp_entity(), "name": "Field Tally"}

    def get_totp_issuer(self) -> str:
        """What the app on the phone calls us."""
        return "Field Tally"


def listen() -> None:
    """Write down when a second step is set up or taken away."""

    signals.authenticator_added.connect(_added, dispatch_uid="audit-second-step")
    signals.authenticator_removed.connect(_removed, dispatch_uid="audit-no-second-step")


def _added(sender: Any, user: Any, authenticator: Authenticator, **told: Any) -> None:
    if authenticator.type in STEPS:
        audited(Happening.SECOND_STEP, user.pk)


def _removed(sender: Any, user: Any, authenticator: Authenticator, **told: Any) -> None:
    if authenticator.type in STEPS:
        audited(Happening.NO_SECOND_STEP, user.pk)
