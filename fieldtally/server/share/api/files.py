"""Doors for files that take a while: asked for, looked after, fetched."""

from __future__ import annotations

from typing import Literal, cast
from uuid import UUID

from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from ninja import Router, Schema

from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, ProblemsOut
from fieldtally.server.hosting.store import answered
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.printing import Paper
from fieldtally.server.share.making import (
    Made,
    Wanted,
    What,
    allowed,
    ask,
    asked_for,
    asked_for_by_reader,
    made,
    made_for_readers,
)
from fieldtally.server.share.models import MadeFile, Report
from fieldtally.server.share.printed import waiting_page
from fieldtally.server.share.publishing import published_report
from fieldtally.server.verdict.results import is_small

FileState = Literal["at_once", "waiting", "running", "done", "failed"]
router = Router()
SAYS = {"waiting": "It will be made in a moment …", "running": "It is being made …", "done": ""}


class FileIn(Schema):
    """Which file; of a report, on which paper, whether only its first page, and whether with the values of all samples, however many
    they are."""

    what: What
    paper: Paper = "a4"
    short: bool = False
    whole: bool = False


class FileOut(Schema):
    """How far a file is; ``at_once``: it is made while it is fetched.  ``href`` is where it is, or will be."""

    state: FileState
    says: str
    done: int
    total: int
    href: str


def _out(row: MadeFile, home: str) -> FileOut:
    says = row.says or SAYS.get(row.state, "")
    return FileOut(
        state=cast(FileState, row.state), says=says, done=row.done, total=row.total, href=f"{home}/files/{row.pk}"
    )


def taken(made_now: Made) -> HttpResponse:
    """A file to be saved under its name."""
    headers = {"Content-Disposition": f'attachment; filename="{made_now.name}"'}
    return HttpResponse(made_now.content, content_type=made_now.kind, headers=headers)


def fetched(request: SignedIn, trial_id: UUID, wanted: Wanted) -> HttpResponse:
    """The file of a small trial; of a large one, the way to where it will be.

    :raises Declined: this person may not have it.
    """
    seen = sight(request, trial_id)
    allowed(seen, wanted)
    if is_small(seen.trial):
        return taken(made(seen, request.user, wanted))
    home = f"/api/trials/{trial_id}"
    return HttpResponseRedirect(_out(ask(seen.trial, request.user, wanted), home).href, status=303)


def fetched_by_reader(kept: Report, wanted: Wanted) -> HttpResponse:
    """The same for a reader of the published page."""
    if is_small(kept.trial):
        return taken(made_for_readers(kept, wanted))
    home = f"/api/published/{kept.token}"
    return HttpResponseRedirect(_out(ask(kept.trial, None, wanted), home).href, status=303)


def _at_once(href: str) -> FileOut:
    return FileOut(state="at_once", says="", done=0, total=0, href=href)


def _href(base: str, wanted: Wanted) -> str:
    ending = {"readings": "readings.csv", "pack": "pack.zip", "workbook": "workbook.xlsx", "report": "report.pdf"}
    asked = (
        [f"paper={wanted.paper}"] * (wanted.paper != "a4")
        + ["short=true"] * wanted.short
        + ["whole=true"] * wanted.whole
    )
    query = f"?{'&'.join(asked)}" if asked and wanted.what == "report" else ""
    return f"{base}/{ending[wanted.what]}{query}"


@router.post(
    "/trials/{trial_id}/files",
    response={200: FileOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def begin(request: SignedIn, trial_id: UUID, body: FileIn) -> FileOut:
    """Ask for a file; ask again under its address how far it is."""
    seen: Sight = sight(request, trial_id)
    wanted = Wanted(**body.dict())
    allowed(seen, wanted)
    if is_small(seen.trial):
        return _at_once(_href(f"/api/trials/{trial_id}", wanted))
    return _out(ask(seen.trial, request.user, wanted), f"/api/trials/{trial_id}")


@router.post("/published/{token}/files", auth=None, response={200: FileOut, 404: ProblemsOut, 422: ProblemsOut})
def begin_as_reader(request: HttpRequest, token: str, body: FileIn) -> FileOut:
    """The same for a reader of a published report."""
    kept = published_report(token)
    wanted = Wanted(**body.dict())
    if wanted.what != "report":
        raise Declined(422, Problem("what", "Only the report is published."))
    if is_small(kept.trial):
        return _at_once(_href(f"/api/published/{token}", wanted))
    return _out(ask(kept.trial, None, wanted), f"/api/published/{token}")


@router.get(
    "/trials/{trial_id}/files/{file_id}",
    response={200: FileOut, 202: FileOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def fetch(request: SignedIn, trial_id: UUID, file_id: UUID, ask: bool = False) -> HttpResponse | FileOut:
    """The file once it is ready; before that how far it is.  ``ask``: how far it is, and never the file."""
    row = asked_for(sight(request, trial_id), request.user, file_id)
    return _fetched(request, row, f"/api/trials/{trial_id}", ask=ask)


@router.get(
    "/published/{token}/files/{file_id}",
    auth=None,
    response={200: FileOut, 202: FileOut, 404: ProblemsOut, 409: ProblemsOut},
)
def fetch_as_reader(request: HttpRequest, token: str, file_id: UUID, ask: bool = False) -> HttpResponse | FileOut:
    """The same for a reader of a published report."""
    row = asked_for_by_reader(published_report(token), file_id)
    return _fetched(request, row, f"/api/published/{token}", ask=ask)


def _fetched(request: HttpRequest, row: MadeFile, home: str, *, ask: bool) -> HttpResponse | FileOut:
    out = _out(row, home)
    if ask:
        return out
    if row.is_ready:
        return answered(row.content, row.kind, row.name, attached=True)
    if "text/html" in request.headers.get("Accept", ""):
        return waiting_page(out.says, row.done, row.total, every=0 if row.has_failed else 2)
    if row.has_failed:
        raise Declined(409, row.says)
    answer = HttpResponse(out.model_dump_json(), content_type="application/json; charset=utf-8", status=202)
    answer["Retry-After"] = "2"
    return answer
