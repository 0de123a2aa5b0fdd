"""The verdict of a trial as its page shows it."""

import gzip
import json
from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from ninja import Schema
from ninja.responses import NinjaJSONEncoder

from fieldtally.core.agreement.instruments import MethodsCompared
from fieldtally.core.blinding.guesses import BlindingIndex
from fieldtally.core.design.letters import letter_of
from fieldtally.core.design.plan import Earlier, Factor, Plan, Summary
from fieldtally.core.dosing.costs import beside_outside
from fieldtally.core.scales import Scale
from fieldtally.core.verdict.agreeing import agreement_sentences
from fieldtally.core.verdict.conclude import Finding
from fieldtally.core.verdict.interim import price
from fieldtally.core.verdict.strength import StrengthLevel
from fieldtally.core.verdict.study import Concluded
from fieldtally.core.verdict.supporting import SupportingAnalysis
from fieldtally.core.verdict.tally import WholeTally
from fieldtally.core.verdict.telling.notes import NotesTold
from fieldtally.core.verdict.telling.tables import FindingTold, told_finding
from fieldtally.core.verdict.telling.uses import UseWhen, what_to_use
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.queries import read_panels, told_whole
from fieldtally.server.people.models import Trial
from fieldtally.server.people.queries import called
from fieldtally.server.plan.queries import Amended, amendments_of, plan_of, predictions_of
from fieldtally.server.rounds.guessing import blinding_of
from fieldtally.server.rounds.queries import rounds_of
from fieldtally.server.rounds.telling import accidents_told, blinding_told, methods_told, notes_of, retests_told
from fieldtally.server.verdict.limits import not_claimed
from fieldtally.server.verdict.models import InterimLook
from fieldtally.server.verdict.study import Study


class TreatmentOut(Schema):
    """A treatment with the letter it carries everywhere, and its level (key) of each factor (key)."""

    key: str
    letter: str
    name: str
    kind: str
    levels: dict[str, str]


class LookOut(Schema):
    """When an outcome was looked at."""

    key: str
    name: str
    offset: int


class JudgedOut(Schema):
    """What was looked at, and when; ``judged_at`` is the checkpoint of its summary."""

    key: str
    name: str
    scale: Scale
    better: str
    target: float | None
    margin: float | None
    primary: bool
    summary: Summary
    judged_at: str
    looks: list[LookOut]


class JudgedSample(Schema):
    """One sample's values: ``values[outcome][checkpoint]``, and its number by each outcome's summary, where it counts."""

    code: str
    letter: str
    block: str
    set_aside: str | None
    aside_after_key: bool
    left_out: str | None
    left_out_since: datetime | None
    values: dict[str, dict[str, float]]
    numbers: dict[str, float]
    curves: dict[str, list[float | None]]
    """The responses of curves, by outcome, at the look it is judged by."""


class HeldRound(Schema):
    """A round as it was really held."""

    checkpoint: str
    scorer: str
    blinding: str
    readings: int


class WithAll(Schema):
    """What one outcome's verdict would be with all samples."""

    outcome: str
    level: StrengthLevel
    sentence: str


class ByScorer(Schema):
    """What one outcome's verdict would be by one scorer alone."""

    scorer: str
    outcome: str
    level: StrengthLevel
    sentence: str


class PredictedOut(Schema):
    """What somebody foresaw; ``after_start``: written when exposure had begun."""

    by: str
    text: str
    at: datetime
    after_start: bool


class BlindingOut(Schema):
    """Whether a scorer could tell treated samples from controls."""

    scorer: str
    treated: BlindingIndex | None
    control: BlindingIndex | None


class LikedOut(Schema):
    """How many of a panel liked a treatment best."""

    letter: str
    name: str
    many: int


class PanelTold(Schema):
    """What a panel of the trial adds to its tally: its sentence, right answers of all where they count, and who was liked by how many."""

    id: UUID
    title: str
    sentence: str
    says: list[str]
    right: int | None
    of: int
    liked: list[LikedOut]


