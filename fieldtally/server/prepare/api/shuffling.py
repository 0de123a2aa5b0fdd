"""The self-blinding shuffle: what to do in which order, that it is done, and what was found under the covers."""

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from fieldtally.core.design.letters import letter_of
from fieldtally.server.answers import ProblemsOut
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.models.shuffled import ShuffleKind
from fieldtally.server.plan.queries import plan_of, samples_of, shuffle_of
from fieldtally.server.plan.shuffling import flasks_for, shuffle, uncover, why_not

router = Router()


class ShuffleWay(Schema):
    """A way to shuffle, and why this plan does not allow it (empty: it does)."""

    kind: str
    why_not: str


class Filled(Schema):
    """What is filled, and the letter that is written where it can be covered."""

    letter: str
    name: str
    samples: int


class ShuffleOut(Schema):
    """The shuffle of a trial: the ways it allows, what is filled, the codes to tie on; who did it when, and when it was uncovered."""

    ways: list[ShuffleWay]
    fill: list[Filled]
    flasks: list[str]
    codes: dict[str, list[str]]
    kind: str
    done_by: str
    done_at: datetime | None
    uncovered_at: datetime | None
    found: dict[str, str]


def _out(seen: Sight) -> ShuffleOut:
    trial, plan = seen.trial, plan_of(seen.trial)
    done = shuffle_of(trial)
    uncovered = done.uncovered if done is not None and hasattr(done, "uncovered") else None
    blocks = {block.key: block.name for block in plan.layout.blocks}
    codes: dict[str, list[str]] = {}
    for sample in samples_of(trial):
        codes.setdefault(blocks.get(sample.block, ""), []).append(sample.code)
    letters = {treatment.key: letter_of(i) for i, treatment in enumerate(plan.treatments)}
    return ShuffleOut(
        ways=[ShuffleWay(kind=kind, why_not=why_not(plan, kind) or "") for kind in ShuffleKind.values],
        fill=[Filled(letter=letters[t.key], name=t.name, samples=plan.per_treatment(t)) for t in plan.treatments],
        # In the order of their numbers, which has nothing to do with what they are for.
        flasks=sorted(flasks_for(trial, plan).values()),
        codes={block: sorted(found) for block, found in codes.items()},
        kind=done.kind if done else "",
        done_by=done.by.called if done else "",
        done_at=done.at if done else None,
        uncovered_at=uncovered.at if uncovered else None,
        found={code: letters[key] for code, key in uncovered.found.items()} if uncovered else {},
    )


def _seen(request: HttpRequest, trial_id: UUID) -> Sight:
    seen = sight(request, trial_id)
    seen.need("shuffle")
    return seen


@router.get("/trials/{trial_id}/shuffle", response={200: ShuffleOut, 403: ProblemsOut, 404: ProblemsOut})
def read(request: SignedIn, trial_id: UUID) -> ShuffleOut:
    """How the shuffle goes in this trial, and whether it is done."""
    return _out(_seen(request, trial_id))


class ShuffleIn(Schema):
    """What was shuffled: flasks or samples."""

    kind: str


@router.post(
    "/trials/{trial_id}/shuffle",
    response={200: ShuffleOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def do(request: SignedIn, trial_id: UUID, body: ShuffleIn) -> ShuffleOut:
    """Record that all was filled, hidden, shuffled and coded: from now on nobody knows."""
    seen = _seen(request, trial_id)
    shuffle(seen.trial, request.user, body.kind)
    return _out(seen)


class UncoverIn(Schema):
    """The letter that was found under the cover of each code."""

    letters: dict[str, str]


@router.post(
    "/trials/{trial_id}/uncover",
    response={200: ShuffleOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def lift(request: SignedIn, trial_id: UUID, body: UncoverIn) -> ShuffleOut:
    """Write down what was under the covers, at the end; what is scored afterwards counts as open."""
    seen = sight(request, trial_id)
    seen.need("uncover")
    uncover(seen.trial, request.user, body.letters)
    return _out(seen)
