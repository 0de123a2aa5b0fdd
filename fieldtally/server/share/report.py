"""The report of a concluded trial, made from the trial itself: what was asked, done, happened, found, and may not be claimed."""

from __future__ import annotations

import base64
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields, is_dataclass, replace
from datetime import datetime, timedelta
from functools import cache
from math import inf
from statistics import fmean
from typing import Any
from uuid import UUID
from zoneinfo import ZoneInfo

from django.utils.safestring import SafeString, mark_safe

from fieldtally.core.agreement.instruments import MethodsCompared
from fieldtally.core.charts.course import Mark, Stop, course_svg
from fieldtally.core.charts.dots import DotsRow, MeansLine, dots_svgs, means_svg
from fieldtally.core.design.asked import told as told_some
from fieldtally.core.design.instruments import told_in
from fieldtally.core.design.letters import letter_of
from fieldtally.core.design.plan import Outcome, Plan, Treatment
from fieldtally.core.dosing.costs import all_samples, beside_outside, sample_costs
from fieldtally.core.hazards.catalogue import DEFERS
from fieldtally.core.hazards.finding import cautions_for
from fieldtally.core.hazards.plan_uses import uses_in
from fieldtally.core.panels.methods import METHODS
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.quantities.numbers import honest
from fieldtally.core.scales import GradeScale, ShadeScale, unit_of
from fieldtally.core.schedule.naming import called
from fieldtally.core.verdict.agreeing import agreement_sentences
from fieldtally.core.verdict.conclude import Finding
from fieldtally.core.verdict.strength import ranked
from fieldtally.core.verdict.study import Concluded
from fieldtally.core.verdict.telling.figures import entered, money
from fieldtally.core.verdict.telling.headline import LEVELS
from fieldtally.core.verdict.telling.names import ended, listed
from fieldtally.core.verdict.telling.notes import NotesTold
from fieldtally.core.verdict.telling.tables import told_finding
from fieldtally.core.verdict.telling.uses import UseWhen, what_to_use
from fieldtally.server.log.models import Condition
from fieldtally.server.log.queries import marked
from fieldtally.server.measuring.models import Photo, PhotoFile
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.queries import read_panels, told_whole
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import amendments_of, plan_of, predictions_of, shuffle_of
from fieldtally.server.prepare.queries import doses_off, packs_of, started_samples
from fieldtally.server.rounds.queries import RoundKept, progress_of, rounds_of
from fieldtally.server.rounds.telling import accidents_told, methods_told, notes_of, retests_told
from fieldtally.server.share.models import Report
from fieldtally.server.share.pack_writer import names_of
from fieldtally.server.share.raw import MOST_VALUES, Raw, RawTable
from fieldtally.server.verdict.chain import last_link
from fieldtally.server.verdict.limits import SEALED_AT_ONCE, not_claimed
from fieldtally.server.verdict.results import concluded, kept_study
from fieldtally.server.verdict.study import Study
from fieldtally.server.verdict.told import panels_alone, treatments_of

KINDS_TOLD = {"passfail": "pass or fail", "event": "when it is seen", "note": "in words"}
SECTIONS = ("summary", "compared", "done", "happened", "result", "limits", "cost", "cautions")
BLINDING = {
    "open": "by someone who had seen the key",
    "before the seal": "before the seal, not blind",
    "scorer-blind": "blind",
    "double-blind": "double-blind",
    "self-shuffled": "after shuffling by their own hand",
    "unknown": "not known to be blind",
}
MOST_PHOTOS, MOST_MARKS, MOST_PAIRS = 8, 12, 30
TALLEST = 820
"""Units of a chart that a page of A4 or Letter holds beside its margins, at the width the report gives it."""


@dataclass(frozen=True)
class Compared:
    """A treatment as the report lists it."""

    letter: str
    hue: int
    name: str
    kind: str
    samples: int
    given: tuple[str, ...]
    cost: str


