"""The headless door: what it prints, and how it turns bad input down."""

import io
import json
import math
import zipfile
from pathlib import Path

import pytest

from fieldtally.cli import main
from fieldtally.core.blinding.allocation import allocate
from fieldtally.core.blinding.seal import seal_of, sealed_document
from fieldtally.core.design.plan import Plan, Treatment
from fieldtally.core.problems import Refused
from fieldtally.core.tables.table import read_table
from fieldtally.core.trialpack.pack import Sheet, write_pack
from fieldtally.core.trialpack.reading import sealed_plan_in

ROWS = """tray,soak,bench,day,sprouted
1,dry,n,4,3
2,dry,n,4,4
3,dry,s,4,2
4,tea,n,4,9
5,tea,n,4,8
6,tea,s,4,7
1,dry,n,10,12
2,dry,n,10,14
3,dry,s,10,13
4,tea,n,10,18
5,tea,n,10,19
6,tea,s,10,17
"""


@pytest.fixture
def table(tmp_path):
    def write(content, name="data.csv"):
        path = tmp_path / name
        path.write_bytes(content if isinstance(content, bytes) else content.encode())
        return str(path)

    return write


def run(capsys, *arguments):
    code = main(list(arguments))
    out, err = capsys.readouterr()
    return code, out, err


BASE = ("--treatment", "soak", "--value", "sprouted", "--sample", "tray", "--checkpoint", "day")


def test_the_json_has_the_shape_that_scripts_rely_on(table, capsys):
    code, out, _ = run(
        capsys, "verdict", table(ROWS), *BASE, "--kind", "count", "--block", "bench", "--control", "dry", "--json"
    )
    assert code == 0
    answer = json.loads(out)
    assert set(answer) == {"outcomes", "warnings"}
    first, second = answer["outcomes"]
    assert (first["checkpoint"], second["checkpoint"]) == ("4", "10")
    assert {"outcome", "kind", "n", "overall", "treatments", "pairs", "verdict"} <= set(first)
    assert first["overall"] == {"p": pytest.approx(1 / 6), "method": "exact", "arrangements": 12}
    assert [t["treatment"] for t in first["treatments"]] == ["dry", "tea"]
    assert set(first["treatments"][0]) == {"treatment", "n", "estimate", "low", "high", "median"}
    (pair,) = first["pairs"]
    assert {"a", "b", "difference", "low", "high", "p", "p_adjusted", "favours"} <= set(pair)
    assert pair["difference"] == pytest.approx(-5.2, abs=0.4)
    assert first["verdict"]["level"] == "leaning"
    assert first["verdict"]["winner"] == "tea"


def test_without_json_it_speaks(table, capsys):
    code, out, _ = run(capsys, "verdict", table(ROWS), *BASE, "--kind", "count")
    assert code == 0
    assert "tea seems best on sprouted at 4" in out


def test_pairs_and_lower_is_better(table, capsys):
    rows = "who,day,ache\n" + "".join(
        f"{who},{day},{v}\n" for day in range(6) for who, v in (("balm", 1 + day), ("none", 4 + day))
    )
    code, out, _ = run(
        capsys,
        "verdict",
        table(rows),
        "--treatment",
        "who",
        "--value",
        "ache",
        "--pair",
        "day",
        "--better",
        "lower",
        "--json",
    )
    (outcome,) = json.loads(out)["outcomes"]
    assert code == 0
    assert outcome["pairs"][0]["p"] == pytest.approx(2 / 64)
    assert outcome["verdict"]["winner"] == "balm"


def test_letter_grades_and_pass_or_fail_are_read(table, capsys):
    grades = "t,g\n" + "a,A+\na,A\na,B\na,A-\n" + "b,F\nb,D\nb,C\nb,D+\n"
    code, out, _ = run(
        capsys, "verdict", table(grades), "--treatment", "t", "--value", "g", "--kind", "grade", "--json"
    )
    assert json.loads(out)["outcomes"][0]["verdict"]["winner"] == "a"
    held = "t;held\na;yes\na;yes\na;no\nb;fail\nb;pass\nb;0\n"
    code, out, _ = run(
        capsys, "verdict", table(held), "--treatment", "t", "--value", "held", "--kind", "passfail", "--json"
    )
    first = json.loads(out)["outcomes"][0]
    assert code == 0
    assert [t["estimate"] for t in first["treatments"]] == pytest.approx([2 / 3, 1 / 3])
    assert 0 <= first["treatments"][0]["low"] < first["treatments"][0]["high"] <= 1


