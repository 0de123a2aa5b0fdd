"""Somebody else's table becomes a trial with the verdict that its numbers give; what is not sure is asked."""

import io
import zipfile
from dataclasses import replace
from datetime import UTC, datetime
from uuid import uuid4

import numpy as np
import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from benchmarks.tables import UNTOLD, fate_of, made_up
from fieldtally.core.compare.columns import Column, compare_columns
from fieldtally.core.problems import Refused
from fieldtally.core.scales import CurveScale, Shade, ShadeScale
from fieldtally.core.tables.choices import Choices
from fieldtally.core.tables.columns import ColumnMeaning, Meaning
from fieldtally.core.tables.foreign import MOST_ROWS, read_foreign
from fieldtally.core.tables.importing import bring
from fieldtally.core.tables.meaning import guess, minutes_of
from fieldtally.core.trialpack.study import problems_of, study_in_pack

NOW = datetime(2026, 5, 1, 12, tzinfo=UTC)
WIDE = (
    "pot;bench;treatment;height day 4 (cm);height day 10 (cm);alive\r\n"
    "1;east;water;1,5;3,2;yes\r\n2;east;tea;2,5;6,0;yes\r\n3;west;water;1,4;3,9;no\r\n4;west;tea;2,2;5,5;yes\r\n"
    "5;east;water;1,6;3,5;yes\r\n6;east;tea;2,9;6,4;yes\r\n7;west;water;1,3;3,3;yes\r\n8;west;tea;2,1;5,9;no\r\n"
)


def brought(data, *, edit=None, **choices):
    table = read_foreign(data if isinstance(data, bytes) else data.encode())
    meaning = guess(table)
    if edit:
        meaning = Meaning(tuple(edit.get(c.name, c) for c in meaning.columns), meaning.control)
    found = bring(table, meaning, "Beans", "Maren", NOW, Choices(**choices), seed=uuid4().hex)
    # Whoever stores it relies on that.
    assert not problems_of(found.pack)
    return found


def refused(data, **choices):
    with pytest.raises(Refused) as found:
        brought(data, **choices)
    return found.value.problems


def parts(data):
    return {c.name: c.part for c in guess(read_foreign(data if isinstance(data, bytes) else data.encode())).columns}


def test_a_wide_table_with_decimal_commas_is_understood():
    found = brought(WIDE)
    plan = found.plan
    assert [t.name for t in plan.treatments] == ["water", "tea"] and plan.control.name == "water"
    assert [b.name for b in plan.layout.blocks] == ["east", "west"] and plan.treatments[0].samples == 2
    assert [(o.name, o.scale.kind, len(o.checkpoints)) for o in plan.outcomes] == [
        ("height", "measurement", 2),
        ("alive", "passfail", 1),
    ]
    assert [(c.name, c.offset) for c in plan.checkpoints][-2:] == [("Day 4", 4 * 1440), ("Day 10", 10 * 1440)]
    assert not problems_of(found.pack) and found.readings == 24


def test_its_verdict_is_that_of_the_numbers_themselves():
    main = next(f for f in study_in_pack(brought(WIDE).pack).findings() if f.checkpoint is None)
    values = np.array([3.2, 6.0, 3.9, 5.5, 3.5, 6.4, 3.3, 5.9])
    (alone,) = compare_columns(
        values[:, None],
        [Column("measurement")],
        np.tile([0, 1], 4),
        ["water", "tea"],
        np.array([0, 0, 1, 1, 0, 0, 1, 1]),
        np.random.default_rng(1),
    )
    assert main.comparison.pairs[0].p == pytest.approx(alone.pairs[0].p)
    assert main.comparison.pairs[0].difference == pytest.approx(alone.pairs[0].difference)


