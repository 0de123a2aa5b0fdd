"""The report tells what the trial tells, cannot be bent, and is read by others only while it is published."""

import io
import json
import re
from html import unescape
from uuid import uuid4

import numpy as np
import openpyxl
import pypdfium2
import pytest
from django.test import Client
from django.utils import timezone
from PIL import Image

from fieldtally.core.charts.dots import DotsRow, MeansLine, dots_svg, means_svg, nice
from fieldtally.core.trialpack.reading import read_pack
from fieldtally.server.measuring.models import Photo
from fieldtally.server.plan.models import Sample
from fieldtally.server.share.models import ReaderPrediction, Report
from fieldtally.server.share.pack_reader import bring_in
from tests.server.conftest import PLAN, make, replace, score
from tests.server.test_packs import inside, packed
from tests.server.test_planning import MANY
from tests.server.test_sight import ask_kept, photo_form

pytestmark = pytest.mark.django_db


def text_of(pdf: bytes) -> str:
    return "\n".join(page.get_textpage().get_text_range() for page in pypdfium2.PdfDocument(pdf))


def put(world, body, who="lead"):
    return world.clients[who].put(f"/api/trials/{world.trial.pk}/report", body, content_type="application/json")


def test_the_report_is_told_on_screen_and_on_paper_in_real_text():
    world = make("opened")
    verdict = world.get("lead", "/verdict").json()
    page = world.get("viewer", "/report.html")
    assert page.status_code == 200 and "style-src 'self' 'unsafe-inline'" in page.headers["Content-Security-Policy"]
    html = page.content.decode()
    for paper in ("a4", "letter"):
        printed = text_of(world.get("viewer", f"/report.pdf?paper={paper}").content)
        flat = re.sub(r"\s+", " ", printed)
        for said in (PLAN.title, PLAN.question, verdict["seal"][:40], *[t["name"] for t in verdict["treatments"]]):
            assert said in flat, said
        assert all(re.sub(r"\s+", " ", limit)[:60] in flat for limit in verdict["not_claimed"])
    assert verdict["findings"][0]["sentence"].replace("'", "&#x27;") in html
    assert html.count("<svg") >= 2 and "<script" not in html
    short = text_of(world.get("viewer", "/report.pdf?short=true").content)
    assert (
        "All readings" not in short
        and len(pypdfium2.PdfDocument(world.get("lead", "/report.pdf?short=true").content)) == 1
    )


def test_before_the_key_is_open_there_is_no_report_for_anybody():
    world = make("running")
    for path in ("/report.html", "/report.pdf", "/report", "/workbook.xlsx", "/verdict.json", "/chart?outcome=o-grade"):
        for role in ("lead", "scorer", "preparer", "viewer"):
            assert world.get(role, path).status_code == 403, (path, role)


def test_what_is_written_beside_stands_in_the_report_and_names_of_treatments_are_escaped():
    world = make("opened", replace(PLAN, title="Beans <b>under</b> mulch"))
    assert put(world, {"comments": {"result": "We were <script>surprised</script>."}}).status_code == 200
    html = world.get("viewer", "/report.html").content.decode()
    assert "We were &lt;script&gt;surprised" in html and "Beans &lt;b&gt;under" in html
    assert put(world, {"comments": {"nonsense": "x"}}).json()["problems"][0]["at"] == "comments.nonsense"
    assert put(world, {"comments": {"result": "x" * 4001}}).status_code == 422
    assert put(world, {"comments": {}, "photos": ["5b0d2f0a-6a4b-4c1e-9d0e-0d8f2b7a1c11"]}).status_code == 422
    assert put(world, {"comments": {}}, "scorer").status_code == 403


def test_chosen_photos_are_in_it():
    world = make("running")
    assert ask_kept(world, photo_form(caption="at dusk")).status_code == 200
    world.call("lead", "post", "/key/ask")
    world.call("lead", "post", "/key/open", {"title": PLAN.title})
    photo = Photo.objects.get()
    assert put(world, {"comments": {}, "photos": [str(photo.pk)]}).status_code == 200
    assert "data:image/jpeg;base64," in world.get("viewer", "/report.html").content.decode()
    assert "at dusk" in text_of(world.get("viewer", "/report.pdf").content)


