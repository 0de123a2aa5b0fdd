"""Every sentence over some hundred generated trials, each held against the facts it is about."""

import re
from collections import Counter
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import cache

import numpy as np
import pytest

from fieldtally.core.blinding.allocation import allocate
from fieldtally.core.design.plan import (
    Block,
    Checkpoint,
    Factor,
    FactorLevel,
    Layout,
    Outcome,
    Plan,
    Stand,
    Summary,
    Treatment,
)
from fieldtally.core.scales import (
    CountScale,
    CurveScale,
    EventScale,
    GradeScale,
    LadderScale,
    Level,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    Shade,
    ShadeScale,
)
from fieldtally.core.verdict.claims import Happened, may_not_be_claimed
from fieldtally.core.verdict.study import CountedReading, Decisions, Placed, study_in
from fieldtally.core.verdict.telling.figures import decimals_of
from fieldtally.core.verdict.telling.tables import MOST_FIRST, told_finding
from fieldtally.core.verdict.telling.uses import what_to_use
from tests.depth import cells, plays

DAY = 1440
ONE_OF_MANY = re.compile(r"(?<![\d.,])1 (days|washes|cycles|steps|grades|points|seeds|spots|boxes)\b")
T0 = datetime(2026, 4, 1, 8, tzinfo=UTC)
SCALES = {
    "measured": MeasurementScale("mL", resolution=0.5),
    "unresolved": MeasurementScale("mm"),
    "percent": PercentScale(),
    "counted": CountScale(20, "seeds"),
    "open count": CountScale(None, "spots"),
    "passed": PassFailScale("held", "broke"),
    "event": EventScale("first petal"),
    "letters": GradeScale(tuple(Level(n, "EDCBA"[n]) for n in range(5))),
    "numbers": GradeScale(tuple(Level(n, str(n + 1)) for n in range(5))),
    "shades": ShadeScale(tuple(Shade(f"S{n}") for n in range(6))),
    "curve": CurveScale("mm", "kg", (1.0, 2.0, 4.0)),
    "load": LadderScale("kg", (5.0, 10.0, 15.0, 20.0)),
}
LAYOUTS = {
    "random": Layout(),
    "blocks": Layout("blocks", (Block("n", "North bed"), Block("s", "South bed"))),
    "latin": Layout("latin"),
    "pairs": Layout("pairs"),
    "split": Layout("split", whole_plots=4),
}
BEDS = Factor("bed", "Bed", (FactorLevel("dug", "Dug"), FactorLevel("mulch", "Mulched")), hard=True)
SOWN = Factor("sown", "Sown", (FactorLevel("x", "Early"), FactorLevel("y", "Late")))
LOOKS = {
    "days": (Checkpoint("a", "Day 4", 4 * DAY, 600, 600), Checkpoint("b", "Day 8", 8 * DAY, 600, 600)),
    "stages": (
        Checkpoint("a", "Day 19", 19 * DAY, 600, 600, stage="before cleaning"),
        Checkpoint("b", "Day 19", 19 * DAY, 600, 600, stage="after cleaning"),
    ),
    "cycles": (Checkpoint("a", "After 5 washes", DAY, cycle=5), Checkpoint("b", "After 10 washes", 2 * DAY, cycle=10)),
}
STATES = ("nothing", "small", "large", "tied", "all alike", "one silent", "one each", "key known", "opposite", "margin")
SHIFTS = {
    "nothing": 0.0,
    "small": 0.7,
    "large": 3.5,
    "one silent": 3.5,
    "one each": 2.0,
    "key known": 2.0,
    "margin": 0.0,
}


