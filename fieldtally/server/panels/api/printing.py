"""Paper of a panel: the sheet for whoever pours, and a card for each seat with its link as a QR code."""

from collections.abc import Sequence
from itertools import groupby
from typing import Literal
from uuid import UUID

from django.http import HttpResponse
from ninja import Router

from fieldtally.core.panels.methods import METHODS
from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.panels.api.people import may_pour, pour_out
from fieldtally.server.panels.api.seeing import panel_seen
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.models import Assessor, Serving
from fieldtally.server.people.sight import blacked_out, earlier_names
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.printing import file_name, pdf, qr, qr_picture

router = Router()
CHECKS: Sequence[str] = (
    "Cups all alike, and only the code on them",
    "Filled to the same height",
    "The same temperature",
    "The same light; coloured if colour tells",
    "Water, a spit cup and a plain biscuit at each seat",
    "Whoever pours does not serve, and the host does not taste",
)


@router.post(
    "/panels/{panel_id}/prints/pour.pdf",
    response={200: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def pour(request: SignedIn, panel_id: UUID, paper: Literal["a4", "letter"] = "a4") -> HttpResponse:
    """The sheet for whoever pours.  Printing it is a look at it, and is recorded."""
    seen, panel = panel_seen(request, panel_id)
    may_pour(seen, panel)
    sheet = pour_out(request, panel)
    sessions = [
        {"number": session + 1, "sets": list(own)} for session, own in groupby(sheet.sets, key=lambda one: one.session)
    ]
    context = {"sheet": sheet, "sessions": sessions, "checks": CHECKS, "title": panel_plan(panel).title}
    return pdf("prints/pour.html", context, paper=paper, name=file_name(panel.trial_id, "pouring"))


@router.get(
    "/panels/{panel_id}/prints/cards.pdf",
    response={200: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def cards(request: SignedIn, panel_id: UUID, paper: Literal["a4", "letter"] = "a4") -> HttpResponse:
    """A card for each seat: number, name, the question, the codes in their order, and the link.  No word on it names a treatment."""
    seen, panel = panel_seen(request, panel_id)
    seen.need("hand_out_links")
    if panel.begun_at is None:
        raise Declined(409, "There are no cups before the panel begins.")
    plan, names = panel_plan(panel), [*plan_of(panel.trial).telling_names, *earlier_names(panel.trial)]
    seats = [
        {
            "number": one.number,
            "name": blacked_out(one.called, names),
            "qr": qr(request.build_absolute_uri(f"/booth/{one.token}")),
            "sets": [
                {
                    "session": row.session + 1,
                    "codes": [code for code in row.codes if code != "R"],
                    "reference": "R" in row.codes,
                }
                for row in Serving.objects.filter(assessor=one, spilt="")
            ],
        }
        for one in panel.assessors.filter(erased_at=None)
    ]
    question = METHODS[plan.method].question.replace("…", plan.attribute.strip() or "…")
    context = {
        "seats": seats,
        "question": blacked_out(question, names),
        "many_sessions": plan.sessions + panel.added_sessions > 1,
    }
    return pdf("prints/cards.html", context, paper=paper, name=file_name(panel.trial_id, "seats"))


@router.get("/assessors/{assessor_id}/qr.svg", response={200: None, 403: ProblemsOut, 404: ProblemsOut})
def link_code(request: SignedIn, assessor_id: UUID) -> HttpResponse:
    """The link of an assessor as a QR code."""
    found = Assessor.objects.filter(pk=assessor_id, erased_at=None).first()
    if found is None:
        raise missing()
    seen, _ = panel_seen(request, found.panel_id)
    seen.need("hand_out_links")
    content = qr_picture(request.build_absolute_uri(f"/booth/{found.token}"))
    return HttpResponse(content, content_type="image/svg+xml")