def test_one_of_each_is_unreplicated_and_empty_cells_are_told(table, capsys):
    _, out, _ = run(capsys, "verdict", table("t,v\na,1\nb,2\nb,\n"), "--treatment", "t", "--value", "v", "--json")
    answer = json.loads(out)
    assert answer["outcomes"][0]["verdict"]["level"] == "unreplicated"
    assert answer["outcomes"][0]["pairs"][0]["low"] is None
    assert answer["warnings"][0] == "No value on line 4: left out."
    assert answer["outcomes"][0]["verdict"]["winners"] == ["b"]


@pytest.mark.parametrize(
    ("content", "arguments", "line", "word"),
    [
        (ROWS, ("--treatment", "sauce", "--value", "sprouted"), "line 1", "no column “sauce”"),
        (ROWS + "7,tea,s,10\n", BASE, "line 14", "4 cells"),
        (ROWS + "7,tea,s,10,plenty\n", BASE, "line 14", "not a number"),
        (ROWS + "7,,s,10,3\n", BASE, "line 14", "empty"),
        (ROWS + "1,tea,n,12,3\n", BASE, "line 14", "earlier line"),
        (ROWS.encode() + "8,tea,Süd,10,3\n".encode("latin-1"), BASE, "line 14", "UTF-8"),
        ("", BASE, "line 1", "empty"),
        ("  \n\n", BASE, "line 1", "empty"),
        ("tray,soak,bench,day,sprouted\n", BASE, "line 2", "no rows"),
        ("a,a\n1,2\n", BASE, "line 1", "Two columns"),
        ('soak,sprouted\n"dry,1\n', BASE, "line 2", "quotes"),
        (
            "soak,sprouted\ndry,1\ndry,2\n",
            ("--treatment", "soak", "--value", "sprouted"),
            "line 2",
            "only one treatment",
        ),
        (b"soak,sprouted\ndry,1\x00\n", BASE, "line 2", "not a text"),
        ("t,v\na,\nb,\n", ("--treatment", "t", "--value", "v"), "line 2", "no value"),
        (ROWS, (*BASE, "--control", "mint"), "", "mint"),
        (ROWS, (*BASE, "--margin", "-1"), "", "more than 0"),
        (ROWS, (*BASE, "--alpha", "2"), "", "between 0 and 1"),
        (ROWS + "9,tea,n,4,2.5\n", (*BASE, "--kind", "count"), "line 14", "whole"),
    ],
)
def test_bad_input_ends_with_exit_2_and_a_sentence_at_its_line(table, capsys, content, arguments, line, word):
    code, out, err = run(capsys, "verdict", table(content), *arguments)
    assert (code, out) == (2, "")
    assert line in err
    assert word in err


def test_a_file_that_is_not_there(capsys):
    code, _, err = run(capsys, "verdict", "nowhere.csv", *BASE)
    assert code == 2
    assert "nowhere.csv" in err


def test_an_option_that_is_not_known_ends_with_exit_2():
    with pytest.raises(SystemExit) as left:
        main(["verdict", "x.csv", "--treatment", "t", "--value", "v", "--kind", "wonder"])
    assert left.value.code == 2


def test_byte_order_mark_and_tabs_are_understood():
    table = read_table("\ufefft\tv\r\na\t1\r\n".encode())
    assert table.header == ("t", "v")
    assert table.rows[0].line == 2


PLAN = Plan(title="x", treatments=(Treatment("a", "A"), Treatment("b", "B")))


