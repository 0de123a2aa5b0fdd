"""What earlier trials and common practice lend to a new plan: treatments, and scales to begin with."""

from dataclasses import asdict

from ninja import Router, Schema, Status
from pydantic import TypeAdapter

from fieldtally.core.design.plan import TreatmentKind
from fieldtally.core.scales.templates import TEMPLATES, Attribute, Template
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.queries import memberships_of
from fieldtally.server.people.sight import Sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan import lending
from fieldtally.server.plan.models import Lent, SharedThing
from fieldtally.server.plan.queries import plans_of

router = Router()
_attributes: TypeAdapter[tuple[Attribute, ...]] = TypeAdapter(tuple[Attribute, ...])
MOST_EARLIER = 20


class EarlierTreatment(Schema):
    """A treatment of an earlier trial of this person, and the newest trial it stood in."""

    name: str
    kind: TreatmentKind
    note: str
    package: bool
    changes: str
    cost: float | None
    trial: str


class LibraryOut(Schema):
    """Everything that may be taken over, newest first."""

    treatments: list[EarlierTreatment]


@router.get("/treatments", response=LibraryOut)
def treatments(request: SignedIn) -> LibraryOut:
    """The treatments of the person's trials, as far as they may know them; each name once."""
    memberships = memberships_of(request.user)
    plans = plans_of([m.trial for m in memberships])
    found: dict[str, EarlierTreatment] = {}
    for membership in memberships:
        if not Sight(membership.trial, membership).may("see_treatments"):
            continue
        for one in plans[membership.trial_id].treatments:
            found.setdefault(
                " ".join(one.name.split()).casefold(),
                EarlierTreatment(
                    name=one.name,
                    kind=one.kind,
                    note=one.note,
                    package=one.package,
                    changes=one.changes,
                    cost=one.cost,
                    trial=membership.trial.title,
                ),
            )
    found.pop("", None)
    return LibraryOut(treatments=list(found.values()))


class ScalesOut(Schema):
    """Scales to begin with: those kept for everybody here, of one's own trials, newest first, then common ones; ``mine``: which of the
    first (key) this person may take away."""

    templates: list[Template]
    mine: list[str]


@router.get("/scales", response=ScalesOut)
def scales(request: SignedIn) -> ScalesOut:
    """Sets of scales: of the person's trials, as far as they may know these, and common ones."""
    memberships = memberships_of(request.user)
    plans = plans_of([m.trial for m in memberships])
    earlier: list[Template] = []
    for membership in memberships:
        outcomes = plans[membership.trial_id].outcomes
        if outcomes and Sight(membership.trial, membership).may("see_treatments") and len(earlier) < MOST_EARLIER:
            own = tuple(Attribute(o.name, o.scale, o.better, o.margin) for o in outcomes)
            earlier.append(
                Template(f"trial-{membership.trial_id}", membership.trial.title, "as in this trial of yours", own)
            )
    shared = lending.lent(Lent.SCALES)
    may_drop = [one for one in shared if lending.may_take_away(request.user, one)]
    return ScalesOut(
        templates=[*(_template(one) for one in shared), *earlier, *TEMPLATES],
        mine=[_key(one) for one in may_drop],
    )


def _key(one: SharedThing) -> str:
    return f"shared-{one.pk}"


def _template(one: SharedThing) -> Template:
    return Template(
        _key(one), one.name, f"kept for everybody here by {one.by.called}", _attributes.validate_python(one.document)
    )


class LendScalesIn(Schema):
    """Scales to be kept for everybody here, and under which name."""

    name: str
    attributes: list[Attribute]


@router.post("/scales/shared", response={201: Template, 409: ProblemsOut, 422: ProblemsOut})
def lend_scales(request: SignedIn, body: LendScalesIn) -> Status[Template]:
    """Keep scales for everybody here."""
    kept = lending.lend(request.user, Lent.SCALES, body.name, [asdict(one) for one in body.attributes])
    return Status(201, _template(kept))


@router.delete("/scales/shared/{thing_id}", response={204: None, 404: ProblemsOut})
def take_scales_away(request: SignedIn, thing_id: int) -> Status[None]:
    """Take scales away that were kept for everybody."""
    lending.take_away(request.user, Lent.SCALES, thing_id)
    return Status(204, None)


class SitePart(Schema):
    """A place where samples stand, and what it is like."""

    name: str
    note: str = ""


class SharedSites(Schema):
    """Places that are kept together for everybody here, by whom, and whether this person may take them away."""

    id: int
    name: str
    by: str
    places: list[SitePart]
    mine: bool


def _sites(request: SignedIn) -> list[SharedSites]:
    return [
        SharedSites(
            id=one.pk,
            name=one.name,
            by=one.by.called,
            places=[SitePart(**part) for part in one.document],
            mine=lending.may_take_away(request.user, one),
        )
        for one in lending.lent(Lent.SITES)
    ]


@router.get("/sites", response=list[SharedSites])
def sites(request: SignedIn) -> list[SharedSites]:
    """Places that are kept for everybody here."""
    return _sites(request)


class LendSitesIn(Schema):
    """Places to be kept for everybody here, and under which name."""

    name: str
    places: list[SitePart]


@router.post("/sites", response={201: list[SharedSites], 409: ProblemsOut, 422: ProblemsOut})
def lend_sites(request: SignedIn, body: LendSitesIn) -> Status[list[SharedSites]]:
    """Keep places for everybody here."""
    parts = [{"name": one.name.strip()[:80], "note": one.note.strip()[:200]} for one in body.places if one.name.strip()]
    lending.lend(request.user, Lent.SITES, body.name, parts)
    return Status(201, _sites(request))


@router.delete("/sites/{thing_id}", response={200: list[SharedSites], 404: ProblemsOut})
def take_sites_away(request: SignedIn, thing_id: int) -> list[SharedSites]:
    """Take places away that were kept for everybody."""
    lending.take_away(request.user, Lent.SITES, thing_id)
    return _sites(request)
