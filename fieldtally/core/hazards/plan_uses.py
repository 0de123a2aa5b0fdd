"""What a plan uses, and what of it meets: each treatment in vessels of its own, all that is held equal in every one."""

from __future__ import annotations

from fieldtally.core.design.plan import Plan, Treatment
from fieldtally.core.hazards.finding import Use


def uses_in(plan: Plan) -> tuple[Use, ...]:
    """Everything named in ``plan`` that somebody will handle.  Treatments that name the same vessel meet in it; what they are
    given in, and what is cleaned with between them, meets every one."""
    return (
        *(
            Use(f"treatments.{i}", treatment_words(plan, treatment), treatment.vessel.strip() or treatment.name.strip())
            for i, treatment in enumerate(plan.treatments)
        ),
        *(Use(f"held_equal.{i}", f"{entry.what}. {entry.setting}") for i, entry in enumerate(plan.held_equal)),
        Use("carrier", plan.carrier),
        Use("cleaning", plan.cleaning),
        *(Use(f"outcomes.{i}", outcome.name, f"outcome {i}") for i, outcome in enumerate(plan.outcomes)),
        Use("title", plan.title, "title"),
    )


def treatment_words(plan: Plan, treatment: Treatment) -> str:
    """All that is written about ``treatment`` and the products it doses."""
    products = plan.product_named
    given = [products[dose.product] for dose in treatment.doses if dose.product in products]
    return ". ".join(
        (treatment.name, treatment.note, treatment.changes, *(f"{product.name}. {product.active}" for product in given))
    )