def a_pack():
    document = sealed_document(PLAN, "beef", allocate(PLAN, "beef"))
    sheet = Sheet(
        "samples", "Samples", (("sample", "string"), ("n", "number")), [("=1+1", 2.5), (None, None)], ("sample",)
    )
    return write_pack("x", "X", [sheet], {"plan.json": {"seal": seal_of(document), "sealed": document}})


def test_the_same_pack_has_the_same_bytes_and_no_formula():
    assert a_pack() == a_pack()
    with zipfile.ZipFile(io.BytesIO(a_pack())) as files:
        assert files.read("samples.csv").decode() == "sample,n\r\n'=1+1,2.5\r\n,\r\n"
        package = json.loads(files.read("datapackage.json"))
        assert [f["name"] for f in package["resources"][0]["schema"]["fields"]] == ["sample", "n"]


def test_check_seal_sees_a_changed_key(tmp_path, capsys):
    path = tmp_path / "pack.zip"
    path.write_bytes(a_pack())
    assert run(capsys, "check-seal", str(path))[0] == 0
    document = sealed_plan_in(a_pack())
    document["sealed"]["allocation"][0]["treatment"] = "c"
    path.write_bytes(write_pack("x", "X", [], {"plan.json": document}))
    code, _, err = run(capsys, "check-seal", str(path))
    assert code == 1
    assert "NOT" in err


@pytest.mark.parametrize(
    "content", [b"no zip", write_pack("x", "X", [], {}), write_pack("x", "X", [], {"plan.json": [1]})]
)
def test_what_is_no_sealed_pack_is_refused(content):
    with pytest.raises(Refused):
        sealed_plan_in(content)


def test_the_door_is_a_command(table):
    import subprocess
    import sys

    root = Path(__file__).parents[2]
    ran = subprocess.run(
        [sys.executable, "-m", "fieldtally.cli", "verdict", table(ROWS), *BASE, "--json"],
        cwd=root,
        capture_output=True,
        text=True,
        check=True,
    )
    assert len(json.loads(ran.stdout)["outcomes"]) == 2


def test_a_panel_is_told_in_json_and_in_words(capsys):
    code, out, _ = run(capsys, "panel", "triangle", "24", "14", "--json")
    answer = json.loads(out)
    assert code == 0
    assert list(answer) == ["method", "n", "correct", "guess", "needed", "p", "pd", "dprime"]
    exact = sum(math.comb(24, k) * 2 ** (24 - k) for k in range(14, 25)) / 3**24
    assert (answer["needed"], round(answer["pd"]["value"], 3)) == (13, 0.375)
    assert answer["p"] == pytest.approx(exact)
    assert json.loads(run(capsys, "panel", "2-AFC", "8", "8", "--json")[1])["dprime"]["high"] is None
    assert "13 were needed, 2 more than there were" in run(capsys, "panel", "triangle", "24", "11")[1]
    assert "not even all of them" in run(capsys, "panel", "triangle", "2", "2")[1]


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (("quadrangle", "24", "14"), "no test called"),
        (("triangle", "24", "25"), "25 right answers of 24 cannot be"),
        (("triangle", "0", "0"), "at least one is needed"),
        (("triangle", "24", "14", "--alpha", "2"), "between 0 and 1"),
        (("preference", "24", "14"), "no one right answer"),
    ],
)
def test_a_panel_that_cannot_be_is_refused(capsys, arguments, says):
    code, out, err = run(capsys, "panel", *arguments)
    assert (code, out) == (2, "")
    assert says in err


def answers_of(table, method, rows, capsys, *more):
    code, out, err = run(capsys, "panel", method, "--answers", table("\n".join(rows)), "--json", *more)
    return (code, json.loads(out) if out else None, err)


