"""The dose workbench, what was understood of an amount, and the tools a person measures with."""

from typing import Literal

from ninja import Router, Schema, Status

from fieldtally.core.design.plan import Plan
from fieldtally.core.dosing.dilution import ratio_in
from fieldtally.core.dosing.measuring import tool_in
from fieldtally.core.dosing.mixing import MixSheet, mix_sheet
from fieldtally.core.dosing.rates import coverage_in
from fieldtally.core.dosing.workbench import Workbench, workbench
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.quantities.amounts import amount_in, rate_in
from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.prepare.models import MeasuringTool
from fieldtally.server.prepare.queries import may_drop_tool, tools_of, tools_within_reach

router = Router()
MOST_TOOLS = 30
LONGEST_WRITTEN = 100


class UnderstoodIn(Schema):
    """An amount as somebody wrote it, and what is wanted there."""

    text: str
    wants: Literal[
        "amount",
        "volume",
        "mass",
        "area",
        "length",
        "time",
        "temperature",
        "share",
        "rate",
        "coverage",
        "ratio",
        "tool",
    ]
    system: Literal["metric", "us", "imperial"] = "metric"


class UnderstoodOut(Schema):
    """What was understood, in full words."""

    echo: str


@router.post("/understood", response={200: UnderstoodOut, 422: ProblemsOut})
def understood(request: SignedIn, body: UnderstoodIn) -> UnderstoodOut:
    """Read an amount as people write it, and echo it in full.  Nothing is stored."""
    text = body.text[:LONGEST_WRITTEN]
    try:
        return UnderstoodOut(echo=_echo(text, body))
    except Refused as refused:
        raise Refused([Problem("text", p.says) for p in refused.problems]) from refused


def _echo(text: str, body: UnderstoodIn) -> str:
    match body.wants:
        case "rate":
            return rate_in(text, body.system).echo
        case "coverage":
            return coverage_in(text, body.system).echo
        case "ratio":
            found = ratio_in(text)
            return f"{found.first:g} {found.first_name} and {found.second:g} {found.second_name}: {found.parts:g} parts in all"
        case "tool":
            tool = tool_in(text, body.system)
            return f"holds {tool.most:g} {tool.unit}, marked every {tool.graduation:g} {tool.unit}"
        case "amount":
            return amount_in(text, body.system).echo
        case dimension:
            return amount_in(text, body.system, dimension).echo


class DosesIn(Schema):
    """A plan whose doses are to be worked out."""

    plan: Plan


class DosesOut(Schema):
    """Every dose for one sample, and what all of them take."""

    bench: Workbench
    sheet: MixSheet


@router.post("/doses", response={200: DosesOut, 422: ProblemsOut})
def doses(request: SignedIn, body: DosesIn) -> DosesOut:
    """The dose workbench: every dose of a plan worked out for this person's tools.  Nothing is stored."""
    tools = tools_of(request.user)
    return DosesOut(bench=workbench(body.plan, tools), sheet=mix_sheet(body.plan, tools))


class ToolOut(Schema):
    """Something a person measures with, as they wrote it, and what was understood; ``shared``: it is there for everybody, ``mine``: this
    person may take it off the list."""

    id: int
    text: str
    name: str
    unit: str
    most: float
    graduation: float
    shared: bool
    mine: bool


class ToolsOut(Schema):
    """All of them."""

    tools: list[ToolOut]


def _tools(request: SignedIn) -> ToolsOut:
    rows = tools_within_reach(request.user)
    read = [(row, tool_in(row.text)) for row in rows]
    return ToolsOut(
        tools=[
            ToolOut(
                id=row.pk,
                text=row.text,
                name=tool.name,
                unit=tool.unit,
                most=tool.most,
                graduation=tool.graduation,
                shared=row.shared,
                mine=may_drop_tool(request.user, row),
            )
            for row, tool in read
        ]
    )


@router.get("/tools", response=ToolsOut)
def tools(request: SignedIn) -> ToolsOut:
    """What this person measures with."""
    return _tools(request)


class ToolIn(Schema):
    """A tool as people write it: ``small syringe: 1 mL by 0.01 mL``; whose spoons and ounces are meant; whether it is there for
    everybody."""

    text: str
    system: Literal["metric", "us", "imperial"] = "metric"
    shared: bool = False


@router.post("/tools", response={200: ToolsOut, 409: ProblemsOut, 422: ProblemsOut})
def add_tool(request: SignedIn, body: ToolIn) -> ToolsOut:
    """Add a tool to one's list; in mL or g, whatever it was written in, so that it means the same in every trial."""
    try:
        tool = tool_in(body.text[:LONGEST_WRITTEN], body.system)
    except Refused as refused:
        raise Refused([Problem("text", p.says) for p in refused.problems]) from refused
    if MeasuringTool.objects.filter(by=request.user).count() >= MOST_TOOLS:
        raise Declined(409, f"More than {MOST_TOOLS} tools do not fit on the list; take one out first.")
    MeasuringTool.objects.update_or_create(
        by=request.user, text=tool.written[:LONGEST_WRITTEN], defaults={"shared": body.shared}
    )
    return _tools(request)


@router.delete("/tools/{tool_id}", response={200: ToolsOut, 404: ProblemsOut})
def drop_tool(request: SignedIn, tool_id: int) -> Status[ToolsOut]:
    """Take a tool off one's list."""
    row = tools_within_reach(request.user).filter(pk=tool_id).first()
    if row is None or not may_drop_tool(request.user, row):
        raise missing()
    row.delete()
    return Status(200, _tools(request))
