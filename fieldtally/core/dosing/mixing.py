"""The mix sheet: what to do in which order for each treatment, what to buy for all of them, and what it costs.

A step is one thing that a person does and ticks.  Its key stays the same as long as what it says stays the same for the
work: it names the treatment, the dose and the kind of step, so that a tick still counts after a word was mended.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from fieldtally.core.design.plan import Dose, Plan, Treatment
from fieldtally.core.dosing.batch import batch
from fieldtally.core.dosing.giving import size_of
from fieldtally.core.dosing.measuring import Tool
from fieldtally.core.dosing.rates import base
from fieldtally.core.dosing.workbench import DoseTold, Treated, Workbench, batch_of, workbench
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.amounts import amount_in, told

StepKind = Literal["care", "clean", "stock", "fill", "measure", "rinse", "check", "top_up", "share_out", "handle"]


@dataclass(frozen=True)
class MixStep:
    """One thing to do for a treatment: ``words`` names what is handled, for finding its cautions."""

    key: str
    kind: StepKind
    says: str
    words: str


@dataclass(frozen=True)
class Costs:
    """What a treatment costs, in the plan's money: for one sample in the whole trial, for one use, and for each ``per`` (L, m²,
    kg) of a sample's size; None where a price is missing."""

    sample: float
    use: float
    size: float | None
    per: str


@dataclass(frozen=True)
class TreatmentMix:
    """The sheet of one treatment: its steps in order, and what it costs."""

    treatment: str
    name: str
    samples: int
    steps: tuple[MixStep, ...]
    costs: Costs | None


@dataclass(frozen=True)
class Purchase:
    """What all treatments together need of a product, with the overage; how many whole packs, what is left, what they cost."""

    product: str
    name: str
    needed: str
    packs: int | None
    pack: str
    left: str
    cost: float | None
    problem: str


@dataclass(frozen=True)
class MixSheet:
    """The sheets of all treatments, the shopping for them, what all packs cost, and what cannot be worked out yet."""

    mixes: tuple[TreatmentMix, ...]
    shopping: tuple[Purchase, ...]
    cost: float | None
    problems: tuple[Problem, ...]
    unpriced: tuple[str, ...] = ()
    """Products (names) whose packs have no known price, so that ``cost`` is what the others take."""


def mix_sheet(plan: Plan, tools: Sequence[Tool] = ()) -> MixSheet:
    """The mix sheet of ``plan``, measured with ``tools`` where it names none."""
    bench = workbench(plan, tools)
    prices = _prices(plan)
    shopping = tuple(_purchases(plan, bench, prices))
    costs = [one.cost for one in shopping]
    return MixSheet(
        tuple(
            _mix(plan, treatment, treated, prices)
            for treatment, treated in zip(plan.treatments, bench.treated, strict=True)
        ),
        shopping,
        sum(cost for cost in costs if cost is not None) if any(cost is not None for cost in costs) else None,
        bench.problems,
        tuple(one.name for one in shopping if one.cost is None),
    )


def costs_of_doses(plan: Plan) -> dict[str, tuple[float, float]]:
    """What the doses of one sample cost, in the whole trial and for one use, by treatment (key); none where a price is missing."""
    prices = _prices(plan)
    found = {}
    for treatment, treated in zip(plan.treatments, workbench(plan, ()).treated, strict=True):
        cost = _costs(plan, treatment, treated, prices) if treatment.doses else None
        if cost is not None:
            found[treatment.key] = (cost.sample, cost.use)
    return found


def _mix(
    plan: Plan, treatment: Treatment, treated: Treated, prices: dict[str, tuple[float, str] | None]
) -> TreatmentMix:
    return TreatmentMix(
        treatment.key,
        treatment.name,
        plan.per_treatment(treatment),
        tuple(_steps(plan, treatment, treated)),
        _costs(plan, treatment, treated, prices),
    )


