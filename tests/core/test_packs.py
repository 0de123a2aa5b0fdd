"""Reading a pack cell by cell; charts that keep their promises; tables of methods as people write them."""

import io
import re
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fieldtally.core.charts.dots import HUES, MOST_LEVELS, DotsRow, MeansLine, dots_svg, means_svg, nice
from fieldtally.core.problems import Refused
from fieldtally.core.tables.columns import ColumnMeaning, Meaning
from fieldtally.core.tables.foreign import read_foreign
from fieldtally.core.tables.meaning import guess, kind_of
from fieldtally.core.tables.methods import MethodColumns, guessed, side_by_side
from fieldtally.core.tables.table import read_table
from fieldtally.core.trialpack.pack import guarded, sheet_of, write_pack
from fieldtally.core.trialpack.reading import READERS, WORDS, read_pack
from fieldtally.core.trialpack.schema import FORMAT, SCHEMAS


def pack_of(**rows):
    """A pack with these rows in some tables, the others empty."""
    sheets = [sheet_of(name, rows.get(name, [])) for name in SCHEMAS]
    return write_pack("x", "X", sheets, {"plan.json": {"draft": {}}})


def with_text(name, text):
    """The pack of nothing with one table of this text."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(pack_of())) as files, zipfile.ZipFile(out, "w") as again:
        for one in files.namelist():
            again.writestr(one, text if one == name else files.read(one))
    return out.getvalue()


@settings(deadline=None)
@given(st.text(st.characters(exclude_categories=("Cc", "Cs")), min_size=1, max_size=30))
def test_any_text_goes_through_a_cell_unchanged_and_is_never_a_formula(text):
    assert guarded(text)[:1] not in ("=", "+", "-", "@")
    (row,) = read_pack(pack_of(notes=[(1, text, None, "Robin", "2026-01-01T00:00:00Z")])).tables["notes"]
    assert row["text"] == text


@settings(deadline=None)
@given(st.floats(allow_nan=False, allow_infinity=False))
def test_any_number_goes_through_a_cell_unchanged(value):
    (row,) = read_pack(pack_of(costs=[(None, "x", value, "£")])).tables["costs"]
    assert row["amount"] == value


def test_lists_and_objects_go_through_a_cell():
    plan = {"title": "Wer? „Ich“, sagt er", "things": ["a", "b"], "n": {"x": None}}
    row = (1, "t", plan, 1, None, "Robin", "2026-01-01T00:00:00Z", None, None, None, 0, None, None, None)
    (panel,) = read_pack(pack_of(panels=[row])).tables["panels"]
    assert panel["plan"] == plan


@pytest.mark.parametrize(
    ("kind", "good", "bad"),
    [
        ("integer", "12", ["1.5", "x", "99999999999", "1e3"]),
        ("number", "-1.5e3", ["nan", "inf", "1,5", "x"]),
        ("boolean", "true", ["True", "1", "yes"]),
        ("datetime", "2026-01-01T10:00:00.123456Z", ["2026-01-01", "2026-01-01T10:00:00", "1066-10-14T00:00:00Z", "x"]),
        ("date", "2026-02-28", ["2026-02-30", "28.2.2026"]),
        ("object", '{"a":1}', ["[1]", "{", "1"]),
        ("array", "[1]", ["{}", "[", '"x"']),
    ],
)
def test_each_kind_of_cell_takes_its_own_and_nothing_else(kind, good, bad):
    READERS[kind](good)
    for cell in bad:
        with pytest.raises(ValueError):
            READERS[kind](cell)
    assert kind in WORDS


@pytest.mark.parametrize(
    ("text", "at", "says"),
    [
        ("", "notes.csv", "empty"),
        ("note,text\r\n", "notes.csv, line 1", "no column “working”"),
        ("note,text,text,by,at\r\n", "notes.csv, line 1", "working"),
        ("note,text,working,by,at,at\r\n", "notes.csv, line 1", "same name"),
        ("note,text,working,by,at\r\n1,x,,Robin\r\n", "notes.csv, line 2", "4 cells, but the header has 5"),
        (
            "note,text,working,by,at\r\n1,x,,R,2026-01-01T00:00:00Z\r\n1,y,,R,2026-01-01T00:00:00Z\r\n",
            "line 3",
            "twice",
        ),
        ('note,text,working,by,at\r\n1,"x,,R,2026\r\n', "line", "do not close"),
        ("note,text,working,by,at\r\none,x,,R,soon\r\n", "notes.csv, line 2", "no whole number"),
    ],
)
def test_a_bad_table_is_named_with_its_line(text, at, says):
    with pytest.raises(Refused) as refused:
        read_pack(with_text("notes.csv", text))
    assert at in refused.value.problems[0].at
    assert says in refused.value.problems[0].says


def test_columns_that_are_not_ours_and_empty_lines_are_passed_over():
    text = "by,at,extra,note,text,working\r\n\r\nRobin,2026-01-01T00:00:00Z,!,1,x,\r\n"
    (row,) = read_pack(with_text("notes.csv", text)).tables["notes"]
    assert row["text"] == "x"
    assert "extra" not in row


def test_no_more_than_twenty_problems_are_told():
    rows = "".join(f"{i},x,,R,never\r\n" for i in range(500))
    with pytest.raises(Refused) as refused:
        read_pack(with_text("notes.csv", f"note,text,working,by,at\r\n{rows}"))
    assert len(refused.value.problems) == 20


def test_the_format_stands_in_every_pack():
    with zipfile.ZipFile(io.BytesIO(pack_of())) as files:
        assert f'"format": "{FORMAT}"' in files.read("datapackage.json").decode()


# Charts


def circles(drawn):
    return [(float(x), float(y)) for x, y in re.findall(r'<circle cx="([\d.]+)" cy="([\d.]+)"', drawn)]


@settings(deadline=None)
@given(st.lists(st.floats(-50, 50), min_size=1, max_size=30))
def test_every_sample_is_a_dot_inside_the_picture_and_none_hides_another(values):
    drawn = dots_svg([DotsRow(0, "A", "Tea", tuple(values), None, None, None)], "cm", title="x")
    dots = circles(drawn)
    width, height = map(float, re.findall(r'viewBox="0 0 ([\d.]+) ([\d.]+)"', drawn)[0])
    if "Columns count samples" in drawn:
        # So many alike that they would not fit on each other.
        assert dots == [] and len(values) > MOST_LEVELS
        return
    assert len(dots) == len(values)
    assert all(0 <= x <= width and 0 <= y <= height for x, y in dots)
    for i, (x, y) in enumerate(dots):
        for other_x, other_y in dots[i + 1 :]:
            assert abs(x - other_x) >= 8 or abs(y - other_y) >= 8


@settings(deadline=None)
@given(st.floats(-1e6, 1e6), st.floats(1e-3, 1e6))
def test_marks_on_an_axis_are_round_even_and_span_what_is_shown(low, reach):
    ticks = nice(low, low + reach)
    steps = np.diff(ticks)
    assert ticks[0] <= low + 1e-6 * reach
    assert ticks[-1] >= low + reach - 1e-6 * reach
    assert np.allclose(steps, steps[0])
    assert 2 <= len(ticks) <= 12


def test_shares_run_from_nought_to_a_hundred_and_say_how_many():
    rows = [DotsRow(0, "A", "Tea", (1.0, 0.0, 1.0), 2 / 3, 0.2, 0.9)]
    drawn = dots_svg(rows, "share", title="x", ends=(0, 1), share=True)
    assert "2 of 3" in drawn
    assert ">100<" in drawn
    assert ">0<" in drawn
    assert ">%<" in drawn
    assert not circles(drawn)


def test_each_treatment_keeps_its_hue_wherever_it_stands():
    first, second = DotsRow(0, "A", "Tea", (1.0,), 1, None, None), DotsRow(1, "B", "Water", (2.0,), 2, None, None)
    for rows in ([first, second], [second, first]):
        drawn = dots_svg(rows, "cm", title="x")
        for row in rows:
            at = drawn.index(f">{row.letter}</text>")
            assert drawn.rindex("fill=", 0, drawn.rindex("<text", 0, at)) < at
            assert HUES[row.place] in drawn[drawn.rindex("<rect", 0, at) : at]


def test_lines_stop_where_readings_do_and_times_keep_their_distances():
    lines = [MeansLine(0, "A", "Tea", ((0, 1), (100, 2))), MeansLine(1, "B", "Water", ((0, 1), (100, 3), (400, 5)))]
    drawn = means_svg(lines, [(0, "Day 0"), (100, "Day 1"), (400, "Day 4")], "cm", title="x")
    assert len(circles(drawn)) == 5
    x = sorted({x for x, _ in circles(drawn)})
    assert (x[2] - x[1]) / (x[1] - x[0]) == pytest.approx(3, rel=0.01)


# Tables


@pytest.mark.parametrize(
    ("cells", "name", "kind"),
    [
        (["yes", "no", "yes"], "ok", "passfail"),
        (["0", "1", "1"], "survived", "passfail"),
        (["A", "b+", "C-"], "mark", "grade"),
        (["1", "4", "5"], "taste score", "grade"),
        (["3", "12", "7"], "number of pods", "count"),
        (["3/20", "12 of 20"], "up", "count"),
        (["12 %", "40%"], "cover", "percent"),
        (["12", "40"], "cover %", "percent"),
        (["1.5 cm", "2 cm"], "height", "measurement"),
        (["1", "2", "3"], "height", "measurement"),
    ],
)
def test_what_kind_of_values_a_column_holds(cells, name, kind):
    assert kind_of(name, cells)[0] == kind


def test_where_counts_have_several_totals_none_is_taken():
    assert kind_of("up", ["3/20", "4/25"]) == ("count", None)


@pytest.mark.parametrize(
    ("header", "parts"),
    [
        ("plot,variety,yield", ["block", "treatment", "value"]),
        ("rep,trt,height", ["block", "treatment", "value"]),
        ("id,group,rater,score", ["sample", "treatment", "scorer", "value"]),
        ("date,product,remark,weight", ["checkpoint", "treatment", "note", "value"]),
    ],
)
def test_columns_by_their_usual_names(header, parts):
    words = {
        "treatment": "abab",
        "scorer": "xyxy",
        "note": "pqrs",
        "value": "1234",
        "block": "1122",
        "sample": "1234",
        "checkpoint": "1122",
    }
    rows = "\n".join(",".join(words[part][i] for part in parts) for i in range(4))
    found = guess(read_foreign(f"{header}\n{rows}\n".encode()))
    assert [one.part for one in found.columns] == parts


def test_a_column_of_words_that_come_back_is_taken_for_the_treatment():
    found = guess(read_foreign(b"stuff,cm\nsoot,1\nsoot,2\nlime,3\nlime,4\n"))
    assert found.columns[0] == ColumnMeaning("stuff", "treatment")


def test_the_control_is_known_by_its_name():
    for name in ("Control", "untreated", "no spray", "Plain water"):
        assert guess(read_foreign(f"treatment,cm\n{name},1\nlime,2\n".encode())).control == name
    assert Meaning((), "").control == ""


METHODS = b"sample;strip;meter;truth;other\na;0;0,2;blank;\nb;-;9,5;10;\nc;25;19;n/a;\nd;25;0;0;x\n"


def test_methods_are_read_with_gaps_blanks_and_decimal_commas():
    table = read_table(METHODS)
    columns = guessed(table)
    assert columns == MethodColumns(("strip", "meter"), "truth", "other")
    sides = side_by_side(table, columns)
    assert np.isnan(sides.values[1, 0])
    assert sides.values[0, 1] == 0.2
    assert sides.truth is not None and sides.other is not None
    assert sides.truth.tolist()[:2] == [0.0, 10.0]
    assert np.isnan(sides.truth[2])
    assert sides.other.tolist() == [False, False, False, True]


def test_methods_that_are_not_there_are_refused():
    with pytest.raises(Refused, match="no column"):
        side_by_side(read_table(METHODS), MethodColumns(("strip", "kit")))
