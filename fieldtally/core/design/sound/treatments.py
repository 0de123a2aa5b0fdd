"""What may be wrong with treatments, the factors they are made from, and what is held equal."""

from __future__ import annotations

from collections.abc import Iterator

from fieldtally.core.design.factors import MOST_CELLS, combinations_of
from fieldtally.core.design.plan import Plan
from fieldtally.core.design.sound.naming import key_problems, repeated
from fieldtally.core.problems import Problem

MOST_SAMPLES = 10_000
MOST_TREATMENTS = 40


def treatment_problems(plan: Plan) -> Iterator[Problem]:
    """Every reason why the treatments may not be sealed as they are."""
    yield from _how_many(plan)
    yield from key_problems("treatments", [treatment.key for treatment in plan.treatments])
    for i, treatment in enumerate(plan.treatments):
        if not treatment.name.strip():
            yield Problem(f"treatments.{i}.name", "This treatment has no name.")
        if treatment.samples < 1 and not (plan.added_blocks and plan.per_treatment(treatment) > 0):
            yield Problem(f"treatments.{i}.samples", "No samples: give it at least 1, better 4 or more.")
        if treatment.cost is not None and treatment.cost < 0:
            yield Problem(f"treatments.{i}.cost", "A cost cannot be below 0.")
        if treatment.package and not treatment.changes.strip():
            yield Problem(
                f"treatments.{i}.changes",
                "A package changes several things at once: name them all, the claim is about all.",
            )
    for i, name in repeated([treatment.name for treatment in plan.treatments]):
        yield Problem(
            f"treatments.{i}.name", f"Two treatments are called “{name}”; the verdict could not tell them apart."
        )
    yield from _too_many(plan)
    if plan.compare == "control" and plan.control is None:
        yield Problem("compare", "“Better than the control?” needs a control: mark one treatment as one.")
    yield from _factors(plan)
    yield from _shared_costs(plan)
    yield from _outside(plan)
    yield from key_problems("held_equal", [entry.key for entry in plan.held_equal])
    for i, entry in enumerate(plan.held_equal):
        if not entry.what.strip():
            yield Problem(f"held_equal.{i}.what", "Say what is held equal (vessel, light, base batch), or take it out.")
    for i, name in repeated([entry.what for entry in plan.held_equal]):
        yield Problem(f"held_equal.{i}.what", f"“{name}” stands on this sheet twice.")
    yield from key_problems("cycle_settings", [entry.key for entry in plan.cycle_settings])


def _how_many(plan: Plan) -> Iterator[Problem]:
    many = len(plan.treatments)
    if plan.agreement is not None and not many:
        yield Problem(
            "treatments", "Say what is read: at least one thing to hold the instruments against each other on."
        )
    elif plan.agreement is None and many < 2:
        yield Problem("treatments", "A comparison needs at least two treatments, one of them a control if you can.")
    if many > MOST_TREATMENTS:
        yield Problem("treatments", f"{many} treatments are more than the {MOST_TREATMENTS} that fit.")


def _shared_costs(plan: Plan) -> Iterator[Problem]:
    yield from key_problems("shared_costs", [one.key for one in plan.shared_costs])
    known = {treatment.key for treatment in plan.treatments}
    for i, one in enumerate(plan.shared_costs):
        if not one.what.strip():
            yield Problem(f"shared_costs.{i}.what", "Say what is bought, or take it out.")
        if one.money is not None and one.money < 0:
            yield Problem(f"shared_costs.{i}.money", "A cost cannot be below 0.")
        if set(one.treatments) - known:
            yield Problem(f"shared_costs.{i}.treatments", "It is shared by a treatment that is no longer in the plan.")


def _outside(plan: Plan) -> Iterator[Problem]:
    yield from key_problems("outside", [one.key for one in plan.outside])
    for i, one in enumerate(plan.outside):
        if not one.name.strip():
            yield Problem(f"outside.{i}.name", "Say what it is set beside, or take it out.")
        if one.money is not None and one.money < 0:
            yield Problem(f"outside.{i}.money", "A cost cannot be below 0.")


def _too_many(plan: Plan) -> Iterator[Problem]:
    if plan.sample_count <= MOST_SAMPLES or not plan.treatments:
        return
    most = max(range(len(plan.treatments)), key=lambda i: plan.treatments[i].samples)
    times = plan.per_treatment(plan.treatments[most]) // max(1, plan.treatments[most].samples)
    fits = MOST_SAMPLES // max(1, len(plan.treatments) * times)
    yield Problem(
        f"treatments.{most}.samples",
        f"That makes {plan.sample_count:,} samples, more than the {MOST_SAMPLES:,} that one trial can hold. "
        f"{fits:,} of each would fit.",
    )


def _factors(plan: Plan) -> Iterator[Problem]:
    yield from key_problems("factors", [factor.key for factor in plan.factors])
    for i, factor in enumerate(plan.factors):
        if not factor.name.strip():
            yield Problem(f"factors.{i}.name", "This factor has no name (soil, dose, water).")
        if len(factor.levels) < 2:
            yield Problem(f"factors.{i}.levels", "A factor is varied: it needs at least two levels.")
        yield from key_problems(f"factors.{i}.levels", [level.key for level in factor.levels])
        for j, level in enumerate(factor.levels):
            if not level.name.strip():
                yield Problem(f"factors.{i}.levels.{j}.name", "This level has no name.")
        for j, name in repeated([level.name for level in factor.levels]):
            yield Problem(f"factors.{i}.levels.{j}.name", f"Two levels are called “{name}”.")
    for i, name in repeated([factor.name for factor in plan.factors]):
        yield Problem(f"factors.{i}.name", f"Two factors are called “{name}”.")
    if sum(factor.hard for factor in plan.factors) > 1:
        yield Problem("factors", "Only one factor can be the hard one that whole plots are given.")
    if combinations_of(plan.factors) > MOST_CELLS:
        yield Problem(
            "factors",
            f"{combinations_of(plan.factors):,} combinations are more than the {MOST_CELLS} that a grid can show: "
            "fewer factors, or two levels of each, would do.",
        )
    yield from _corners(plan)


def _corners(plan: Plan) -> Iterator[Problem]:
    """Treatments with levels that are gone, or with the same levels as another."""
    seen: dict[tuple[str, ...], str] = {}
    known = {factor.key: {level.key for level in factor.levels} for factor in plan.factors}
    for i, treatment in enumerate(plan.treatments):
        if any(level not in known.get(factor, ()) for factor, level in treatment.levels.items()):
            yield Problem(
                f"treatments.{i}.levels", "It has a level that is no longer among the factors; pick it again."
            )
            continue
        corner = tuple(treatment.levels.get(factor.key, "") for factor in plan.factors)
        if plan.factors and all(corner):
            if corner in seen:
                yield Problem(f"treatments.{i}.levels", f"“{seen[corner]}” has the same levels already.")
            seen.setdefault(corner, treatment.name.strip())