@dataclass(frozen=True)
class Told:
    """One outcome's result: in a sentence, with its strength and why, pictures, and rows of figures."""

    name: str
    claim: bool
    sentence: str
    level: str
    because: str
    steps: tuple[str, ...]
    charts: tuple[SafeString, ...]
    over_time: SafeString | None
    treatments: tuple[tuple[str, str, str, str], ...]
    effect: str
    pairs: tuple[tuple[str, str, str, str, str], ...]
    inside: str
    settle: tuple[str, ...]


@dataclass(frozen=True)
class Shown:
    """A chosen photo, as a data address."""

    caption: str
    source: str


@dataclass(frozen=True)
class WholeReport:
    """Everything a report tells, in the words of the trial's own labels."""

    title: str
    question: str
    predictions: tuple[tuple[str, str], ...]
    opened: str
    compared: tuple[Compared, ...]
    done: tuple[str, ...]
    happened: tuple[str, ...]
    results: tuple[Told, ...]
    also: tuple[str, ...]
    panels: tuple[tuple[str, tuple[str, ...]], ...]
    instruments: tuple[str, ...]
    """Whether they agree, where that is what was asked: the sentence that stands first, and what stands behind it."""
    apart: tuple[tuple[str, str, str, str], ...]
    """Of every two instruments: which they are, how many samples both have read, their bias, and between what single differences lie."""
    tasting: bool
    uses: tuple[UseWhen, ...]
    notes: tuple[NotesTold, ...]
    course: SafeString | None
    numbered: tuple[str, ...]
    limits: tuple[str, ...]
    cost: tuple[str, ...]
    cautions: tuple[tuple[str, tuple[str, ...]], ...]
    defers: str
    raw: Raw
    seal: str
    link: str
    origin: str
    comments: dict[str, str]
    photos: tuple[Shown, ...]


def report_of(trial: Trial, *, names: bool = True) -> WholeReport:
    """The report of an opened trial; without ``names`` nobody is called by theirs."""
    study = kept_study(trial)
    found = concluded(trial)
    plan, rounds = study.plan, rounds_of(trial)
    kept = Report.objects.filter(pk=trial.pk).first()
    panels = tuple((panel_plan(one).title, told_whole(one, named=names)[1]) for one in read_panels(trial))
    course, numbered = _course(trial, study)
    whole = WholeReport(
        title=trial.title,
        question=plan.question,
        predictions=tuple(
            (one.by.called if names else f"Person {i}", one.text) for i, one in enumerate(predictions_of(trial), 1)
        ),
        opened=_day(trial.opened_at, trial.zone) if trial.opened_at else "",
        compared=tuple(_compared(plan, t, i) for i, t in enumerate(plan.treatments)),
        done=tuple(_done(trial, plan, rounds, names=names)),
        happened=tuple(_happened(trial, study)),
        results=()
        if panels_alone(study, panels) or plan.agreement is not None
        else tuple(_told(study, found, o) for o in plan.outcomes if o.compared),
        also=tuple(_both_ways(study, found)),
        panels=panels,
        instruments=agreement_sentences(found.instruments) if plan.agreement is not None else (),
        apart=tuple(_apart(found.instruments)) if found.instruments is not None else (),
        tasting=plan.tasting,
        uses=what_to_use(plan, found.findings, found.tally),
        notes=notes_of(trial, treatments_of(study)),
        course=course,
        numbered=numbered,
        limits=tuple(not_claimed(trial, study, rounds)),
        cost=tuple(_cost(plan)),
        cautions=tuple((one.name, one.usual) for one in cautions_for(uses_in(plan))),
        defers=DEFERS,
        raw=_raw(study),
        seal=trial.sealed.seal,
        link=last.link if (last := last_link(trial)) else "",
        origin=trial.origin,
        comments=dict(kept.comments) if kept else {},
        photos=_photos(trial, kept.photos if kept else []),
    )
    return whole if names else _unnamed(whole, trial)


