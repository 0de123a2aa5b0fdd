"""A follow-up: some of the treatments of a trial asked again, with what their parent found as the reference."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

from fieldtally.core.design.plan import Plan, Some
from fieldtally.core.problems import Refused


def followed(plan: Plan, treatments: Collection[str]) -> Plan:
    """``plan`` with these ``treatments`` (keys) alone, in their order; what belonged to others alone goes with these.

    Where treatments were made from factors they stay as they are called, without them, unless all stay; a layout that needs all of them
    gives way to one that mixes them over places.

    :raises Refused: fewer than two of them are in the plan.
    """
    kept = tuple(one for one in plan.treatments if one.key in treatments)
    if len(kept) < 2:
        raise Refused("Follow up at least two treatments, one of them a control if you can.", "treatments")
    if len(kept) == len(plan.treatments):
        return plan
    keys = {one.key for one in kept}

    def of_these(only: Some) -> Some:
        return replace(only, treatments=tuple(key for key in only.treatments if key in keys))

    def left(only: Some) -> bool:
        return bool(of_these(only)) or not only

    layout = plan.layout if plan.layout.kind in ("random", "blocks") else replace(plan.layout, kind="random", blocks=())
    return replace(
        plan,
        factors=(),
        treatments=tuple(replace(one, levels={}) for one in kept),
        layout=layout,
        compare=plan.compare if any(one.is_control for one in kept) else "all",
        outcomes=tuple(replace(one, only=of_these(one.only)) for one in plan.outcomes if left(one.only)),
        checkpoints=tuple(replace(one, only=of_these(one.only)) for one in plan.checkpoints if left(one.only)),
        shared_costs=tuple(
            replace(one, treatments=tuple(key for key in one.treatments if key in keys))
            for one in plan.shared_costs
            if not one.treatments or keys & set(one.treatments)
        ),
    )
