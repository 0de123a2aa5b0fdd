"""How strong is it?  The rule that turns a comparison into a level, asked in this order.

* ``spoiled``: no usable control, scored after the key was known, or too much missing everywhere.  Missing readings spoil only the treatment
  they belong to: it is named and left out of the claim, the others are judged.
* ``nothing``: one value, or no event, everywhere; told is what that still allows.
* ``unreplicated``: the leader has one sample, or at most one treatment has more.  A rival with one sample is named and left out.
* ``depends``: the treatments' distances differ from place to place (or level to level) by more than chance, and one wins by its own test in
  one of them and another in another.
* ``clear``: the leader beats each other one in its own pair test at the plan's level, its effect in its favour, with at least three
samples on
  each side (two inside blocks or pairs), and by at least the margin where one is set.  No adjustment is needed for this claim: comparing
  the leader with each rival keeps the chance of naming a wrong best at that level (Gutmann & Maymin 1987, Ann. Statist. 15:870; Hsu 1996,
  Multiple Comparisons, ch. 4).
* ``equal``: all intervals lie inside the margin (of piled readings the wider ones, :mod:`fieldtally.core.compare.piled`).  This is asked
  before *leaning*: where every difference is known to be too small to matter, who would lead again does not matter either.
* ``leaning``: the leader's largest pair p is at most 0.2, which chance alone gives no more often than that.
* ``too_close``: anything else; with the replicates that would probably settle it.

An outcome on which neither more nor less is better is told without a winner: ``undirected``.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from fieldtally.core.compare.columns import FEWEST, FEWEST_IN_BLOCKS, Comparison, Estimate, Pair
from fieldtally.core.compare.places import Where
from fieldtally.core.quantities.numbers import honest
from fieldtally.core.verdict.leading import Leading, leading
from fieldtally.core.verdict.needed import samples_needed
from fieldtally.core.verdict.telling.figures import share, told_p
from fieldtally.core.verdict.telling.names import listed

StrengthLevel = Literal[
    "clear", "depends", "leaning", "equal", "too_close", "unreplicated", "nothing", "spoiled", "undirected"
]
LEANS_UPTO = 0.2
MISSING_FROM = 0.5


@dataclass(frozen=True)
class LeftOut:
    """A treatment that the claim is not about, and why."""

    treatment: str
    why: str


@dataclass(frozen=True)
class WonAt:
    """Who won at one place or level (None: nobody by its own test)."""

    place: str
    winner: str | None


@dataclass(frozen=True)
class Strength:
    """A level, its winner where there is one, the reason in a sentence, and each step of the rule as it was applied.

    ``winners``: all who share the first place; ``left_out`` of the claim; ``where`` each place's winner, if it depends on ``by``.
    """

    level: StrengthLevel
    winner: str | None
    because: str
    steps: tuple[str, ...]
    settle: int | None = None
    """Samples of each treatment that would find the difference seen 8 times in 10, where that can be told."""
    winners: tuple[str, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    by: str | None = None
    where: tuple[WonAt, ...] = ()
    contradiction: str | None = None


@dataclass(frozen=True)
class Circumstances:
    """What the comparison alone does not know: samples planned for each treatment, controls (by name), whether the key
    was known while scoring; and the treatments (by name) that never stood beside all others, with the reason."""

    planned: tuple[int, ...] | None = None
    controls: tuple[str, ...] = ()
    key_known: bool = False
    apart: Mapping[str, str] = field(default_factory=dict)


UNDIRECTED = Strength(
    "undirected",
    None,
    "The plan names no side as better, so the figures are told and nobody wins.",
    ("The plan says of this outcome that neither more nor less is better.",),
)


def ranked(comparison: Comparison) -> list[Estimate]:
    """The treatments that have an estimate, best first."""
    return list(leading(comparison).order)


def nearest_rival(comparison: Comparison, circumstances: Circumstances | None = None) -> Pair | None:
    """The leader's pair with the largest p; None where nobody leads alone."""
    among = _claimed(comparison, circumstances or Circumstances())[0]
    pairs = leading(comparison, [one.treatment for one in among]).rivals(comparison)
    return max(pairs, key=lambda pair: pair.p, default=None)


def leader_p(comparison: Comparison, circumstances: Circumstances | None = None) -> float:
    """The p of that pair, and of the claim *this one is best*; 1 where nobody leads alone."""
    pair = nearest_rival(comparison, circumstances)
    return 1.0 if pair is None else pair.p


def bounded_p(pair: Pair) -> str:
    """The p of a pair as it is told."""
    return told_p(pair.p, pair.method, pair.arrangements)