def test_answers_are_counted_by_person(table, capsys):
    once = ["assessor,set,right", *(f"p{i},1,{int(i < 14)}" for i in range(24))]
    code, told, _ = answers_of(table, "triangle", once, capsys)
    assert code == 0
    assert (told["persons"], told["correct"], told["needed"]) == (24, 14, 13)
    assert "p_plain" not in told
    assert told["p"] == json.loads(run(capsys, "panel", "triangle", "24", "14", "--json")[1])["p"]
    stuck = ["assessor,set,right", *(f"p{i},{n},{int(i < 6)}" for i in range(12) for n in range(3))]
    _, told, _ = answers_of(table, "triangle", stuck, capsys)
    assert (told["persons"], told["n"], told["correct"]) == (12, 36, 18)
    assert told["p_plain"] < 0.05 < told["p"]
    likes = [
        "assessor,set,chosen",
        *(f"p{i},{n},{'leaf' if i < 13 else 'none at all'}" for i in range(20) for n in range(3)),
    ]
    _, told, _ = answers_of(table, "preference", likes, capsys)
    assert (told["persons"], told["counts"]) == (20, {"leaf": 13, "none at all": 7})
    assert told["p"] == pytest.approx(0.263, abs=0.01)
    assert told["p_plain"] < 0.05
    assert "20 people, 60 answers" in run(capsys, "panel", "preference", "--answers", table("\n".join(likes)))[1]


def test_answers_to_every_other_test_are_read(table, capsys):
    names = ["assessor,set,presented,chosen"]
    names += [
        f"p{i},{n},{jar},{jar if i < 4 else 'abc'['bca'.index(jar)]}"
        for i in range(6)
        for n in range(2)
        for jar in "abc"
    ]
    _, told, _ = answers_of(table, "naming", names, capsys)
    assert (told["persons"], told["n"], told["correct"], told["of"]) == (6, 12, 24, 36)
    ranks = ["assessor,presented,rank", *(f"p{i},{thing},{n}" for i in range(8) for n, thing in enumerate("xyz", 1))]
    _, told, _ = answers_of(table, "ranking", ranks, capsys)
    assert told["means"] == {"x": 1.0, "y": 2.0, "z": 3.0}
    assert told["p"] < 0.01
    grades = [one.replace("rank", "grade") for one in ranks]
    assert answers_of(table, "grading", grades, capsys)[1]["means"]["z"] == 1.0
    yes = ["assessor,set,presented,answer"]
    yes += [f"p{i},{n},{('A', 'not A')[n % 2]},{('yes', 'no')[n % 2]}" for i in range(8) for n in range(2)]
    _, told, _ = answers_of(table, "a-not-a", yes, capsys)
    assert (told["hits"], told["signals"], told["alarms"], told["noises"]) == (8, 8, 0, 8)
    assert told["p"] == pytest.approx(1 / 256)
    same = [
        "assessor,presented,answer",
        *(f"p{i},{('same', 'different')[i % 2]},{('same', 'different')[i % 2]}" for i in range(12)),
    ]
    assert answers_of(table, "same-different", same, capsys)[1]["p"] < 0.05
    many = ["assessor,chosen", *(f"p{i},{'abc'[i % 3 if i > 8 else 0]}" for i in range(20)), "p20,neither"]
    assert answers_of(table, "preference", many, capsys)[1]["counts"]["a"] > 8


@pytest.mark.parametrize(
    ("method", "rows", "says"),
    [
        ("triangle", ["assessor,right", "a,maybe"], "line 2"),
        ("triangle", ["assessor,right", ",1"], "assessor is missing"),
        ("triangle", ["who,right", "a,1"], "no column “assessor”"),
        ("triangle", ["assessor,set", "a,1"], "no column “right”"),
        ("preference", ["assessor,chosen", "a,neither"], "Nobody chose anything"),
        ("naming", ["assessor,presented,chosen", "a,x,z", "a,y,x"], "was not among what was presented"),
        ("naming", ["assessor,presented,chosen", "a,x,x", "a,x,y", "a,y,y"], "named twice"),
        ("naming", ["assessor,presented,chosen", "a,x,x", "a,y,y", "b,x,x"], "did not name all"),
        ("ranking", ["assessor,presented,rank", "a,x,first", "a,y,2"], "is no rank"),
        ("ranking", ["assessor,presented,rank", "a,x,1", "a,y,2", "b,x,1"], "ranks all of them"),
        ("a-not-a", ["assessor,presented,answer", "a,A,perhaps"], "neither yes"),
    ],
)
def test_a_table_of_answers_that_cannot_be_read_is_refused_with_its_line(table, capsys, method, rows, says):
    code, told, err = answers_of(table, method, rows, capsys)
    assert (code, told) == (2, None)
    assert says in err


