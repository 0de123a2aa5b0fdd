"""What people write into tables beside plain numbers: days in words, units, limits, lengths of time, means, remarks, samples set aside."""

import csv
import io
from datetime import UTC, date, datetime

import pytest

from fieldtally.core.problems import Refused
from fieldtally.core.scales import GradeScale, MeasurementScale
from fieldtally.core.tables.choices import Choices
from fieldtally.core.tables.foreign import read_foreign
from fieldtally.core.tables.importing import bring
from fieldtally.core.tables.meaning import guess
from fieldtally.core.trialpack.study import decisions_in

NOW = datetime(2027, 6, 1, 12, tzinfo=UTC)


def brought(text, *, unit="", **choices):
    table = read_foreign(text.encode())
    meaning = guess(table)
    if unit:
        columns = tuple(
            one if one.part != "value" else type(one)(**{**vars(one), "unit": unit}) for one in meaning.columns
        )
        meaning = type(meaning)(columns, meaning.control, meaning.unsure)
    return bring(table, meaning, "A table", "Maren", NOW, Choices(**choices), seed="c0ffee")


def refused(text, **choices):
    with pytest.raises(Refused) as found:
        brought(text, **choices)
    return found.value.problems


def rows_of(head, cell, many=12):
    """A table of two soils in turn, the value of each row by ``cell``."""
    return f"pot,soil,{head}\n" + "\n".join(f"p{i},{('Peat', 'Coir')[i % 2]},{cell(i)}" for i in range(many))


def numbers(found):
    return [row["value"] for row in found.pack.tables["readings"]]


@pytest.mark.parametrize(
    ("head", "name", "unit"),
    [
        ("Height cm", "Height", "cm"),
        ("Load kN", "Load", "kN"),
        ("yield t/ha", "yield", "t/ha"),
        ("Temp °C", "Temp", "°C"),
        ("Wax A", "Wax A", ""),
        ("Height (cm)", "Height", "cm"),
    ],
)
def test_a_unit_at_the_end_of_a_head_is_one(head, name, unit):
    (outcome,) = brought(rows_of(head, lambda i: i + 0.5)).plan.outcomes
    assert (outcome.name, outcome.scale) == (name, MeasurementScale(unit))


@pytest.mark.parametrize(
    ("head", "kind"), [("weeds", "count"), ("Leaf spots", "count"), ("grams", "measurement"), ("Gloss 0-5", "grade")]
)
def test_whole_numbers_are_counts_of_several_things_grades_on_a_scale_or_measured(head, kind):
    assert brought(rows_of(head, lambda i: i % 6)).plan.outcomes[0].scale.kind == kind


@pytest.mark.parametrize("head", ["5 Apr 2027", "Apr 5, 2027", "Mon 5 April 2027", "5-Apr-27", "2027-04-05"])
def test_a_day_in_a_head_is_a_look_however_its_month_is_written(head):
    text = f'pot,soil,"{head}",19 Apr 2027\n' + "\n".join(
        f"p{i},{('Peat', 'Coir')[i % 2]},{i}.5,{i}.7" for i in range(8)
    )
    found = brought(text)
    assert [one.name for one in found.plan.checkpoints] == ["2027-04-05", "2027-04-19"]
    assert len(found.plan.outcomes) == 1
    assert {row["taken_at"].date() for row in found.pack.tables["readings"]} == {date(2027, 4, 5), date(2027, 4, 19)}


def test_what_is_no_day_keeps_its_words():
    found = brought(rows_of("31 Feb 2027", lambda i: i + 0.5))
    assert [one.name for one in found.plan.outcomes] == ["31 Feb 2027"]


def test_times_of_a_day_count_in_minutes_and_several_looks_of_a_day_are_told_apart():
    def at(*words):
        return "time,cup,lid,warmth\n" + "\n".join(
            f"{word},{c},{('foam', 'steel')[c % 2]},{c}.5" for word in words for c in range(1, 9)
        )

    clock = brought(at("09:00", "09:30", "11:00"))
    assert [one.offset for one in clock.plan.checkpoints] == [0, 30, 120]
    days = brought(at("2027-03-01 08:00", "2027-03-01 18:00", "2027-03-02 08:00"))
    assert [one.offset for one in days.plan.checkpoints] == [0, 600, 1440]
    taken = {row["taken_at"] for row in days.pack.tables["readings"]}
    assert datetime(2027, 3, 1, 18, tzinfo=UTC) in taken and len(taken) == 3


