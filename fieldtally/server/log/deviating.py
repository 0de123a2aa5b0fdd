"""Recording a deviation: what did not go to plan, into its table and into the chain at once."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from fieldtally.core.blinding.chain import RECORDS, item
from fieldtally.server.log.models import Deviation
from fieldtally.server.people.chain import append


def deviate(**fields: Any) -> Deviation:
    """Record a deviation with these ``fields``."""
    with transaction.atomic():
        made = Deviation.objects.create(**fields)
        append(made.trial, "deviation", [item("deviation", deviation_record(made))], at=made.at)
    return made


def deviation_record(row: Deviation) -> dict[str, Any]:
    """What the chain keeps of a deviation."""
    told = {name: getattr(row, name) for name in RECORDS["deviation"]}
    return {**told, "sample": row.sample.code if row.sample else None}