def test_a_long_table_gives_the_same_as_a_wide_one():
    rows = [line.split(";") for line in WIDE.strip().split("\r\n")[1:]]
    lines = ["pot\tbench\ttreatment\tday\toutcome\tvalue"]
    for pot, bench, treatment, d4, d10, alive in rows:
        for day, outcome, value in (("4", "height", d4), ("10", "height", d10), ("10", "alive", alive)):
            lines.append("\t".join([pot, bench, treatment, day, outcome, value]))
    long = study_in_pack(brought("\n".join(lines)).pack)
    wide = study_in_pack(brought(WIDE).pack)
    assert [o.scale.kind for o in long.plan.outcomes] == ["measurement", "passfail"]
    first, second = long.findings()[0], wide.findings()[0]
    assert first.comparison.pairs[0].difference == pytest.approx(second.comparison.pairs[0].difference)


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|"])
def test_any_delimiter_and_encoding(encoding, delimiter):
    text = "\n".join(
        delimiter.join(row) for row in [["Mittel", "Höhe"], ["Ätna", "1.5"], ["Ätna", "2"], ["Öl", "3"], ["Öl", "4.5"]]
    )
    table = read_foreign(text.encode(encoding))
    assert table.header == ("Mittel", "Höhe") and table.rows[0].cells == ("Ätna", "1.5")


def workbook(rows, *, name="Data", more=()):
    book = openpyxl.Workbook()
    book.active.title = name
    for row in rows:
        book.active.append(row)
    for other in more:
        book.create_sheet(other).append(["x", "y"])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_a_workbook_with_a_title_joined_cells_and_another_sheet():
    rows = [["Trial of soaks"], [], ["Treatment", "Sprouted", "Sown on"]]
    rows += [["water", "17/20", datetime(2026, 3, 1)], [None, "15/20", datetime(2026, 3, 1)]]
    rows += [["tea", "19/20", datetime(2026, 3, 1)], [None, "18/20", datetime(2026, 3, 1)]]
    table = read_foreign(workbook(rows, more=["Notes"]))
    assert table.header == ("Treatment", "Sprouted", "Sown on") and table.rows[0].cells[2] == "2026-03-01"
    found = brought(workbook(rows, more=["Notes"]))
    assert found.plan.outcomes[0].scale.of == 20
    assert any("2 empty cells" in one for one in found.warnings) and any("row 3" in one for one in found.warnings)


def test_an_ods_is_read_too(tmp_path):
    from odf.opendocument import OpenDocumentSpreadsheet
    from odf.table import Table, TableCell, TableRow
    from odf.text import P

    document, sheet = OpenDocumentSpreadsheet(), Table(name="Beans")
    for row in [["treatment", "cm"], ["a", 1.5], ["a", 2.5], ["b", 4.0], ["b", 5.0]]:
        made = TableRow()
        for value in row:
            number = isinstance(value, float)
            cell = TableCell(valuetype="float" if number else "string", **({"value": value} if number else {}))
            cell.addElement(P(text=str(value)))
            made.addElement(cell)
        sheet.addElement(made)
    document.spreadsheet.addElement(sheet)
    document.save(tmp_path / "beans.ods")
    table = read_foreign((tmp_path / "beans.ods").read_bytes())
    assert table.sheet == "Beans" and table.rows[0].cells == ("a", "1.5")


