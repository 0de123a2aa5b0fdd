"""What a panel found, once the key is open."""

import csv
from collections.abc import Sequence
from uuid import UUID

from django.http import HttpResponse
from ninja import Router, Schema

from fieldtally.core.panels.finding import PanelFinding
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.serving import LETTERS
from fieldtally.core.tables.panel_rows import answer_rows
from fieldtally.core.trialpack.pack import guarded
from fieldtally.server.answers import ProblemsOut, missing
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.models import Panel
from fieldtally.server.panels.queries import findings_of, judged_of, late_in, slip_of, stopped_of
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.printing import file_name

router = Router()


class LetteredThing(Schema):
    """What a letter of the panel stands for."""

    letter: str
    name: str


class PanelResultOut(Schema):
    """What the panel found; ``with_all``: with everybody counted, where somebody was left out; ``late``: how many answers were given before
    the panel closed and came in after it; ``stopped`` and ``slip``: who did not go on, and how far it began from its date."""

    plan: PanelPlan
    things: Sequence[LetteredThing]
    finding: PanelFinding
    with_all: PanelFinding | None
    closed_because: str
    stopped: str
    slip: str
    late: int


def _read(request: SignedIn, panel_id: UUID) -> Panel:
    """The panel, for whoever may read what it found."""
    panel = Panel.objects.select_related("trial").filter(pk=panel_id).first()
    if panel is None:
        raise missing()
    seen = sight(request, panel.trial_id)
    seen.need("see_panel_result")
    seen.agree(
        panel.key_is_open, "The key of this panel is still sealed; what it found is told once the lead opens it."
    )
    return panel


@router.get("/panels/{panel_id}/answers.csv", response={200: None, 403: ProblemsOut, 404: ProblemsOut})
def answers(request: SignedIn, panel_id: UUID) -> HttpResponse:
    """The answers of those who count as a table, a row an answer, which ``./tally panel METHOD --answers`` reads."""
    panel = _read(request, panel_id)
    plan = panel_plan(panel)
    names = {t.key: t.name for t in plan_of(panel.trial).treatments}
    rows = answer_rows(plan, judged_of(panel), [names.get(key, "") for key in plan.things])
    name = f"{file_name(panel.trial_id, 'answers')}.csv"
    answer = HttpResponse(content_type="text/csv; charset=utf-8")
    answer.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    writer = csv.writer(answer, lineterminator="\r\n")
    writer.writerows([guarded(cell) if isinstance(cell, str) else cell for cell in row] for row in rows)
    return answer


@router.get("/panels/{panel_id}/result", response={200: PanelResultOut, 403: ProblemsOut, 404: ProblemsOut})
def result(request: SignedIn, panel_id: UUID) -> PanelResultOut:
    """What the panel found.  Sealed, whoever asks, until the lead opens its key."""
    panel = _read(request, panel_id)
    plan = panel_plan(panel)
    names = {t.key: t.name for t in plan_of(panel.trial).treatments}
    found, with_all = findings_of(panel)
    return PanelResultOut(
        plan=plan,
        things=[LetteredThing(letter=LETTERS[i], name=names.get(key, "")) for i, key in enumerate(plan.things)],
        finding=found,
        with_all=with_all,
        closed_because=panel.closed_because,
        stopped=stopped_of(panel),
        slip=slip_of(panel),
        late=late_in(panel),
    )
