"""What an amendment changes, in sentences; and what no amendment may touch, because codes and claims hang on it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import asdict, replace
from typing import Any, Protocol

from fieldtally.core.design.later import addition_problems, additions_told, without_new
from fieldtally.core.design.plan import Checkpoint, Outcome, Plan
from fieldtally.core.problems import Problem
from fieldtally.core.scales import CurveScale, Scale, honest

FIXED = {
    "start_values": "What samples measured at the start went into the allocation, which is drawn already.",
    "treatments": "Treatments and their numbers are drawn into the codes. More samples, of a new treatment too, are added as a block of "
    "their own.",
    "factors": "The factors stand behind the treatments, which are drawn already.",
    "layout": "The layout is drawn; moving samples about would break the key.",
    "alpha": "The risk of a false alarm was fixed with the seal.",
    "compare": "What is claimed was fixed with the seal.",
    "title": "The name stands on the seal.",
    "question": "The question stands on the seal; another question is another trial.",
    "zone": "The time zone was fixed with the seal.",
    "interim": "When the end may come early, and what that costs, was fixed with the seal.",
    "repeats": "How many samples come back under a second code was fixed with the seal.",
    "show_previous": "Whether scorers see what they gave before was fixed with the seal.",
    "begun": "What was done before the seal was written down with it, and stays so.",
    "fairness": "What was given up was fixed with the seal.",
    "agreement": "Whether instruments are held against each other, and at which limit, was fixed with the seal.",
}
WORDS = {
    "why": "the reason why it is asked",
    "decision": "what the answer would change",
    "hazards": "what could hurt someone",
    "purpose": "the purpose",
    "school": "as the label says, or one procedure",
    "sample_word": "the word for a sample",
    "sample_words": "the word for several samples",
    "pieces": "the pieces in a sample",
    "piece_word": "the word for a piece",
    "starts_on": "the planned start",
    "cycle_word": "the word for a cycle",
    "cycle_minutes": "how long a cycle takes",
    "money": "the currency",
    "sample_cost": "the cost of a sample",
    "shared_costs": "what is bought once for many",
    "outside": "what costs are set beside",
    "system": "whose gallons and spoons are meant",
    "sample_size": "the size of a sample",
    "carrier": "what doses are given in",
    "top_up": "whether smaller doses are topped up",
    "mixing": "each dosed by itself, or one batch for all",
    "overage": "how much is mixed over",
    "cleaning": "what is cleaned with",
    "ending": "the rule that ends the trial",
    "earlier": "the notes on the earlier trial",
}


def held_to(before: Plan, after: Plan) -> Plan:
    """``after`` with every outcome of ``before`` judged at the look it was judged at there, now by its name: a look that is
    added later does not take the place of the last one."""
    judged = {outcome.key: (before.judged_at(outcome), outcome.summary) for outcome in before.outcomes}
    looks = {outcome.key: [c.key for c in before.looked_at(outcome)] for outcome in before.outcomes}
    outcomes = []
    for outcome in after.outcomes:
        at, summary = judged.get(outcome.key, (None, outcome.summary))
        if at is not None and outcome.summary == summary:
            first = summary.baseline or (looks[outcome.key][0] if summary.kind in ("change", "percent") else None)
            outcomes.append(replace(outcome, summary=replace(summary, checkpoint=at, baseline=first)))
        else:
            outcomes.append(outcome)
    return replace(after, outcomes=tuple(outcomes))


class _Keyed(Protocol):
    @property
    def key(self) -> str: ...


def forbidden(before: Plan, after: Plan, taken: frozenset[str] = frozenset()) -> list[Problem]:
    """Why ``after`` may not follow ``before``: it touches what is fixed, claims that were not made, or looks (keys in
    ``taken``) that have readings."""
    same = without_new(before, after)
    found = [Problem(part, says) for part, says in FIXED.items() if _fixed(before, part) != _fixed(same, part)]
    found += addition_problems(before, after)
    old = {outcome.key: outcome for outcome in before.outcomes}
    for i, outcome in enumerate(after.outcomes):
        was = old.pop(outcome.key, None)
        found += [Problem(f"outcomes.{i}.{p.at}", p.says) for p in _outcome(was, outcome)]
    found += [
        Problem("outcomes", f"“{left.name}” carries a claim; what was promised to be looked at cannot be dropped.")
        for left in old.values()
        if left.primary
    ]
    kept = {checkpoint.key: checkpoint for checkpoint in after.checkpoints}
    for outcome in before.outcomes:
        if outcome.primary and before.judged_at(outcome) not in kept:
            found.append(Problem("checkpoints", f"{outcome.name} is judged at a look that would be gone; it stays."))
    for checkpoint in before.checkpoints:
        if checkpoint.key in taken and not _same_time(checkpoint, kept.get(checkpoint.key)):
            found.append(Problem("checkpoints", f"“{checkpoint.name}” has readings already; it stays as it was."))
    return found


def _fixed(plan: Plan, part: str) -> Any:
    """What of ``part`` was fixed with the seal; of treatments not their doses, which may have to change midway."""
    if part == "treatments":
        return tuple(replace(treatment, doses=(), vessel="", cost=None) for treatment in plan.treatments)
    return getattr(plan, part)


def _same_time(was: Checkpoint, now: Checkpoint | None) -> bool:
    # The window may still be widened or the name mended; when it comes is what readings were taken by.
    return now is not None and replace(now, name=was.name, before=was.before, after=was.after) == was


def _outcome(was: Outcome | None, now: Outcome) -> Iterator[Problem]:
    if was is None:
        if now.primary:
            yield Problem("primary", "An outcome added after the seal can only support: take the mark off.")
        return
    if now.primary != was.primary:
        yield Problem("primary", "What carries a claim was fixed with the seal.")
    if was.scale != now.scale and not more_steps(was.scale, now.scale):
        longer = isinstance(was.scale, CurveScale) and was.scale.number == "slope"
        also = " Only steps beyond the last may be added." if longer else ""
        yield Problem("scale", f"The scale was fixed with the seal; add another outcome instead.{also}")
    for part, says in (
        ("better", "Which way is better was fixed with the seal."),
        ("target", "The target was fixed with the seal."),
        ("margin", "The smallest difference that matters was fixed with the seal."),
        ("summary", "What it is judged by was fixed with the seal."),
        ("retest", "What counts of several readings was fixed with the seal."),
        ("wait", "How long is waited before a reading was fixed with the seal."),
    ):
        if getattr(was, part) != getattr(now, part):
            yield Problem(part, says)


def more_steps(was: Scale, now: Scale) -> tuple[float, ...]:
    """The steps that ``now`` has beyond the last of ``was``, both curves that give their slope and differ in nothing else; else none.

    A slope of the first steps stands beside one of more of them; what stands at the last step would be another thing.
    """
    if not isinstance(was, CurveScale) or not isinstance(now, CurveScale) or was.number != "slope":
        return ()
    many = len(was.steps)
    if now.steps[:many] != was.steps or replace(now, steps=was.steps) != was:
        return ()
    return now.steps[many:]


def _steps(before: Plan, after: Plan) -> Iterator[str]:
    """Which steps were added to curves."""
    old = {outcome.key: outcome.scale for outcome in before.outcomes}
    for outcome in after.outcomes:
        more = more_steps(old[outcome.key], outcome.scale) if outcome.key in old else ()
        if more and isinstance(outcome.scale, CurveScale):
            listed = ", ".join(honest(step, 6) for step in more)
            yield (
                f"Steps added to “{outcome.name}”: {listed} {outcome.scale.step_unit}; curves read before end at the step they were read "
                "to, and their slope stands beside those of longer ones."
            )


def changes(before: Plan, after: Plan) -> tuple[str, ...]:
    """What differs between two plans, a sentence each; empty where nothing does."""
    found: list[str] = []
    for part, words in WORDS.items():
        old, new = getattr(before, part), getattr(after, part)
        if old != new:
            found.append(f"Changed: {words}{_from_to(old, new)}.")
    for part, word in (
        ("checkpoints", "look"),
        ("outcomes", "outcome"),
        ("held_equal", "thing held equal"),
        ("products", "product"),
        ("cycle_settings", "setting of a cycle"),
    ):
        found += _entries(word, getattr(before, part), getattr(after, part))
    found += _steps(before, after)
    found += _doses(before, after)
    found += additions_told(before, after)
    return tuple(found)


def _doses(before: Plan, after: Plan) -> Iterator[str]:
    """What changes in what treatments give."""
    old = {treatment.key: treatment for treatment in before.treatments}
    for treatment in after.treatments:
        was = old.get(treatment.key)
        if was is None or (was.doses, was.vessel, was.cost) == (treatment.doses, treatment.vessel, treatment.cost):
            continue
        rates = {dose.key: dose.rate for dose in was.doses}
        names = {product.key: product.name for product in (*before.products, *after.products)}
        told = [
            f"{names.get(dose.product, 'a product')}{_from_to(rates.get(dose.key), dose.rate)}"
            for dose in treatment.doses
            if rates.get(dose.key) != dose.rate
        ]
        yield f"Changed: what {treatment.name} gives ({'; '.join(told) or 'how it is measured, mixed or priced'})."


def _from_to(old: Any, new: Any) -> str:
    if not isinstance(old, str | int | float | None) or not isinstance(new, str | int | float | None):
        return ""
    return f", from “{old if old not in (None, '') else 'nothing'}” to “{new if new not in (None, '') else 'nothing'}”"


def _entries(word: str, before: Sequence[_Keyed], after: Sequence[_Keyed]) -> Iterator[str]:
    old, new = {entry.key: entry for entry in before}, {entry.key: entry for entry in after}
    for key, entry in new.items():
        if key not in old:
            yield f"Added: {word} “{_name(entry)}”."
        elif entry != old[key]:
            parts = [name for name, value in asdict(entry).items() if value != asdict(old[key])[name]]  # type: ignore[call-overload]
            yield f"Changed: {word} “{_name(old[key])}” ({', '.join(part.replace('_', ' ') for part in parts)})."
    for key, entry in old.items():
        if key not in new:
            yield f"Taken out: {word} “{_name(entry)}”."


def _name(entry: _Keyed) -> str:
    name = getattr(entry, "name", None) or getattr(entry, "what", "")
    stage = getattr(entry, "stage", "")
    return f"{name}, {stage}" if stage else str(name)
