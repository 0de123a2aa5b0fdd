"""What somebody who took part may see of themselves, once the key is open."""

from __future__ import annotations

from ninja import Schema

from fieldtally.core.panels.methods import METHODS
from fieldtally.core.panels.result import own_result
from fieldtally.server.answers import Declined
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.models import Assessor
from fieldtally.server.panels.queries import findings_of, judged_of, told_apart_names
from fieldtally.server.plan.queries import plan_of


class Card(Schema):
    """How somebody did: ``own`` in a sentence or two, what all found, and what stood in each of their cups (a line a set)."""

    title: str
    test: str
    own: list[str]
    all: str
    sets: list[str]


def card_of(assessor: Assessor) -> Card:
    """The card of ``assessor``.

    :raises Declined: 409 while the key of the panel or of its trial is sealed; 403 where the host lets nobody see theirs.
    """
    panel = assessor.panel
    plan = panel_plan(panel)
    if not panel.names_are_open:
        raise Declined(409, "The key is still sealed; what it was is told once the host opens it.")
    if not plan.cards:
        raise Declined(403, "The host keeps the results of this panel together; ask them for yours.")
    called = told_apart_names(panel)[assessor.pk]
    mine = [one for one in judged_of(panel) if one.person == called]
    names = {one.key: one.name for one in plan_of(panel.trial).treatments}
    things = [names.get(key, "") for key in plan.things]
    return Card(
        title=plan.title,
        test=METHODS[plan.method].name,
        own=list(own_result(plan, mine, things)),
        all=findings_of(panel)[0].sentence,
        sets=[", ".join(things["ABCDEFGHIJKLMNOP".index(letter)] for letter in one.order) for one in mine],
    )
