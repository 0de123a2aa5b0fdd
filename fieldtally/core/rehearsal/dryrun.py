"""Dry run: the verdict that a whole imagined trial would give; and many of them, to see how often it would be right.

One run goes all the way: layout, readings at every look, the verdict's own rules.  Many runs take only what carries the
claim, and remember a run that missed a true difference and one that named a wrong best (a false alarm), to be looked at.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from fieldtally.core.design.layout import lay_out
from fieldtally.core.design.letters import letter_of
from fieldtally.core.design.plan import Plan
from fieldtally.core.rehearsal.imagined import Imagined, readings, refuse_nonsense
from fieldtally.core.verdict.conclude import Finding, Samples, conclude

Ended = Literal["right", "missed", "false_alarm", "rightly_none"]


@dataclass(frozen=True)
class ImaginedSample:
    """One sample of a dry run: its treatment's letter, its block's name, and its value for the outcome that is judged."""

    letter: str
    block: str
    value: float


@dataclass(frozen=True)
class DryRun:
    """What one imagined trial came to: how it ended, in a sentence; its findings; the samples of its first claim."""

    run: int
    ended: Ended
    says: str
    findings: tuple[Finding, ...]
    samples: tuple[ImaginedSample, ...]


@dataclass(frozen=True)
class DryRuns:
    """How many of ``runs`` imagined trials ended how, and the numbers of a first miss and a first false alarm."""

    runs: int
    right: int
    missed: int
    false_alarms: int
    rightly_none: int
    a_miss: int | None
    a_false_alarm: int | None


def dry_run(plan: Plan, imagined: Sequence[Imagined], run: int) -> DryRun:
    """The imagined trial number ``run`` (from 0) of a sound ``plan``; the same number always brings the same trial.

    :raises Refused: ``imagined`` cannot be.
    """
    refuse_nonsense(plan, imagined)
    findings, samples = _played(plan, imagined, run, everything=True)
    first = next((f for f in findings if f.claim), findings[0])
    ended = _ended(plan, imagined, first)
    return DryRun(run, ended, _says(ended, first, _truly_best(plan, imagined, first.outcome)), tuple(findings), samples)


def dry_runs(
    plan: Plan, imagined: Sequence[Imagined], runs: int, progress: Callable[[int], None] | None = None
) -> DryRuns:
    """``runs`` imagined trials, numbered from 0; ``progress`` is told after each how many are done.

    :raises Refused: ``imagined`` cannot be.
    """
    refuse_nonsense(plan, imagined)
    ends: list[Ended] = []
    for run in range(runs):
        findings, _ = _played(plan, imagined, run, everything=False)
        ends.append(_ended(plan, imagined, next(f for f in findings if f.claim)))
        if progress is not None:
            progress(run + 1)
    return DryRuns(
        runs,
        ends.count("right"),
        ends.count("missed"),
        ends.count("false_alarm"),
        ends.count("rightly_none"),
        ends.index("missed") if "missed" in ends else None,
        ends.index("false_alarm") if "false_alarm" in ends else None,
    )


def _played(
    plan: Plan, imagined: Sequence[Imagined], run: int, *, everything: bool
) -> tuple[list[Finding], tuple[ImaginedSample, ...]]:
    slots = lay_out(plan, f"dry run {run}")
    # The readings come first from the stream, so that both ways of playing the same run see the same ones.
    values = readings(plan, slots, imagined, np.random.default_rng(run))
    samples = Samples(
        tuple(slot.treatment for slot in slots),
        tuple(slot.block for slot in slots),
        tuple(slot.plot for slot in slots),
        tuple(slot.row for slot in slots),
        tuple(slot.column for slot in slots),
    )
    played = plan if everything else _claims_only(plan)
    findings = conclude(played, samples, values, np.random.default_rng(run + 1))
    first = next((f for f in findings if f.claim), findings[0])
    outcome = next(o for o in plan.outcomes if o.key == first.outcome)
    column = values[outcome.key, plan.judged_at(outcome) or ""]
    letters = {t.key: letter_of(i) for i, t in enumerate(plan.treatments)}
    names = {b.key: b.name for b in plan.layout.blocks}
    shown = tuple(
        ImaginedSample(letters[slot.treatment], names.get(slot.block or "", ""), float(value))
        for slot, value in zip(slots, column, strict=True)
        if not np.isnan(value)
    )
    return findings, shown


def _claims_only(plan: Plan) -> Plan:
    """``plan`` with the outcomes that carry claims, at the looks they are judged by."""
    kept = []
    for outcome in plan.outcomes:
        if outcome.primary and outcome.compared:
            looked_at = plan.looked_at(outcome)
            needed = [plan.judged_at(outcome) or ""]
            if outcome.summary.kind in ("change", "percent"):
                needed.insert(0, outcome.summary.baseline or looked_at[0].key)
            if outcome.scale.kind == "event" or outcome.summary.kind in ("area", "slope", "threshold"):
                needed = [c.key for c in looked_at]
            kept.append(replace(outcome, checkpoints=tuple(needed)))
    return replace(plan, outcomes=tuple(kept))


def _truly_best(plan: Plan, imagined: Sequence[Imagined], outcome: str) -> str | None:
    """The name of the treatment that is truly best on ``outcome`` (key); None where several are."""
    about = next(o for o in plan.outcomes if o.key == outcome)
    means = next((one.means for one in imagined if one.outcome == outcome), None)
    if means is None or about.better == "none":
        return None

    def worth(key: str) -> float:
        if about.better == "target":
            return -abs(means[key] - (about.target or 0.0))
        return means[key] if about.better == "more" else -means[key]

    order = sorted(plan.treatments, key=lambda t: worth(t.key), reverse=True)
    return None if worth(order[0].key) - worth(order[1].key) < 1e-9 else order[0].name


def _ended(plan: Plan, imagined: Sequence[Imagined], finding: Finding) -> Ended:
    best = _truly_best(plan, imagined, finding.outcome)
    if finding.strength.level == "clear":
        return "right" if finding.strength.winner == best else "false_alarm"
    return "rightly_none" if best is None else "missed"


def _says(ended: Ended, finding: Finding, best: str | None) -> str:
    match ended:
        case "right":
            return f"Right: {best} is truly best, and this trial says so."
        case "missed":
            return f"A miss: {best} is truly best, and this trial cannot tell."
        case "false_alarm":
            truth = f"{best} is truly best" if best else "none is truly better"
            return f"A false alarm: {truth}, and this trial would name {finding.strength.winner}."
        case _:
            return "Rightly none: no treatment is truly better, and this trial names none."
