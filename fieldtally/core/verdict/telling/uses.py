"""What to use when: by what was wanted, by place, by time and by price, in sentences.  What was seen is told as seen, not as proven."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from fieldtally.core.compare.places import PlaceWinner, Where
from fieldtally.core.design.plan import Outcome, Plan, Purpose
from fieldtally.core.dosing.costs import SampleCost, sample_costs
from fieldtally.core.scales import EventScale, GradeScale, LadderScale, PassFailScale, Scale
from fieldtally.core.schedule.naming import called
from fieldtally.core.verdict.conclude import Finding
from fieldtally.core.verdict.leading import leading
from fieldtally.core.verdict.tally import Best, WholeTally
from fieldtally.core.verdict.telling.figures import amount, labelled, money, told_p
from fieldtally.core.verdict.telling.names import listed, lowered

UseKind = Literal["wanted", "place", "time", "price", "purpose"]
WANTED: dict[Purpose, str] = {"fast": "fast", "lasting": "lasting", "cheap": "cheap", "gentle": "gentle"}
MOST_PLACES = 12


@dataclass(frozen=True)
class UseWhen:
    """One thing people ask for (``kind``), named (``title``), with a sentence for each case and one on how sure that is (``note``)."""

    kind: UseKind
    title: str
    says: tuple[str, ...]
    note: str = ""


def what_to_use(plan: Plan, findings: Sequence[Finding], tally: WholeTally | None) -> tuple[UseWhen, ...]:
    """What to use when, of what was found."""
    best = {one.purpose: one for one in tally.best} if tally else {}
    main = next((o for o in plan.outcomes if o.primary and o.compared and o.better != "none"), None)
    looks = len({(c.offset, c.cycle) for c in plan.looked_at(main) if not c.baseline}) if main else 0
    found = [*_wanted(plan, best, looks)]
    if main is not None:
        own = [one for one in findings if one.outcome == main.key]
        summary = next((one for one in own if one.checkpoint is None), None)
        if summary is not None and summary.strength.level == "spoiled":
            # What may not be judged at all is not recommended by place or price either.
            return ()
        if summary is not None:
            found += [by for where in summary.where if (by := _by_place(summary, where)) is not None]
            found += _by_time(plan, main, own)
            found += _by_price(plan, summary, tally)
    found += _other_purposes(plan, best)
    return tuple(found)


def _wanted(plan: Plan, best: Mapping[Purpose, Best], looks: int) -> Iterator[UseWhen]:
    if plan.purpose is None:
        return
    one = best.get(plan.purpose)
    says = f"{one.treatment}: {one.why}." if one else _cannot(plan.purpose, looks)
    yield UseWhen("wanted", f"Wanted: {WANTED[plan.purpose]}", (says,))


def _cannot(purpose: Purpose, looks: int) -> str:
    """Why nobody is named for what was wanted."""
    match purpose:
        case "fast":
            why = "it was looked at once" if looks < 2 else "nobody was ahead alone at the first look"
            return f"Who is fast cannot be told: {why}."
        case "lasting" if looks < 2:
            return "It was looked at once, at the end: what that look tells above is what lasted."
        case "lasting":
            return "Who lasts cannot be told: nobody was ahead alone at the last look."
        case "cheap":
            return (
                "What is cheap cannot be told: fewer than two treatments have a price and a sample that came out well."
            )
        case _:
            return "What is gentle cannot be told: nothing unwanted was measured on which one treatment came off best."


def _other_purposes(plan: Plan, best: Mapping[Purpose, Best]) -> Iterator[UseWhen]:
    others = [one for purpose, one in best.items() if purpose != plan.purpose]
    if others:
        yield UseWhen(
            "purpose",
            "If something else were wanted",
            tuple(f"{WANTED[one.purpose].capitalize()}: {one.treatment}, {one.why}." for one in others),
        )


def _by_place(summary: Finding, where: Where) -> UseWhen | None:
    """The best and the worst of each place, in words."""
    told = [says for place in where.places if (says := best_and_worst(place, where.treatments, summary)) is not None]
    if not told:
        return None
    if len(told) > MOST_PLACES:
        told = [*told[:MOST_PLACES], f"{len(told) - MOST_PLACES} more stand under who wins where."]
    if where.p is None:
        sure = f"One sample of each in a {where.by} cannot tell whether these differ by more than chance."
    elif where.changes:
        sure = f"That it differs from {where.by} to {where.by}: p {told_p(where.p)}."
    else:
        sure = f"The same one came first everywhere; that the distances differ: p {told_p(where.p)}."
    return UseWhen("place", f"By {where.by}", tuple(told), sure)


def best_and_worst(place: PlaceWinner, treatments: Sequence[str], summary: Finding) -> str | None:
    """``At Sunny fence Jute was best (34 mL) and Sisal last (12 mL)``; who is level with whom is told as that."""
    more = summary.comparison.column.better == "more"
    known = sorted(
        ((mean, name) for mean, name in zip(place.means, treatments, strict=True) if mean is not None),
        key=lambda one: -one[0],
    )
    if len(known) < 2:
        return None
    top, low = known[0][0], known[-1][0]
    near = 1e-9 * max(1.0, abs(top), abs(low))
    if top - low <= near:
        return f"At {place.place} all came out alike."
    first = [name for mean, name in known if top - mean <= near]
    last = [name for mean, name in known if mean - low <= near]

    def figure(mean: float) -> str:
        return mean_told(mean if more else -mean, summary.scale, summary)

    won = f" by {'its' if len(first) == 1 else 'their'} own test" if place.won else ""
    share = "were best together" if len(first) > 1 else "was best"
    end = "were last together" if len(last) > 1 else "was last"
    return f"At {place.place} {listed(first)} {share}{won} ({figure(top)}), {listed(last)} {end} ({figure(low)})."


def mean_told(mean: float, scale: Scale, summary: Finding) -> str:
    """A mean over samples: of numbered grades as a number, of others by their words."""
    if isinstance(scale, GradeScale) and summary.comparison.column.of == "value":
        return labelled(mean, scale) or amount(mean, scale)
    return amount(mean, scale, summary.comparison.column.of)


def _by_time(plan: Plan, outcome: Outcome, own: Sequence[Finding]) -> Iterator[UseWhen]:
    """Who was ahead early and who late: looks of one moment are told by the last of them."""
    if isinstance(outcome.scale, EventScale):
        return
    checkpoints = {checkpoint.key: checkpoint for checkpoint in plan.checkpoints}
    moments: dict[tuple[int, int | None], tuple[str, tuple[str, ...]]] = {}
    for one in own:
        look = checkpoints.get(one.checkpoint or "")
        if look is None or look.baseline:
            continue
        first = tuple(each.treatment for each in leading(one.comparison).first)
        if first:
            moments[look.offset, look.cycle] = (lowered(called(look)), first)
    if len(moments) < 2:
        return
    runs = [(names, list(looks)) for names, looks in itertools.groupby(moments.values(), key=lambda one: one[1])]
    said = []
    for names, looks in runs:
        at = looks[0][0] if len(looks) == 1 else f"{looks[0][0]} to {looks[-1][0]}"
        ahead = "shared the lead" if len(names) > 1 else "was ahead"
        said.append(f"At {at} {listed(names)} {ahead}." if len(looks) == 1 else f"From {at} {listed(names)} {ahead}.")
    if len(runs) == 1:
        said = [f"{listed(runs[0][0])} {'shared the lead' if len(runs[0][0]) > 1 else 'was ahead'} at every look."]
    if len(said) > MOST_PLACES:
        said = [f"Who was ahead changed {len(runs) - 1} times over {len(moments)} looks; nobody led for long."]
    yield UseWhen(
        "time", "By time", tuple(said), "Single looks are told as seen; the claim is about the summary above."
    )


def _by_price(plan: Plan, summary: Finding, tally: WholeTally | None) -> Iterator[UseWhen]:
    costs = sample_costs(plan)
    known = [one for one in costs if one.money is not None]
    if not known or all(not one.money for one in known):
        return
    per_good = {row.treatment: row.per_good for row in tally.rows} if tally else {}
    said = [_priced(plan, one, per_good.get(one.treatment)) for one in sorted(known, key=_money)[:MOST_PLACES]]
    missing = list(dict.fromkeys(name for one in costs for name in one.missing))
    note = f"No price is known of {listed(missing)}." if missing else ""
    cheap = _as_good_for_less(summary, known, plan.alpha)
    yield UseWhen("price", "By price", (*([cheap] if cheap else []), *said), note)


def _money(one: SampleCost) -> float:
    return one.money or 0.0


def _priced(plan: Plan, one: SampleCost, per_good: float | None) -> str:
    use = f", {money(one.use, plan.money)} a use" if one.use is not None else ""
    good = f"; {money(per_good, plan.money)} for each that came out well" if per_good is not None else ""
    return f"{one.treatment}: {money(one.money or 0.0, plan.money)} a {plan.sample.one}{use}{good}."


def _as_good_for_less(summary: Finding, known: Sequence[SampleCost], alpha: float) -> str | None:
    """The cheapest of those that the leader was not told apart from."""
    lead = leading(summary.comparison).leader
    if lead is None or (isinstance(summary.scale, PassFailScale | LadderScale) and summary.strength.level == "nothing"):
        return None
    price = {one.treatment: one.money or 0.0 for one in known}
    if lead.treatment not in price:
        return None
    level = [
        name
        for name in price
        if name != lead.treatment
        and (pair := summary.comparison.pair(lead.treatment, name)) is not None
        and pair.p > alpha
        and price[name] < price[lead.treatment]
    ]
    if not level:
        return None
    name = min(level, key=lambda one: price[one])
    return f"{name} costs less than {lead.treatment}, and this trial does not tell the two apart."
