"""Dry runs: one at once, many as a task that shows how far it is."""

from uuid import UUID

from ninja import Router, Schema, Status
from pydantic import Field

from fieldtally.core.design.plan import Plan
from fieldtally.core.design.soundness import problems_in
from fieldtally.core.problems import Refused
from fieldtally.core.rehearsal.dryrun import DryRun, DryRuns, dry_run
from fieldtally.core.rehearsal.imagined import Imagined, refuse_nonsense, usual
from fieldtally.server.answers import ProblemsOut, missing
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan import rehearsals
from fieldtally.server.plan.models import Rehearsal

router = Router()
MOST_PLAYED = 6_000
"""Samples times pairs of treatments that are still played while somebody waits."""


class DryRunIn(Schema):
    """A plan, what is imagined to be true (empty: what the plan expects), and which of the imagined trials to play."""

    plan: Plan
    imagined: list[Imagined] = []
    run: int = Field(0, ge=0, le=2**31)


class DryRunOut(Schema):
    """The imagined truth that was played, and what the trial came to."""

    imagined: list[Imagined]
    run: DryRun


def _truth(body: DryRunIn) -> list[Imagined]:
    plan = body.plan
    flaws = problems_in(plan)
    if flaws:
        raise Refused([*flaws[:1]])
    pairs = len(plan.treatments) * (len(plan.treatments) - 1) // 2
    if plan.sample_count * pairs > MOST_PLAYED:
        says = f"{plan.sample_count:,} samples with {pairs} pairs to compare are too many to be played here: {{}} would do."
        instead = (
            f"{max(1, MOST_PLAYED // pairs // len(plan.treatments))} of each" if pairs < 200 else "fewer treatments"
        )
        raise Refused(says.format(instead), "plan.treatments")
    claimed = [outcome for outcome in plan.outcomes if outcome.primary and outcome.compared]
    imagined = body.imagined or [usual(plan, outcome) for outcome in claimed]
    refuse_nonsense(plan, imagined)
    return imagined


@router.post("/dry-run", response={200: DryRunOut, 422: ProblemsOut})
def one(request: SignedIn, body: DryRunIn) -> DryRunOut:
    """Play one whole trial with chosen truths and read the verdict it would give."""
    imagined = _truth(body)
    return DryRunOut(imagined=imagined, run=dry_run(body.plan, imagined, body.run))


class DryRunsIn(DryRunIn):
    """The same, played many times."""

    runs: int = Field(100, ge=10, le=500)


class RehearsalOut(Schema):
    """How far it is, and what came of it."""

    id: UUID
    runs: int
    done: int
    result: DryRuns | None
    failed: str


def _out(row: Rehearsal) -> RehearsalOut:
    result = DryRuns(**row.result) if row.result else None
    return RehearsalOut(id=row.pk, runs=row.runs, done=row.done, result=result, failed=row.failed)


@router.post("/dry-runs", response={202: RehearsalOut, 422: ProblemsOut})
def many(request: SignedIn, body: DryRunsIn) -> Status[RehearsalOut]:
    """Play many; ask again under its id how far it is."""
    return Status(202, _out(rehearsals.begin(request.user, body.plan, _truth(body), body.runs)))


def _own(request: SignedIn, rehearsal_id: UUID) -> Rehearsal:
    row = Rehearsal.objects.filter(pk=rehearsal_id, by=request.user).first()
    if row is None:
        raise missing()
    return row


@router.get("/dry-runs/{rehearsal_id}", response={200: RehearsalOut, 404: ProblemsOut})
def progress(request: SignedIn, rehearsal_id: UUID) -> RehearsalOut:
    """How far it is."""
    return _out(_own(request, rehearsal_id))


@router.delete("/dry-runs/{rehearsal_id}", response={204: None, 404: ProblemsOut})
def cancel(request: SignedIn, rehearsal_id: UUID) -> Status[None]:
    """Stop it; who leaves the page needs its answer no more."""
    rehearsals.cancel(_own(request, rehearsal_id))
    return Status(204, None)