def test_a_published_report_is_read_by_anybody_names_nobody_and_can_be_taken_back():
    world = make("opened")
    stranger = Client()
    assert world.call("scorer", "post", "/publish", {"out": True}).status_code == 403
    token = world.call("lead", "post", "/publish", {"out": True}).json()["token"]
    assert len(token) > 25
    before = stranger.get(f"/api/published/{token}").json()
    assert before["sentences"] == [] and before["level"] == "" and before["readers"] == 0
    html = stranger.get(f"/api/published/{token}/report.html").content.decode()
    names = [user.name for user in world.users.values() if user.name]
    assert names and not any(name in html for name in names)
    assert PLAN.title in text_of(stranger.get(f"/api/published/{token}/report.pdf").content)
    picture = stranger.get(f"/api/published/{token}/card.png")
    assert Image.open(io.BytesIO(picture.content)).size == (1200, 630)
    world.call("lead", "post", "/publish", {"out": True, "names": True})
    assert any(name in stranger.get(f"/api/published/{token}/report.html").content.decode() for name in names)
    world.call("lead", "post", "/publish", {"out": False})
    for path in ("", "/report.html", "/report.pdf", "/card.png"):
        assert stranger.get(f"/api/published/{token}{path}").status_code == 404
    assert stranger.get("/api/published/").status_code == 404
    assert Report.objects.get().token == ""
    assert world.call("lead", "post", "/publish", {"out": True}).json()["token"] != token


def test_no_name_stands_anywhere_on_the_published_page():
    world = make("running")
    scorer = world.users["scorer"]
    scorer.name = "Tobit Wray"
    scorer.save()
    sample = Sample.objects.filter(trial=world.trial).first()
    world.call("lead", "post", "/aside", {"code": sample.code, "reason": "Tobit Wray dropped it"})
    world.call("lead", "post", "/key/ask")
    world.call("lead", "post", "/key/open", {"title": PLAN.title})
    put(world, {"comments": {"result": "Thanks to tobit wray."}})
    token = world.call("lead", "post", "/publish", {"out": True}).json()["token"]
    html = Client().get(f"/api/published/{token}/report.html").content.decode()
    assert "tobit" not in html.casefold()
    assert "somebody dropped it" in html
    assert "Tobit Wray dropped it" in world.get("viewer", "/report.html").content.decode()


def test_a_reader_says_what_they_expect_once_and_then_sees():
    world = make("opened")
    token = world.call("lead", "post", "/publish", {"out": True}).json()["token"]
    path = f"/api/published/{token}/expected"
    reader = Client()

    def say(client, treatment):
        return client.post(path, {"treatment": treatment}, content_type="application/json")

    told = say(reader, "t-zebra").json()
    assert told["sentences"] and told["readers"] == 1
    assert {one["key"]: one["expected"] for one in told["treatments"]}["t-zebra"] == 1
    assert say(reader, "t-quartz").json()["readers"] == 1
    assert say(Client(), "").json()["readers"] == 1
    assert say(Client(), "t-none").status_code == 422
    assert ReaderPrediction.objects.count() == 1


def test_workbook_verdict_and_charts_go_along():
    world = make("running", replace(PLAN, question="=HYPERLINK(1)"), scored=False)
    score(world, "c-1")
    score(world, "c-2")
    world.call("lead", "post", "/key/ask")
    world.call("lead", "post", "/key/open", {"title": PLAN.title})
    book = openpyxl.load_workbook(io.BytesIO(world.get("viewer", "/workbook.xlsx").content))
    assert book.sheetnames[:3] == ["Summary", "treatments", "samples"]
    assert book["Summary"]["B2"].value == "=HYPERLINK(1)" and book["Summary"]["B2"].data_type == "s"
    assert book["samples"].max_row == 13
    told = json.loads(world.get("viewer", "/verdict.json").content)
    assert [f["sentence"] for f in told["findings"]] == [
        f["sentence"] for f in world.get("lead", "/verdict").json()["findings"]
    ]
    drawn = world.get("viewer", "/chart?outcome=o-grade").content.decode()
    assert drawn.startswith("<svg") and drawn.count("<circle") == 12
    assert (
        Image.open(io.BytesIO(world.get("viewer", "/chart?outcome=o-grade&kind=time&form=png").content)).width == 1800
    )
    assert world.get("viewer", "/chart?outcome=o-none").status_code == 404
    assert world.get("viewer", "/chart?outcome=o-pods&kind=time").status_code == 404


