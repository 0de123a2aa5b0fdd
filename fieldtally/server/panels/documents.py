"""Reading what is kept of a panel as plain JSON."""

from __future__ import annotations

from typing import Any

from pydantic import TypeAdapter, ValidationError

from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.panels.models import Panel

_plans: TypeAdapter[PanelPlan] = TypeAdapter(PanelPlan)


def panel_plan(panel: Panel) -> PanelPlan:
    """The plan of a panel."""
    return _plans.validate_python(panel.plan)


def plan_in(document: dict[str, Any]) -> PanelPlan:
    """The plan that somebody sent.

    :raises Declined: 422 where it cannot be read.
    """
    try:
        return _plans.validate_python(document)
    except ValidationError as error:
        raise Declined(
            422, *(Problem(".".join(str(p) for p in one["loc"]), f"{one['msg']}.") for one in error.errors())
        ) from error
