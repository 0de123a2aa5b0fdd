"""What earlier trials and common practice lend to a new plan: treatments, and scales to begin with."""

from ninja import Router, Schema

from fieldtally.core.design.plan import TreatmentKind
from fieldtally.core.scales.templates import TEMPLATES, Attribute, Template
from fieldtally.server.people.queries import memberships_of
from fieldtally.server.people.sight import Sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plans_of

router = Router()
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
    """Scales to begin with: those of one's own trials, newest first, then common ones."""

    templates: list[Template]


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
    return ScalesOut(templates=[*earlier, *TEMPLATES])