def test_charts_are_honest():
    rows = [
        DotsRow(1, "B", "Tea <3", (4.0, 4.0, 5.0), 4.33, 3.9, 4.8),
        DotsRow(0, "A", "Water", (1.0,), 1.0, None, None),
    ]
    drawn = dots_svg(rows, "cm", title="Height & more")
    assert drawn.count("<circle") == 4 and "Tea &lt;3" in drawn and "Height &amp; more" in drawn and ">cm<" in drawn
    groups = enumerate(drawn.split("<g ")[1:])
    ys = {(n, float(y)) for n, own in groups for y in re.findall(r'<circle cx="[\d.]+" cy="([\d.]+)"', own)}
    # Two that are alike stand on each other.
    assert len(ys) == 3
    xs = [float(x) for x in re.findall(r'<circle cx="([\d.]+)"', drawn)]
    assert xs[2] - xs[0] == pytest.approx((xs[0] - xs[3]) / 3, abs=0.2)
    lines = [MeansLine(0, "A", "Water", ((0, 1.0), (2880, 2.0))), MeansLine(1, "B", "Tea", ((0, 1.0), (2880, 2.05)))]
    over = means_svg(lines, [(0, "Day 0"), (2880, "Day 2")], "cm", title="x")
    assert 'stroke-dasharray="9 4"' in over and over.count("<path") == 2
    assert nice(0, 1)[0] == 0 and nice(-3, 7) == [-4, -2, 0, 2, 4, 6, 8]


def all_scales():
    """A trial on every scale there is, scored at both looks; its readings are made as a scorer's device makes them."""
    world = make("running", replace(PLAN, outcomes=MANY), scored=False)
    values = {
        "o-grade": 1,
        "percent": 35,
        "shade": 2,
        "event": 1,
        "ladder": 10,
        "curve": [2.0, 4.1, 7.9],
        "note": "it smells",
    }
    part = {list: "responses", str: "words"}
    for look in ("c-1", "c-2"):
        opened = world.call("scorer", "post", "/rounds", {"checkpoint": look}).json()
        rows = [
            {
                "id": str(uuid4()),
                "round": opened["id"],
                "sample": sample["id"],
                "outcome": outcome,
                "kind": "value",
                part.get(type(value), "value"): [one + i / 10 for one in value] if isinstance(value, list) else value,
                "taken_at": timezone.now().isoformat(),
            }
            for i, sample in enumerate(opened["samples"])
            for outcome, value in values.items()
        ]
        answer = world.call("scorer", "post", "/readings", {"readings": rows})
        assert answer.status_code == 200, answer.content
    return world


def test_very_many_samples_are_counted_in_columns_that_fit_a_page():
    rng = np.random.default_rng(1)
    rows = [
        DotsRow(i, "ABCD"[i], f"Feed {i}", tuple(rng.normal(i, 2, 400).round(1)), float(i), i - 0.1, i + 0.1)
        for i in range(4)
    ]
    drawn = dots_svg(rows, "cm", title="Height")
    height = float(re.search(r'viewBox="0 0 640 ([\d.]+)"', drawn)[1])
    assert height < 900
    assert "<circle" not in drawn
    tallest = int(re.search(r"the tallest (\d+)", drawn)[1])
    bars = [float(h) for h in re.findall(r'height="([\d.]+)" fill="#(?!fbfcfa)[0-9a-f]{6}"/>', drawn) if h != "20"]
    assert max(bars) == pytest.approx(126, abs=0.1)
    # As tall as they count, all of them.
    assert round(sum(bars) * tallest / 126) == pytest.approx(1_600, abs=12)


