"""What is kept about people: a file for each thing."""

from fieldtally.server.people.models.accesstoken import AccessToken
from fieldtally.server.people.models.chainentry import ChainEntry
from fieldtally.server.people.models.invitation import Invitation
from fieldtally.server.people.models.mail import Mail
from fieldtally.server.people.models.membership import Membership, Role
from fieldtally.server.people.models.trial import Trial
from fieldtally.server.people.models.user import User

__all__ = ["AccessToken", "ChainEntry", "Invitation", "Mail", "Membership", "Role", "Trial", "User"]
