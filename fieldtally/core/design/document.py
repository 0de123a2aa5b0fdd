"""The plan as a document: reading a plan from plain JSON values, and writing it back."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from pydantic import TypeAdapter, ValidationError

from fieldtally.core.design.plan import Plan
from fieldtally.core.problems import Problem, Refused

_plans: TypeAdapter[Plan] = TypeAdapter(Plan)


def plan_in(document: Mapping[str, Any]) -> Plan:
    """The plan that ``document`` holds.

    :raises Refused: something in it is missing or of the wrong shape.
    """
    try:
        return _plans.validate_python(document)
    except ValidationError as error:
        raise Refused(
            Problem(".".join(str(part) for part in one["loc"]), f"{one['msg']}.") for one in error.errors()
        ) from error


def document_of(plan: Plan) -> dict[str, Any]:
    """``plan`` as plain JSON values."""
    return asdict(plan)
