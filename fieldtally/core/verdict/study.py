"""A trial's readings on their way to a verdict: which of them count, and one value for each sample and look.

It knows nothing of where they are kept: a server's tables and a trial pack give the same study, and so the same verdict.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime

import numpy as np

from fieldtally.core.agreement.instruments import MethodsCompared
from fieldtally.core.compare.arrays import Floats
from fieldtally.core.compare.columns import References, compared_as
from fieldtally.core.compare.odd import odd_among
from fieldtally.core.compare.persample import averaged, settled
from fieldtally.core.design.asked import carried, planned_for
from fieldtally.core.design.plan import Plan
from fieldtally.core.design.starts import told_by_starts
from fieldtally.core.scales import CurveScale
from fieldtally.core.schedule.naming import called
from fieldtally.core.schedule.taken import Taken, late_starts_told, plan_as_taken, slips_told, taken_looks
from fieldtally.core.verdict.agreeing import instruments_held
from fieldtally.core.verdict.conclude import Finding, Samples, conclude
from fieldtally.core.verdict.interim import Looked, interim_look
from fieldtally.core.verdict.supporting import SupportingAnalysis, supporting
from fieldtally.core.verdict.tally import WholeTally, tallied
from fieldtally.core.verdict.telling.names import listed, lowered

Look = tuple[str, str]
"""Keys of an outcome and of a checkpoint."""
Values = dict[Look, dict[str, float]]
"""For each look one value for each sample (code) that has any."""


@dataclass(frozen=True)
class Placed:
    """A sample: its code, its treatment (key), and where it stands."""

    code: str
    treatment: str
    block: str | None = None
    plot: int | None = None
    row: int | None = None
    column: int | None = None


@dataclass(frozen=True)
class CountedReading:
    """One value that stands, of a sample (code) at a look by a scorer; ``second``: under which second code, if any."""

    look: Look
    sample: str
    scorer: str
    second: str | None
    value: float
    at: datetime
    responses: tuple[float | None, ...] | None = None


@dataclass(frozen=True)
class Decisions:
    """What was decided about samples (codes) and outcomes (keys): set aside altogether, left out from a moment on, withdrawn, measured in
    another way from a moment on."""

    aside: frozenset[str] = frozenset()
    left_out: Mapping[str, datetime] = field(default_factory=dict)
    withdrawn: frozenset[str] = frozenset()
    split: Mapping[str, datetime] = field(default_factory=dict)


@dataclass(frozen=True)
class Concluded:
    """The findings without what is left out; those of the summaries with it, where there is any, without odd readings, where there are any,
    and by each scorer alone, where there are several; what lies behind them; and the tally over outcomes."""

    findings: list[Finding]
    with_all: list[Finding]
    without_odd: list[Finding]
    by_scorer: dict[str, list[Finding]]
    behind: list[SupportingAnalysis]
    tally: WholeTally | None
    instruments: MethodsCompared | None = None
    """Of a trial that asks whether instruments agree: how they do; None of others, and where too little was read."""


@dataclass(frozen=True)
class StudyData:
    """Samples in the order of the board and one value for each look: ``values`` as they count, ``all_values`` with those of samples left
    out from a moment on.  Outcomes that were withdrawn are not in the ``plan``.  ``curves`` are the responses at the look an outcome is
    judged by."""

    plan: Plan
    seed: int
    placed: tuple[Placed, ...]
    decisions: Decisions
    values: Values
    all_values: Values
    by_scorer: dict[str, Values]
    key_known: frozenset[str]
    """Outcomes (keys) whose deciding values were all scored by somebody who had seen the key, though the plan kept scoring blind."""
    curves: dict[str, dict[str, tuple[float | None, ...]]]
    slips: tuple[str, ...] = ()
    """Which looks were read beside their window, by how much, a sentence each; the ``plan`` has these at their true time."""
    taken: Mapping[str, Taken] = field(default_factory=dict)
    """How each look (key) was taken, where that is known."""
    late_starts: tuple[str, ...] = ()
    starts_tell: tuple[str, ...] = ()
    """Which samples started later than planned, in a sentence."""

    @property
    def kept(self) -> list[Placed]:
        """The samples that are not set aside."""
        return [one for one in self.placed if one.code not in self.decisions.aside]

    @property
    def leaves_out(self) -> bool:
        """Whether anything is left out, so that the verdict is told both ways."""
        return bool(self.decisions.aside or self.decisions.left_out)

    def findings(
        self,
        *,
        with_all: bool = False,
        values: Values | None = None,
        summaries_only: bool = False,
        references: References | None = None,
    ) -> list[Finding]:
        """The findings without what is left out, or ``with_all``; of other ``values`` where they are given.  None where instruments are
        what is asked about: no treatment wins there."""
        if self.plan.agreement is not None:
            return []
        placed = list(self.placed) if with_all else self.kept
        source = self.all_values if with_all else values or self.values
        return conclude(
            self.plan,
            _laid(placed),
            _columns(placed, source),
            np.random.default_rng(self.seed),
            planned=tuple(self.plan.per_treatment(t) for t in self.plan.treatments),
            key_known=self.key_known,
            summaries_only=summaries_only,
            references=references,
        )

    def concluded(self, first: list[Finding] | None = None, shared: References | None = None) -> Concluded:
        """The whole verdict; ``first`` are its findings, where they are known already, and ``shared`` what they were drawn from."""
        if self.plan.agreement is not None:
            return Concluded([], [], [], {}, [], None, self.instruments)
        shared = {} if shared is None else shared
        without = self.findings(references=shared) if first is None else first
        plain = self._without_odd()
        return Concluded(
            without,
            self.findings(with_all=True, summaries_only=True, references=shared) if self.leaves_out else [],
            self.findings(values=plain, summaries_only=True, references=shared) if plain else [],
            {
                name: self.findings(values=own, summaries_only=True, references=shared)
                for name, own in self.by_scorer.items()
            },
            self._behind(without),
            self.tally(without),
        )

    @property
    def instruments(self) -> MethodsCompared | None:
        """How the instruments agree, where that is what is asked, without the samples that are set aside."""
        return instruments_held(self.plan, [(one.code, one.treatment) for one in self.kept], self.values)

    def tally(self, findings: list[Finding], weights: dict[str, float] | None = None) -> WholeTally | None:
        """The tally over outcomes of what was found without what is left out."""
        if self.plan.agreement is not None:
            return None
        return tallied(self.plan, _laid(self.kept), findings, np.random.default_rng([self.seed, 2]), weights)

    def interim(self, checkpoint: str) -> Looked:
        """What the planned interim look at ``checkpoint`` (key) tells."""
        placed = self.kept
        rng = np.random.default_rng([self.seed, 3])
        return interim_look(self.plan, _laid(placed), _columns(placed, self.values), checkpoint, rng)

    def _behind(self, findings: list[Finding]) -> list[SupportingAnalysis]:
        placed = self.kept
        curves = {key: [own.get(one.code) for one in placed] for key, own in self.curves.items()}
        rng = np.random.default_rng([self.seed, 1])
        return supporting(self.plan, _laid(placed), _columns(placed, self.values), findings, rng, curves)

    @property
    def unread(self) -> tuple[str, ...]:
        """Which treatments have no reading of a primary outcome at the look it is judged by, a sentence for each outcome."""
        found = []
        names = {checkpoint.key: called(checkpoint) for checkpoint in self.plan.checkpoints}
        for outcome in self.plan.outcomes:
            if not outcome.primary or not outcome.compared:
                continue
            own = self.values.get((outcome.key, self.plan.judged_at(outcome) or ""), {})
            read = {one.treatment for one in self.kept if one.code in own}
            asked = zip(self.plan.treatments, planned_for(self.plan, outcome), strict=True)
            none = [treatment.name for treatment, many in asked if many and treatment.key not in read]
            if none and read:
                look = lowered(names.get(self.plan.judged_at(outcome) or "", "the end"))
                found.append(
                    f"{listed(none)} {'has' if len(none) == 1 else 'have'} no reading of {lowered(outcome.name)} at {look}."
                )
        return tuple(found)

    def _without_odd(self) -> Values | None:
        """The values without those that are far from all others of their treatment at a look (None: there are none)."""
        found, any_odd = {}, False
        keys = [treatment.key for treatment in self.plan.treatments]
        labels = np.array([keys.index(one.treatment) for one in self.placed])
        for look, own in self.values.items():
            column = np.array([own.get(one.code, np.nan) for one in self.placed])
            far = odd_among(column, labels)
            any_odd = any_odd or bool(far.any())
            out = {one.code for one, odd in zip(self.placed, far, strict=True) if odd}
            found[look] = {code: value for code, value in own.items() if code not in out}
        return found if any_odd else None


def study_in(
    plan: Plan,
    seed: str,
    placed: Sequence[Placed],
    stands: Sequence[CountedReading],
    decisions: Decisions,
    seen_by: Collection[tuple[str, str]] = (),
    starts: Mapping[str, datetime] | None = None,
) -> StudyData:
    """The study of a trial: ``seed`` is the sealed one, ``stands`` in the order in which they were read, ``seen_by`` the rounds
    (checkpoint, scorer) that were scored by somebody who had seen the key, ``starts`` when each sample (code) came under its treatment,
    where that is known."""
    taken = taken_looks(plan, starts or {}, ((one.look[1], one.sample, one.at) for one in stands))
    planned, slips, plan = plan, slips_told(plan, taken), plan_as_taken(plan, taken)
    kept = tuple(outcome for outcome in plan.outcomes if outcome.key not in decisions.withdrawn)
    read = _on_one_side(stands, decisions.split, plan)
    read = [one for one in read if one.look[0] not in decisions.withdrawn]
    still = [one for one in read if one.sample not in decisions.left_out or one.at < decisions.left_out[one.sample]]
    scorers = sorted({one.scorer for one in still})
    judged = {(outcome.key, plan.judged_at(outcome)) for outcome in plan.outcomes}
    curves: dict[str, dict[str, tuple[float | None, ...]]] = defaultdict(dict)
    for one in still:
        if one.responses is not None and one.look in judged:
            curves[one.look[0]][one.sample] = one.responses
    each = _each(still, plan)
    values = _together(each, plan)
    ends = any(outcome.done for outcome in plan.outcomes)

    def to_the_end(found: Values) -> Values:
        return carried(plan, found) if ends else found

    return StudyData(
        plan=replace(plan, outcomes=kept) if kept else plan,
        seed=int(seed, 16),
        placed=tuple(placed),
        decisions=decisions,
        values=to_the_end(values),
        all_values=to_the_end(values if len(still) == len(read) else _together(_each(read, plan), plan)),
        by_scorer={name: to_the_end(_alone(each, name)) for name in scorers} if len(scorers) > 1 else {},
        key_known=_key_known(plan, still, seen_by),
        curves=dict(curves),
        slips=slips,
        taken=taken,
        late_starts=late_starts_told(planned, _first_drawn(planned, placed, starts or {})),
        starts_tell=told_by_starts(
            (one.treatment, starts[one.code]) for one in placed if starts and one.code in starts
        ),
    )


def _first_drawn(plan: Plan, placed: Sequence[Placed], starts: Mapping[str, datetime]) -> dict[str, datetime]:
    """The starts of samples that were not added later."""
    added = {block.key for block in plan.added_blocks}
    return {one.code: starts[one.code] for one in placed if one.code in starts and one.block not in added}


def _key_known(plan: Plan, read: Sequence[CountedReading], seen_by: Collection[tuple[str, str]]) -> frozenset[str]:
    """The outcomes (keys) that were scored with the key known, at the look they are judged by; none where the plan gave up scoring
    blind."""
    if any(stand.item == "blind" and not stand.kept for stand in plan.fairness):
        return frozenset()
    found = set()
    for outcome in plan.outcomes:
        decides = [one for one in read if one.look == (outcome.key, plan.judged_at(outcome))]
        if decides and all((one.look[1], one.scorer) in seen_by for one in decides):
            found.add(outcome.key)
    return frozenset(found)


def _laid(placed: Sequence[Placed]) -> Samples:
    return Samples(
        tuple(one.treatment for one in placed),
        tuple(one.block or None for one in placed),
        tuple(one.plot for one in placed),
        tuple(one.row for one in placed),
        tuple(one.column for one in placed),
    )


def _columns(placed: Sequence[Placed], values: Values) -> dict[Look, Floats]:
    return {
        look: np.array([own.get(one.code, np.nan) for one in placed], dtype=np.float64) for look, own in values.items()
    }


def _on_one_side(read: Sequence[CountedReading], splits: Mapping[str, datetime], plan: Plan) -> list[CountedReading]:
    """Of an outcome that was split only the readings on the side of the split where it is judged: after it, if anything was read there."""
    after: dict[str, bool] = {}
    for outcome in plan.outcomes:
        if outcome.key in splits:
            judged = [one.at for one in read if one.look == (outcome.key, plan.judged_at(outcome))]
            after[outcome.key] = any(at >= splits[outcome.key] for at in judged)
    return [one for one in read if one.look[0] not in after or (one.at >= splits[one.look[0]]) == after[one.look[0]]]


Each = dict[Look, dict[tuple[str, str], float]]
"""For each look one value for each sample (code) and scorer."""


def _each(read: Iterable[CountedReading], plan: Plan) -> Each:
    """What each scorer says of each sample: of several takes what the plan's rule says, then blind repeats averaged."""
    rules = {outcome.key: outcome.retest for outcome in plan.outcomes}
    kinds = {outcome.key: compared_as(outcome.scale) for outcome in plan.outcomes}
    curves = {outcome.key: outcome.scale for outcome in plan.outcomes if isinstance(outcome.scale, CurveScale)}
    takes: dict[tuple[Look, str, str, str | None], list[float]] = defaultdict(list)
    for one in read:
        value = one.value
        if one.responses and one.look[0] in curves:
            # A curve's number is worked out from its responses, so that curves kept by an earlier rule are judged by this one.
            value = curves[one.look[0]].number_of(one.responses)
        takes[one.look, one.sample, one.scorer, one.second].append(value)
    own: dict[Look, list[tuple[tuple[str, str], float]]] = defaultdict(list)
    for (look, sample, scorer, _), values in takes.items():
        own[look].append(((sample, scorer), settled(values, rules[look[0]])))
    return {look: averaged(pairs, kinds[look[0]]) for look, pairs in own.items()}


def _together(each: Each, plan: Plan) -> Values:
    """One value for each look and sample: scorers averaged."""
    kinds = {outcome.key: compared_as(outcome.scale) for outcome in plan.outcomes}
    return {
        look: averaged([(sample, value) for (sample, _), value in own.items()], kinds[look[0]])
        for look, own in each.items()
    }


def _alone(each: Each, name: str) -> Values:
    """What one scorer says."""
    found = {
        look: {sample: value for (sample, scorer), value in own.items() if scorer == name} for look, own in each.items()
    }
    return {look: own for look, own in found.items() if own}