def _unnamed(whole: WholeReport, trial: Trial) -> WholeReport:
    """The same without anybody's name, wherever it stands: in reasons, limits, and what was written beside."""
    people = {*names_of(trial).values(), *(one.user.called for one in trial.memberships.select_related("user"))}
    known = sorted((name for name in people if len(name.strip()) > 1), key=len, reverse=True)
    if not known:
        return whole
    pattern = re.compile("|".join(rf"(?<!\w){re.escape(name)}(?!\w)" for name in known), re.IGNORECASE)

    # The tables of samples say the same few things over and over.
    unnamed = cache(lambda text: pattern.sub("somebody", text))

    def plain(value: Any) -> Any:
        if isinstance(value, SafeString):
            return value
        if isinstance(value, str):
            return unnamed(value)
        if isinstance(value, tuple):
            return tuple(plain(one) for one in value)
        if isinstance(value, dict):
            return {key: plain(one) for key, one in value.items()}
        if is_dataclass(value) and not isinstance(value, type):
            return replace(value, **{one.name: plain(getattr(value, one.name)) for one in fields(value)})
        return value

    found: WholeReport = plain(whole)
    return found


def _course(trial: Trial, study: Study) -> tuple[SafeString | None, tuple[str, ...]]:
    """The whole trial in one picture, and what its numbers stand for; None of what was made from a table."""
    if trial.origin == "table" or trial.started_at is None or trial.sealed_at is None or trial.opened_at is None:
        return None, ()
    started = trial.started_at

    def after(at: datetime) -> float:
        return (at - started) / timedelta(minutes=1)

    plan = plan_of(trial)
    skipped = {look.key for look in progress_of(trial, plan, trial.opened_at) if look.standing in ("missed", "skipped")}
    stops = [
        Stop(called(c), c.offset, one.at if (one := study.data.taken.get(c.key)) else None, c.key in skipped)
        for c in plan.in_time
        if c.cycle is None
    ]
    if not stops:
        return None, ()
    events: dict[UUID | str, tuple[datetime, str]] = {}
    for row in marked(trial):
        events.setdefault(row.event or row.pk, (row.since or row.at, row.reason))
    for sample in study.samples:
        for out in (study.aside.get(sample.pk), study.left_out.get(sample.pk)):
            if out is not None:
                events[out.pk] = (out.since or out.at, f"{sample.code} left out: {out.reason}")
    for change in amendments_of(trial):
        events[f"amendment {change.number}"] = (change.decided or change.at, f"the plan was amended: {change.reason}")
    ordered = sorted(events.values())[:MOST_MARKS]
    marks = [Mark(after(at), number) for number, (at, _) in enumerate(ordered, 1)]
    drawn = course_svg(
        stops,
        marks,
        sealed=after(trial.sealed_at),
        opened=after(trial.opened_at),
        title=f"{trial.title}: planned and truly",
    )
    # Written by this project's own code, every text in it escaped.
    return mark_safe(drawn), tuple(f"{_day(at, trial.zone)}: {ended(says)}" for at, says in ordered)  # noqa: S308


def _day(at: datetime, zone: str) -> str:
    return f"{at.astimezone(ZoneInfo(zone)):%-d %B %Y}"


def _control(treatment: Treatment) -> str:
    return "" if treatment.kind == "treatment" else f"control ({treatment.kind})"


def _known(plan: Plan, treatment: Treatment) -> str:
    """What is known of what instruments read."""
    if treatment.other_substance:
        return "another substance"
    if treatment.holds is None:
        return "not known what it holds"
    return "a blank" if treatment.holds == 0 else f"holds {honest(treatment.holds, 6)} {told_in(plan)}".strip()


def _compared(plan: Plan, treatment: Treatment, place: int) -> Compared:
    costs = {one.treatment: money(one.money, plan.money) for one in sample_costs(plan) if one.money is not None}
    products = plan.product_named
    given = [
        f"{products[dose.product].name if dose.product in products else 'dose'} at {dose.rate}"
        + (f", {dose.times} times" if dose.times > 1 else "")
        for dose in treatment.doses
    ]
    if treatment.note.strip():
        given.append(treatment.note.strip())
    return Compared(
        letter_of(place),
        place % 8,
        treatment.name,
        _known(plan, treatment) if plan.agreement is not None else _control(treatment),
        plan.per_treatment(treatment),
        tuple(given),
        costs.get(treatment.name, ""),
    )