def test_looks_in_words_are_looks_where_there_are_several():
    head = "before,after 1 wash,after 5 washes"
    found = brought(rows_of(head, lambda i: f"{i}.1,{i}.2,{i}.3"))
    assert [one.name for one in found.plan.checkpoints] == ["before", "after 1 wash", "after 5 washes"]
    alone = brought(rows_of("start weight", lambda i: i + 0.5))
    assert [one.name for one in alone.plan.outcomes] == ["start weight"]


def test_plants_in_a_plot_are_pieces_of_one_sample():
    text = "plot,spray,plant,leaf spots\n" + "\n".join(
        f"P{p},{('Milk', 'Soda', 'None')[p % 3]},{k},{p + k}" for p in range(9) for k in range(1, 5)
    )
    found = brought(text)
    assert len(found.pack.tables["samples"]) == 9
    assert {one.name for one in found.plan.treatments} == {"Milk", "Soda", "None"}
    assert any("9 samples have several values" in one for one in found.warnings)


def test_a_name_for_each_sample_is_no_treatment():
    text = "shirt,powder,before,after 1 wash\n" + "\n".join(f"s{i},{'AB'[i % 2]},{i}.1,{i}.9" for i in range(12))
    assert [one.name for one in brought(text).plan.treatments] == ["A", "B"]
    assert refused("shirt,white\n" + "\n".join(f"s{i},{i}.5" for i in range(9)))[0].at == "meaning"


def test_a_column_a_treatment_is_turned_over():
    plain = brought("Hemp,Jute,Sisal\n" + "\n".join(f"{i}.1,{i}.5,{i if i < 5 else ''}" for i in range(7)))
    assert [one.name for one in plain.plan.treatments] == ["Hemp", "Jute", "Sisal"]
    assert plain.readings == 19 and any("turned" in one for one in plain.warnings)
    reps = brought("rep,Hemp,Jute\n" + "\n".join(f"{i},{i}.1,{i}.5" for i in range(1, 9)))
    assert len(reps.plan.layout.blocks) == 8
    titled = brought(
        "Load in kg after 3 weeks,,\nHemp,Jute,Sisal\n" + "\n".join(f"{i}.1,{i}.5,{i}.2" for i in range(7))
    )
    assert [one.name for one in titled.plan.checkpoints] == ["Week 3"]
    several = brought(
        "day,Hemp 1,Hemp 2,Jute 1,Jute 2\n" + "\n".join(f"{d},{d}.1,{d}.3,{d}.5,{d}.6" for d in (1, 4, 9))
    )
    assert [one.name for one in several.plan.treatments] == ["Hemp", "Jute"]
    assert len(several.pack.tables["samples"]) == 4 and len(several.plan.checkpoints) == 3


@pytest.mark.parametrize("head", ["Height,Width", "pot,Height,Width", "day,Hemp,Jute", "before,after"])
def test_other_columns_of_numbers_are_not_turned_over(head):
    many = head.count(",") + 1
    problems = refused(f"{head}\n" + "\n".join(",".join(f"{i + k}.5" for k in range(many)) for i in range(6)))
    assert "Say which column names what is compared" in problems[0].says


def test_doses_have_their_unit_and_none_is_the_control():
    text = "Dose mL/L,nr,growth\n" + "\n".join(f"{d},{i},{d + i}.5" for d in (0, 5, 10) for i in range(1, 5))
    assert [(one.name, one.kind) for one in brought(text).plan.treatments] == [
        ("0 mL/L", "untreated"),
        ("5 mL/L", "treatment"),
        ("10 mL/L", "treatment"),
    ]


def test_names_that_differ_in_capitals_alone_are_one():
    text = "board,wax,gloss\n" + "\n".join(f"{i},{('Wax A', 'wax a', 'None', 'NONE')[i % 4]},{i}.5" for i in range(16))
    found = brought(text)
    assert [one.name for one in found.plan.treatments] == ["Wax A", "None"]
    assert any("differ in capitals alone" in one and "“wax a” as “Wax A”" in one for one in found.warnings)