def test_formulas_macros_and_links_are_left_alone():
    data = io.BytesIO()
    plain = io.BytesIO(workbook([["treatment", "cm"], ["a", 1], ["b", "=1+1"]]))
    with zipfile.ZipFile(plain) as before, zipfile.ZipFile(data, "w") as after:
        for name in before.namelist():
            after.writestr(name, before.read(name))
        after.writestr("xl/vbaProject.bin", b"macro")
        after.writestr("xl/externalLinks/externalLink1.xml", b"<x/>")
    table = read_foreign(data.getvalue())
    assert any("macros" in one for one in table.warnings) and any("linked" in one for one in table.warnings)
    # A formula that no program has worked out yet has no value.
    assert table.rows[1].cells == ("b", "")


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "empty"),
        (b"%PDF-1.7", "no table"),
        (b"PK\x03\x04junk", "damaged"),
        (b"just words", "no table in it"),
        (b"a,b\n", "no rows below"),
        (b'a,b\n"1,2\n', "do not close"),
        (b"a,b\n" + b"1,2\n" * (MOST_ROWS + 30), "in parts"),
        (b"a,b\n1,2\n1,2,3\n", "more cells"),
        (b"\x1f", "no table in it"),
        ("\x85\u2028\x1c".encode(), "no table in it"),
        (b" " * 140_000 + b"\na,b\n1,2\n", "letters"),
    ],
)
def test_what_is_no_table_is_refused(data, says):
    with pytest.raises(Refused, match=says):
        read_foreign(data)


def test_a_zip_that_grows_without_end_is_refused():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as files:
        files.writestr("xl/workbook.xml", b"0" * 60_000_000)
    with pytest.raises(Refused, match="larger than any table"):
        read_foreign(out.getvalue())


def test_rows_that_are_there_twice_are_asked_about():
    data = "treatment,cm\na,1\na,1\nb,2\nb,3\n"
    problems = refused(data)
    assert problems[0].at == "doubled" and problems[1].says == "It is the same as row 2, cell for cell."
    assert brought(data, doubled="keep").readings == 4
    assert brought(data, doubled="leave out").readings == 3


def dated(*days):
    return "date,treatment,pot,cm\n" + "".join(
        f"{day},{t},{t}{n},{n + i}\n" for i, day in enumerate(days) for t in "ab" for n in (1, 2)
    )


def test_dates_that_could_be_either_are_asked_about_and_mixed_ones_refused():
    assert refused(dated("01/02/2026", "08/02/2026"))[0].at == "dates"
    day = brought(dated("01/02/2026", "08/02/2026"), dates="day first").plan.checkpoints
    month = brought(dated("01/02/2026", "08/02/2026"), dates="month first").plan.checkpoints
    assert [c.name for c in day] == ["2026-02-01", "2026-02-08"] and day[1].offset - day[0].offset == 7 * 1440
    assert [c.name for c in month] == ["2026-01-02", "2026-08-02"]
    assert next(c.name for c in brought(dated("13/02/2026", "20/02/2026")).plan.checkpoints) == "2026-02-13"
    assert "two ways" in refused(dated("13/02/2026", "02/20/2026"))[0].says
    assert "two ways" in refused(dated("2026-02-13", "20/02/2026"))[0].says


def test_thousands_are_told_from_decimals():
    found = brought("treatment,seeds per kg\n" + 'a,"1,200"\na,900\nb,"2,300"\nb,"1,900"\n')
    assert sorted(row["value"] for row in found.pack.tables["readings"]) == [900, 1200, 1900, 2300]
    assert any("thousands" in one for one in found.warnings)
    german = brought("treatment;g\na;1.200,5\na;900,25\nb;2.300,0\nb;1.900,0\n")
    assert sorted(row["value"] for row in german.pack.tables["readings"]) == [900.25, 1200.5, 1900, 2300]


def test_a_cell_that_cannot_be_read_is_named():
    edit = {"cm": ColumnMeaning("cm", "value", "cm")}
    with pytest.raises(Refused) as found:
        brought("treatment,cm\na,1\na,tall\nb,2\nb,3\n", edit=edit)
    assert (found.value.problems[0].at, found.value.problems[0].says) == ("row 3", "“tall” in “cm” is no number.")