def _panels_told(trial: Trial, plan: Plan) -> list[PanelTold]:
    found = []
    keys = [one.key for one in plan.treatments]
    for panel in read_panels(trial):
        things = [keys.index(key) for key in panel_plan(panel).things]
        finding, says = told_whole(panel)
        liked: Sequence[int] = finding.favoured.counts if finding.favoured else ()
        if finding.preference is not None:
            main = finding.preference.everybody[0]
            liked = (main.first, main.second)
        found.append(
            PanelTold(
                id=panel.pk,
                title=panel_plan(panel).title,
                sentence=finding.sentence,
                says=list(says),
                right=finding.found.correct if finding.found else None,
                of=finding.n,
                liked=[
                    LikedOut(letter=letter_of(at), name=plan.treatments[at].name, many=many)
                    for at, many in zip(things, liked, strict=False)
                ],
            )
        )
    return found


class InstrumentsOut(Schema):
    """Whether instruments agree: in sentences, the most important first, and in figures where enough was read."""

    sentences: list[str]
    found: MethodsCompared | None


class VerdictOut(Schema):
    """Everything the verdict page shows."""

    title: str
    question: str
    predictions: list[PredictedOut]
    amendments: list[Amended]
    earlier: Earlier | None
    """The trial that this one follows, as it was found then."""
    sample_word: str
    sample_words: str
    alpha: float
    compare: str
    money: str
    seal: str
    opened_at: datetime
    opened_by: str
    origin: str
    imported_at: datetime | None
    treatments: list[TreatmentOut]
    blocks: list[str]
    factors: list[Factor]
    outcomes: list[JudgedOut]
    findings: list[Finding]
    with_all: list[WithAll]
    without_odd: list[WithAll]
    by_scorer: list[ByScorer]
    behind: list[SupportingAnalysis]
    tally: WholeTally | None
    samples: list[JudgedSample]
    rounds: list[HeldRound]
    not_claimed: list[str]
    blinding: list[BlindingOut]
    happened: list[str]
    panels_alone: bool
    """Whether panels are all there is: nothing was read of any sample."""
    blinding_told: str
    told: list[FindingTold]
    uses: list[UseWhen]
    notes: list[NotesTold]
    panels: list[PanelTold]
    beside: list[str]
    """What costs are set beside that was not in the trial, a sentence each."""
    instruments: InstrumentsOut | None
    """Of a trial that asks whether instruments agree; None of all others."""


def told(trial: Trial, study: Study, found: Concluded) -> VerdictOut:
    """All of it, of what was ``found`` in ``study``."""
    rounds = rounds_of(trial)
    plan = study.plan
    panels = _panels_told(trial, plan)
    return VerdictOut(
        title=trial.title,
        question=plan.question,
        predictions=[
            PredictedOut(
                by=one.by.called,
                text=one.text,
                at=one.at,
                after_start=bool(trial.started_at and one.at > trial.started_at),
            )
            for one in predictions_of(trial)
        ],
        amendments=amendments_of(trial),
        earlier=plan.earlier,
        sample_word=plan.sample.one,
        sample_words=plan.sample.many,
        alpha=plan.alpha,
        compare=plan.compare,
        money=plan.money,
        seal=trial.sealed.seal,
        opened_at=trial.opened_at or trial.created_at,
        opened_by=called(trial.opened_by_id),
        origin=trial.origin,
        imported_at=trial.imported_at,
        treatments=[
            TreatmentOut(key=t.key, letter=letter_of(i), name=t.name, kind=t.kind, levels=t.levels)
            for i, t in enumerate(plan.treatments)
        ],
        blocks=[block.name for block in plan.layout.blocks] if plan.layout.in_blocks else [],
        factors=list(plan.factors),
        outcomes=_outcomes(plan),
        findings=found.findings,
        with_all=_told(found.with_all),
        without_odd=_told(found.without_odd),
        by_scorer=[
            ByScorer(scorer=name, outcome=f.outcome, level=f.strength.level, sentence=f.sentence)
            for name, own in found.by_scorer.items()
            for f in own
            if f.claim
        ],
        behind=found.behind,
        tally=found.tally,
        samples=_samples(study, found.findings),
        rounds=[
            HeldRound(checkpoint=r.checkpoint, scorer=r.scorer, blinding=r.blinding, readings=r.readings)
            for r in rounds
        ],
        not_claimed=list(not_claimed(trial, study, rounds)),
        blinding=[BlindingOut(scorer=b.scorer, treated=b.treated, control=b.control) for b in blinding_of(trial)],
        happened=[
            *accidents_told(trial),
            *methods_told(trial),
            *retests_told(trial),
            *_interim_told(trial, plan),
        ],
        panels_alone=panels_alone(study, panels),
        told=[told_finding(plan, one) for one in found.findings if one.checkpoint is None],
        uses=list(what_to_use(plan, found.findings, found.tally)),
        notes=list(notes_of(trial, treatments_of(study))),
        blinding_told=blinding_told(trial, plan_of(trial), looked=True, scored=bool(rounds)),
        panels=panels,
        beside=list(beside_outside(plan)),
        instruments=InstrumentsOut(sentences=list(agreement_sentences(found.instruments)), found=found.instruments)
        if plan.agreement is not None
        else None,
    )