def judge(
    comparison: Comparison,
    *,
    alpha: float = 0.05,
    margin: float | None = None,
    circumstances: Circumstances | None = None,
    where: Sequence[Where] = (),
) -> Strength:
    """The level of one outcome's comparison at level ``alpha``; ``margin`` in the scale's unit; ``where`` who wins where, if that is
    known."""
    around = circumstances or Circumstances()
    spoiled = _spoiled(comparison, around)
    if spoiled:
        return Strength("spoiled", None, spoiled, (spoiled,))
    among, left_out = _claimed(comparison, around)
    there = [one for one in comparison.treatments if one.n and one not in _lost(comparison, around)]
    if len(there) < 2:
        says = _too_few(left_out)
        return Strength("spoiled", None, says, (says,), left_out=left_out)
    same = _nothing(comparison, there, margin)
    if same:
        return Strength("nothing", None, same, (same,), left_out=left_out)
    # Who has one sample is no rival, but may be the leader: then nothing is claimed at all.
    whole = leading(comparison, [one.treatment for one in there])
    alone = _alone(whole, there)
    if alone:
        return replace(alone, left_out=left_out, contradiction=whole.contradiction)
    found = _by_evidence(comparison, leading(comparison, [one.treatment for one in among]), alpha, margin)
    depends = _depends(where, alpha, found)
    return replace(depends or found, left_out=left_out)


def _lost(comparison: Comparison, around: Circumstances) -> list[Estimate]:
    """Treatments of which too few samples have a reading, though the plan wanted one."""
    if not around.planned:
        return []
    return [
        one
        for one, planned in zip(comparison.treatments, around.planned, strict=True)
        if planned > 1 and one.n < MISSING_FROM * planned
    ]


def _claimed(comparison: Comparison, around: Circumstances) -> tuple[list[Estimate], tuple[LeftOut, ...]]:
    """The treatments that the claim is about, and those that it is not."""
    lost = {one.treatment for one in _lost(comparison, around)}
    planned = dict(zip((one.treatment for one in comparison.treatments), around.planned or (), strict=False))
    kept, out = [], []
    for one in comparison.treatments:
        if one.treatment in lost:
            out.append(LeftOut(one.treatment, f"{one.n} of its {planned[one.treatment]} samples have a reading"))
        elif not one.n:
            out.append(LeftOut(one.treatment, "it has no reading"))
        elif one.n == 1:
            out.append(LeftOut(one.treatment, "it has one sample"))
        elif one.treatment in around.apart:
            out.append(LeftOut(one.treatment, around.apart[one.treatment]))
        else:
            kept.append(one)
    return kept, tuple(out)


def _too_few(left_out: Sequence[LeftOut]) -> str:
    first = "Fewer than two treatments have readings enough, so there is nothing to compare"
    why = listed([f"{one.treatment}: {one.why}" for one in left_out]) if left_out else ""
    return f"{first} ({why})." if why else f"{first}."


def _spoiled(comparison: Comparison, circumstances: Circumstances) -> str | None:
    if circumstances.key_known:
        return "The key was open before scoring was done, so the scores cannot be taken as blind."
    left = {t.treatment: t.n for t in comparison.treatments}
    if circumstances.controls and not any(left.get(control, 0) for control in circumstances.controls):
        return f"No reading of the control ({', '.join(circumstances.controls)}) is left, so there is nothing to hold against."
    return None


def _nothing(comparison: Comparison, there: Sequence[Estimate], margin: float | None) -> str | None:
    """What is said where one value, or no event, is everywhere; None where there is something to tell apart."""
    timed = comparison.column.timed
    smallest = min(one.n for one in there)
    if timed and not any(one.seen for one in there):
        possible = 1 - 0.05 ** (1 / smallest)
        return (
            f"Not one event in {sum(one.n for one in there)} samples; none in {smallest} of a treatment still allows up to "
            f"{share(possible)} in 100."
        )
    values = {value for one in there for value in (one.least, one.most)}
    if len(values) > 1:
        return None
    if margin is not None and comparison.column.ends is not None and _equal(comparison, there, margin):
        return None
    possible = 1 - 0.05 ** (1 / smallest)
    return (
        f"All {sum(one.n for one in there)} samples came out the same; with none that differs among {smallest} of a treatment, up to "
        f"{honest(100 * possible, 2)} in 100 may still do so."
    )


def _alone(whole: Leading, there: Sequence[Estimate]) -> Strength | None:
    """The verdict where chance cannot be judged, because the leader has one sample or at most one treatment has more."""
    several = sum(one.n > 1 for one in there)
    singles = [one.treatment for one in whole.first if one.n == 1]
    if several > 1 and not singles:
        return None
    first = tuple(one.treatment for one in whole.first)
    if several == 0:
        of = "One sample each"
    elif several == 1:
        of = "Only one treatment has more than one sample"
    else:
        of = f"{listed(singles)} came first on one sample"
    if len(first) > 1:
        came = f"{listed(first)} share the first place"
    elif first:
        came = f"{first[0]} came out ahead here"
    else:
        came = f"nobody leads: {whole.contradiction}"
    says = f"{of}: {came}, but chance cannot be judged."
    return Strength("unreplicated", None, says, (says,), winners=first)