def test_factors_numbers_inside_treatments_and_several_readings():
    crossed = brought(
        "treatment,product,cm\nhot,a,1\nhot,b,2\ncold,a,3\ncold,b,5\nhot,a,1.5\nhot,b,2.5\ncold,a,3.5\ncold,b,5.5\n"
    )
    assert [f.name for f in crossed.plan.factors] == ["treatment", "product"] and len(crossed.plan.treatments) == 4
    effects = study_in_pack(crossed.pack).concluded().behind[0].effects
    assert [e.term for e in effects] == ["treatment", "product", "treatment × product"]
    numbered = brought("treatment,pot,cm\na,1,3\na,2,4\nb,1,5\nb,2,7\n")
    assert len(numbered.pack.tables["samples"]) == 4 and any("inside each" in one for one in numbered.warnings)
    twice = brought("treatment,pot,cm\na,p1,3\na,p1,5\na,p2,4\nb,p3,5\nb,p4,7\n")
    assert study_in_pack(twice.pack).values["o1", "c1"]["p1"] == 4.0


@pytest.mark.parametrize(
    ("data", "says"),
    [
        ("pot,cm\n1,2\n2,3\n", "names what is compared"),
        ("treatment,note\na,x\nb,y\n", "what was measured"),
        ("treatment,cm\na,1\na,2\n", "Only one treatment"),
        ("treatment,day,cm\na,4,1\n,5,2\nb,,3\n", "is empty"),
    ],
)
def test_tables_without_what_a_trial_needs(data, says):
    assert says in refused(data)[0].says


def test_looks_are_read_from_their_names():
    assert [minutes_of(one) for one in ("d7", "Week 3", "height_d4", "after 2 h", "T0", "harvest")] == [
        10_080,
        30_240,
        5_760,
        120,
        0,
        None,
    ]
    assert parts("plant,variant,score d1,score d2\n1,a,3,4\n2,b,4,5\n") == {
        "plant": "sample",
        "variant": "treatment",
        "score d1": "value",
        "score d2": "value",
    }


@settings(max_examples=60, deadline=None)
@given(st.lists(st.lists(st.text(max_size=8), min_size=1, max_size=5), min_size=1, max_size=8), st.sampled_from(",;\t"))
def test_no_table_however_odd_breaks_anything(rows, delimiter):
    data = "\n".join(delimiter.join(row) for row in rows).encode("utf-8", "surrogatepass")
    try:
        table = read_foreign(data)
        bring(table, guess(table), "x", "me", NOW, Choices("day first", "keep"), seed="c0ffee")
    except Refused as found:
        assert all(one.says.endswith((".", "?")) for one in found.problems)


def test_tables_as_people_keep_them_are_whole_at_first_guess_and_none_is_wrong_without_a_word():
    """Tried on a seed of its own, not on the one that the figures are printed from."""
    fates = [(table, *fate_of(table)) for table in made_up(7)]
    assert [(table.way, table.trade, says) for table, fate, says in fates if fate == "wrong"] == []
    told = [fate for table, fate, _ in fates if table.trade != UNTOLD]
    assert told.count("whole") >= 0.8 * len(told)
    untold = [says for table, fate, says in fates if table.trade == UNTOLD and fate == "asked"]
    assert len(untold) >= 30
    assert all("that is compared" in says and says.endswith("Whole after that.") for says in untold), untold


def test_what_could_be_compared_is_asked_and_the_answer_counts():
    text = "item,stand,ware,yield\n" + "\n".join(
        f"i{i},{('Kestrel', 'Heron')[i % 2]},{('Alder', 'Birch')[i // 2 % 2]},{i + 1.5}" for i in range(12)
    )
    assert refused(text)[0].at == "compared"
    assert [t.name for t in brought(text, compared="ware").plan.treatments] == ["Alder", "Birch"]
    other = brought(text, compared="stand").plan
    assert [t.name for t in other.treatments] == ["Kestrel", "Heron"] and [b.name for b in other.layout.blocks] == [
        "Alder",
        "Birch",
    ]