def _tasted(trial: Trial) -> Iterator[str]:
    """What was done in a tasting: of each panel the test, the people, what they were given, and the seal of its cups."""
    for panel in read_panels(trial):
        plan = panel_plan(panel)
        people = noun("person", "people").counted(panel.assessors.count())
        sets = f", {plan.sets_each} sets each" if plan.sets_each > 1 else ""
        over = f", over {listed(list(plan.stimuli))}" if plan.stimuli else ""
        given = f"; {honest(plan.amount, 3)} {plan.amount_unit} in each cup" if plan.material == "cups" else ""
        began = _day(panel.begun_at, trial.zone) if panel.begun_at else ""
        sealed = f", and sealed when it began ({panel.seal})" if panel.seal else ""
        yield (
            f"{plan.title}: {METHODS[plan.method].name.lower()}; {people}{sets}{over}{given}. Judged on {began}. Who gets which cups was "
            f"drawn{sealed}."
        )


def _done(trial: Trial, plan: Plan, rounds: Sequence[RoundKept], *, names: bool) -> list[str]:
    if plan.tasting:
        return list(_tasted(trial))
    layout = {
        "random": "completely at random",
        "blocks": f"at random inside each of {len(plan.layout.blocks)} blocks ({', '.join(b.name for b in plan.layout.blocks)})",
        "latin": "in Latin squares",
        "split": f"on whole {noun(plan.layout.plot_word).many} and inside them (split plot)",
        "pairs": "in pairs",
    }[plan.layout.kind]
    samples = plan.sample.counted(plan.sample_count)
    found = []
    if trial.origin == "table":
        found.append(
            "This was planned afterwards, from results that were there already: nothing was sealed, and nobody recorded whether "
            "scoring was blind."
        )
        found.append(f"{samples}; how treatments were put on them is not known.")
    else:
        what = "under codes dealt to what is read" if plan.agreement is not None else "treatments put on them"
        found.append(f"{samples}, {what} {layout}{_drawn(trial, plan)}.")
    lots = [
        f"{plan.product_named[p.product].name if p.product in plan.product_named else p.product}, lot {p.lot}"
        for p in packs_of(trial)
        if p.lot
    ]
    if lots:
        found.append(f"Packs used: {'; '.join(lots)}.")
    if trial.started_at and trial.origin != "table":
        found.append(f"Exposure began on {_day(trial.started_at, trial.zone)}.{_sealed_on(trial, plan)}")
    looks = (
        progress_of(trial, plan, trial.opened_at or trial.started_at) if trial.started_at and trial.opened_at else []
    )
    by_name = {c.key: called(c) for c in plan.checkpoints}
    missed = [by_name[look.key] for look in looks if look.standing in ("missed", "skipped")]
    found.append(
        f"Looked at {', '.join(by_name[c.key] for c in plan.in_time)}"
        + (f"; not or not fully taken: {', '.join(missed)}." if missed else ".")
    )
    scorers = list(dict.fromkeys(one.looked_by or one.scorer for one in rounds))
    if scorers:
        who = ", ".join(scorers) if names else f"{len(scorers)} {'person' if len(scorers) == 1 else 'people'}"
        ways: dict[str, int] = {}
        for one in rounds:
            ways[one.blinding] = ways.get(one.blinding, 0) + 1
        if len(ways) == 1:
            told = (
                f"{'the one round' if len(rounds) == 1 else f'all {len(rounds)} rounds'} {BLINDING[rounds[0].blinding]}"
            )
        else:
            told = f"of {len(rounds)} rounds " + ", ".join(f"{many} {BLINDING[way]}" for way, many in ways.items())
        found.append(f"Scored by {who}; {told}.")
    outcomes = "; ".join(
        f"{o.name} ({KINDS_TOLD.get(o.scale.kind, o.scale.kind)}{_in_unit(o)}"
        f"{'; only ' + told_some(plan, o.only) if o.only else ''})"
        for o in plan.outcomes
    )
    found.append(f"Measured: {outcomes}.")
    if plan.held_equal:
        found.append("Held equal: " + "; ".join(f"{one.what} {one.setting}".strip() for one in plan.held_equal) + ".")
    return found