def test_means_are_no_readings_and_rows_of_means_no_samples():
    summed = refused("treatment,n,mean,sd\nA,5,12.3,1.1\nB,5,14.1,0.9\n")
    assert summed[0].at == "meaning" and "These are means" in summed[0].says
    found = brought(rows_of("height", lambda i: i + 0.5) + "\nMean,,6.0\nSD,,1.2\npot,soil,height\n")
    assert found.readings == 12
    assert any("2 rows of means or sums" in one for one in found.warnings)
    assert any("the header again, in 1 row" in one for one in found.warnings)
    own = brought("pot,soil,height\n" + "\n".join(f"p{i},{('Mean', 'Kind')[i % 2]},{i}.5" for i in range(8)))
    assert [one.name for one in own.plan.treatments] == ["Mean", "Kind"]


def test_values_in_two_units_are_turned_into_one_or_refused():
    found = brought(rows_of("weight", lambda i: "1.1 kg" if i == 4 else f"{700 + i} g"))
    assert numbers(found)[4] == 1100 and found.plan.outcomes[0].scale == MeasurementScale("g")
    assert any("told in g and kg" in one for one in found.warnings)
    problems = refused(rows_of("weight", lambda i: "12 cm" if i == 4 else f"{700 + i} g"))
    assert "write all of it in one unit" in problems[0].says


def test_a_value_in_the_place_of_another_counts():
    cells = {4: "24.1 (was 42.1)", 7: "30.5 → 31.5"}
    found = brought(rows_of("load", lambda i: cells.get(i, f"{20 + i}.5")))
    assert (numbers(found)[4], numbers(found)[7]) == (24.1, 31.5)
    assert any("stand in the place of others" in one for one in found.warnings)


@pytest.mark.parametrize(("limit", "held"), [("> 40", True), ("<0.5", False)])
def test_a_limit_is_no_value_and_is_asked_about(limit, held):
    text = rows_of("load kg", lambda i: limit if i in (3, 9) else f"{20 + i * 1.7:.1f}")
    problem = refused(text)[0]
    assert problem.at == "words" and f"“{limit}” (2 times)" in problem.says
    assert ("highest step" in problem.says) is held
    found = brought(text, words="leave out")
    assert found.readings == 10
    cannot = [row for row in found.pack.tables["readings"] if row["kind"] == "cannot"]
    assert [row["reason"] for row in cannot] == [limit, limit]


@pytest.mark.parametrize(
    ("head", "unit", "cell", "value", "told"),
    [
        ("burnt (h:min)", "", "5:30", 5.5, "h"),
        ("burnt (min:s)", "", "5:30", 5.5, "min"),
        ("burnt", "h", "5:30", 5.5, "h"),
        ("burnt", "", "1:30:00", 1.5, "h"),
    ],
)
def test_lengths_of_time_are_numbers(head, unit, cell, value, told):
    found = brought(rows_of(head, lambda i: cell if i else cell.replace("30", "45")), unit=unit, doubled="keep")
    assert value in numbers(found) and found.plan.outcomes[0].scale == MeasurementScale(told)


def test_what_lengths_of_time_are_in_is_asked_where_nothing_tells():
    (problem, *_) = refused(rows_of("burnt", lambda i: f"5:{10 + i}"))
    assert "hours and minutes, or minutes and seconds?" in problem.says


def test_remarks_come_along_and_samples_are_set_aside_for_their_reason():
    cells = {3: ",fell over", 5: "pale,"}
    found = brought(rows_of("height,note,left out", lambda i: f"{i}.5,{cells.get(i, ',')}"))
    assert [row["text"] for row in found.pack.tables["notes"]] == ["p5: pale"]
    assert decisions_in(found.pack).aside == {"p3"}
    (deviation,) = found.pack.tables["deviations"]
    assert (deviation["reason"], deviation["after_key"]) == ("fell over", True)
    assert any("1 sample" in one and "Set aside" in one for one in found.warnings)


