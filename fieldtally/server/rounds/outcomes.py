"""Outcomes as a scorer needs to know them."""

from typing import Literal

from ninja import Schema

from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.scales import Scale
from fieldtally.server.people.sight import Sight
from fieldtally.server.rounds.spoken import spoken_outcome


class OutcomeOut(Schema):
    """What is looked at, as a scorer needs to know it; ``checkpoints`` are keys."""

    key: str
    name: str
    group: str
    scale: Scale
    checkpoints: list[str]
    retest: Literal["median", "mean", "last"]
    wait: float | None
    wait_says: str


def outcomes_out(seen: Sight, plan: Plan, names: list[str]) -> list[OutcomeOut]:
    """The outcomes as ``seen`` may read them."""

    def shown(outcome: Outcome) -> OutcomeOut:
        spoken = spoken_outcome(seen, outcome, names)
        return OutcomeOut(
            key=outcome.key,
            name=spoken.name,
            group=spoken.group,
            scale=spoken.scale,
            checkpoints=[c.key for c in plan.looked_at(outcome)],
            retest=outcome.retest,
            wait=outcome.wait,
            wait_says=spoken.wait_says,
        )

    return [shown(outcome) for outcome in plan.outcomes]