def _sealed_on(trial: Trial, plan: Plan) -> str:
    """Of a trial that had begun, when it was sealed, and what had been seen until then."""
    if plan.begun is None or trial.sealed_at is None:
        return ""
    seen = [called(c) for c in plan.in_time if plan.noted_before(c.key)]
    told = f"{listed(seen, len(seen))} had been looked at" if seen else "nothing had been looked at"
    return (
        f" The plan was written and sealed on {_day(trial.sealed_at, trial.zone)}, when {told}; codes are from then on."
    )


def _drawn(trial: Trial, plan: Plan) -> str:
    """How it came about what stood where, as far as that is true of this trial."""
    if plan.begun is not None:
        how = plan.begun.how.strip().rstrip(".")
        way = "drawn by lot" if plan.begun.placed == "drawn" else "chosen by hand"
        return f"; they stood there before the plan was written, {way} ({how})"
    by_hand = next(
        (one.reason.strip() for one in plan.fairness if one.item == "order" and not one.kept and one.reason.strip()), ""
    )
    if by_hand:
        return f"; it was not left to the draw ({by_hand.rstrip('.')})"
    if shuffle_of(trial) is not None:
        return ", shuffled by hand"
    started = min(started_samples(trial).values(), default=None)
    late = (
        trial.sealed_at is not None
        and started is not None
        and trial.sealed_at > started + timedelta(minutes=SEALED_AT_ONCE)
    )
    return (
        ", drawn from a seed that was sealed only after the start"
        if late
        else ", drawn from a seed that was sealed with the plan"
    )


def _happened(trial: Trial, study: Study) -> list[str]:
    found = [*accidents_told(trial), *methods_told(trial), *retests_told(trial)]
    found += [f"{s.code} was set aside: {study.aside[s.pk].reason}." for s in study.samples if s.pk in study.aside]
    found += [f"{code} was given another dose than planned: {says}" for code, says in doses_off(trial)]
    found += [f"The plan was amended: {one.reason} {' '.join(one.changes)}" for one in amendments_of(trial)]
    if before := study.plan.earlier:
        found += [f"It follows “{before.title}”, which found: {says}" for says in before.found]
    air = list(Condition.objects.filter(trial=trial))
    warm = [one.temperature for one in air if one.temperature is not None]
    damp = [one.humidity for one in air if one.humidity is not None]
    if warm:
        found.append(
            f"Temperature from {honest(min(warm))} to {honest(max(warm))} °C, {honest(fmean(warm))} °C on average of {len(warm)} notes."
        )
    if damp:
        found.append(f"Humidity from {honest(min(damp))} to {honest(max(damp))} %.")
    rain = [one.rain for one in air if one.rain]
    if rain:
        found.append(f"Rain: {honest(sum(rain))} mm.")
    return [f"{one[0].upper()}{one[1:]}" for one in found]


def chart_of(study: Study, main: Finding, outcome: Outcome, width: float = 640) -> str:
    """The dots of one outcome's summary, best treatment first."""
    return charts_of(study, main, outcome, width, tallest=inf)[0]


def charts_of(study: Study, main: Finding, outcome: Outcome, width: float = 640, *, tallest: float) -> list[str]:
    """The same, parted into pictures of at most ``tallest`` units."""
    names = [t.name for t in study.plan.treatments]
    labels = [one.treatment for one in study.data.kept]
    keys = [t.key for t in study.plan.treatments]
    share = outcome.scale.kind in ("passfail",) and main.scale == outcome.scale
    order = [one.treatment for one in ranked(main.comparison)]
    order += [name for name in names if name not in order]
    estimates = {one.treatment: one for one in main.comparison.treatments}
    rows = []
    for name in order:
        place = names.index(name)
        own = tuple(v for v, key in zip(main.numbers, labels, strict=True) if key == keys[place] and v is not None)
        if outcome.better == "target" and outcome.target is not None:
            own = tuple(abs(v - outcome.target) for v in own)
        one = estimates[name]
        rows.append(DotsRow(place, letter_of(place), name, own, one.estimate, one.low, one.high))
    ends = (0.0, 1.0) if share else None
    return dots_svgs(
        rows,
        unit_of(main.scale),
        title=f"{outcome.name} {main.when}",
        tallest=tallest,
        width=width,
        ends=ends,
        share=share,
        words=_labels(main),
    )


