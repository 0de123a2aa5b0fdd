"""Trials that ask whether instruments agree: what each reads in the unit of all, what is refused, and what is found."""

from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest

from fieldtally.core.design.changes import forbidden
from fieldtally.core.design.fair.judges import Known
from fieldtally.core.design.fairness import fairness_of
from fieldtally.core.design.instruments import reads, told_in
from fieldtally.core.design.plan import AgreementAsked, Checkpoint, Outcome, Plan, Stand, Treatment
from fieldtally.core.design.soundness import problems_in
from fieldtally.core.outlook.outlook import outlook
from fieldtally.core.problems import Refused
from fieldtally.core.rehearsal.imagined import refuse_nonsense
from fieldtally.core.scales import (
    EventScale,
    GradeScale,
    Level,
    MeasurementScale,
    NoteScale,
    PassFailScale,
    Shade,
    ShadeScale,
)
from fieldtally.core.verdict.agreeing import (
    agreement_foretold,
    agreement_limits,
    agreement_sentences,
    instruments_held,
    opening,
)
from fieldtally.core.verdict.claims import Happened, may_not_be_claimed
from fieldtally.core.verdict.study import CountedReading, Decisions, Placed, study_in

MONDAY = datetime(2027, 3, 1, 9, tzinfo=UTC)
STRIP = ShadeScale(tuple(Shade(label) for label in ("0", "10", "25", "50", "100")), between=True)
NITRATE = Plan(
    title="Which nitrate kit can be trusted?",
    question="Do strip, meter and kit say the same?",
    treatments=(
        Treatment("blank", "Rain water", samples=4, holds=0.0),
        Treatment("ten", "Ten", samples=4, holds=10.0),
        Treatment("forty", "Forty", samples=4, holds=40.0),
        Treatment("well", "The well", samples=4),
        Treatment("salt", "Table salt", samples=4, holds=0.0, other_substance=True),
    ),
    outcomes=(
        Outcome("meter", "Meter", MeasurementScale("g/L"), better="none"),
        Outcome("strip", "Strip", STRIP, better="none"),
        Outcome("kit", "Kit", PassFailScale("below", "above"), better="none"),
        Outcome("note", "Remarks", NoteScale(), primary=False, better="none"),
    ),
    checkpoints=(Checkpoint("now", "Now", 60),),
    fairness=tuple(Stand(item, kept=True) for item in ("same_sample", "unseen", "range", "order", "shelf_life")),
    agreement=AgreementAsked("mg/L", limit=25.0, alarm=5.0),
)
TRUTH = {"blank": 0.0, "ten": 10.0, "forty": 40.0, "well": 22.0, "salt": 0.0}


def at(plan: Plan, path: str) -> list[str]:
    return [one.says for one in problems_in(plan) if one.at == path]


def test_a_sound_plan_asks_for_no_better_side_no_margin_and_no_control():
    assert problems_in(NITRATE) == []
    assert outlook(NITRATE, np.random.default_rng(1)) is None
    assert problems_in(replace(NITRATE, agreement=None)) != []
    with pytest.raises(Refused, match="dry run"):
        refuse_nonsense(NITRATE, [])


@pytest.mark.parametrize(
    ("changed", "path", "says"),
    [
        ({"outcomes": NITRATE.outcomes[:1]}, "outcomes", "two of them"),
        ({"agreement": AgreementAsked("mg/L")}, "agreement.limit", "from which number"),
        ({"agreement": AgreementAsked("mg/L", float("inf"))}, "agreement.limit", "number"),
        ({"treatments": (Treatment("a", "A", samples=2),)}, "treatments", "Fewer than 3"),
        ({"treatments": ()}, "treatments", "what is read"),
        ({"treatments": (*NITRATE.treatments, Treatment("x", "X", holds=-1.0))}, "treatments.5.holds", "0 (a blank)"),
        (
            {"treatments": (*NITRATE.treatments, Treatment("x", "X", holds=2.0, other_substance=True))},
            "treatments.5.holds",
            "another substance",
        ),
        ({"interim": ("now",)}, "interim", "at the end"),
        (
            {"outcomes": (*NITRATE.outcomes, Outcome("w", "Weight", MeasurementScale("g")))},
            "outcomes.4.scale",
            "no mg/L",
        ),
        ({"outcomes": (*NITRATE.outcomes, Outcome("w", "Seen", EventScale("seen")))}, "outcomes.4.scale", "no amount"),
        (
            {"outcomes": (*NITRATE.outcomes, Outcome("c", "Chart", ShadeScale((Shade("pale"), Shade("dark")))))},
            "outcomes.4.scale",
            "they are words",
        ),
        (
            {"outcomes": (*NITRATE.outcomes, Outcome("c", "Chart", ShadeScale((Shade("20"), Shade("10")))))},
            "outcomes.4.scale",
            "do not rise",
        ),
    ],
)
def test_what_could_not_be_held_against_each_other_is_refused_at_its_field(changed, path, says):
    assert any(says in one for one in at(replace(NITRATE, **changed), path)), problems_in(replace(NITRATE, **changed))


