"""Samples that an amendment adds: drawn under their own codes, told, held only against what stands beside them."""

from dataclasses import replace

import numpy as np
import pytest

from fieldtally.core.blinding.allocation import allocate, allocate_added
from fieldtally.core.blinding.chain import Stood, allocation_faults
from fieldtally.core.blinding.seal import (
    More,
    added_as_drawn,
    amended_document,
    seal_of,
    sealed_document,
    whole_allocation,
)
from fieldtally.core.design.changes import changes, forbidden
from fieldtally.core.design.document import document_of, plan_in
from fieldtally.core.design.later import never_beside, said_of_added
from fieldtally.core.design.plan import Added, Block, Checkpoint, Factor, FactorLevel, Layout, Outcome, Plan, Treatment
from fieldtally.core.design.soundness import problems_in
from fieldtally.core.outlook.outlook import outlook
from fieldtally.core.scales import MeasurementScale
from fieldtally.core.verdict.conclude import Samples, conclude
from fieldtally.core.verdict.settling import what_would_settle
from fieldtally.core.verdict.telling.tables import told_finding

SEED, LATER = "ab" * 16, "cd" * 16
PLAN = Plan(
    "Rooting in jars",
    question="Which roots best?",
    treatments=(Treatment("c", "Coir", "untreated", 6), Treatment("b", "Brine", "treatment", 6)),
    outcomes=(Outcome("o", "Root length", MeasurementScale("cm", 0.1), "more", primary=True),),
    checkpoints=(Checkpoint("k", "Day 7", offset=7 * 1440),),
)
FRESH = Treatment("l", "Lacket", "treatment", 0)


def added(plan: Plan, samples: dict[str, int], *more: Treatment, key: str = "added-1") -> Plan:
    """``plan`` with ``samples`` of each treatment (key) in a block of their own, ``more`` treatments among them."""
    first = plan.layout.blocks if plan.layout.in_blocks else (Block("", "From the start"),)
    block = Block(key, f"Added {key}", added=Added(samples))
    layout = replace(plan.layout, kind="blocks", blocks=(*first, block))
    return replace(plan, treatments=(*plan.treatments, *more), layout=layout)


AFTER = added(PLAN, {"c": 4, "l": 4}, FRESH)


def drawn(plan: Plan = AFTER, before: Plan = PLAN):
    first = allocate(before, SEED)
    return first, allocate_added(plan, plan.added_blocks[-1].key, LATER, frozenset(one.code for one in first))


def test_a_treatment_is_added_on_new_samples_under_new_codes_and_nothing_drawn_is_touched():
    assert forbidden(PLAN, AFTER) == []
    assert [p for p in problems_in(AFTER) if "layout" in p.at or "treatments" in p.at] == []
    first, more = drawn()
    assert sorted(one.treatment for one in more) == ["c"] * 4 + ["l"] * 4
    assert {one.block for one in more} == {"added-1"} and [one.place for one in more] == [*range(1, 9)]
    assert not {one.code for one in first} & {one.code for one in more}
    assert AFTER.sample_count == 20
    assert [AFTER.per_treatment(one) for one in AFTER.treatments] == [10, 6, 4]
    assert AFTER.first_drawn == PLAN and [one.key for one in AFTER.added_later] == ["l"]
    assert plan_in(document_of(AFTER)) == AFTER


def test_a_second_addition_and_one_beside_blocks_leave_what_was_there():
    second = added(AFTER, {"l": 3, "b": 3}, key="added-2")
    assert forbidden(AFTER, second) == []
    assert second.sample_count == 26 and second.first_drawn == PLAN
    bedded = replace(PLAN, layout=Layout("blocks", (Block("s", "Sunny"), Block("d", "Shaded"))))
    after = added(bedded, {"b": 4, "l": 4}, FRESH)
    assert forbidden(bedded, after) == []
    assert after.sample_count == 24 + 8 and after.first_drawn == bedded
    assert never_beside(after) == ((FRESH, (PLAN.treatments[0],)),)


@pytest.mark.parametrize(
    ("after", "at"),
    [
        (replace(AFTER, treatments=(replace(PLAN.treatments[0], samples=7), *AFTER.treatments[1:])), "treatments"),
        (replace(AFTER, treatments=(AFTER.treatments[0], AFTER.treatments[2])), "treatments"),
        (replace(PLAN, treatments=(*PLAN.treatments, replace(FRESH, samples=4))), "treatments"),
        (added(replace(PLAN, layout=replace(PLAN.layout, stagger=5)), {"c": 4}), "layout"),
        (added(AFTER, {"c": 4}, key="added-2"), "layout.blocks"),
        (replace(AFTER, layout=replace(AFTER.layout, blocks=(Block("", "x"), Block("y", "z")))), "layout"),
    ],
)
def test_what_was_drawn_stays_as_it_was_and_one_addition_comes_at_a_time(after, at):
    assert at in {problem.at for problem in forbidden(PLAN, after)}


def test_what_is_complete_as_it_was_drawn_takes_no_more_and_says_what_to_do():
    pairs = replace(PLAN, layout=Layout("pairs"))
    after = replace(
        added(pairs, {"c": 4}), layout=Layout("blocks", (Block("", "x"), Block("a", "y", added=Added({"c": 4}))))
    )
    assert any("trial of its own" in problem.says for problem in forbidden(pairs, after))


@pytest.mark.parametrize("samples", [{}, {"c": 0}, {"c": -1, "l": 4}, {"gone": 4}])
def test_numbers_that_cannot_be_drawn_are_refused(samples):
    after = added(PLAN, samples, FRESH)
    assert any(p.at.startswith("layout.blocks.1.added") or p.at.startswith("treatments.2") for p in problems_in(after))


