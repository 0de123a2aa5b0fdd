"""The API: one router per stage, one shape of error, described by OpenAPI at ``/api/openapi.json``."""

from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.security import SessionAuth

from fieldtally.core.problems import Refused
from fieldtally.server.answers import Declined, missing
from fieldtally.server.bodies import CarefulParser
from fieldtally.server.devices.api import router as devices
from fieldtally.server.hosting.store import Away
from fieldtally.server.log.api import router as log
from fieldtally.server.measuring.api import router as measuring
from fieldtally.server.panels.api import router as panels
from fieldtally.server.people.api import router as people
from fieldtally.server.people.tokens import TokenAuth
from fieldtally.server.people.tokens import router as tokens
from fieldtally.server.plan.api import router as plan
from fieldtally.server.prepare.api import router as prepare
from fieldtally.server.rounds.api import router as rounds
from fieldtally.server.share.api import router as share
from fieldtally.server.training.api import router as training
from fieldtally.server.verdict.api import router as verdict

# SessionAuth checks the CSRF token of every signed-in request that is not a read.
api = NinjaAPI(
    title="Field Tally",
    version="1",
    auth=[TokenAuth(), SessionAuth()],
    docs_url=None,
    urls_namespace="api",
    parser=CarefulParser(),
)
for stage in (people, tokens, devices, plan, prepare, rounds, measuring, training, log, panels, verdict, share):
    api.add_router("", stage)


@api.exception_handler(Declined)
def declined(request: HttpRequest, error: Declined) -> HttpResponse:
    """A request that was understood and turned down."""
    return api.create_response(request, error.body(), status=error.status)


@api.exception_handler(Away)
def store_away(request: HttpRequest, error: Away) -> HttpResponse:
    """Where photos and files lie does not answer."""
    return api.create_response(request, Declined(503, str(error)).body(), status=503)


@api.exception_handler(Refused)
def refused(request: HttpRequest, error: Refused) -> HttpResponse:
    """Something the core would not take."""
    return api.create_response(request, Declined(422, *error.problems).body(), status=422)


@api.exception_handler(Http404)
def not_found(request: HttpRequest, error: Http404) -> HttpResponse:
    """Unknown, or not yours."""
    return api.create_response(request, missing().body(), status=404)


@api.exception_handler(AuthenticationError)
def not_signed_in(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    """Nobody is signed in."""
    return api.create_response(request, Declined(401, "Please sign in first.").body(), status=401)


@api.exception_handler(HttpError)
def unreadable(request: HttpRequest, error: HttpError) -> HttpResponse:
    """A body that is no JSON, or holds what no text may hold."""
    says = "What was sent could not be read; nothing was stored."
    return api.create_response(request, Declined(error.status_code, says).body(), status=error.status_code)


@api.exception_handler(ValidationError)
def badly_formed(request: HttpRequest, error: ValidationError) -> HttpResponse:
    """A body or address of the wrong shape."""
    if any(one["loc"][0] == "path" for one in error.errors):
        return api.create_response(request, missing().body(), status=404)
    problems = [
        {"at": ".".join(str(part) for part in one["loc"][2:] or one["loc"]), "says": _plainly(one)}
        for one in error.errors
    ]
    return api.create_response(request, {"problems": problems}, status=422)


def _plainly(error: dict[str, object]) -> str:
    kind = str(error.get("type", ""))
    if kind == "missing":
        return "This is missing."
    if kind.startswith(("int", "float", "decimal")):
        return "A number is needed here."
    if kind.startswith(("datetime", "date", "time", "timezone")):
        return "This is not a moment in time."
    if kind.startswith("uuid"):
        return "This is not a valid identifier."
    return f"This could not be understood: {str(error.get('msg', 'wrong shape')).lower()}."