def test_days_are_those_of_the_table_and_hours_are_no_days():
    rows = "pot,treatment,date,cm\n" + "\n".join(
        f"p{i},{'ab'[i % 2]},2026-03-{day:02},{day + i}" for day in (5, 12) for i in range(8)
    )
    found = brought(rows, start="2026-03-01")
    assert [(c.name, c.offset) for c in found.plan.checkpoints] == [("Day 4", 4 * 1440), ("Day 11", 11 * 1440)]
    trial = found.pack.trial
    assert trial["started_at"].startswith("2026-03-01T12:00")
    assert {row["taken_at"].date().isoformat() for row in found.pack.tables["readings"]} == {"2026-03-05", "2026-03-12"}
    assert not any("not told" in one for one in found.warnings)
    assert any("On which day it began is not told" in one for one in brought(rows).warnings)
    assert refused(rows, start="2026-03-06")[0].at == "start"
    assert refused(rows, start="2027-03-06")[0].at == "start"
    sown = rows.replace("date", "sown,date", 1).replace(",2026", ",2026-03-02,2026")
    own = brought(sown)
    assert {row["started_at"].date().isoformat() for row in own.pack.tables["samples"]} == {"2026-03-02"}
    hours = brought(
        "pot,treatment,hours,cm\n" + "\n".join(f"p{i},{'ab'[i % 2]},{h},{i}" for h in (6, 24) for i in range(8))
    )
    assert [(c.name, c.offset) for c in hours.plan.checkpoints] == [("6 h", 360), ("24 h", 1440)]


def test_words_among_values_are_asked_about():
    rows = (
        "pot,treatment,cm\n" + "\n".join(f"p{i},{'ab'[i % 2]},{i + 0.5}" for i in range(10)) + "\np10,a,knocked over\n"
    )
    (first, row) = refused(rows)
    assert (first.at, row.at) == ("words", "row 12")
    found = brought(rows, words="leave out")
    assert found.readings == 10 and any("knocked over" in one for one in found.warnings)


def test_loads_above_the_last_step_and_grades_in_words():
    loads = brought("pot,treatment,held (kg)\n1,a,10\n2,a,> 40\n3,b,20\n4,b,40\n5,a,30\n6,b,> 40\n")
    assert loads.plan.outcomes[0].scale.kind == "ladder" and loads.plan.outcomes[0].scale.steps == (
        10.0,
        20.0,
        30.0,
        40.0,
    )
    words = brought("pot,treatment,look of it\n1,a,good\n2,a,fair\n3,b,poor\n4,b,fair\n")
    assert [level.label for level in words.plan.outcomes[0].scale.levels] == ["poor", "fair", "good"]


def test_raised_and_ringed_digits_are_no_numbers():
    assert parts("²,treatment\n²,a\n0,b\n")["²"] in ("nothing", "sample", "value")
    assert parts("pot,treatment,cm\n①,a,1.5\n②,b,2.5\n")["pot"] == "sample"


def test_shades_by_their_names_stand_in_their_order():
    found = brought(
        "tray,drying,petal colour\n1,attic,Orange\n2,oven,brown\n3,attic,gold\n4,oven,orange\n5,attic,gold\n6,oven,brown\n"
    )
    (outcome,) = found.plan.outcomes
    assert outcome.scale == ShadeScale((Shade("gold"), Shade("orange"), Shade("brown")))
    assert outcome.better == "none"
    assert sorted(row["value"] for row in found.pack.tables["readings"]) == [1.0, 1.0, 2.0, 2.0, 3.0, 3.0]


def test_words_whose_order_nobody_knows_are_told_in_their_order():
    rows = "tray,drying,look\n1,attic,rosy\n2,oven,plum\n3,attic,rosy\n4,oven,ash\n"

    def as_told(order, kind):
        return {"look": ColumnMeaning("look", "value", "Look", kind=kind, order=order)}

    told = brought(rows, edit=as_told("Ash, rosy, plum, ink", "shade"))
    assert told.plan.outcomes[0].scale == ShadeScale(tuple(Shade(one) for one in ("ash", "rosy", "plum", "ink")))
    assert [row["value"] for row in told.pack.tables["readings"]] == [2.0, 3.0, 2.0, 1.0]
    graded = brought(rows, edit=as_told("ash, rosy, plum", "words"))
    assert [row["value"] for row in graded.pack.tables["readings"]] == [1.0, 2.0, 1.0, 0.0]
    with pytest.raises(
        Refused, match="“ash” in “look” is no shade whose place is known; say in which order they stand"
    ):
        brought(rows, edit=as_told("rosy, plum", "shade"))