def test_it_is_told_before_what_can_and_cannot_be_compared():
    told = changes(PLAN, AFTER)
    assert told[0] == (
        "Added: 8 samples, drawn into a block of their own, “Added added-1”: 4 of Coir and 4 of Lacket (new)."
    )
    assert told[1] == "Lacket is compared only with what is added beside it: Coir."
    alone = changes(PLAN, added(PLAN, {"l": 4}, FRESH))
    assert "compared with nothing" in alone[1] and "whoever scores sees" in alone[1]
    assert "hardly any difference" in changes(PLAN, added(PLAN, {"l": 3, "c": 3}, FRESH))[-1]
    assert said_of_added(AFTER) == (
        "How Lacket does against Brine: it was added later, and they never stood side by side.",
    )
    assert said_of_added(added(PLAN, {"c": 4, "b": 4, "l": 4}, FRESH)) == () == said_of_added(PLAN)


def findings(plan: Plan, effect: dict[str, float], shift: float, noise: float = 0.6):
    first, more = drawn(plan)
    samples = (*first, *more)
    rng = np.random.default_rng(1)
    values = np.array([effect[one.treatment] + rng.normal(0, noise) + (shift if one.block else 0) for one in samples])
    laid = Samples(tuple(one.treatment for one in samples), tuple(one.block for one in samples))
    planned = tuple(plan.per_treatment(one) for one in plan.treatments)
    return conclude(plan, laid, {("o", "k"): values}, np.random.default_rng(2), planned=planned)


def test_a_season_between_does_not_make_a_winner_and_costs_the_first_question_nothing():
    # All that was added grew 5 cm longer, for the days were warmer.
    one = findings(AFTER, {"c": 10.0, "b": 13.0, "l": 10.0}, shift=5.0)[0]
    assert one.strength.level == "clear" and one.strength.winner == "Brine"
    assert one.sentence.endswith("Left out of this: Lacket, added later, and never beside Brine.")
    pairs = {(pair.a, pair.b): pair for pair in one.comparison.pairs}
    assert pairs["Coir", "Lacket"].p > 0.05 and abs(pairs["Coir", "Lacket"].difference) < 2
    told = {(row.better, row.other): row for row in told_finding(AFTER, one).pairs}
    apart = next(row for pair, row in told.items() if set(pair) == {"Brine", "Lacket"})
    assert (apart.effect, apart.p, apart.how) == ("–", "–", "never side by side")


def test_who_stood_beside_all_may_win():
    plan = added(PLAN, {"c": 6, "b": 6, "l": 6}, FRESH)
    one = findings(plan, {"c": 10.0, "b": 13.0, "l": 16.0}, shift=-4.0)[0]
    assert one.strength.winner == "Lacket" and one.strength.left_out == ()


def test_the_planner_and_what_would_settle_it_speak_of_what_was_drawn_at_first():
    found = outlook(AFTER, np.random.default_rng(1), whole=False)
    assert found is not None and found.samples == 20
    assert found.steps[-1] == "Played as it was drawn at first, without the 8 samples that were added later."
    one = findings(AFTER, {"c": 10.0, "b": 10.4, "l": 10.0}, shift=5.0, noise=2.0)[0]
    assert one.strength.level not in ("clear", "equal")
    more = next(each for each in what_would_settle(AFTER, one) if each.kind == "samples")
    assert more.samples is not None and more.total == 2 * more.samples


def sealed():
    first, more = drawn()
    document = sealed_document(PLAN, SEED, first)
    amendment = amended_document(
        AFTER, seal_of(document), "a new one came", ("Added",), "2027-03-14T09:00:00Z", More(LATER, more)
    )
    return document, amendment


def test_what_was_added_is_sealed_drawn_again_and_held_against_where_samples_stand():
    document, amendment = sealed()
    assert added_as_drawn(document, [amendment])
    whole = whole_allocation(document, [amendment])
    stood = [
        Stood(o["code"], o["treatment"], o["block"], o["place"], o["plot"], o["row"], o["column"], o["starts"])
        for o in whole
    ]
    assert allocation_faults(whole, stood) == []
    assert len(allocation_faults(document["allocation"], stood)) == 8
    swapped = [dict(one) for one in amendment["allocation"]]
    c = next(i for i, one in enumerate(swapped) if one["treatment"] == "c")
    lacket = next(i for i, one in enumerate(swapped) if one["treatment"] == "l")
    swapped[c]["treatment"], swapped[lacket]["treatment"] = "l", "c"
    assert not added_as_drawn(document, [{**amendment, "allocation": swapped}])
    assert not added_as_drawn(document, [{**amendment, "seed": "00" * 16}])
    assert not added_as_drawn(document, [{**amendment, "allocation": []}])


def test_amendments_without_samples_are_sealed_as_they_always_were():
    plain = amended_document(PLAN, "x", "why", (), "2027-03-14T09:00:00Z")
    assert "allocation" not in plain and "seed" not in plain
    assert added_as_drawn(sealed()[0], [plain])


def test_levels_of_factors_are_given_to_what_is_added():
    factor = Factor("f", "Water", (FactorLevel("w", "wet"), FactorLevel("d", "dry")))
    plan = replace(
        PLAN,
        factors=(factor,),
        treatments=tuple(replace(t, levels={"f": "wd"[i]}) for i, t in enumerate(PLAN.treatments)),
    )
    bad = added(plan, {"c": 4, "l": 4}, replace(FRESH, levels={"f": "gone"}))
    assert any(p.at == "treatments.2.levels" for p in problems_in(bad))