def _depends(where: Sequence[Where], alpha: float, found: Strength) -> Strength | None:
    for one in where:
        winners = [place.won for place in one.places]
        if one.p is None or one.p > alpha or not one.reverses:
            continue
        says = (
            f"The distances between treatments differ from {one.by} to {one.by} by more than chance (p {_at_most(told_p(one.p))}), and "
            "each of these wins by its own test where it wins."
        )
        told = tuple(WonAt(place.place, won) for place, won in zip(one.places, winners, strict=True))
        return Strength("depends", None, says, (*found.steps, says), by=one.by, where=told)
    return None


def _by_evidence(comparison: Comparison, lead: Leading, alpha: float, margin: float | None) -> Strength:
    steps: list[str] = []
    rivals = lead.rivals(comparison)
    first = tuple(one.treatment for one in lead.first)
    leader = lead.leader
    if leader is None:
        steps.append(
            f"Nobody leads: {lead.contradiction}." if lead.contradiction else f"{listed(first)} share the first place."
        )
    worst = max(rivals, key=lambda pair: pair.p, default=None)
    if leader is not None and worst is not None:
        clear = _clear(lead, rivals, worst, alpha, margin, comparison, steps)
        if clear:
            return replace(clear, winners=first, steps=tuple(steps))
    if margin is not None:
        inside = _equal(comparison, lead.order, margin)
        steps.append(
            f"{'All' if inside else 'Not all'} intervals of the differences lie inside the margin of ±{honest(margin)}."
        )
        if inside:
            says = f"Every difference lies inside the margin of {honest(margin)}: none is better by as much as matters."
            return Strength("equal", None, says, tuple(steps), winners=first)
    if leader is None or worst is None:
        says = (
            f"Nobody leads: {lead.contradiction}." if lead.contradiction else f"{listed(first)} share the first place."
        )
        return Strength("too_close", None, says, tuple(steps), None, first, contradiction=lead.contradiction)
    settle = samples_needed(worst, alpha)
    often = f"{max(1, round(100 * worst.p))} times in 100" if worst.p < 0.995 else "nearly always"
    enough = worst.p <= LEANS_UPTO and not worst.few
    steps.append(
        f"Its largest p is {bounded_p(worst)}; leaning takes at most {LEANS_UPTO:g}"
        + (", and more samples on each side." if worst.p <= LEANS_UPTO and not enough else ".")
    )
    if worst.p <= LEANS_UPTO:
        says = f"{leader.treatment} is ahead, but chance alone gives such a lead up to {often}."
        return Strength("leaning", leader.treatment, says, tuple(steps), settle, first)
    says = f"{leader.treatment} came first, but chance alone gives such a lead {often}."
    return Strength("too_close", None, says, tuple(steps), settle, first)


def _clear(
    lead: Leading,
    rivals: Sequence[Pair],
    worst: Pair,
    alpha: float,
    margin: float | None,
    comparison: Comparison,
    steps: list[str],
) -> Strength | None:
    leader = lead.first[0].treatment
    turn = 1 if comparison.column.better == "more" else -1
    beaten = worst.p <= alpha
    steps.append(
        f"{leader} {'beats' if beaten else 'does not beat'} each other one in its own pair test at {honest(alpha)}: "
        f"the largest p is {bounded_p(worst)}, against {worst.b}."
    )
    few = [pair for pair in rivals if pair.few]
    if few:
        steps.append(
            f"Too few for a claim: {few[0].n_a} against {few[0].n_b} of {few[0].b}; it takes {FEWEST} on each side, or "
            f"{FEWEST_IN_BLOCKS} in blocks or pairs."
        )
    wide = True
    if margin is not None:
        gap = min(turn * pair.difference for pair in rivals)
        wide = gap >= margin * (1 - 1e-9)
        steps.append(
            f"Its smallest lead is {honest(gap)}; {'at least' if wide else 'less than'} the margin of {honest(margin)}."
        )
    if not (beaten and wide) or few:
        return None
    against = "the other" if len(rivals) == 1 else f"each of the {len(rivals)} others"
    return Strength(
        "clear", leader, f"{leader} beats {against} in its own pair test (p {_at_most(bounded_p(worst))}).", ()
    )


def _equal(comparison: Comparison, among: Sequence[Estimate], margin: float) -> bool:
    for i, one in enumerate(among):
        for other in among[i + 1 :]:
            pair = comparison.pair(one.treatment, other.treatment)
            if pair is None or pair.low is None or pair.high is None:
                return False
            if pair.low < -margin or pair.high > margin:
                return False
    return len(among) > 1


def _at_most(told: str) -> str:
    """A p as a bound."""
    return told if told.startswith("≤") else f"≤ {told}"