def test_a_sample_that_is_lost_at_a_later_look_counts_until_then():
    text = "tank,feed,day,length,left out\n" + "\n".join(
        f"T{t},{('Usual', 'Meal')[t % 2]},{d},{d + t}.5,{'jumped out' if (t, d) == (4, 30) else ''}"
        for d in (10, 20, 30)
        for t in range(1, 9)
    )
    found = brought(text)
    (deviation,) = found.pack.tables["deviations"]
    assert (deviation["sample"], deviation["kind"]) == ("T4", "left_out")
    assert decisions_in(found.pack).left_out["T4"] == deviation["since"]
    assert not decisions_in(found.pack).aside


def test_joined_names_of_samples_go_on_below_where_each_is_then_read_once():
    text = "treatment,pot,day,height\n" + "\n".join(
        f"{t if (p, d) == (1, 10) else ''},{k * 4 + p if d == 10 else ''},{d},{k + p}.5"
        for k, t in enumerate(("Peat", "Coir"))
        for p in range(1, 5)
        for d in (10, 20)
    )
    assert len(brought(text).pack.tables["samples"]) == 8


def test_words_at_looks_are_grades_whose_order_is_asked():
    words = ("sound", "slight", "bad")
    text = rows_of("Month 1,Month 3", lambda i: f"{words[i % 3]},{words[(i + 1) % 3]}")
    assert "say in which order they stand" in refused(text)[0].says
    table = read_foreign(text.encode())
    meaning = guess(table)
    told = tuple(
        type(one)(**{**vars(one), "order": "bad, slight, sound"}) if one.part == "value" else one
        for one in meaning.columns
    )
    found = bring(table, type(meaning)(told, meaning.control), "A table", "Maren", NOW, seed="c0ffee")
    scale = found.plan.outcomes[0].scale
    assert isinstance(scale, GradeScale) and [one.label for one in scale.levels] == ["bad", "slight", "sound"]
    assert len(found.plan.checkpoints) == 2


def test_marks_of_how_much_stand_from_none_to_most_and_a_minus_is_no_gap():
    found = brought(rows_of("mould", lambda i: ("-", "+", "++", "+++")[i % 4]))
    scale = found.plan.outcomes[0].scale
    assert isinstance(scale, GradeScale) and [one.label for one in scale.levels] == ["-", "+", "++", "+++"]
    assert numbers(found)[:4] == [0, 1, 2, 3] and found.readings == 12
    plain = brought(rows_of("mould", lambda i: "+-"[i % 3 == 0]))
    assert sorted(set(numbers(plain))) == [0, 1] and plain.readings == 12


def test_what_is_the_same_in_every_row_was_not_measured():
    found = brought(rows_of("sown,rotten,of", lambda i: f"50,{i},40"))
    assert [(one.name, one.scale.kind) for one in found.plan.outcomes] == [("rotten", "count")]
    assert found.plan.outcomes[0].scale.of == 40
    none = brought(rows_of("deaths,height", lambda i: f"0,{i}.5"))
    assert [one.name for one in none.plan.outcomes] == ["deaths", "height"]
    priced = brought(rows_of("price,height", lambda i: f"0.{20 + i % 2},{i}.5"))
    assert [one.name for one in priced.plan.outcomes] == ["height"]


