"""A table of a trial that still goes on: the plan of the rest, in which all that the table tells has been before."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import cast
from zoneinfo import ZoneInfo

from fieldtally.core.design.given import LONGEST_NAME
from fieldtally.core.design.plan import Begun, Given, Plan
from fieldtally.core.problems import Refused
from fieldtally.core.tables.importing import ImportedTable


def rest_of(brought: ImportedTable) -> Plan:
    """The draft of a trial of which ``brought`` tells the beginning: its looks are taken, its samples stand where they do, each with its
    own name and start.

    :raises Refused: at ``start`` where nobody told when it began; at ``meaning`` where two samples would be called alike.
    """
    if not brought.starts_told:
        raise Refused("It goes on only where the day is known on which it began: say that first.", "start")
    named = [name[:LONGEST_NAME] for name in brought.names]
    if len(set(named)) < len(named):
        raise Refused(f"Names of samples have up to {LONGEST_NAME} letters here; two of them begin alike.", "meaning")
    began = _local(datetime.fromisoformat(str(brought.pack.trial["started_at"])), brought.plan.zone)
    samples = []
    for name, row in zip(named, brought.pack.tables["samples"], strict=True):
        own = _local(cast(datetime, row["started_at"]), brought.plan.zone)
        started = "" if own == began else own
        samples.append(Given(str(row["treatment"]), str(row["block"] or ""), name=name, started=started))
    # Block by block, as a layout is drawn.
    order = {block.key: i for i, block in enumerate(brought.plan.layout.blocks)}
    samples.sort(key=lambda one: order.get(one.block, 0))
    looks = tuple(checkpoint.key for checkpoint in brought.plan.checkpoints)
    # How places came about, and what is asked, only whoever set it up can say.
    return replace(brought.plan, question="", begun=Begun(began, "hand", "", looks, tuple(samples)))


def _local(at: datetime, zone: str) -> str:
    return f"{at.astimezone(ZoneInfo(zone)):%Y-%m-%dT%H:%M}"
