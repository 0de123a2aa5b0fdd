"""Is a plan sound?  Every reason why it may not be sealed, each on the field it belongs to."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from zoneinfo import ZoneInfo

from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.problems import Problem
from fieldtally.core.scales import PassFailScale, honest

MOST_SAMPLES = 10_000
MOST_TREATMENTS = 40
LONGEST_OFFSET = 60 * 24 * 366 * 20


def problems_in(plan: Plan) -> list[Problem]:
    """Why ``plan`` may not be sealed; empty where it may."""
    return [
        *_heading(plan),
        *_treatments(plan),
        *_layout(plan),
        *_outcomes(plan),
        *_checkpoints(plan),
    ]


def _heading(plan: Plan) -> Iterator[Problem]:
    if not plan.title.strip():
        yield Problem("title", "The trial needs a name.")
    if not plan.question.strip():
        yield Problem("question", "Write down what you want to know; the verdict will answer that.")
    if not 0 < plan.alpha <= 0.2:
        yield Problem("alpha", "The level is the risk of a false alarm you accept: more than 0, at most 0.2.")
    try:
        ZoneInfo(plan.zone)
    except (KeyError, ValueError, OSError):
        yield Problem("zone", f"There is no time zone called “{plan.zone}”.")


def _repeated(names: list[str]) -> Iterator[tuple[int, str]]:
    seen: set[str] = set()
    for i, name in enumerate(names):
        folded = " ".join(name.split()).casefold()
        if folded and folded in seen:
            yield i, name.strip()
        seen.add(folded)


def _keys(at: str, keys: list[str]) -> Iterator[Problem]:
    for i, key in enumerate(keys):
        if not key or key in keys[:i]:
            yield Problem(f"{at}.{i}", "This entry came without a name of its own; take it out and add it again.")


def _treatments(plan: Plan) -> Iterator[Problem]:
    if len(plan.treatments) < 2:
        yield Problem("treatments", "A comparison needs at least two treatments, one of them a control if you can.")
    if len(plan.treatments) > MOST_TREATMENTS:
        yield Problem("treatments", f"{len(plan.treatments)} treatments are more than the {MOST_TREATMENTS} that fit.")
    yield from _keys("treatments", [treatment.key for treatment in plan.treatments])
    for i, treatment in enumerate(plan.treatments):
        if not treatment.name.strip():
            yield Problem(f"treatments.{i}.name", "This treatment has no name.")
        if treatment.samples < 1:
            yield Problem(f"treatments.{i}.samples", "No samples: give it at least 1, better 4 or more.")
    for i, name in _repeated([treatment.name for treatment in plan.treatments]):
        yield Problem(
            f"treatments.{i}.name", f"Two treatments are called “{name}”; the verdict could not tell them apart."
        )
    if plan.sample_count > MOST_SAMPLES:
        yield Problem(
            "treatments",
            f"{plan.sample_count:,} samples are more than the {MOST_SAMPLES:,} that one trial can hold. "
            f"{MOST_SAMPLES // max(1, len(plan.treatments) * plan.block_count)} of each would fit.",
        )
    if plan.compare == "control" and plan.control is None:
        yield Problem("compare", "“Better than the control?” needs a control: mark one treatment as one.")


def _layout(plan: Plan) -> Iterator[Problem]:
    if plan.layout.kind != "blocks":
        return
    if len(plan.layout.blocks) < 2:
        yield Problem("layout.blocks", "Blocks need at least two places or days; with one, choose no blocks.")
    yield from _keys("layout.blocks", [block.key for block in plan.layout.blocks])
    for i, block in enumerate(plan.layout.blocks):
        if not block.name.strip():
            yield Problem(f"layout.blocks.{i}.name", "This block has no name.")
    for i, name in _repeated([block.name for block in plan.layout.blocks]):
        yield Problem(f"layout.blocks.{i}.name", f"Two blocks are called “{name}”.")


def _outcomes(plan: Plan) -> Iterator[Problem]:
    if not plan.outcomes:
        yield Problem("outcomes", "Say what will be looked at: at least one outcome.")
    elif not any(outcome.primary for outcome in plan.outcomes):
        yield Problem("outcomes", "Mark at least one outcome as primary: only that one carries a claim.")
    yield from _keys("outcomes", [outcome.key for outcome in plan.outcomes])
    for i, outcome in enumerate(plan.outcomes):
        for problem in (*_outcome(outcome), *_summary(plan, outcome)):
            yield Problem(f"outcomes.{i}.{problem.at}", problem.says)
    for i, name in _repeated([outcome.name for outcome in plan.outcomes]):
        yield Problem(f"outcomes.{i}.name", f"Two outcomes are called “{name}”.")


def _outcome(outcome: Outcome) -> Iterator[Problem]:
    if not outcome.name.strip():
        yield Problem("name", "This outcome has no name.")
    for problem in outcome.scale.problems():
        yield Problem(f"scale.{problem.at}", problem.says)
    if outcome.better == "target" and outcome.target is None:
        yield Problem("target", "Nearest a target: give the target.")
    if outcome.margin is not None and outcome.margin <= 0:
        yield Problem("margin", "The smallest difference that matters must be more than 0.")
    if outcome.expected is not None and outcome.expected <= 0:
        yield Problem("expected", "The lead you hope for must be more than 0.")
    if outcome.spread is not None and outcome.spread <= 0:
        yield Problem("spread", "The spread between samples treated alike must be more than 0.")
    if isinstance(outcome.scale, PassFailScale) and outcome.margin is not None and outcome.margin > 1:
        yield Problem("margin", "For pass or fail the difference is a share from 0 to 1 (0.2 is 20 in 100).")
    elif outcome.margin is not None and not outcome.scale.problems() and outcome.scale.ends is not None:
        low, high = outcome.scale.ends
        if outcome.margin > high - low:
            yield Problem(
                "margin", f"The whole scale is only {honest(high - low)} wide, so no difference could matter."
            )


def _summary(plan: Plan, outcome: Outcome) -> Iterator[Problem]:
    known = {checkpoint.key for checkpoint in plan.checkpoints}
    for key in outcome.checkpoints:
        if key not in known:
            yield Problem("checkpoints", "It is looked at on a checkpoint that is no longer in the plan.")
            return
    looked_at = [checkpoint.key for checkpoint in plan.looked_at(outcome)]
    for part in ("checkpoint", "baseline"):
        key = getattr(outcome.summary, part)
        if key is not None and key not in looked_at:
            yield Problem(f"summary.{part}", "It is judged at a checkpoint where it is not looked at.")
    if outcome.summary.kind == "change":
        if len(looked_at) < 2:
            yield Problem("summary.kind", "A change needs two checkpoints: one before, one after.")
        elif outcome.summary.checkpoint in looked_at or outcome.summary.baseline in looked_at:
            after = outcome.summary.checkpoint or looked_at[-1]
            before = outcome.summary.baseline or looked_at[0]
            if after in looked_at and before in looked_at and looked_at.index(after) <= looked_at.index(before):
                yield Problem("summary.baseline", "The baseline must come before the checkpoint it is compared with.")


def _checkpoints(plan: Plan) -> Iterator[Problem]:
    if not plan.checkpoints:
        yield Problem("checkpoints", "Say when you will look: at least one checkpoint.")
    yield from _keys("checkpoints", [checkpoint.key for checkpoint in plan.checkpoints])
    offsets: dict[int, str] = {}
    for i, checkpoint in enumerate(plan.checkpoints):
        if not checkpoint.name.strip():
            yield Problem(f"checkpoints.{i}.name", "This checkpoint has no name.")
        if checkpoint.offset < 0:
            yield Problem(f"checkpoints.{i}.offset", "A checkpoint cannot come before the start of exposure.")
        elif checkpoint.offset > LONGEST_OFFSET:
            yield Problem(f"checkpoints.{i}.offset", "That is more than twenty years after the start.")
        elif checkpoint.offset in offsets:
            yield Problem(f"checkpoints.{i}.offset", f"It falls at the same time as “{offsets[checkpoint.offset]}”.")
        offsets.setdefault(checkpoint.offset, checkpoint.name.strip())
        if checkpoint.before < 0 or checkpoint.after < 0:
            yield Problem(f"checkpoints.{i}.after", "A window cannot be shorter than nothing.")
        if max(checkpoint.before, checkpoint.after) > LONGEST_OFFSET:
            yield Problem(f"checkpoints.{i}.after", "A window cannot be longer than twenty years.")
    for i, name in _repeated([checkpoint.name for checkpoint in plan.checkpoints]):
        yield Problem(f"checkpoints.{i}.name", f"Two checkpoints are called “{name}”.")
    in_time = sorted((c for c in plan.checkpoints if c.offset >= 0), key=lambda c: c.offset)
    for earlier, later in itertools.pairwise(in_time):
        if later.offset > earlier.offset and later.offset - later.before < earlier.offset + earlier.after:
            i = plan.checkpoints.index(later)
            yield Problem(
                f"checkpoints.{i}.before",
                f"Its window opens before that of “{earlier.name}” has closed: one look would count for two.",
            )
