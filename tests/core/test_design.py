"""Plans, layouts and codes: sound or said why not, balanced, and the same on every machine."""

from collections import Counter
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fieldtally.core.blinding.allocation import allocate
from fieldtally.core.blinding.codes import draw_codes, is_plain
from fieldtally.core.blinding.seal import canonical, seal_of, sealed_document, verify
from fieldtally.core.design.document import document_of, plan_in
from fieldtally.core.design.plan import Block, Checkpoint, Layout, Outcome, Plan, Summary, Treatment
from fieldtally.core.design.soundness import problems_in
from fieldtally.core.problems import Refused
from fieldtally.core.randomness import Draw
from fieldtally.core.scales import CountScale, MeasurementScale, PassFailScale

DAY = 1440
PLAN = Plan(
    title="Peas",
    question="Which soak?",
    treatments=(
        Treatment("a", "Dry", "untreated", 4),
        Treatment("b", "Water", samples=4),
        Treatment("c", "Tea", samples=2),
    ),
    layout=Layout("blocks", (Block("n", "North"), Block("s", "South"))),
    outcomes=(Outcome("o", "Sprouted", CountScale(20), margin=2),),
    checkpoints=(Checkpoint("d4", "Day 4", 4 * DAY, 60, 60), Checkpoint("d9", "Day 9", 9 * DAY, 60, 60)),
)


def at(plan):
    return {problem.at for problem in problems_in(plan)}


def test_a_sound_plan_has_no_problems():
    assert problems_in(PLAN) == []
    assert PLAN.sample_count == 20


def with_treatments(*treatments):
    return replace(PLAN, treatments=treatments)


def with_outcome(**changes):
    return replace(PLAN, outcomes=(replace(PLAN.outcomes[0], **changes),))


def with_checkpoints(*checkpoints):
    return replace(PLAN, checkpoints=checkpoints)


@pytest.mark.parametrize(
    ("plan", "where"),
    [
        (replace(PLAN, title=" "), "title"),
        (replace(PLAN, question=""), "question"),
        (replace(PLAN, alpha=0.5), "alpha"),
        (replace(PLAN, zone="Atlantis/Deep"), "zone"),
        (replace(PLAN, zone="../etc/passwd"), "zone"),
        (with_treatments(PLAN.treatments[0]), "treatments"),
        (with_treatments(Treatment("a", "Dry"), Treatment("b", " dry ")), "treatments.1.name"),
        (with_treatments(Treatment("a", "Dry"), Treatment("b", "Wet", samples=0)), "treatments.1.samples"),
        (
            with_treatments(Treatment("a", "Dry", samples=9000), Treatment("b", "Wet", samples=9500)),
            "treatments.1.samples",
        ),
        (with_treatments(Treatment("a", "Dry"), Treatment("a", "Wet")), "treatments.1"),
        (replace(with_treatments(Treatment("a", "A"), Treatment("b", "B")), compare="control"), "compare"),
        (replace(PLAN, layout=Layout("blocks", (Block("n", "North"),))), "layout.blocks"),
        (replace(PLAN, layout=Layout("blocks", (Block("n", "N"), Block("s", "n")))), "layout.blocks.1.name"),
        (replace(PLAN, outcomes=()), "outcomes"),
        (with_outcome(primary=False), "outcomes"),
        (with_outcome(margin=-1), "outcomes.0.margin"),
        (with_outcome(margin=21), "outcomes.0.margin"),
        (with_outcome(scale=PassFailScale(), margin=2), "outcomes.0.margin"),
        (with_outcome(scale=MeasurementScale("")), "outcomes.0.scale.unit"),
        (with_outcome(better="target"), "outcomes.0.target"),
        (with_outcome(summary=Summary("change", "d4", "d9")), "outcomes.0.summary.baseline"),
        (with_outcome(checkpoints=("d4",), summary=Summary("value", "d9")), "outcomes.0.summary.checkpoint"),
        (with_outcome(checkpoints=("gone",)), "outcomes.0.checkpoints"),
        (with_checkpoints(), "checkpoints"),
        (with_checkpoints(Checkpoint("x", "Early", -60)), "checkpoints.0.offset"),
        (with_checkpoints(Checkpoint("x", "Far", 10**30)), "checkpoints.0.offset"),
        (with_checkpoints(Checkpoint("x", "Wide", 60, 0, 10**30)), "checkpoints.0.after"),
        (with_checkpoints(Checkpoint("x", "One", 60), Checkpoint("y", "Two", 60)), "checkpoints.1.offset"),
        (
            with_checkpoints(Checkpoint("x", "One", 60, 0, 60), Checkpoint("y", "Two", 120, 30, 0)),
            "checkpoints.1.before",
        ),
    ],
)
def test_each_flaw_is_said_at_its_field(plan, where):
    assert where in at(plan)