def test_each_reads_in_the_unit_of_all_and_a_chart_by_its_labels():
    meter, strip, kit, _ = NITRATE.outcomes
    assert reads(NITRATE, meter)(0.025) == pytest.approx(25)
    assert [reads(NITRATE, strip)(step) for step in (1.0, 2.5, 4.0, 5.0)] == [0, 17.5, 50, 100]
    assert [reads(NITRATE, kit)(value) for value in (1.0, 0.0)] == [0, 1]
    graded = Outcome("g", "Card", GradeScale((Level(0.0, "none"), Level(1.0, "20"), Level(2.0, "60"))))
    assert [reads(NITRATE, graded)(value) for value in (0.0, 1.5, 2.0)] == [0, 40, 60]
    warm = replace(NITRATE, agreement=AgreementAsked("°C"), outcomes=(Outcome("f", "Dial", MeasurementScale("°F")),))
    assert reads(warm, warm.outcomes[0])(212.0) == pytest.approx(100)
    assert told_in(replace(NITRATE, agreement=AgreementAsked())) == "g/L"


def studied(plan: Plan = NITRATE, aside: frozenset[str] = frozenset()):
    """A study in which the meter is right, the strip reads 10 too much from 10 on, and the kit rings for salt."""
    placed = [
        Placed(f"{treatment.key}{i}", treatment.key) for treatment in plan.treatments for i in range(treatment.samples)
    ]
    stands = []
    for n, one in enumerate(placed):
        true = TRUTH[one.treatment]
        read = {
            "meter": (true + 0.1 * (n % 3 - 1)) / 1000,
            "strip": {0.0: 1.0, 10.0: 2.5, 40.0: 4.0, 22.0: 3.5}[true],
            "kit": 0.0 if true >= 25 or one.treatment == "salt" else 1.0,
        }
        stands += [CountedReading((key, "now"), one.code, "Ada", None, value, MONDAY) for key, value in read.items()]
    return study_in(plan, "ab" * 8, placed, stands, Decisions(aside=aside))


def test_instruments_are_told_against_each_other_and_against_what_is_known():
    done = studied().concluded()
    assert (done.findings, done.tally, done.by_scorer, done.behind) == ([], None, {}, [])
    found = done.instruments
    assert found is not None
    assert (found.methods, found.n, found.unit, found.limit, found.alarm) == (
        ("Meter", "Strip", "Kit"),
        20,
        "mg/L",
        25,
        5,
    )
    pair = next(one for one in found.pairs if (one.a, one.b) == ("Meter", "Strip"))
    # Twelve of twenty are read higher by the strip: by 7.5, 10 and 15.5.
    assert pair.bias is not None
    assert pair.bias.value == pytest.approx(-(7.5 + 10 + 15.5) * 4 / 20, abs=0.05)
    truth = {one.method: one for one in found.against_truth}
    assert truth["Kit"].wrong is not None
    assert (truth["Kit"].wrong.many, truth["Kit"].wrong.of) == (4, 4)
    assert truth["Meter"].wrong is not None
    assert truth["Meter"].wrong.many == 0
    # Another substance is no blank: nothing in it counts as a false alarm, and it stays out of the bias.
    assert truth["Kit"].alarms is not None
    assert (truth["Kit"].alarms.many, truth["Kit"].alarms.of) == (0, 4)
    assert truth["Meter"].bias is not None
    assert abs(truth["Meter"].bias.value) < 0.1
    says = agreement_sentences(found)
    assert says[0] == opening(found)
    assert "reacts to the wrong substance in 4 of 4" in " ".join(says)


