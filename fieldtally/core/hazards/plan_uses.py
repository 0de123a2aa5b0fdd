"""What a plan uses, and what of it meets: each treatment in vessels of its own, all that is held equal in every one."""

from __future__ import annotations

from fieldtally.core.design.plan import Plan
from fieldtally.core.hazards.finding import Use


def uses_in(plan: Plan) -> tuple[Use, ...]:
    """Everything named in ``plan`` that somebody will handle."""
    return (
        *(
            Use(f"treatments.{i}", f"{treatment.name}. {treatment.note}. {treatment.changes}", treatment.name.strip())
            for i, treatment in enumerate(plan.treatments)
        ),
        *(Use(f"held_equal.{i}", f"{entry.what}. {entry.setting}") for i, entry in enumerate(plan.held_equal)),
        *(Use(f"outcomes.{i}", outcome.name, f"outcome {i}") for i, outcome in enumerate(plan.outcomes)),
        Use("title", plan.title, "title"),
    )