def test_the_document_of_a_plan_gives_the_plan_back():
    assert plan_in(document_of(PLAN)) == PLAN
    with pytest.raises(Refused):
        plan_in({"title": "x", "treatments": "many"})


@given(st.text(max_size=20), st.lists(st.integers(), max_size=30))
def test_shuffling_keeps_everything_and_repeats(seed, things):
    drawn = Draw(seed, "test").shuffled(things)
    assert Counter(drawn) == Counter(things)
    assert drawn == Draw(seed, "test").shuffled(things)


def test_the_stream_of_a_seed_never_changes():
    """These numbers are in sealed plans: if this fails, old seals can no longer be checked."""
    draw = Draw("00ff", "layout")
    assert [draw.below(1000) for _ in range(5)] == [109, 750, 513, 470, 627]


@settings(max_examples=40)
@given(st.integers(0, 2**64))
def test_every_block_gets_every_treatment_as_planned(number):
    allotted = allocate(PLAN, f"{number:x}")
    for block in ("n", "s"):
        own = [a for a in allotted if a.block == block]
        assert Counter(a.treatment for a in own) == {"a": 4, "b": 4, "c": 2}
        assert [a.place for a in own] == list(range(1, 11))
    assert len({a.code for a in allotted}) == 20
    assert allotted == allocate(PLAN, f"{number:x}")


def test_places_and_codes_tell_nothing_of_the_treatment():
    plan = with_treatments(Treatment("a", "A", samples=5), Treatment("b", "B", samples=5))
    plan = replace(plan, layout=Layout())
    first, codes = Counter(), {"a": [], "b": []}
    for seed in range(400):
        allotted = allocate(plan, str(seed))
        first[allotted[0].treatment] += 1
        for one in allotted:
            codes[one.treatment].append(int(one.code))
    assert 150 < first["a"] < 250
    means = [sum(own) / len(own) for own in codes.values()]
    assert abs(means[0] - means[1]) < 25


def test_codes_are_plain_and_enough_for_the_largest_trial():
    for count in (1, 500, 10_000):
        codes = draw_codes(count, Draw("seed", "codes"))
        assert len(set(codes)) == count
        assert all(is_plain(code) for code in codes)
    assert all(len(code) == 3 for code in draw_codes(500, Draw("s", "c")))
    assert not any(is_plain(code) for code in ("012", "123", "321", "777", "100", "500", "689", "655"))


def test_a_seal_can_be_checked_and_breaks_with_any_change():
    document = sealed_document(PLAN, "beef", allocate(PLAN, "beef"))
    seal = seal_of(document)
    assert verify(document, seal).same_seal
    assert verify(document, seal).same_allocation
    assert canonical(document) == canonical(dict(reversed(list(document.items()))))
    swapped = {**document, "allocation": [*reversed(document["allocation"])]}
    assert not verify(swapped, seal).same_seal
    assert not verify(swapped, seal_of(swapped)).same_allocation
    other = {**document, "plan": {**document["plan"], "alpha": 0.1}}
    assert not verify(other, seal).same_seal
    with pytest.raises(Refused):
        verify({**document, "format": "other/9"}, seal)