def _steps(plan: Plan, treatment: Treatment, treated: Treated) -> Iterator[MixStep]:
    doses = {dose.key: dose for dose in treatment.doses}
    each = plan.sample.one
    all_of_them = (
        "the one " + each
        if plan.per_treatment(treatment) == 1
        else f"each of {plan.sample.counted(plan.per_treatment(treatment))}"
    )
    carrier = plan.carrier.strip()
    group = next((one for one in plan.groups if one.key == treatment.group), None)
    if group is not None and group.hazards.strip():
        yield MixStep(f"{treatment.key}/care", "care", f"{group.name.strip()}: {group.hazards.strip()}.", group.hazards)
    cleaning = (group.cleaning.strip() if group is not None else "") or plan.cleaning.strip()
    if cleaning:
        clean = f"Clean tools and vessels with {cleaning}, rinse and dry them; no tool goes on to the next treatment."
    else:
        clean = "Take tools and vessels for this treatment alone, clean and dry; none goes on to the next one."
    yield MixStep(f"{treatment.key}/clean", "clean", clean, cleaning)
    for told_dose in treated.doses:
        if told_dose.stock:
            words = f"{told_dose.product}. {carrier}"
            yield MixStep(
                f"{treatment.key}/{told_dose.dose}/stock", "stock", f"{told_dose.product}. {told_dose.stock}", words
            )
    batched = plan.mixing == "batch" and _is_volume(plan)
    if batched:
        volume = told(base(size_of(plan))[0] * batch_of(plan, treatment), "mL")
        yield MixStep(
            f"{treatment.key}/fill",
            "fill",
            f"Fill the vessel with {carrier or 'the carrier'}; {volume} in the end.",
            carrier,
        )
    for told_dose in treated.doses:
        yield _measure(plan, treatment, doses[told_dose.dose], told_dose, batched, each)
        yield from _before_the_next(treatment, doses[told_dose.dose], each)
    if treated.top_up_says:
        times = told(treated.top_up * batch_of(plan, treatment), "mL")
        says = (
            f"Stir in {times} of {carrier or 'the carrier'} more, so that all are alike."
            if batched
            else treated.top_up_says
        )
        yield MixStep(f"{treatment.key}/top-up", "top_up", says, carrier)
    if batched:
        yield MixStep(
            f"{treatment.key}/share-out",
            "share_out",
            f"Share out {plan.sample_size.strip()} to {all_of_them}; what is over goes where its label says.",
            treatment.name,
        )
    if not treated.doses:
        note = f": {treatment.note.strip()}" if treatment.note.strip() else ""
        says = f"Handle {all_of_them} like all others; nothing is dosed{note}."
        yield MixStep(
            f"{treatment.key}/handle", "handle", says, f"{treatment.name}. {treatment.note}. {treatment.changes}"
        )


def _measure(plan: Plan, treatment: Treatment, dose: Dose, one: DoseTold, batched: bool, each: str) -> MixStep:
    tool = f", measured with {one.tool}" if one.tool and not one.stock else ""
    again = f", {dose.times} times in the trial" if dose.times > 1 else ""
    if batched:
        says = (
            f"Measure {one.measures} of {one.product}{tool}; stir until even{again}."
            if not one.stock
            else (f"Measure {one.measures} of {one.product}; stir until even{again}.")
        )
    else:
        amount = one.measures if one.stock else one.says
        says = f"Give each {each} {amount} of {one.product}{tool}{_in_what(plan, dose)}{again}."
    product = plan.product_named[dose.product]
    # With several doses the treatment's name may tell of another one than this.
    named = treatment.name if len(treatment.doses) == 1 else ""
    words = f"{product.name}. {product.active}. {named}. {treatment.note}"
    return MixStep(f"{treatment.key}/{dose.key}/measure", "measure", says, words)


def _in_what(plan: Plan, dose: Dose) -> str:
    """What a dose is given in, and for how long."""
    water = f", in {dose.water.strip()} of {plan.carrier.strip() or 'water'}" if dose.water.strip() else ""
    vessel = f", in {dose.vessel.strip()}" if dose.vessel.strip() else ""
    left = f"; leave it for {told(dose.minutes, 'min')}" if dose.minutes else ""
    return f"{water}{vessel}{left}"


