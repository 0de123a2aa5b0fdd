"""Finding a sample: by its tag's address, or by the code typed in."""

from uuid import UUID

from django.utils import timezone
from ninja import Router, Schema

from fieldtally.core.blinding.checking import check_letter, code_on_tag
from fieldtally.core.schedule.naming import called
from fieldtally.server.answers import ProblemsOut, missing
from fieldtally.server.log.queries import out_of_play
from fieldtally.server.people.sight import sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.prepare.queries import started_samples
from fieldtally.server.rounds.queries import progress_of

router = Router()


class SampleOut(Schema):
    """A sample as its tag leads to it: where it stands, why it is set aside, and the look (key) that can be scored now."""

    id: UUID
    trial: UUID
    title: str
    code: str
    check: str
    block: str
    place: int
    row: int | None
    column: int | None
    sample_word: str
    state: str
    started: bool
    set_aside: str | None
    score: str | None
    score_name: str


@router.get("/samples/{sample_id}", response={200: SampleOut, 404: ProblemsOut})
def sample(request: SignedIn, sample_id: UUID) -> SampleOut:
    """The sample whose tag was scanned, for those who have a role in its trial."""
    row = Sample.objects.filter(pk=sample_id).first()
    if row is None:
        raise missing()
    seen = sight(request, row.trial_id)
    trial = seen.trial
    plan, names = plan_of(trial), plan_of(trial).telling_names
    aside = out_of_play(trial).get(row.pk)
    looks = progress_of(trial, plan, timezone.now()) if seen.may("find_due") else []
    due = next((look for look in looks if look.standing in ("due", "late")), None)
    look = next((c for c in plan.checkpoints if due and c.key == due.key), None)
    blocks = {block.key: seen.spoken(block.name, names) for block in plan.layout.blocks}
    return SampleOut(
        id=row.pk,
        trial=trial.pk,
        title=seen.titled(trial.title, names),
        code=row.code,
        check=check_letter(row.code, str(trial.pk)),
        block=blocks.get(row.block, ""),
        place=row.place,
        row=row.row,
        column=row.column,
        sample_word=seen.sample_of(plan, names).one,
        state=seen.told_state,
        started=row.pk in started_samples(trial),
        set_aside=seen.spoken(aside.reason, names) if aside else None,
        score=look.key if look and aside is None else None,
        score_name=seen.spoken(called(look), names) if look else "",
    )


class FoundOut(Schema):
    """The sample that is meant."""

    id: UUID


@router.get("/trials/{trial_id}/find", response={200: FoundOut, 404: ProblemsOut, 422: ProblemsOut})
def find(request: SignedIn, trial_id: UUID, code: str) -> FoundOut:
    """The sample with a typed code; its check letter, where it is typed too, notices a slip."""
    seen = sight(request, trial_id)
    known = dict(Sample.objects.filter(trial=seen.trial).values_list("code", "pk"))
    return FoundOut(id=known[code_on_tag(code[:40], str(seen.trial.pk), known)])
