"""The drawer of bench sums, for anyone signed in.  Nothing is stored."""

from typing import Literal

from ninja import Router, Schema

from fieldtally.core.dosing.drawer import DRAWER, Answer, Asked, worked_out
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.signedin import SignedIn

router = Router()


class SumOut(Schema):
    """A sum of the drawer: what it asks for, and its formula."""

    key: str
    name: str
    formula: str
    asks: list[Asked]


class DrawerOut(Schema):
    """All of them."""

    sums: list[SumOut]


@router.get("/bench", response=DrawerOut)
def drawer(request: SignedIn) -> DrawerOut:
    """What the drawer holds."""
    return DrawerOut(sums=[SumOut(key=s.key, name=s.name, formula=s.formula, asks=list(s.asks)) for s in DRAWER])


class SumIn(Schema):
    """What was written into the fields of a sum, and whose gallons and spoons are meant."""

    sum: str
    given: dict[str, str]
    system: Literal["metric", "us", "imperial"] = "metric"


@router.post("/bench", response={200: Answer, 422: ProblemsOut})
def work(request: SignedIn, body: SumIn) -> Answer:
    """Work a sum out."""
    return worked_out(body.sum, {key: text[:200] for key, text in body.given.items()}, body.system)