def test_why_there_is_no_value_stays_with_its_sample():
    rows = "pot,treatment,cm d4,cm d9\n" + "\n".join(
        f"p{i},{'ab'[i % 2]},{i + 0.5},{'knocked over' if i == 3 else i + 1.5}" for i in range(10)
    )
    found = brought(rows, words="leave out")
    (why,) = [one for one in found.pack.tables["readings"] if one["kind"] == "cannot"]
    assert (why["reason"], why["value"], why["sample"]) == ("knocked over", None, "p3")
    assert found.readings == 19 and len(found.pack.tables["readings"]) == 20
    assert [one["reading"] for one in found.pack.tables["readings"]] == list(range(1, 21))
    assert found.pack.tables["readings"][19] == why


SEEN = """pot,treatment,mould seen
p1,a,2026-04-04
p2,a,2026-04-09
p3,b,not yet
p4,b,2026-04-09
"""


def test_the_day_on_which_something_was_seen_becomes_looks_at_which_it_was_or_was_not():
    found = brought(SEEN, start="2026-04-01")
    (outcome,) = found.plan.outcomes
    assert (outcome.scale.kind, outcome.name, outcome.better) == ("event", "mould seen", "less")
    assert [one.name for one in found.plan.checkpoints] == ["Day 3", "Day 8"]
    told = {(one["sample"], one["checkpoint"]): one["value"] for one in found.pack.tables["readings"]}
    assert told == {
        ("p1", "c1"): 1.0, ("p1", "c2"): 1.0, ("p2", "c1"): 0.0, ("p2", "c2"): 1.0,
        ("p3", "c1"): 0.0, ("p3", "c2"): 0.0, ("p4", "c1"): 0.0, ("p4", "c2"): 1.0,
    }  # fmt: skip


def test_days_alone_are_an_event_where_nothing_was_measured():
    found = brought(SEEN.replace("not yet", "2026-04-12"))
    assert found.plan.outcomes[0].scale.kind == "event" and len(found.plan.checkpoints) == 3


def test_beside_other_looks_days_count_from_the_start_and_that_is_asked():
    rows = SEEN.replace("mould seen", "mould seen,cm d4").replace("\np", ",\np").splitlines()
    text = "\n".join([rows[0].rstrip(","), *(f"{row.rstrip(',')},{i}.5" for i, row in enumerate(rows[1:], 1))])
    assert refused(text)[0].at == "start"
    found = brought(text, start="2026-04-01")
    assert [one.name for one in found.plan.checkpoints] == ["Day 3", "Day 4", "Day 8"]
    assert refused(text, start="2026-04-06")[0].at == "start"


def test_what_is_no_day_in_a_column_of_days_is_told_row_by_row():
    table = read_foreign(SEEN.replace("2026-04-04", "soon").encode())
    meaning = guess(table)
    columns = tuple(
        replace(one, part="value", kind="event") if one.name == "mould seen" else one for one in meaning.columns
    )
    with pytest.raises(Refused) as told:
        bring(table, replace(meaning, columns=columns), "x", "y", NOW, seed="c0ffee")
    assert [one.at for one in told.value.problems] == ["row 2"]


SAG = "board,twine,sag at 1 kg [mm],sag at 2 kg [mm],sag at 4 kg [mm]\n" + "\n".join(
    f"B{n},{'Hemp' if n % 2 else 'Jute'},{1 + n / 10},{2 + n / 5},{'' if n == 3 else 4 + n / 2.5}" for n in range(1, 7)
)