def test_years_and_before_and_after_are_looks_of_one_outcome():
    years = brought(rows_of("2024,2025,2026", lambda i: f"{i}.1,{i}.2,{i}.3"))
    assert [(one.name, one.offset // 1440) for one in years.plan.checkpoints] == [
        ("2024", 365),
        ("2025", 730),
        ("2026", 1095),
    ]
    before = brought(rows_of("Turbidity before,Turbidity after,pH", lambda i: f"{i}.1,{i}.2,{i}.3"))
    assert [one.name for one in before.plan.outcomes] == ["Turbidity", "pH"]
    start = brought(rows_of("start weight g,end weight g,gain g", lambda i: f"{i}.1,{i}.2,{i}.3"))
    assert [(one.name, one.scale) for one in start.plan.outcomes] == [
        ("weight", MeasurementScale("g")),
        ("gain", MeasurementScale("g")),
    ]


@pytest.mark.parametrize("mark", ['"', "do.", "〃", ""])
def test_marks_for_the_same_again_are_as_above(mark):
    out = io.StringIO()
    rows = [(t if p == 1 else mark, p, f"{4 + p}.{k}") for k, t in enumerate(("Peat", "Coir")) for p in range(1, 7)]
    csv.writer(out).writerows([("treatment", "pot", "height"), *rows])
    found = brought(out.getvalue())
    assert [one.name for one in found.plan.treatments] == ["Peat", "Coir"]
    assert len(found.pack.tables["samples"]) == 12


def test_an_empty_cell_among_names_that_come_back_is_not_filled_from_above():
    text = "bed,spray,aphids\n" + "\n".join(f"{i},{('soap', 'nettle', '')[i % 3]},{i + 2}" for i in range(15))
    problems = refused(text)
    assert [one.at for one in problems] == ["row 4", "row 7", "row 10", "row 13", "row 16"]
    assert "write “nothing”" in problems[0].says


def test_what_is_compared_is_read_from_codes_where_nothing_else_tells_it():
    text = "sample,height\n" + "\n".join(
        f"{t}-{i},{i}.{k}" for k, t in enumerate(("PEAT", "COIR")) for i in range(1, 6)
    )
    found = brought(text)
    assert [one.name for one in found.plan.treatments] == ["PEAT", "COIR"] and len(found.names) == 10
    assert any("was read from the names in “sample”: PEAT, COIR" in one for one in found.warnings)
    assert refused("sample,height\n" + "\n".join(f"P{i},{i}.5" for i in range(9)))[0].at == "meaning"


def test_dates_with_points_begin_with_the_day():
    found = brought(rows_of("date,height", lambda i: f"{1 + i // 6}.3.2027,{i}.5"))
    assert [one.name for one in found.plan.checkpoints] == ["2027-03-01", "2027-03-02"]
    assert refused(rows_of("date,height", lambda i: f"{1 + i // 6}/3/2027,{i}.5"))[0].at == "dates"


def test_none_is_a_word_and_no_gap():
    graded = brought(rows_of("mildew", lambda i: ("none", "slight", "severe")[i % 3]))
    scale = graded.plan.outcomes[0].scale
    assert isinstance(scale, GradeScale) and [one.label for one in scale.levels] == ["none", "slight", "severe"]
    assert graded.readings == 12
    problem = refused(rows_of("days to mould", lambda i: "none" if i in (4, 9) else f"{i + 5}"))[0]
    assert problem.at == "words" and "“none” (2 times)" in problem.says


def test_how_long_it_took_is_a_value_and_no_look():
    found = brought(rows_of("days to mould", lambda i: i * 3 + 5))
    assert [one.name for one in found.plan.outcomes] == ["days to mould"] and len(found.plan.checkpoints) == 1
    assert "“40+” (2 times)" in refused(rows_of("days to mould", lambda i: "40+" if i in (4, 9) else i + 5))[0].says
    counted = brought(rows_of("No of weeds", lambda i: i))
    assert [one.name for one in counted.plan.outcomes] == ["No of weeds"]


def test_words_that_tell_readings_of_a_sample_apart_name_what_was_measured():
    text = "sample,treatment,day,what,value\n" + "\n".join(
        f"{s},{('tea', 'none')[s % 2]},{d},{w},{s + d}.5"
        for s in range(1, 9)
        for d in (1, 5)
        for w in ("height", "weight")
    )
    found = brought(text)
    assert [one.name for one in found.plan.outcomes] == ["height", "weight"]
    assert not any("several values" in one for one in found.warnings)


def test_thousands_may_stand_apart():
    assert numbers(brought(rows_of("yield kg/ha", lambda i: f"{6 + i % 2} {121 + i}")))[:2] == [6121, 7122]


@pytest.mark.parametrize("cell", ["no", "5", "yes"])
def test_a_result_that_is_the_same_everywhere_is_one_where_nothing_else_was_measured(cell):
    found = brought(rows_of("bitten", lambda _: cell), doubled="keep")
    assert [one.name for one in found.plan.outcomes] == ["bitten"] and found.readings == 12
