"""What a scorer believes, and the second codes for whoever brings the samples."""

from collections.abc import Sequence
from typing import Literal, cast
from uuid import UUID

from ninja import Router, Schema

from fieldtally.core.schedule.naming import called
from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.rounds.guessing import guesses_of, write_guesses
from fieldtally.server.rounds.repeats import repeats_at

router = Router()
BeliefName = Literal["treated", "control", "unknown"]


class BeliefOf(Schema):
    """A sample (id) and what it is believed to be."""

    sample: UUID
    belief: BeliefName


class GuessesOut(Schema):
    """What who asks believes of each sample so far; ``asked``: there are controls and others to tell apart."""

    guesses: Sequence[BeliefOf]
    asked: bool


class GuessesIn(Schema):
    """What is believed now."""

    guesses: list[BeliefOf]


@router.get("/trials/{trial_id}/guesses", response={200: GuessesOut, 403: ProblemsOut, 404: ProblemsOut})
def guesses(request: SignedIn, trial_id: UUID) -> GuessesOut:
    """One's own beliefs."""
    seen = sight(request, trial_id)
    seen.need("guess")
    kinds = {treatment.kind == "treatment" for treatment in plan_of(seen.trial).treatments}
    own = guesses_of(seen.trial, request.user)
    return GuessesOut(
        guesses=[BeliefOf(sample=pk, belief=cast(BeliefName, one)) for pk, one in own.items()], asked=len(kinds) == 2
    )


@router.post(
    "/trials/{trial_id}/guesses",
    response={200: GuessesOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def guess(request: SignedIn, trial_id: UUID, body: GuessesIn) -> GuessesOut:
    """Write down what one believes; the newest belief on each sample counts."""
    seen = sight(request, trial_id)
    seen.need("guess")
    own = write_guesses(seen.trial, request.user, {one.sample: one.belief for one in body.guesses})
    return GuessesOut(
        guesses=[BeliefOf(sample=pk, belief=cast(BeliefName, one)) for pk, one in own.items()], asked=True
    )


class SecondCode(Schema):
    """The sample with ``code`` is also brought as ``second``."""

    code: str
    second: str


class SecondCodesOut(Schema):
    """The second codes of a look."""

    name: str
    codes: Sequence[SecondCode]


@router.get(
    "/trials/{trial_id}/second-codes",
    response={200: SecondCodesOut, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def second_codes(request: SignedIn, trial_id: UUID, checkpoint: str) -> SecondCodesOut:
    """Which sample is brought back under which second code: for whoever brings them, who must not score."""
    seen = sight(request, trial_id)
    seen.need("see_second_codes")
    if seen.trial.sealed_at is None:
        raise Declined(409, "There are no codes yet: seal the plan first.")
    look = next((c for c in plan_of(seen.trial).checkpoints if c.key == checkpoint), None)
    if look is None:
        raise missing()
    codes = [SecondCode(code=one.sample.code, second=one.code) for one in repeats_at(seen.trial, look)]
    return SecondCodesOut(name=called(look), codes=sorted(codes, key=lambda one: one.code))
