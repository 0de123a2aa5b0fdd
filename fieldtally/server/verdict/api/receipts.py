"""Receipts: the link of a trial's chain so far, taken along to prove later that nothing before it was changed."""

from datetime import datetime
from uuid import UUID

from ninja import Router, Schema

from fieldtally.core.blinding.chain import holds
from fieldtally.core.problems import Problem
from fieldtally.core.trialpack.chained import receipt_of
from fieldtally.server.answers import Declined, ProblemsOut
from fieldtally.server.people.chain import entries_of
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.verdict.chain import last_link

FORMAT = "field-tally-receipt/1"
LONGEST = 2_000
router = Router()


class ReceiptOut(Schema):
    """The last link of the chain of a trial (its id), how many entries it stands for, and when the newest was written."""

    format: str
    trial: UUID
    entries: int
    link: str
    at: datetime


@router.get(
    "/trials/{trial_id}/receipt", response={200: ReceiptOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut}
)
def receipt(request: SignedIn, trial_id: UUID) -> ReceiptOut:
    """A receipt for all that was recorded so far.  It tells nothing of what that was."""
    seen = sight(request, trial_id)
    last = last_link(seen.trial)
    if last is None:
        raise Declined(409, "Nothing is recorded yet: the chain begins with the seal.")
    told = last.document
    return ReceiptOut(
        format=FORMAT,
        trial=seen.trial.pk,
        entries=told["number"],
        link=last.link,
        at=datetime.fromisoformat(told["at"]),
    )


class ReceiptIn(Schema):
    """A receipt as it was taken, or its link alone."""

    receipt: str


class ReceiptHeld(Schema):
    """The number of the entry that the receipt was taken at, and how many there are now; None: the chain does not hold it."""

    number: int | None
    entries: int


@router.post(
    "/trials/{trial_id}/receipt/check",
    response={200: ReceiptHeld, 403: ProblemsOut, 404: ProblemsOut, 422: ProblemsOut},
)
def check(request: SignedIn, trial_id: UUID, body: ReceiptIn) -> ReceiptHeld:
    """Whether the chain of the trial still holds a receipt."""
    seen = sight(request, trial_id)
    link = receipt_of(body.receipt[:LONGEST].encode())
    if not link:
        raise Declined(422, Problem("receipt", "This is no receipt: it names no link of 64 hexadecimal digits."))
    entries = entries_of(seen.trial)
    return ReceiptHeld(number=holds(entries, link), entries=len(entries))
