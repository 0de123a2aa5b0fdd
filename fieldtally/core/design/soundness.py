"""Is a plan sound?  Every reason why it may not be sealed, each on the field it belongs to."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from zoneinfo import ZoneInfo

from fieldtally.core.design.plan import MOST_REPEATED, Plan
from fieldtally.core.design.sound.agreement import agreement_problems
from fieldtally.core.design.sound.begun import begun_problems
from fieldtally.core.design.sound.checkpoints import checkpoint_problems
from fieldtally.core.design.sound.doses import dose_problems
from fieldtally.core.design.sound.layout import layout_problems
from fieldtally.core.design.sound.outcomes import outcome_problems
from fieldtally.core.design.sound.partial import partial_problems
from fieldtally.core.design.sound.treatments import treatment_problems
from fieldtally.core.problems import Problem

FEWEST_TASTED, MOST_TASTED = 2, 16


def problems_in(plan: Plan) -> list[Problem]:
    """Why ``plan`` may not be sealed; empty where it may."""
    if plan.tasting:
        return [*_heading(plan), *_tasted(plan)]
    return [
        *_heading(plan),
        *treatment_problems(plan),
        *dose_problems(plan),
        *layout_problems(plan),
        *outcome_problems(plan),
        *checkpoint_problems(plan),
        *partial_problems(plan),
        *begun_problems(plan),
        *agreement_problems(plan),
    ]


def _tasted(plan: Plan) -> Iterator[Problem]:
    """Of a tasting: two to sixteen things, each with a name of its own."""
    if not FEWEST_TASTED <= len(plan.treatments) <= MOST_TASTED:
        yield Problem("treatments", f"A tasting is of {FEWEST_TASTED} to {MOST_TASTED} things.")
    seen: set[str] = set()
    for i, one in enumerate(plan.treatments):
        name = one.name.strip().casefold()
        if not name:
            yield Problem(f"treatments.{i}.name", "What is it called?")
        elif name in seen:
            yield Problem(f"treatments.{i}.name", "Two of them have this name; nobody could tell their results apart.")
        seen.add(name)


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
    if plan.starts_on is not None:
        try:
            datetime.fromisoformat(plan.starts_on)
        except ValueError:
            yield Problem("starts_on", "This is no day and hour, as in 2027-03-01 09:00.")
    if plan.pieces < 1:
        yield Problem("pieces", "A sample is made of at least one piece.")
    elif plan.pieces > 1 and not plan.piece_word.strip():
        yield Problem("piece_word", "Say what the pieces in one sample are (stems, fish, cups).")
    if not 0 <= plan.repeats <= MOST_REPEATED:
        yield Problem("repeats", "From none of the samples to half of them may come back under a second code.")
    if plan.sample_cost is not None and plan.sample_cost < 0:
        yield Problem("sample_cost", "A cost cannot be below 0.")