def _labels(finding: Finding) -> dict[float, str] | None:
    """The labels of a grade or a chart of shades, by their values; None where values are numbers."""
    if finding.comparison.column.of != "value":
        return None
    match finding.scale:
        case GradeScale(levels=levels):
            return {level.value: level.label for level in levels}
        case ShadeScale(steps=steps):
            return {float(n): step.label for n, step in enumerate(steps, 1)}
        case _:
            return None


def leads_of(study: Study, looks: Sequence[Finding], outcome: Outcome, width: float = 640) -> str | None:
    """The means over the looks; None where there is one look."""
    offsets = {c.key: (float(c.offset), c.name) for c in study.plan.checkpoints}
    stops = [offsets[one.checkpoint or ""] for one in looks]
    if len(stops) < 2:
        return None
    lines = [
        MeansLine(
            i,
            letter_of(i),
            t.name,
            tuple(
                (offsets[one.checkpoint or ""][0], value)
                for one in looks
                if (value := one.comparison.treatments[i].estimate) is not None
            ),
        )
        for i, t in enumerate(study.plan.treatments)
    ]
    share = outcome.scale.kind in ("passfail", "event")
    return means_svg(
        lines,
        stops,
        unit_of(outcome.scale),
        title=f"{outcome.name} over time",
        width=width,
        share=share,
        words=_labels(looks[0]),
    )


def _told(study: Study, found: Concluded, outcome: Outcome) -> Told:
    own = [one for one in found.findings if one.outcome == outcome.key]
    main = next(one for one in own if one.checkpoint is None)
    looks = [one for one in own if one.checkpoint is not None]
    behind = next((one for one in found.behind if one.outcome == outcome.key), None)
    letters = {t.name: letter_of(i) for i, t in enumerate(study.plan.treatments)}
    over = leads_of(study, looks, outcome)
    rows = told_finding(study.plan, main)
    joined = "over" if main.comparison.column.kind == "grade" else "−"
    return Told(
        name=outcome.name,
        claim=main.claim,
        sentence=main.sentence,
        level=LEVELS[main.strength.level],
        because=main.strength.because,
        steps=main.strength.steps,
        # Written by this project's own code, every text in it escaped.
        charts=tuple(mark_safe(one) for one in charts_of(study, main, outcome, tallest=TALLEST)),  # noqa: S308
        over_time=None if over is None else mark_safe(over),  # noqa: S308
        treatments=tuple(
            (f"{letters[one.treatment]} {one.treatment}", str(one.n), one.figure, one.between)
            for one in rows.treatments
        ),
        effect=rows.heading,
        pairs=tuple(
            (f"{letters[one.better]} {joined} {letters[one.other]}", one.effect, one.between, one.p, one.adjusted)
            for one in rows.pairs[: max(rows.first, MOST_PAIRS)]
        ),
        inside=rows.inside,
        settle=tuple(one.says for one in behind.settle) if behind else (),
    )


def _apart(found: MethodsCompared) -> Iterator[tuple[str, str, str, str]]:
    of = f" {found.unit}" if found.unit else ""
    for one in found.pairs:
        if one.bias is None or one.lower is None or one.upper is None:
            said = "" if one.limit is None else f"{one.limit.apart.many} apart at the limit"
            yield f"{one.a} and {one.b}", str(one.n), said, ""
            continue
        low, value, high, least, most = (
            honest(number, 2).replace("-", "−")
            for number in (one.bias.low, one.bias.value, one.bias.high, one.lower.value, one.upper.value)
        )
        between = f"{least} to {most}{of}"
        yield f"{one.a} − {one.b}", str(one.n), f"{value} ({low} to {high}){of}", between


