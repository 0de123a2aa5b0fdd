"""The self-blinding shuffle: whether a plan allows it, what its flasks are called, and what is found in the end.

A person alone fills a vessel for each treatment (or every sample), writes the treatment's letter where it can be covered,
covers it, shuffles the vessels until they no longer know which is which, and ties the codes on.  The app knows the codes, the
covers know the treatments; together they are the key, and nobody holds both before the covers come off.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Mapping
from datetime import datetime

from django.db import transaction
from django.utils import timezone

from fieldtally.core.blinding.chain import item
from fieldtally.core.blinding.codes import draw_codes
from fieldtally.core.design.letters import letter_of
from fieldtally.core.design.plan import Plan
from fieldtally.core.problems import Problem
from fieldtally.core.randomness import Draw
from fieldtally.server.answers import Declined
from fieldtally.server.people.chain import append
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import KeyEntry, SealedPlan, Shuffle, Uncovered
from fieldtally.server.plan.models.shuffled import ShuffleKind
from fieldtally.server.plan.queries import plan_of, samples_of, shuffle_of


def why_not(plan: Plan, kind: str) -> str | None:
    """Why ``plan`` does not allow a shuffle of that ``kind``, in a sentence; None where it does."""
    if any(
        one.treatments or one.groups for one in (*(o.only for o in plan.outcomes), *(c.only for c in plan.checkpoints))
    ):
        return "Some treatments are asked for what others are not, so whoever scores has to know which is which."
    if kind == ShuffleKind.FLASKS:
        if len({plan.per_treatment(treatment) for treatment in plan.treatments}) > 1:
            return "Flasks can only be exchanged where every treatment has equally many samples."
        if plan.layout.kind == "split":
            return "In a split plot the hard factor would show which flask is which."
        return None
    if plan.layout.kind not in ("random", "blocks"):
        return "Samples can only be shuffled where every place may hold every treatment: at random, or inside blocks."
    return None


def flasks_for(trial: Trial, plan: Plan) -> dict[str, str]:
    """The flask code for each treatment (key), drawn from the seed apart from the samples' codes."""
    seed = json.loads(SealedPlan.objects.get(pk=trial.pk).canonical)["seed"]
    taken = {sample.code for sample in samples_of(trial)}
    draw = Draw(seed, "flasks")
    codes = [code for code in draw_codes(len(taken) + len(plan.treatments), draw) if code not in taken]
    return dict(zip(draw.shuffled(treatment.key for treatment in plan.treatments), codes, strict=False))


def shuffle(trial: Trial, user: User, kind: str, *, at: datetime | None = None) -> Shuffle:
    """Record that ``user`` has filled, hidden, shuffled and coded.

    :raises Declined: 409 before the seal, once exposure runs, or when it is done already; 422 where the plan does not allow it.
    """
    with transaction.atomic():
        locked = Trial.objects.select_for_update().get(pk=trial.pk)
        if locked.state == "draft":
            raise Declined(409, "Seal the plan first: the codes are drawn then.")
        if locked.state != "sealed":
            raise Declined(409, "Exposure has started; shuffling now would lose the key.")
        if shuffle_of(trial) is not None:
            raise Declined(409, "This trial is shuffled already.")
        if kind not in ShuffleKind.values:
            raise Declined(422, Problem("kind", "Flasks or samples are shuffled."))
        plan = plan_of(locked)
        says = why_not(plan, kind)
        if says:
            raise Declined(422, Problem("kind", says))
        flasks = flasks_for(locked, plan) if kind == ShuffleKind.FLASKS else {}
        made = Shuffle.objects.create(trial=locked, kind=kind, flasks=flasks, by=user, at=at or timezone.now())
        append(locked, "shuffle", [item("shuffle", {"kind": kind, "flasks": flasks, "at": made.at})], at=made.at)
        return made


def uncover(trial: Trial, user: User, letters: Mapping[str, str], *, at: datetime | None = None) -> Uncovered:
    """Record which letter stood under each cover (by flask code, or by sample code).

    :raises Declined: 409 where nothing was shuffled, exposure has not started, or it is uncovered already; 422 at each code whose
        letter is missing, unknown, or does not add up.
    """
    with transaction.atomic():
        locked = Trial.objects.select_for_update().get(pk=trial.pk)
        shuffled = shuffle_of(locked)
        if shuffled is None:
            raise Declined(409, "Nothing was shuffled in this trial.")
        if locked.state == "sealed":
            raise Declined(409, "Exposure has not started yet; uncovering now would spoil the shuffle for nothing.")
        if Uncovered.objects.filter(pk=shuffled.pk).exists():
            raise Declined(409, "It is uncovered already.")
        plan = plan_of(locked)
        found = _read(plan, letters, _wanted(locked, shuffled))
        _adds_up(locked, plan, shuffled, found)
        made = Uncovered.objects.create(shuffle=shuffled, found=found, by=user, at=at or timezone.now())
        append(locked, "uncovered", [item("uncovered", {"found": found, "at": made.at})], at=made.at)
        return made


def _wanted(trial: Trial, shuffled: Shuffle) -> list[str]:
    if shuffled.kind == ShuffleKind.FLASKS:
        return sorted(shuffled.flasks.values())
    return [sample.code for sample in samples_of(trial)]


def _read(plan: Plan, letters: Mapping[str, str], wanted: list[str]) -> dict[str, str]:
    by_letter = {letter_of(i): treatment.key for i, treatment in enumerate(plan.treatments)}
    problems, found = [], {}
    for code in wanted:
        letter = letters.get(code, "").strip().upper()
        if letter in by_letter:
            found[code] = by_letter[letter]
        else:
            says = (
                f"“{letter}” is none of the letters {', '.join(by_letter)}."
                if letter
                else "Which letter is under this cover?"
            )
            problems.append(Problem(f"letters.{code}", says))
    if problems:
        raise Declined(422, *problems)
    return found


def _adds_up(trial: Trial, plan: Plan, shuffled: Shuffle, found: Mapping[str, str]) -> None:
    """Each treatment must be found as often as it was filled, in each block."""
    if shuffled.kind == ShuffleKind.FLASKS:
        counts = {("", key): times for key, times in Counter(found.values()).items()}
        wanted = {("", treatment.key): 1 for treatment in plan.treatments}
    else:
        blocks = {sample.code: sample.block for sample in samples_of(trial)}
        drawn = KeyEntry.objects.filter(sample__trial=trial).values_list("sample__block", "treatment")
        counts = dict(Counter((blocks[code], key) for code, key in found.items()))
        wanted = dict(Counter(drawn))
    letters = {treatment.key: letter_of(i) for i, treatment in enumerate(plan.treatments)}
    for at, times in wanted.items():
        if counts.get(at, 0) != times:
            where = next((f" in {b.name}" for b in plan.layout.blocks if b.key == at[0]), "")
            raise Declined(
                422,
                Problem(
                    "letters",
                    f"Letter {letters[at[1]]} was found {counts.get(at, 0)} times{where}, but filled {times} times: look again.",
                ),
            )
