"""The verdict of a trial that asks whether instruments agree: no treatment wins; what is known of the samples is what they are held to."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence

import numpy as np
from scipy.stats import t

from fieldtally.core.agreement.instruments import AgainstEachOther, MethodsCompared, methods_compared
from fieldtally.core.compare.rates import wilson
from fieldtally.core.design.instruments import kit, reads, told_in
from fieldtally.core.design.plan import Plan
from fieldtally.core.problems import Refused
from fieldtally.core.scales import honest

SURE = 0.95
FEWEST, MANY = 3, 40


def instruments_held(
    plan: Plan, placed: Sequence[tuple[str, str]], values: Mapping[tuple[str, str], Mapping[str, float]]
) -> MethodsCompared | None:
    """The instruments of ``plan`` (its outcomes) against each other and against what is known of the samples.

    ``placed`` are samples (code, treatment key), ``values`` what was read: by outcome and look (keys), for each sample (code).  What was
    read of a sample at a look belongs together.  None where fewer than three samples were read by two of them.
    """
    asked = plan.agreement
    if asked is None:
        return None
    compared = [outcome for outcome in plan.outcomes if outcome.compared]
    ways = [reads(plan, outcome) for outcome in compared]
    known = {treatment.key: treatment for treatment in plan.treatments}
    rows, held = [], []
    for look in plan.checkpoints:
        own = [values.get((outcome.key, look.key), {}) for outcome in compared]
        for code, treatment in placed:
            row = [read(found[code]) if code in found else math.nan for read, found in zip(ways, own, strict=True)]
            if not all(math.isnan(value) for value in row):
                rows.append(row)
                held.append(known[treatment])
    if not rows:
        return None
    # Of another substance it is known that there is nothing of this in it.
    truth = [0.0 if one.other_substance else math.nan if one.holds is None else one.holds for one in held]
    try:
        return methods_compared(
            [outcome.name for outcome in compared],
            np.array(rows),
            unit=told_in(plan),
            truth=np.array(truth) if not all(math.isnan(one) for one in truth) else None,
            other=np.array([one.other_substance for one in held]),
            limit=asked.limit,
            alarm=asked.alarm,
            flags=[kit(outcome) for outcome in compared],
        )
    except Refused:
        return None


def agreement_sentences(found: MethodsCompared | None) -> tuple[str, ...]:
    """What was found, the most important first: each against what is known, then every two of them."""
    if found is None:
        return ("No verdict: no two instruments have read the same three samples.",)
    return (
        *([opening(found)] if len(found.pairs) > 1 else []),
        *(one.says for one in found.against_truth),
        *(one.says for one in found.pairs),
    )


def opening(found: MethodsCompared) -> str:
    """Of more than two instruments which are closest, and which lie farthest apart; of kits which say the same most often."""
    wide = [
        (max(abs(pair.lower.value), abs(pair.upper.value)), pair)
        for pair in found.pairs
        if pair.lower is not None and pair.upper is not None
    ]
    if len(wide) > 1:
        closest, farthest = min(wide, key=_first), max(wide, key=_first)
        of = f" {found.unit}" if found.unit else ""
        return (
            f"Of {len(found.methods)} instruments {closest[1].a} and {closest[1].b} lie closest together (95 in 100 differences within "
            f"{honest(closest[0], 2)}{of}), {farthest[1].a} and {farthest[1].b} farthest apart ({honest(farthest[0], 2)}{of})."
        )
    told = [(pair.limit.apart.many / pair.n, pair) for pair in found.pairs if pair.limit is not None and pair.n]
    if not told:
        return f"{len(found.methods)} instruments were held against each other on {found.n} readings."
    share, apart = max(told, key=_first)
    if not share:
        return f"At the limit {len(found.methods)} instruments say the same of all that two of them have read."
    return (
        f"Of {len(found.methods)} instruments {apart.a} and {apart.b} disagree most often at the limit: on {round(share * apart.n)} of "
        f"{apart.n}."
    )


def _first(one: tuple[float, AgainstEachOther]) -> float:
    return one[0]


def agreement_limits(plan: Plan, found: MethodsCompared | None) -> Iterator[str]:
    """What may not be claimed of instruments, beside what was given up."""
    held = plan.treatments
    if not any(one.holds for one in held):
        yield "Which of them is right: of nothing that was read it is known how much is in it, and all may be wrong together."
    if not any(one.holds == 0 and not one.other_substance for one in held):
        yield "How often one finds something where there is nothing: no blank was among them."
    if not any(one.other_substance for one in held):
        yield "That another substance fools none of them: none was put before them."
    if found is not None:
        met = [value for pair in found.pairs for value in pair.means]
        if met:
            of = f" {found.unit}" if found.unit else ""
            yield f"Readings below {honest(min(met), 3)} or above {honest(max(met), 3)}{of}: none were met."
    if len(plan.checkpoints) > 1:
        yield (
            f"Limits as sure as {len(plan.checkpoints)} looks make them seem: the same {plan.sample.many} were read at each, and each time "
            "counts."
        )
    yield "Other instruments of the same make, other hands and other batches of a kit: these are what was read, by who read them."


def agreement_foretold(plan: Plan) -> tuple[str, ...]:
    """What the planned samples can tell, a sentence each; empty where instruments are not what is asked about.

    Bland & Altman 1986: a limit of agreement is known to within t·s·√(1/n + t²/(2(n − 1))), s being the spread of the differences.
    """
    if plan.agreement is None:
        return ()
    n = plan.sample_count * max(1, len(plan.checkpoints))
    if n < FEWEST:
        return (
            f"{n} readings of each instrument are too few: {FEWEST} at least, 30 or more to know how far they part.",
        )
    doubt, better = _doubt(n), f" With {MANY} it would be ± {honest(_doubt(MANY), 2)}." if 2 * n < MANY else ""
    many = sum(plan.per_treatment(one) for one in plan.treatments if one.holds == 0 and not one.other_substance)
    many *= max(1, len(plan.checkpoints))
    found = [
        f"With {n} readings of each, how far two instruments part in 95 of 100 readings is known to within ± {honest(doubt, 2)} times the "
        f"spread of their differences.{better}"
    ]
    if many:
        most = wilson(0, many)[1]
        blanks = "blank" if many == 1 else "blanks"
        found.append(f"No false alarm in {many} {blanks} would still allow {round(100 * most)} in 100.")
    return tuple(found)


def _doubt(n: int) -> float:
    """How well a limit of agreement of ``n`` differences is known, in spreads of these."""
    out = float(t.ppf((1 + SURE) / 2, n - 1))
    return out * math.sqrt(1 / n + out**2 / (2 * (n - 1)))
