"""What an amendment puts beside what was drawn: more samples, of treatments that are new or were there, as a block of their own."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from fieldtally.core.design.plan import Block, Plan, Treatment
from fieldtally.core.problems import Problem

MIXED = ("random", "blocks")
"""Layouts that mix treatments over places, so that more places may be had beside them."""
FEW = 4
"""With fewer than that many of each hardly anything can be clear."""


def new_blocks(before: Plan, after: Plan) -> tuple[Block, ...]:
    """What ``after`` adds to ``before``."""
    known = {block.key for block in before.added_blocks}
    return tuple(block for block in after.added_blocks if block.key not in known)


def without_new(before: Plan, after: Plan) -> Plan:
    """``after`` without the samples that it adds to ``before``, and without the treatments that only these have."""
    new = {block.key for block in new_blocks(before, after)}
    layout = replace(after.layout, blocks=tuple(block for block in after.layout.blocks if block.key not in new))
    if new and not before.layout.in_blocks and [block.key for block in layout.blocks] == [""]:
        layout = replace(layout, kind=before.layout.kind, blocks=before.layout.blocks)
    had = {treatment.key for treatment in before.treatments}
    kept = tuple(one for one in after.treatments if one.key in had or not new or one.samples > 0)
    return replace(after, layout=layout, treatments=kept)


def addition_problems(before: Plan, after: Plan) -> Iterator[Problem]:
    """Why samples may not be added to ``before`` as ``after`` has them."""
    new = new_blocks(before, after)
    if not new:
        return
    if before.layout.kind not in MIXED:
        yield Problem(
            "layout",
            "This layout has no room beside it: squares, whole plots and pairs are complete as they were drawn. Ask what is new in a "
            "trial of its own, with this one as its parent.",
        )
    elif len(new) > 1:
        yield Problem("layout.blocks", "One addition at a time: what is added later is another one.")


def additions_told(before: Plan, after: Plan) -> Iterator[str]:
    """What ``after`` adds to ``before``, and what that means for comparing, a sentence each."""
    names = {treatment.key: treatment.name.strip() for treatment in after.treatments}
    fresh = {one.key for one in after.treatments} - {one.key for one in before.treatments}
    for block in new_blocks(before, after):
        counts = {key: many for key, many in after.counts_in(block.key).items() if many > 0}
        told = _joined([f"{many} of {names[key]}{' (new)' if key in fresh else ''}" for key, many in counts.items()])
        yield f"Added: {after.sample.counted(sum(counts.values()))}, drawn into a block of their own, “{block.name.strip()}”: {told}."
        if len(counts) == 1:
            yield (
                f"Nothing stands beside {names[next(iter(counts))]} there, so what is added is compared with nothing; and whoever scores "
                "sees that they belong together."
            )
            continue
        for key in (key for key in counts if key in fresh):
            beside = _joined([names[other] for other in counts if other != key])
            yield f"{names[key]} is compared only with what is added beside it: {beside}."
        if min(counts.values()) < FEW:
            yield f"With fewer than {FEW} of each hardly any difference between them can be clear."


def never_beside(plan: Plan) -> tuple[tuple[Treatment, tuple[Treatment, ...]], ...]:
    """The treatments that were added later, each with those that it never stood beside."""
    if not plan.added_later:
        return ()
    blocks = [plan.counts_in(block.key) for block in plan.layout.blocks]

    def together(a: Treatment, b: Treatment) -> bool:
        return any(counts[a.key] and counts[b.key] for counts in blocks)

    found = []
    for late in plan.added_later:
        apart = tuple(other for other in plan.treatments if other is not late and not together(late, other))
        if apart:
            found.append((late, apart))
    return tuple(found)


def said_of_added(plan: Plan) -> tuple[str, ...]:
    """What may not be claimed for what was added later, a sentence each."""
    return tuple(
        f"How {late.name.strip()} does against {_names(apart)}: it was added later, and they never stood side by side."
        for late, apart in never_beside(plan)
    )


def _names(treatments: Sequence[Treatment]) -> str:
    return _joined([one.name.strip() for one in treatments], "or")


def _joined(names: Sequence[str], word: str = "and") -> str:
    return f"{', '.join(names[:-1])} {word} {names[-1]}" if len(names) > 1 else "".join(names)