def _in_unit(outcome: Outcome) -> str:
    """Its unit, where it has one that says more than the kind of its scale."""
    unit = unit_of(outcome.scale)
    return "" if unit in ("", "share") else f", {unit}"


def _both_ways(study: Study, found: Concluded) -> list[str]:
    """What the claims would be otherwise: only what is different is told in words."""
    names = {o.key: o.name for o in study.plan.outcomes}
    said = {one.outcome: one.sentence for one in found.findings if one.claim}
    told = []
    for label, other in (("With all samples", found.with_all), ("Without odd readings", found.without_odd)):
        for one in other:
            if one.claim:
                same = one.sentence == said.get(one.outcome)
                level = LEVELS[one.strength.level].lower()
                told.append(
                    f"{label}, {names[one.outcome]}: "
                    + ("the same, word for word." if same else f"{level}. {one.sentence}")
                )
    for name, own in found.by_scorer.items():
        told += [
            f"By {name} alone, {names[one.outcome]}: {LEVELS[one.strength.level].lower()}." for one in own if one.claim
        ]
    return told


def _cost(plan: Plan) -> list[str]:
    whole = all_samples(plan)
    if whole is None:
        return list(beside_outside(plan))
    total, missing = whole
    without = f", without {listed(missing)}, of which no price is known" if missing else ""
    return [
        f"{plan.sample.counted(plan.sample_count)} in all: {money(total, plan.money)}{without}.",
        *beside_outside(plan),
    ]


def _raw(study: Study) -> Raw:
    """A table for each outcome with several looks, one for all those with one."""
    plan = study.plan
    looks = [(o, c) for o in plan.outcomes if o.compared for c in plan.looked_at(o)]
    values = sum(len(study.data.all_values.get((o.key, c.key), {})) for o, c in looks)
    if values > MOST_VALUES:
        return Raw((), values)
    letters = {t.key: letter_of(i) for i, t in enumerate(plan.treatments)}
    blocks = {b.key: b.name for b in plan.layout.blocks}
    named = [plan.sample.one, "treatment", *(["block"] if blocks else [])]
    lead = [
        (sample.code, letters[placed.treatment], *([blocks.get(sample.block, "")] if blocks else []))
        for sample, placed in zip(study.samples, study.data.placed, strict=True)
    ]
    several = [o for o in plan.outcomes if o.compared and len(plan.looked_at(o)) > 1]
    once = [(o, c) for o, c in looks if o not in several]
    titled = [(o.name, [(c.name, o, c) for c in plan.looked_at(o)]) for o in several]
    if once:
        titled.insert(0, ("" if not several else "Looked at once", [(o.name, o, c) for o, c in once]))
    shown = cache(entered)
    tables = []
    for title, columns in titled:
        own = [(o, study.data.all_values.get((o.key, c.key), {})) for _, o, c in columns]
        rows = tuple(
            (*before, *("" if (value := at.get(before[0])) is None else shown(value, o.scale) for o, at in own))
            for before in lead
        )
        tables.append(RawTable(title, (*named, *(name for name, _, _ in columns)), len(named), rows))
    return Raw(tuple(tables), values)


def _photos(trial: Trial, chosen: Sequence[str]) -> tuple[Shown, ...]:
    rows = Photo.objects.filter(trial=trial, gone=False, pk__in=list(chosen)[:MOST_PHOTOS]).select_related(
        "sample", "checkpoint"
    )
    files = dict(PhotoFile.objects.filter(photo__in=rows).values_list("photo_id", "full"))
    found = []
    for row in sorted(rows, key=lambda one: [str(pk) for pk in chosen].index(str(one.pk))):
        told = [row.sample.code if row.sample else "", row.caption]
        found.append(
            Shown(
                ", ".join(part for part in told if part),
                "data:image/jpeg;base64," + base64.b64encode(bytes(files[row.pk])).decode(),
            )
        )
    return tuple(found)