def test_while_it_is_sealed_the_lead_sees_every_scale_without_codes_or_treatments():
    world = all_scales()
    told = world.get("lead", "/progress").json()
    kinds = {one["scale"]["kind"] for one in told["outcomes"]}
    assert kinds == {"grade", "percent", "shade", "event", "ladder", "curve"}
    assert all(look["values"] == sorted(look["values"]) for one in told["outcomes"] for look in one["looks"])
    codes = set(Sample.objects.filter(trial=world.trial).values_list("code", flat=True))
    assert not any(f'"{code}"' in json.dumps(told) for code in codes)
    for role in ("scorer", "preparer", "viewer"):
        assert world.get(role, "/progress").status_code == 403


def test_every_scale_has_its_report_chart_workbook_and_pack():
    world = all_scales()
    world.call("lead", "post", "/key/ask")
    assert world.call("lead", "post", "/key/open", {"title": PLAN.title}).status_code == 200
    html = world.get("viewer", "/report.html").content.decode()
    for name in ("Browning", "Shade", "Wilt", "Load", "Stretch"):
        assert f"<h3>{name}, supporting</h3>" in html
    assert "Told without a winner" in html
    assert "nan" not in html.casefold().replace("nand", "")
    assert "All readings" in text_of(world.get("viewer", "/report.pdf").content)
    for outcome in ("percent", "shade", "event", "ladder", "curve"):
        drawn = world.get("viewer", f"/chart?outcome={outcome}")
        assert drawn.status_code == 200, outcome
        assert "NaN" not in drawn.content.decode()
        assert "inf" not in drawn.content.decode().replace("information", "")
    assert world.get("viewer", "/chart?outcome=note").status_code == 404
    behind = {one["outcome"]: one for one in world.get("lead", "/verdict").json()["behind"]}
    assert behind["curve"]["departed"][0]["mean"]
    assert behind["curve"]["ratios"]
    book = openpyxl.load_workbook(io.BytesIO(world.get("viewer", "/workbook.xlsx").content))
    assert "it smells" in {cell.value for row in book["readings"].iter_rows() for cell in row}
    world.trial.refresh_from_db()
    first = packed(world.trial)
    back = bring_in(read_pack(first), world.users["outsider"])
    assert inside(packed(back))["verdict.json"] == inside(first)["verdict.json"]


def test_page_report_and_workbook_say_the_same_of_every_scale():
    world = all_scales()
    world.call("lead", "post", "/key/ask")
    assert world.call("lead", "post", "/key/open", {"title": PLAN.title}).status_code == 200
    verdict = world.get("lead", "/verdict").json()
    html = unescape(world.get("viewer", "/report.html").content.decode())
    book = openpyxl.load_workbook(io.BytesIO(world.get("viewer", "/workbook.xlsx").content))
    summary = "\n".join(str(cell.value or "") for row in book["Summary"].iter_rows() for cell in row)
    for one in verdict["told"]:
        for row in one["treatments"]:
            assert f"{row['treatment']}: {row['figure']} ({row['between']}), {row['n']} samples" in summary
            assert f'<td class="number">{row["figure"]}</td>' in html
        for pair in one["pairs"][: one["first"]]:
            assert f'<td class="number">{pair["p"]}</td>' in html
    for use in verdict["uses"]:
        assert use["says"][0] in html
        assert use["says"][0] in summary
    for limit in verdict["not_claimed"]:
        assert limit in html
        assert limit in summary
    for claim in (one for one in verdict["findings"] if one["claim"] and one["checkpoint"] is None):
        assert html.count(claim["sentence"]) == 1


def test_single_readings_are_told_in_the_words_of_their_scale():
    world = all_scales()
    world.call("lead", "post", "/key/ask")
    world.call("lead", "post", "/key/open", {"title": PLAN.title})
    raw = world.get("viewer", "/report.html").content.decode().rsplit("All readings</h2>", 1)[1]
    assert "<td>seen</td>" in raw
    assert "<td>deep</td>" in raw
