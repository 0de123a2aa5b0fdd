"""Doors of the verdict stage."""

import gzip
from datetime import datetime
from typing import Literal, cast
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.utils.cache import patch_vary_headers
from ninja import Router, Schema, Status

from fieldtally.core.problems import Problem
from fieldtally.core.verdict.tally import WholeTally
from fieldtally.server.answers import Declined, ProblemsOut
from fieldtally.server.people.models import Trial
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.verdict import services
from fieldtally.server.verdict.chain import last_link
from fieldtally.server.verdict.lining_up import saw_result
from fieldtally.server.verdict.models import Result
from fieldtally.server.verdict.results import concluded, kept, kept_study, look_for_faults, tip_of
from fieldtally.server.verdict.told import VerdictOut

MOST_WEIGHT = 1_000
WorkState = Literal["waiting", "running", "done", "failed"]
router = Router()


class AskedOut(Schema):
    """The key was asked for; it may be opened until ``until`` by typing ``phrase``.  ``faults``: what the database holds otherwise than
    it was recorded, a sentence each; ``entries``: how many entries of the chain were checked."""

    until: datetime
    phrase: str
    faults: list[str]
    entries: int


@router.post(
    "/trials/{trial_id}/key/ask", response={200: AskedOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut}
)
def ask(request: SignedIn, trial_id: UUID) -> AskedOut:
    """First of two: say that the key shall be opened."""
    seen = sight(request, trial_id)
    seen.need_role("open_key")
    asked = services.ask_to_open(seen.trial, request.user)
    last = last_link(seen.trial)
    return AskedOut(
        until=asked.at + services.TIME_TO_CONFIRM,
        phrase=services.phrase_of(seen.trial),
        faults=list(look_for_faults(seen.trial, tip_of(seen.trial))),
        entries=last.document["number"] if last else 0,
    )


class OpenIn(Schema):
    """The trial's ``phrase``, typed, or its name (``title``); ``despite`` what is not as it was recorded, which the verdict then tells."""

    phrase: str = ""
    title: str = ""
    despite: bool = False


class OpenedOut(Schema):
    """When the key was opened."""

    at: datetime


@router.post(
    "/trials/{trial_id}/key/open",
    response={200: OpenedOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def open_key(request: SignedIn, trial_id: UUID, body: OpenIn) -> OpenedOut:
    """Second of two: open the key for all."""
    seen = sight(request, trial_id)
    seen.need_role("open_key")
    return OpenedOut(at=services.open_key(seen.trial, request.user, body.phrase or body.title, despite=body.despite))


class UnderWay(Schema):
    """The verdict is being worked out: ``waiting``, ``running`` or ``failed``, and what is known of it already."""

    under_way: WorkState
    says: str


@router.get("/trials/{trial_id}/verdict", response={200: VerdictOut, 202: UnderWay, 403: ProblemsOut, 404: ProblemsOut})
def verdict(request: SignedIn, trial_id: UUID) -> HttpResponse | Status[UnderWay]:
    """The verdict, once the key is open; 202 while it is being worked out, then with what is known already."""
    seen = sight(request, trial_id)
    seen.need("see_verdict")
    told = answered(request, seen.trial)
    if isinstance(told, HttpResponse):
        saw_result(seen.trial, request.user)
    return told


def answered(request: HttpRequest, trial: Trial) -> HttpResponse | Status[UnderWay]:
    """The verdict as it is kept, or how far it is."""
    body = kept(trial, "verdict")
    if body is None:
        row = Result.objects.filter(trial=trial, part="verdict").first()
        return Status(
            202, UnderWay(under_way=cast(WorkState, row.state if row else "waiting"), says=row.says if row else "")
        )
    zipped = "gzip" in request.headers.get("Accept-Encoding", "")
    answer = HttpResponse(body if zipped else gzip.decompress(body), content_type="application/json; charset=utf-8")
    if zipped:
        answer["Content-Encoding"] = "gzip"
    patch_vary_headers(answer, ["Accept-Encoding"])
    return answer


class WeightsIn(Schema):
    """Weights of outcomes (keys) in the tally; those that are not named keep the plan's."""

    weights: dict[str, float]


class TallyOut(Schema):
    """The tally with other weights; None where nothing is weighed."""

    tally: WholeTally | None


@router.post("/trials/{trial_id}/tally", response={200: TallyOut, 403: ProblemsOut, 404: ProblemsOut, 422: ProblemsOut})
def tally(request: SignedIn, trial_id: UUID, body: WeightsIn) -> TallyOut:
    """The tally over outcomes with weights of one's own; nothing is stored."""
    seen = sight(request, trial_id)
    seen.need("see_verdict")
    if any(not 0 <= weight <= MOST_WEIGHT for weight in body.weights.values()):
        raise Declined(422, Problem("weights", f"Weights go from 0 to {MOST_WEIGHT}."))
    study = kept_study(seen.trial)
    return TallyOut(tally=study.data.tally(concluded(seen.trial).findings, body.weights))
