"""The audit log: who came in, who was let in, what opens doors, and what was erased."""

from django.db import models


class Happening(models.TextChoices):
    """What is told of."""

    JOINED = "joined"
    SIGNED_IN = "signed_in"
    REFUSED = "refused"
    SIGNED_OUT = "signed_out"
    PASSWORD = "password"  # noqa: S105 - a word for what happened
    INVITED = "invited"
    CAME = "came"
    WITHDRAWN = "withdrawn"
    LEFT_OUT = "left_out"
    TOKEN_MADE = "token_made"  # noqa: S105
    TOKEN_REVOKED = "token_revoked"  # noqa: S105
    ERASED = "erased"
    SECOND_STEP = "second_step"
    NO_SECOND_STEP = "no_second_step"
    SWITCHED_OFF = "switched_off"
    SWITCHED_ON = "switched_on"
    MAY_BEGIN = "may_begin"
    MAY_NOT_BEGIN = "may_not_begin"


class Audited(models.Model):
    """One of these: by which ``person`` and in which ``trial``, as numbers that outlive both, and from which ``address`` of the network. No
    names, no addresses of mail, nothing that opens anything; kept for as long as ``FT_KEEP_AUDIT`` says."""

    at = models.DateTimeField(db_index=True)
    what = models.CharField(max_length=16, choices=Happening.choices)
    person = models.BigIntegerField(null=True)
    trial = models.UUIDField(null=True)
    address = models.GenericIPAddressField(null=True)

    class Meta:
        ordering = ["-at", "-pk"]