def test_servings_are_drawn_and_balanced(capsys):
    code, out, _ = run(capsys, "serving", "triangle", "6", "--sets", "3", "--json")
    rows = json.loads(out)["servings"]
    assert code == 0
    assert {(one["person"], one["set"]) for one in rows} == {(p, s) for p in range(1, 7) for s in range(1, 4)}
    assert len({one["order"] for one in rows if one["person"] == 1}) == 3
    assert out == run(capsys, "serving", "triangle", "6", "--sets", "3", "--json")[1]
    assert out != run(capsys, "serving", "triangle", "6", "--sets", "3", "--seed", "2", "--json")[1]
    assert "1: " in run(capsys, "serving", "ranking", "4", "--things", "4")[1]
    assert run(capsys, "serving", "triangle", "0")[0] == 2
    assert run(capsys, "panel", "triangle")[0] == 2


def test_factors_are_told_by_their_terms(table, capsys):
    rows = ["feed,light,bed,mass"]
    for bed, shift in (("a", 0.0), ("b", 3.0)):
        for feed, light, mass in (("no", "sun", 10), ("no", "shade", 9), ("yes", "sun", 16), ("yes", "shade", 15)):
            rows += [f"{feed},{light},{bed},{mass + shift + i * 0.3}" for i in range(3)]
    file = table("\n".join(rows))
    asked = ["verdict", file, "--factor", "feed", "--factor", "light", "--value", "mass", "--block", "bed", "--json"]
    assert main(asked) == 0
    (told,) = json.loads(capsys.readouterr().out)["outcomes"]
    found = {one["term"]: one["p"] for one in told["effects"]}
    assert set(found) == {"feed", "light", "feed × light"}
    assert found["feed"] < 0.001
    assert found["feed × light"] > 0.1
    assert [one["treatment"] for one in told["treatments"]] == ["no / sun", "no / shade", "yes / sun", "yes / shade"]
    assert main([*asked[:-1]]) == 0
    assert "feed: p" in capsys.readouterr().out


def test_events_with_a_last_look_are_compared_by_log_rank(table, capsys):
    rows = ["arm,weeks,end"]
    rows += [
        f"drug,{w},{e}" for w, e in ((6, 1), (6, 1), (6, 1), (6, 0), (7, 1), (9, 0), (10, 1), (22, 1), (32, 0), (35, 0))
    ]
    rows += [f"plain,{w},1" for w in (1, 1, 2, 2, 3, 4, 4, 5, 5, 8)]
    file = table("\n".join(rows))
    asked = ["verdict", file, "--treatment", "arm", "--value", "weeks", "--kind", "event", "--event", "end", "--json"]
    assert main(asked) == 0
    (told,) = json.loads(capsys.readouterr().out)["outcomes"]
    assert (told["kind"], told["n"]) == ("event", 20)
    assert told["pairs"][0]["p"] < 0.01
    assert (told["verdict"]["level"], told["verdict"]["winner"]) == ("clear", "drug")
    lower = [*asked[:-1], "--better", "lower", "--json"]
    assert main(lower) == 0
    assert json.loads(capsys.readouterr().out)["outcomes"][0]["verdict"]["winner"] == "plain"


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["--value", "b"], "either --treatment or --factor"),
        (["--treatment", "a", "--factor", "a", "--value", "b"], "either --treatment or --factor"),
        (["--treatment", "a", "--value", "b", "--event", "c"], "--event goes with --kind event"),
        (["--treatment", "a", "--value", "b", "--kind", "event", "--event", "c"], "neither seen (1) nor not yet (0)"),
    ],
)
def test_options_that_do_not_go_together_are_refused(table, capsys, arguments, says):
    assert main(["verdict", table("a,b,c\nx,1,perhaps\ny,2,perhaps"), *arguments, "--json"]) == 2
    assert says in capsys.readouterr().err