def test_what_is_set_aside_does_not_count():
    gone = frozenset(f"salt{i}" for i in range(4))
    found = studied(aside=gone).concluded().instruments
    assert found is not None
    assert found.n == 16
    assert all(one.wrong is None for one in found.against_truth)


def test_too_little_read_is_said_and_nothing_is_told():
    none = instruments_held(NITRATE, [("a", "ten"), ("b", "ten")], {("meter", "now"): {"a": 0.01, "b": 0.02}})
    assert none is None
    assert agreement_sentences(none) == ("No verdict: no two instruments have read the same three samples.",)
    assert instruments_held(replace(NITRATE, agreement=None), [], {}) is None


def test_limits_say_what_was_not_among_the_samples():
    found = studied().concluded().instruments
    whole = " ".join(agreement_limits(NITRATE, found))
    assert "blank" not in whole
    assert "another substance fools" not in whole.casefold()
    assert "Readings below" in whole
    bare = replace(NITRATE, treatments=(Treatment("well", "The well", samples=12),))
    told = " ".join(agreement_limits(bare, None))
    for lacking in ("Which of them is right", "no blank", "none was put before them"):
        assert lacking in told
    twice = replace(NITRATE, checkpoints=(*NITRATE.checkpoints, Checkpoint("later", "Later", 120)))
    assert "each time counts" in " ".join(agreement_limits(twice, found))
    limits = may_not_be_claimed(bare, Happened(instruments=tuple(agreement_limits(bare, None))))
    assert not any("winner" in one.casefold() or "control" in one.casefold() for one in limits)


def test_fairness_asks_what_matters_for_instruments_and_judges_what_is_known():
    found = {one.key: one for one in fairness_of(NITRATE, Known())}
    assert set(found) == {"same_sample", "unseen", "blanks", "range", "order", "shelf_life"}
    assert found["blanks"].standing == "kept"
    only = replace(NITRATE, treatments=NITRATE.treatments[:1])
    assert {one.key: one for one in fairness_of(only)}["blanks"].standing == "given_up"
    bare = replace(NITRATE, treatments=NITRATE.treatments[3:4])
    assert {one.key: one for one in fairness_of(bare)}["blanks"].standing == "open"


def test_the_planner_tells_what_so_many_readings_can_say():
    few = agreement_foretold(replace(NITRATE, treatments=(Treatment("w", "W", samples=10),)))
    # t = 2.262 at 9 degrees: 2.262 √(1/10 + 2.262²/18) = 1.40; at 39 degrees 0.56.
    assert "± 1.4 times" in few[0]
    assert "With 40 it would be ± 0.56" in few[0]
    assert any("false alarm in 4 blanks would still allow 49 in 100" in one for one in agreement_foretold(NITRATE))
    assert "too few" in agreement_foretold(replace(NITRATE, treatments=(Treatment("w", "W", samples=1),)))[0]
    assert agreement_foretold(replace(NITRATE, agreement=None)) == ()


def test_no_amendment_changes_what_they_are_held_to():
    moved = replace(NITRATE, agreement=AgreementAsked("mg/L", limit=50.0))
    assert [one.at for one in forbidden(NITRATE, moved)] == ["agreement"]


def test_a_kit_misses_only_what_it_should_have_failed():
    """Whatever a meter is to find: a kit that fails from 25 on does not miss 10."""
    found = studied().concluded().instruments
    assert found is not None
    kit = next(one for one in found.against_truth if one.method == "Kit")
    assert kit.misses is not None
    assert (kit.misses.many, kit.misses.of) == (0, 4)
    meter = next(one for one in found.against_truth if one.method == "Meter")
    assert meter.misses is not None
    assert meter.misses.of == 8