def test_a_column_a_step_is_one_curve_with_its_responses():
    found = brought(SAG.encode())
    (outcome,) = found.plan.outcomes
    assert outcome.name == "sag" and outcome.scale == CurveScale("mm", "kg", (1.0, 2.0, 4.0))
    rows = {row["sample"]: row for row in found.pack.tables["readings"]}
    assert rows["B2"]["responses"] == [1.2, 2.4, 4.8] and rows["B2"]["value"] == pytest.approx(1.2)
    # It gave way before the last step.
    assert rows["B3"]["responses"] == [1.3, 2.6]
    assert any("what is compared is its slope" in one for one in found.warnings)
    assert problems_of(found.pack) == []
    assert study_in_pack(found.pack).concluded().findings[0].outcome == outcome.key


def test_columns_of_doses_or_of_repeats_are_no_steps_of_a_curve():
    doses = "pot,5 mL,10 mL,20 mL\n1,3,4,5\n2,3,5,6\n"
    assert all(one.kind != "curve" for one in guess(read_foreign(doses.encode())).columns)
    repeats = "pot,treatment,rep 1,rep 2,rep 3\n1,A,3,4,5\n2,B,3,5,6\n3,A,3,4,4\n4,B,5,5,6\n"
    assert all(one.kind != "curve" for one in guess(read_foreign(repeats.encode())).columns)
    looks = "pot,treatment,height d3,height d5,height d9\n1,A,3,4,5\n2,B,3,5,6\n3,A,3,4,4\n4,B,5,5,6\n"
    assert all(one.kind != "curve" for one in guess(read_foreign(looks.encode())).columns)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (SAG.replace("1.3,2.6,", "1.3,,"), "is no curve with a slope"),
        (SAG.replace("2.4", "two"), "is no curve with a slope"),
        (SAG.replace("sag at 4 kg", "sag at 4 N"), None),
    ],
)
def test_a_curve_that_cannot_be_read_is_named_by_its_row(data, says):
    if says is None:
        # Steps in another unit are no steps of the same curve: two are left, which make none.
        assert {one.scale.kind for one in brought(data.encode()).plan.outcomes} == {"measurement"}
    else:
        assert any(says in one.says for one in refused(data.encode()))


STAGES = ("after washing", "before washing")
WASHED = "board,wax,day,stage,gloss\n" + "\n".join(
    f"B{n},{'Bees' if n % 2 else 'None'},{day},{stage},{10 + n + day + 3 * k}"
    for day in (4, 10)
    for k, stage in enumerate(STAGES)
    for n in range(1, 7)
)


def test_stages_of_a_look_are_looks_of_their_own_and_what_is_before_comes_before():
    found = brought(WASHED)
    told = [(look.name, look.offset // 1440, look.stage) for look in found.plan.checkpoints]
    assert told == [(f"Day {day}", day, stage) for day in (4, 10) for stage in reversed(STAGES)]
    assert found.readings == 24 and not any("median" in one for one in found.warnings)
    rows = {(row["sample"], row["checkpoint"]): row["value"] for row in found.pack.tables["readings"]}
    assert rows["B1", "c1"] == 18 and rows["B1", "c2"] == 15


def test_a_stage_goes_with_looks_in_columns_and_without_sample_names():
    rows = ["wax,stage,gloss d4,gloss d10"]
    rows += [f"{'Bees' if n % 2 else 'None'},{stage},{n},{n + 5}" for stage in STAGES for n in range(1, 7)]
    found = brought("\n".join(rows))
    assert [(look.offset // 1440, look.stage) for look in found.plan.checkpoints] == [
        (4, "before washing"),
        (4, "after washing"),
        (10, "before washing"),
        (10, "after washing"),
    ]
    assert len(found.names) == 6 and found.readings == 24
