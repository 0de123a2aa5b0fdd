"""The dose workbench: every dose of a plan for one sample, whether it can be measured, what the untreated need for equal
handling, and the two honest schools side by side: *as the label says*, and *the same active ingredient*.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from fieldtally.core.design.plan import Dose, Plan, Treatment
from fieldtally.core.dosing.giving import given_by, share_of
from fieldtally.core.dosing.measuring import Standing, Tool, best_of, measured, stock_for, tool_in
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.amounts import told

OVERAGE_MOST = 2.0
MOST_TIMES = 1000


@dataclass(frozen=True)
class DoseTold:
    """One dose for one sample.

    ``says`` is the amount with its unit; ``echo`` how the rate was understood; ``measures`` the amount that is really
    measured at once (a whole batch, where one is mixed), with ``tool`` by its name and ``with_tool`` as it is written down.
    ``ways`` are the ways out where it cannot be measured well, and ``stock`` how a stock solution is made, where one is taken.
    """

    dose: str
    product: str
    value: float
    unit: str
    says: str
    echo: str
    steps: tuple[str, ...]
    active: float | None
    measures: str
    tool: str
    with_tool: str
    relative_error: float | None
    standing: Standing | None
    ways: tuple[str, ...]
    stock: str


@dataclass(frozen=True)
class Treated:
    """What one treatment gives each sample.  ``adds`` is the volume (mL) that it brings in, ``top_up`` (mL) how much more of the
    carrier makes it as much as the largest."""

    treatment: str
    doses: tuple[DoseTold, ...]
    adds: float
    top_up: float
    top_up_says: str


@dataclass(frozen=True)
class SideBySide:
    """One product in the comparison of the two schools: its dose now and the active in it, ``times`` as much as in the first;
    and the dose that brings the same active as the first, with the ``rate`` to write for that."""

    treatment: str
    dose: str
    now: str
    active: str
    times: float
    same: str
    rate: str


@dataclass(frozen=True)
class Schools:
    """The treatments that give the same active ingredient, and what the plan asks of them."""

    active: str
    rows: tuple[SideBySide, ...]
    says: str


@dataclass(frozen=True)
class Workbench:
    """All of it, and what cannot be worked out yet, each at its field."""

    treated: tuple[Treated, ...]
    schools: tuple[Schools, ...]
    problems: tuple[Problem, ...]


def workbench(plan: Plan, tools: Sequence[Tool] = ()) -> Workbench:
    """Every dose of ``plan``, measured with the best of ``tools`` where the plan names none."""
    problems: list[Problem] = []
    told_by: dict[str, list[DoseTold]] = {}
    for i, treatment in enumerate(plan.treatments):
        told_by[treatment.key] = []
        for j, dose in enumerate(treatment.doses):
            try:
                told_by[treatment.key].append(dose_told(plan, treatment, dose, tools))
            except Refused as refused:
                problems += [Problem(_where(plan, i, j, dose, p.at), p.says) for p in refused.problems]
                if all(p.at == "tool" for p in refused.problems):
                    # The amount stands whatever it was to be measured with.
                    told_by[treatment.key].append(
                        dose_told(plan, treatment, replace(dose, tool="", stock=False), tools)
                    )
    adds = {key: sum(d.value for d in doses if d.unit == "mL") for key, doses in told_by.items()}
    most = max(adds.values(), default=0.0) if plan.top_up else 0.0
    treated = tuple(
        Treated(
            key,
            tuple(doses),
            adds[key],
            max(0.0, most - adds[key]),
            _top_up(plan, most - adds[key]) if plan.top_up else "",
        )
        for key, doses in told_by.items()
    )
    return Workbench(treated, _schools(plan, told_by), tuple(dict.fromkeys(problems)))


def dose_told(plan: Plan, treatment: Treatment, dose: Dose, tools: Sequence[Tool] = ()) -> DoseTold:
    """``dose`` of ``treatment`` for one sample.

    :raises Refused: at the field that cannot be used as it is.
    """
    given = given_by(plan, dose)
    value, unit = given.worked.value, given.worked.unit
    steps = list(given.worked.steps)
    doses = batch_of(plan, treatment)
    at_once = value * doses if plan.mixing == "batch" else value
    measures = told(at_once, unit)
    if plan.mixing == "batch":
        steps.append(
            f"For {plan.per_treatment(treatment)} at once and {told(100 * plan.overage, '%')} over: {told(value, unit)} × "
            f"{told(doses, '')} = {measures}."
        )
    tool = _tool(plan, dose) or best_of(tools, at_once, unit)
    stock = ""
    error: float | None = None
    standing: Standing | None = None
    ways: tuple[str, ...] = ()
    if tool is not None and at_once > 0:
        if tool.unit != unit:
            raise Refused(
                f"The dose is told in {unit}; {tool.name or 'this'} measures {tool.unit}. Choose one that measures {unit}.",
                "tool",
            )
        if dose.stock:
            made = stock_for(value, tool, tools, value * doses)
            stock, standing = made.says, "fine"
            measures = f"{told(made.aliquot * (doses if plan.mixing == 'batch' else 1), 'mL')} of the stock"
        else:
            found = measured(at_once, tool, tools)
            error, standing, ways = found.relative_error, found.standing, found.advice
    return DoseTold(
        dose.key,
        plan.product_named[dose.product].name,
        value,
        unit,
        told(value, unit),
        given.echo,
        tuple(steps),
        given.active,
        measures,
        tool.name if tool else "",
        tool.written if tool else "",
        error,
        standing,
        ways,
        stock,
    )


def batch_of(plan: Plan, treatment: Treatment) -> float:
    """How many doses are mixed for ``treatment``, those that are over among them."""
    return plan.per_treatment(treatment) * (1 + max(0.0, plan.overage))


def _tool(plan: Plan, dose: Dose) -> Tool | None:
    if not dose.tool.strip():
        return None
    try:
        return tool_in(dose.tool, plan.system)
    except Refused as refused:
        raise Refused(refused.problems[0].says, "tool") from refused


def _where(plan: Plan, i: int, j: int, dose: Dose, at: str) -> str:
    if at == "sample_size":
        return at
    if at == "share":
        return f"products.{[p.key for p in plan.products].index(dose.product)}.share"
    return f"treatments.{i}.doses.{j}.{at}"


def _top_up(plan: Plan, more: float) -> str:
    carrier = plan.carrier.strip() or "the carrier"
    if more > 1e-9:
        return f"{told(more, 'mL')} of {carrier} more for each, stirred in like a dose, so that all are handled alike."
    return ""


def _schools(plan: Plan, told_by: dict[str, list[DoseTold]]) -> tuple[Schools, ...]:
    products = plan.product_named
    grouped: dict[str, list[tuple[Treatment, Dose, DoseTold]]] = {}
    for treatment in plan.treatments:
        by_key = {dose.key: dose for dose in treatment.doses}
        for one in told_by[treatment.key]:
            name = products[by_key[one.dose].product].active.strip()
            if name and one.active:
                grouped.setdefault(name.casefold(), []).append((treatment, by_key[one.dose], one))
    return tuple(_school(plan, rows) for rows in grouped.values() if len(rows) > 1)


def _school(plan: Plan, rows: list[tuple[Treatment, Dose, DoseTold]]) -> Schools:
    products = plan.product_named
    active = products[rows[0][1].product].active.strip()
    first = rows[0][2].active or 1.0
    unit = rows[0][2].unit
    found = []
    for treatment, dose, one in rows:
        share = share_of(products[dose.product], plan) or 1.0
        found.append(
            SideBySide(
                treatment.key,
                dose.key,
                one.says,
                told(one.active or 0.0, one.unit),
                (one.active or 0.0) / first,
                told(first / share, unit),
                f"{first:.6g} {unit} / {plan.sample_size.strip()}",
            )
        )
    most = max(found, key=lambda row: row.times)
    least = min(found, key=lambda row: row.times)
    names = {t.key: t.name.strip() for t in plan.treatments}
    times = most.times / least.times if least.times > 0 else 1.0
    if times < 1.01:
        says = f"All bring the same {active}."
        if plan.school == "label":
            says += " The plan asks about the products as their labels say; see that these are the labels’ rates."
    else:
        says = (
            f"{names[most.treatment]} brings {told(times, '', 3)} times as much {active} as {names[least.treatment]}."
        )
        says += (
            " The plan asks for one procedure for all: give the same active, or the verdict is about the label’s rates."
            if plan.school == "same"
            else " As the label says, that is what is compared: the product as it is sold, not the ingredient."
        )
    return Schools(active, tuple(found), says)
