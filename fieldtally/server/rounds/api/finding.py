"""Finding: a sample by its tag's address or its code, and anything of one's own by a few letters."""

from collections.abc import Iterator
from typing import Literal
from uuid import UUID

from django.utils import timezone
from ninja import Router, Schema

from fieldtally.core.blinding.checking import check_letter, code_on_tag
from fieldtally.core.design.plan import Plan
from fieldtally.core.schedule.naming import called
from fieldtally.server.answers import ProblemsOut, missing
from fieldtally.server.log.queries import out_of_play
from fieldtally.server.people.queries import memberships_of
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import plan_of, plans_of
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


FoundKind = Literal["trial", "sample", "treatment"]
MOST_LETTERS = 60
MOST_OF_A_KIND = 12


class Anywhere(Schema):
    """One thing that was found in a trial of one's own: its ``name`` and the trial's ``title``, each as this person may read it, the
    trial's ``state``, and the ``sample`` it is, if it is one."""

    kind: FoundKind
    name: str
    trial: UUID
    title: str
    state: str
    sample: UUID | None = None


class AnywhereOut(Schema):
    """What was found, trials first; no more than twelve of a kind."""

    found: list[Anywhere]


@router.get("/find", response=AnywhereOut)
def find_anywhere(request: SignedIn, text: str) -> AnywhereOut:
    """Trials by a part of their title or question, samples by the beginning of their code, treatments, where they may be known, by a
    part of their name."""
    wanted = " ".join(text[:MOST_LETTERS].split()).casefold()
    if not wanted:
        return AnywhereOut(found=[])
    memberships = memberships_of(request.user)
    plans = plans_of([one.trial for one in memberships])
    seen = {one.trial_id: Sight(one.trial, one) for one in memberships}
    titles = {pk: own.titled(own.trial.title, plans[pk].telling_names) for pk, own in seen.items()}
    trials, treatments = [], []
    for pk, own in seen.items():
        told = (pk, titles[pk], own.told_state)
        if any(wanted in one.casefold() for one in (titles[pk], _asked(own, plans[pk]))):
            trials.append(_anywhere("trial", titles[pk], *told))
        treatments += [
            _anywhere("treatment", name, *told) for name in _known(own, plans[pk]) if wanted in name.casefold()
        ]
    rows = Sample.objects.filter(trial__in=list(seen), code__istartswith=wanted).order_by("code", "pk")
    samples = [
        _anywhere("sample", row.code, row.trial_id, titles[row.trial_id], seen[row.trial_id].told_state, row.pk)
        for row in rows[:MOST_OF_A_KIND]
    ]
    return AnywhereOut(found=[*trials[:MOST_OF_A_KIND], *samples, *treatments[:MOST_OF_A_KIND]])


def _asked(seen: Sight, plan: Plan) -> str:
    return seen.asked(plan.question, plan.telling_names) if seen.may("see_draft") else ""


def _known(seen: Sight, plan: Plan) -> Iterator[str]:
    """The treatments that this person may know."""
    if seen.may("see_treatments"):
        yield from dict.fromkeys(one.name.strip() for one in plan.treatments if one.name.strip())


def _anywhere(kind: FoundKind, name: str, trial: UUID, title: str, state: str, sample: UUID | None = None) -> Anywhere:
    return Anywhere(kind=kind, name=name, trial=trial, title=title, state=state, sample=sample)