def _before_the_next(treatment: Treatment, dose: Dose, each: str) -> Iterator[MixStep]:
    """What is done between a dose and the next: rinsing, and looking."""
    if dose.rinse.strip():
        says = f"Rinse each {each} with {dose.rinse.strip()}."
        yield MixStep(f"{treatment.key}/{dose.key}/rinse", "rinse", says, dose.rinse)
    if dose.check.strip():
        yield MixStep(f"{treatment.key}/{dose.key}/check", "check", f"Go on once: {dose.check.strip()}.", "")


def _is_volume(plan: Plan) -> bool:
    try:
        return size_of(plan).dimension == "volume"
    except Refused:
        return False


def _prices(plan: Plan) -> dict[str, tuple[float, str] | None]:
    """What a pack of each product (key) holds, in mL or g; None where it is not known or not understood."""
    found: dict[str, tuple[float, str] | None] = {}
    for product in plan.products:
        try:
            found[product.key] = base(amount_in(product.pack, plan.system))
        except Refused:
            found[product.key] = None
    return found


def _purchases(plan: Plan, bench: Workbench, packs: dict[str, tuple[float, str] | None]) -> Iterator[Purchase]:
    needed: dict[str, float] = {}
    units: dict[str, str] = {}
    by_key = {dose.key: dose for treatment in plan.treatments for dose in treatment.doses}
    for treatment, treated in zip(plan.treatments, bench.treated, strict=True):
        for one in treated.doses:
            dose = by_key[one.dose]
            needed[dose.product] = needed.get(dose.product, 0.0) + one.value * dose.times * batch_of(plan, treatment)
            units[dose.product] = one.unit
    for product in plan.products:
        if product.key not in needed:
            continue
        amount, unit = needed[product.key], units[product.key]
        pack = packs[product.key]
        problem = ""
        if product.pack.strip() and pack is None:
            problem = f"“{product.pack.strip()}” is not understood as what a pack holds."
        elif pack is not None and pack[1] != unit:
            problem = f"A pack is told in {pack[1]}, the dose in {unit}; the packs cannot be counted."
            pack = None
        bought = batch(amount, 1, overage=0.0, pack=pack[0] if pack and pack[0] > 0 else None, price=product.price)
        yield Purchase(
            product.key,
            product.name,
            told(amount, unit),
            bought.packs,
            product.pack.strip() if bought.packs is not None else "",
            told(bought.left, unit) if bought.left is not None else "",
            bought.cost,
            problem,
        )


def _costs(
    plan: Plan, treatment: Treatment, treated: Treated, packs: dict[str, tuple[float, str] | None]
) -> Costs | None:
    by_key = {dose.key: dose for dose in treatment.doses}
    products = plan.product_named
    if not treatment.doses and treatment.cost is None and treatment.kind != "untreated":
        return None
    use = sample = treatment.cost or 0.0
    for one in treated.doses:
        dose = by_key[one.dose]
        product, pack = products[dose.product], packs[dose.product]
        if product.price is None or pack is None or pack[1] != one.unit or pack[0] <= 0:
            return None
        once = one.value / pack[0] * product.price
        use += once
        sample += once * dose.times
    if len(treated.doses) < len(treatment.doses):
        return None
    size, per = _per_size(plan)
    return Costs(sample, use, sample / size if size else None, per)


def _per_size(plan: Plan) -> tuple[float | None, str]:
    """The size of a sample in the unit in which costs are compared."""
    try:
        size = size_of(plan)
    except Refused:
        return None, ""
    unit, short = {
        "volume": ("liter", "L"),
        "area": ("meter**2", "m²"),
        "mass": ("kilogram", "kg"),
        "length": ("meter", "m"),
    }.get(size.dimension, ("", ""))
    return (size.to(unit) or None, short) if unit else (None, "")