def _interim_told(trial: Trial, plan: Plan) -> list[str]:
    """The interim looks that were taken, and what all that were planned cost."""
    names = {c.key: c.name for c in plan.checkpoints}
    found = [
        f"Interim look at {names.get(one.checkpoint, 'a look')} by {one.by.called}: {one.says}"
        for one in InterimLook.objects.filter(trial=trial).select_related("by")
    ]
    return [*([price(plan)] if plan.interim else []), *found]


def panels_alone(study: Study, panels: Sequence[object]) -> bool:
    """Whether a trial has ``panels`` and not one reading of a sample."""
    return bool(panels) and not any(study.data.all_values.values())


def treatments_of(study: Study) -> dict[str, str]:
    """The treatment (name) of each sample (code)."""
    names = {treatment.key: treatment.name for treatment in study.plan.treatments}
    return {one.code: names[one.treatment] for one in study.data.placed}


def _told(findings: list[Finding]) -> list[WithAll]:
    return [
        WithAll(outcome=f.outcome, level=f.strength.level, sentence=f.sentence)
        for f in findings
        if f.checkpoint is None
    ]


def _outcomes(plan: Plan) -> list[JudgedOut]:
    return [
        JudgedOut(
            key=o.key,
            name=o.name,
            scale=o.scale,
            better=o.better,
            target=o.target,
            margin=o.margin,
            primary=o.primary,
            summary=o.summary,
            judged_at=plan.judged_at(o) or "",
            looks=[LookOut(key=c.key, name=c.name, offset=c.offset) for c in plan.looked_at(o)],
        )
        for o in plan.outcomes
        if o.compared
    ]


def _samples(study: Study, findings: list[Finding]) -> list[JudgedSample]:
    order = [one.code for one in study.data.kept]
    numbers = {f.outcome: dict(zip(order, f.numbers, strict=True)) for f in findings if f.checkpoint is None}
    letters = {t.key: letter_of(i) for i, t in enumerate(study.plan.treatments)}
    blocks = {b.key: b.name for b in study.plan.layout.blocks}
    rows = []
    for sample, placed in zip(study.samples, study.data.placed, strict=True):
        values: dict[str, dict[str, float]] = {}
        for (outcome, checkpoint), own in study.data.values.items():
            if sample.code in own:
                values.setdefault(outcome, {})[checkpoint] = own[sample.code]
        aside, out = study.aside.get(sample.pk), study.left_out.get(sample.pk)
        rows.append(
            JudgedSample(
                code=sample.code,
                letter=letters[placed.treatment],
                block=blocks.get(sample.block, ""),
                set_aside=aside.reason if aside else None,
                aside_after_key=any(one.after_key for one in (aside, out) if one),
                left_out=out.reason if out else None,
                left_out_since=out.since if out else None,
                values=values,
                numbers={
                    outcome: number for outcome, own in numbers.items() if (number := own.get(sample.code)) is not None
                },
                curves={key: list(own[sample.code]) for key, own in study.data.curves.items() if sample.code in own},
            )
        )
    return rows


def as_json(out: VerdictOut) -> bytes:
    """It as it is sent: JSON, compressed with gzip."""
    return gzip.compress(json.dumps(out.model_dump(), cls=NinjaJSONEncoder).encode(), 5)