def value_on(scale, normal, shift):
    """A reading on ``scale`` from a standard normal number moved by ``shift``."""
    x = normal + shift
    match scale:
        case MeasurementScale(resolution=float() as step):
            return round((20 + 2 * x) / step) * step
        case MeasurementScale():
            return 20 + 2 * x
        case CurveScale():
            return 4 + 0.5 * x
        case PercentScale():
            return float(np.clip(round((40 + 12 * x) / 5) * 5, 0, 100))
        case CountScale(of=of):
            return float(np.clip(round(10 + 2.2 * x), 0, of or 1000))
        case PassFailScale() | EventScale():
            return float(x > 0.6)
        case GradeScale(levels=levels):
            return float(np.clip(round(1.5 + 0.7 * x), 0, len(levels) - 1))
        case ShadeScale(steps=steps):
            return float(np.clip(round(2.5 + 0.8 * x), 1, len(steps)))
        case LadderScale(steps=steps):
            return float((0.0, *steps)[int(np.clip(round(1.5 + 0.8 * x), 0, len(steps)))])


def generated(scale, layout, looks, state, seed, *, late=False, summary=None):
    """A trial of three treatments (two in pairs) of which the middle one is the best."""
    pairs, latin = layout == "pairs", layout == "latin"
    names = [("a", "Tap", "untreated"), ("b", "Tea", "treatment"), ("c", "Tar", "treatment")][: 2 if pairs else 3]
    each = 1 if state == "one each" and layout == "random" else 3 if latin else 6
    plan = Plan(
        title="Beans",
        question="Which?",
        sample_word="box",
        zone="UTC",
        treatments=tuple(Treatment(key, name, kind, each) for key, name, kind in names),
        layout=LAYOUTS[layout],
        outcomes=(
            Outcome(
                "o",
                "Cover of Tarn moss",
                SCALES[scale],
                margin=3.0 if state == "margin" else None,
                summary=summary or Summary(),
            ),
        ),
        checkpoints=LOOKS[looks],
    )
    best, silent = "b", "c"
    if layout == "split":
        crossed = tuple(
            Treatment(
                f"{bed.key}{sown.key}",
                f"{bed.name}, {sown.name.lower()}",
                levels={"bed": bed.key, "sown": sown.key},
                samples=1,
            )
            for bed in BEDS.levels
            for sown in SOWN.levels
        )
        plan = replace(plan, factors=(BEDS, SOWN), treatments=crossed)
        best, silent = "dugy", "mulchy"
    rng = np.random.default_rng(seed)
    placed, read = [], []
    for i, one in enumerate(allocate(plan, f"{seed:x}")):
        placed.append(Placed(one.code, one.treatment, one.block, one.plot, one.row, one.column))
        lead = SHIFTS.get(state, 0.0) * (one.treatment == best)
        if state == "opposite" and layout == "blocks":
            lead = 4.0 * ((one.treatment == "b") == (one.block == "n")) * (one.treatment != "c")
        if state == "one silent" and one.treatment == silent:
            continue
        for n, look in enumerate(plan.checkpoints):
            base = (
                0.0
                if state == "all alike"
                else float((i // len(plan.treatments)) % 3)
                if state == "tied"
                else rng.normal()
            )
            value = value_on(SCALES[scale], base, lead * (0.5 + 0.5 * n))
            at = T0 + timedelta(minutes=look.offset + (3 * DAY if late else 0))
            read.append(CountedReading(("o", look.key), one.code, "Robin", None, value, at))
    seen_by = {(look.key, "Robin") for look in plan.checkpoints} if state == "key known" else ()
    starts = {one.code: T0 for one in placed}
    return study_in(plan, f"{seed:x}", placed, read, Decisions(), seen_by, starts)


@cache
def trials():
    """Trials of every scale, layout, kind of looks and state, each scale meeting each of the others many times."""
    found = []
    rng = np.random.default_rng(11)
    for s, scale in enumerate(SCALES):
        for n, state in enumerate(STATES):
            for turn in cells(range(3), [(s + n) % 3]):
                layout = "blocks" if state == "opposite" else list(LAYOUTS)[(s + n + turn) % len(LAYOUTS)]
                if state == "one each":
                    layout = "random"
                looks = list(LOOKS)[(s + 2 * n + turn) % len(LOOKS)]
                late = looks == "days" and turn == 1
                timed = isinstance(SCALES[scale], EventScale | LadderScale)
                summary = Summary("change") if turn == 2 and looks != "stages" and not timed and n % 2 else None
                study = generated(scale, layout, looks, state, int(rng.integers(1, 2**30)), late=late, summary=summary)
                found.append((scale, layout, looks, state, late, study, study.findings()))
    return found


def mains():
    for scale, layout, looks, state, late, study, findings in trials():
        yield (
            scale,
            layout,
            looks,
            state,
            late,
            study,
            next(one for one in findings if one.checkpoint is None),
            findings,
        )


@cache
def all_told():
    """All sentences about each trial."""
    return [tuple(_told_of(study, findings)) for *_, study, _, findings in mains()]


def _told_of(study, findings):
    tally = study.tally(findings)
    for one in findings:
        yield from (one.sentence, one.strength.because, *one.strength.steps)
    for use in what_to_use(study.plan, findings, tally):
        yield from (*use.says, *([use.note] if use.note else []))
    for one in study._behind(findings):
        yield from (settle.says for settle in one.settle)
    yield from may_not_be_claimed(study.plan, Happened(slips=study.slips, unread=study.unread, last_checkpoint="Day 8"))


def test_there_are_some_hundred_and_every_level_is_among_them():
    found = Counter(main.strength.level for *_, main, _ in mains())
    assert sum(found.values()) >= plays(300, 100)
    assert set(found) >= {"clear", "depends", "leaning", "equal", "too_close", "unreplicated", "nothing", "spoiled"}
    undirected = replace(trials()[0][5].plan.outcomes[0], better="none")
    study = trials()[0][5]
    plain = replace(study, plan=replace(study.plan, outcomes=(undirected,)))
    assert plain.findings()[0].strength.level == "undirected"


def test_no_sentence_is_broken():
    for told in all_told():
        for sentence in told:
            assert sentence == " ".join(sentence.split()), sentence
            assert not re.search(r"\bNone\b|\bnan\b|\binf\b|[{}]|\.\.| ,| \.|\bundefined\b", sentence), sentence
            assert "-" not in re.findall(r"[-−](?=\d)", sentence), sentence
            assert not re.search(r"\b0 box\b|\bboxs\b|washs\b|patchs\b", sentence), sentence


def test_one_of_a_thing_is_told_by_one():
    for says in (one for told in all_told() for one in told):
        assert not ONE_OF_MANY.search(says), says


@pytest.mark.parametrize(
    ("purpose", "title"), [("fast", "Wanted: fast"), ("lasting", "Wanted: lasting"), ("cheap", "Wanted: cheap")]
)
def test_what_was_wanted_is_answered_first(purpose, title):
    study = generated("measured", "random", "days", "large", 7)
    plan = replace(study.plan, purpose=purpose)
    study = replace(study, plan=plan)
    findings = study.findings()
    first = what_to_use(plan, findings, study.tally(findings))[0]
    assert (first.kind, first.title) == ("wanted", title)
    if purpose == "cheap":
        assert first.says == (
            "What is cheap cannot be told: fewer than two treatments have a price and a sample that came out well.",
        )
    else:
        assert first.says[0].startswith("Tea: ")


def test_no_number_has_dust_or_digits_that_nobody_measured():
    for (scale, *_, study, main, _), told in zip(mains(), all_told(), strict=True):
        for sentence in told:
            for number in re.findall(r"\d+\.\d+", re.sub(r"p (?:≤ )?0\.\d+|p is 0\.\d+", "", sentence)):
                assert len(number.replace(".", "").lstrip("0")) <= 3, (sentence, number)
        most = decimals_of(study.plan.outcomes[0].scale)
        rows = told_finding(study.plan, main)
        figures = [*(one.figure for one in rows.treatments), *(one.effect for one in rows.pairs)]
        for figure in figures:
            for number in re.findall(r"\d+\.(\d+)", figure):
                assert most is None or len(number) <= max(most, 1), (scale, figure)


def test_no_letter_is_told_as_a_number():
    for scale, *_, main, _ in mains():
        if scale != "letters":
            continue
        changed = main.comparison.column.of == "change"
        for row in told_finding(PLAN_OF_LETTERS, main).treatments:
            if changed:
                assert re.fullmatch(r"[+−]?[\d.]+ grades?|0 grades|no reading", row.figure), row.figure
            else:
                assert re.fullmatch(r"[A-E]|between [A-E] and [A-E]|no reading", row.figure), row.figure
            assert row.between == "–" or changed
        assert changed or not re.search(r"grade \d|grades \w+ \d", main.sentence)


PLAN_OF_LETTERS = Plan("x", treatments=(Treatment("a", "Tap"), Treatment("b", "Tea"), Treatment("c", "Tar")))


def test_grades_that_people_numbered_from_one_are_told_from_one():
    for scale, *_, main, _ in mains():
        if scale == "numbers" and main.comparison.column.of == "value":
            for row in told_finding(PLAN_OF_LETTERS, main).treatments:
                numbers = [float(one) for one in re.findall(r"[\d.]+", row.figure)]
                assert all(1 <= one <= 5 for one in numbers), row.figure


def test_changes_are_told_as_changes():
    for scale, *_, main, _ in mains():
        if main.comparison.column.of == "change":
            for row in told_finding(PLAN_OF_LETTERS, main).treatments:
                assert re.match(r"[+−]|0\b|no reading", row.figure), (scale, row.figure)
                assert not row.figure.startswith("step")


def test_nobody_is_first_in_a_tie():
    for *_, main, _ in mains():
        first = [one for one in main.comparison.treatments if one.worth is not None]
        top = max((one.worth for one in first), default=None)
        if sum(abs(one.worth - top) < 1e-12 for one in first) > 1:
            assert " did best on " not in main.sentence, main.sentence
            assert main.strength.winner is None


def test_a_treatment_without_readings_is_named():
    for _, _, _, state, _, study, main, _ in mains():
        if state == "one silent" and len(study.plan.treatments) == 3:
            assert "Tar" in main.sentence, main.sentence
            assert any("Tar has no reading" in one for one in study.unread)


def test_stages_and_cycles_are_no_time():
    for _, _, looks, _, _, study, main, findings in mains():
        if looks == "stages":
            uses = what_to_use(study.plan, findings, study.tally(findings))
            assert not any(use.kind == "time" for use in uses)
            assert not any(re.match("Fast|Lasting", says) for use in uses for says in use.says)
            assert "after cleaning" in main.sentence or main.strength.level == "spoiled", main.sentence
            assert not any("still grew" in settle.says for one in study._behind(findings) for settle in one.settle)
        if looks == "cycles":
            for sentence in (main.sentence, *(s for use in what_to_use(study.plan, findings, None) for s in use.says)):
                assert not re.search(r"\bdays?\b", sentence), sentence


def test_late_looks_are_told_as_late_everywhere():
    for *_, late, study, main, _ in mains():
        if not late or main.strength.level == "spoiled":
            assert "planned for" not in main.sentence or late
            continue
        assert "planned for" in main.sentence, main.sentence
        limits = may_not_be_claimed(study.plan, Happened(slips=study.slips))
        assert limits[0].startswith("That every look was taken when it was planned: Day 4 was taken 3 days late.")


def test_nothing_promises_blindness_that_was_given_up():
    plan = replace(PLAN_OF_LETTERS, fairness=(Stand("blind", False, "one pair of hands"),))
    limits = " ".join(may_not_be_claimed(plan, Happened(open_rounds=2, rounds=3)))
    assert "2 of 3 rounds were scored by someone who had seen the key" in limits
    assert "whoever scored could know which was which. Given up beforehand: one pair of hands." in limits


def test_what_is_spoiled_is_recommended_to_nobody():
    spoiled = [(study, findings) for *_, study, main, findings in mains() if main.strength.level == "spoiled"]
    assert spoiled
    for study, findings in spoiled:
        assert what_to_use(study.plan, findings, study.tally(findings)) == ()


def test_the_sentence_and_the_table_say_the_same_figures():
    for *_, study, main, _ in mains():
        rows = {one.treatment: one.figure for one in told_finding(study.plan, main).treatments}
        if main.strength.level not in ("clear", "leaning", "equal", "undirected") or main.courses:
            continue
        told = [figure for figure in rows.values() if figure in main.sentence]
        out = {one.treatment for one in main.strength.left_out}
        among = len([name for name in rows if name not in out])
        # Of more than three the nearest rival is told with its figure, and the others are counted.
        assert len(told) >= (among if among <= 3 else 2), (main.sentence, rows)


@pytest.mark.parametrize("places", [3])
def test_thirty_treatments_in_three_places_are_told_by_their_ends(places):
    names = [f"Mulch {n:02d}" for n in range(30)]
    plan = Plan(
        "Mulches",
        treatments=tuple(
            Treatment(f"t{i}", name, "untreated" if i == 0 else "treatment", 2) for i, name in enumerate(names)
        ),
        layout=Layout("blocks", tuple(Block(f"b{n}", f"Bed {n}") for n in range(places))),
        outcomes=(Outcome("o", "Cover", PercentScale()),),
        checkpoints=(Checkpoint("a", "Day 4", 4 * DAY),),
    )
    rng = np.random.default_rng(5)
    placed = [Placed(one.code, one.treatment, one.block) for one in allocate(plan, "beef")]
    read = [
        CountedReading(
            ("o", "a"),
            one.code,
            "Robin",
            None,
            float(np.clip(round(2 * int(one.treatment[1:]) + 5 * rng.normal()), 0, 100)),
            T0,
        )
        for one in placed
    ]
    study = study_in(plan, "beef", placed, read, Decisions())
    findings = study.findings()
    main = findings[0]
    assert len(main.sentence) < 260
    (by_place,) = [use for use in what_to_use(plan, findings, None) if use.kind == "place"]
    assert len(by_place.says) == places
    assert all(" was best" in one or "best together" in one for one in by_place.says)
    rows = told_finding(plan, main)
    assert len(rows.pairs) == 435 and rows.first == MOST_FIRST
    leader = rows.treatments[0].treatment
    assert all(leader in (pair.better, pair.other) for pair in rows.pairs[:3])
    assert "Mulch 00" in (rows.pairs[0].better, rows.pairs[0].other)


def test_a_grid_of_thirty_two_combinations_is_told_by_its_ends():
    bed = Factor("bed", "Bed", tuple(FactorLevel(f"b{n}", f"Bed number {n}") for n in range(8)))
    sown = Factor("sown", "Sown", tuple(FactorLevel(f"s{n}", f"Sown in week {n}") for n in range(4)))
    crossed = tuple(
        Treatment(f"{b.key}{s.key}", f"{b.name}, {s.name.lower()}", levels={"bed": b.key, "sown": s.key}, samples=2)
        for b in bed.levels
        for s in sown.levels
    )
    plan = Plan(
        "Grid",
        factors=(bed, sown),
        treatments=crossed,
        outcomes=(Outcome("o", "Cover", PercentScale()),),
        checkpoints=(Checkpoint("a", "Day 4", 4 * DAY),),
    )
    placed = [Placed(one.code, one.treatment, one.block) for one in allocate(plan, "beef")]
    for lead in (0.0, 40.0):
        rng = np.random.default_rng(8)
        read = [
            CountedReading(
                ("o", "a"),
                one.code,
                "Robin",
                None,
                float(np.clip(round(30 + 8 * rng.normal() + lead * (one.treatment == "b3s2")), 0, 100)),
                T0,
            )
            for one in placed
        ]
        study = study_in(plan, "beef", placed, read, Decisions())
        findings = study.findings()
        told = [findings[0].sentence, *(says for use in what_to_use(plan, findings, None) for says in use.says)]
        for sentence in told:
            assert sum(one.name in sentence for one in crossed) <= 6, sentence
