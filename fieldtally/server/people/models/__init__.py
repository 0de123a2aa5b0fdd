"""What is kept about people: a file for each thing."""

from fieldtally.server.people.models.accesstoken import AccessToken
from fieldtally.server.people.models.audit import Audited, Happening
from fieldtally.server.people.models.chainentry import ChainEntry
from fieldtally.server.people.models.invitation import Invitation
from fieldtally.server.people.models.mail import Mail, Post
from fieldtally.server.people.models.membership import Membership, Role
from fieldtally.server.people.models.team import Team
from fieldtally.server.people.models.trial import Trial
from fieldtally.server.people.models.user import User

__all__ = [
    "AccessToken",
    "Audited",
    "ChainEntry",
    "Happening",
    "Invitation",
    "Mail",
    "Membership",
    "Post",
    "Role",
    "Team",
    "Trial",
    "User",
]
