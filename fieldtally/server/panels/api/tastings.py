"""Holding a tasting by itself."""

from ninja import Router, Schema

from fieldtally.core.design.fair.items import TASTED
from fieldtally.core.design.plan import Stand
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.panels import tastings
from fieldtally.server.panels.api.hosting import PanelOut, panel_out
from fieldtally.server.panels.api.people import NewAssessor
from fieldtally.server.panels.planning import Invited
from fieldtally.server.people.signedin import SignedIn

router = Router()


class TastingIn(Schema):
    """A tasting: what is put before people, by name; the panel (its ``things`` follow from these); who judges; and fairness."""

    title: str = ""
    zone: str = "UTC"
    things: list[str]
    panel: PanelPlan
    people: list[NewAssessor]
    fairness: list[Stand] = []


class FairAsked(Schema):
    """What is asked of fairness: its key, the question, and why it matters."""

    key: str
    title: str
    why: str


class TastingAsked(Schema):
    """What is asked of every tasting."""

    fairness: list[FairAsked]


@router.get("/tastings", response=TastingAsked)
def asked(request: SignedIn) -> TastingAsked:
    """What is asked of every tasting, no more than a panel needs."""
    del request
    return TastingAsked(fairness=[FairAsked(key=one.key, title=one.title, why=one.why) for one in TASTED])


@router.post("/tastings", response={200: PanelOut, 409: ProblemsOut, 422: ProblemsOut})
def hold(request: SignedIn, body: TastingIn) -> PanelOut:
    """Hold a tasting: planned, sealed and begun in one step, or not at all."""
    made = tastings.hold(
        request.user,
        tastings.Wanted(
            body.title,
            body.zone,
            tuple(body.things),
            body.panel,
            tuple(Invited(one.name, one.experience, one.blind, one.address) for one in body.people),
            tuple(body.fairness),
        ),
    )
    return panel_out(made, links=True)
