"""The board: every sample as a tag, with a stroke for each look taken."""

from uuid import UUID

from django.http import HttpResponse
from ninja import Router, Schema, Status

from fieldtally.core.blinding.checking import check_letter
from fieldtally.core.design.letters import letter_of
from fieldtally.server.answers import ProblemsOut, as_it_is
from fieldtally.server.log import services as log_services
from fieldtally.server.log.queries import out_of_play
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.queries import key_of, plan_of, samples_of
from fieldtally.server.rounds.queries import looked_at_whole

router = Router()


class TagOut(Schema):
    """A sample: its (random) id, its code with its check letter, its place, how many looks are taken, why it is set aside; its letter once
    the key is open."""

    id: UUID
    code: str
    check: str
    block: str
    place: int
    plot: int | None
    row: int | None
    column: int | None
    looks: int
    set_aside: str | None
    letter: str | None


class KeyLetter(Schema):
    """What a letter stands for."""

    letter: str
    name: str
    kind: str


class BoardOut(Schema):
    """All samples, and what the letters stand for once the key is open."""

    tags: list[TagOut]
    key: list[KeyLetter]


@router.get("/trials/{trial_id}/board", response={200: BoardOut, 404: ProblemsOut})
def board(request: SignedIn, trial_id: UUID) -> HttpResponse | BoardOut:
    """The samples of a trial.  No letter before the key is open, whoever asks."""
    seen = sight(request, trial_id)
    trial = seen.trial
    if trial.sealed_at is None:
        return BoardOut(tags=[], key=[])
    plan = plan_of(trial)
    looks = looked_at_whole(trial, plan)
    aside = out_of_play(trial)
    names = plan.telling_names
    key = key_of(trial) if seen.may("see_verdict") else {}
    letters = {t.key: letter_of(i) for i, t in enumerate(plan.treatments)}
    whole = BoardOut(
        tags=[
            TagOut.model_construct(
                id=sample.pk,
                code=sample.code,
                check=check_letter(sample.code, str(trial.pk)),
                block=sample.block,
                place=sample.place,
                plot=sample.plot,
                row=sample.row,
                column=sample.column,
                looks=looks.get(sample.pk, 0),
                set_aside=seen.spoken(aside[sample.pk].reason, names) if sample.pk in aside else None,
                letter=letters[key[sample.pk]] if key else None,
            )
            for sample in samples_of(trial)
        ],
        key=[KeyLetter(letter=letters[t.key], name=t.name, kind=t.kind) for t in plan.treatments] if key else [],
    )
    return as_it_is(whole)


class AsideIn(Schema):
    """Which sample, what happened, and whether it is put back."""

    code: str
    reason: str
    back: bool = False


@router.post(
    "/trials/{trial_id}/aside",
    response={204: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def aside(request: SignedIn, trial_id: UUID, body: AsideIn) -> Status[None]:
    """Set a sample aside, or put it back."""
    seen = sight(request, trial_id)
    seen.need("set_aside")
    seen.hear(plan_of(seen.trial).telling_names, reason=body.reason)
    log_services.move_aside(seen.trial, request.user, body.code, body.reason, back=body.back)
    return Status(204, None)
