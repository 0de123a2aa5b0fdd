"""A person with an account; the e-mail address is the name to sign in with."""

from typing import Any, ClassVar

from allauth.account.models import EmailAddress
from django.conf import settings
from django.contrib.auth.base_user import AbstractBaseUser, BaseUserManager
from django.db import models


class Users(BaseUserManager["User"]):
    """Makes accounts."""

    def create_user(self, email: str, password: str | None = None, **fields: Any) -> "User":
        """An account with a hashed password, made by whoever runs this and not by signing up: its address counts as confirmed."""
        user = self.model(email=self.normalize_email(email).lower(), **fields)
        user.set_password(password)
        user.save()
        EmailAddress.objects.create(user=user, email=user.email, verified=True, primary=True)
        return user


class User(AbstractBaseUser):
    """A person; ``name`` is what others in a trial see.  Who ``administers`` this place sees its members, queue and letters,
    and no trial for that.  Who ``begins_trials`` may do so where not everybody may."""

    email = models.EmailField(unique=True)
    name = models.CharField(max_length=80, blank=True)
    is_active = models.BooleanField(default=True)
    administers = models.BooleanField(default=False)
    begins_trials = models.BooleanField(default=False, db_default=False)
    joined_at = models.DateTimeField(auto_now_add=True)

    USERNAME_FIELD = "email"
    EMAIL_FIELD = "email"
    REQUIRED_FIELDS: ClassVar[list[str]] = []
    objects = Users()

    @property
    def may_begin(self) -> bool:
        """Whether they may begin a trial here."""
        return settings.PLACE.trials == "everybody" or self.administers or self.begins_trials

    @property
    def called(self) -> str:
        """The name to show."""
        return self.name or self.email.split("@")[0]
