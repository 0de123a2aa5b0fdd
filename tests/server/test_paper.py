"""Every page of paper: no text lost, none cut, no ink beyond the margins; A4 and Letter, a small trial and a large one."""

import re
import unicodedata
from dataclasses import replace
from datetime import timedelta
from uuid import uuid4

import numpy as np
import pypdfium2
import pytest

from fieldtally.core.design.fair.items import ITEMS
from fieldtally.core.design.plan import Block, Checkpoint, Dose, Layout, Outcome, Plan, Product, Stand, Treatment
from fieldtally.core.rounds.written import Written
from fieldtally.core.scales import GradeScale, Level, MeasurementScale
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.printing import LABEL_SHEETS, PAPER_MM
from fieldtally.server.rounds import services as round_services
from fieldtally.server.rounds.writing import write_readings
from fieldtally.server.share.printed import report_pdf
from fieldtally.server.share.report import report_of
from fieldtally.server.verdict import services as verdict_services
from fieldtally.server.verdict.results import worked_out
from tests.depth import cells, plays

from .conftest import PLAN, as_owner, make
from .test_panels import panel_in

pytestmark = pytest.mark.django_db

PAPERS = ("a4", "letter")
KEYS = [one.key for one in LABEL_SHEETS]
LONG = "Which of forty covers keeps the weeds of the long bed beside the lower path down longest, " * 2
GIANT = "Unbroken" + "mulch" * 24
"""A word wider than any column."""
MARGIN = 5.0
"""Most printers put no ink closer to the edge, in mm."""
PIXELS = 72 / 25.4
AT_ONCE = 500


def big_plan(treatments: int = 40, outcomes: int = 15, looks: int = 30) -> Plan:
    """A trial of 80 samples in two blocks, with names as long as they may be."""
    return replace(
        PLAN,
        title=LONG.strip()[:180],
        products=(Product("p-1", f"Tea of {GIANT[:80]}", "zebrine", "34 %", "250 mL", 5.0, 30),),
        treatments=tuple(
            Treatment(
                f"t-{i}",
                f"Cover number {i + 1} {'of a very long name ' * (3 if i % 4 == 0 else 0)}{GIANT[:100] if i == 7 else ''}".strip(),
                "untreated" if i == 0 else "treatment",
                1,
                doses=(Dose(f"d-{i}", "p-1", "label", "4 mL/L"),) if i == 1 else (),
            )
            for i in range(treatments)
        ),
        layout=Layout(
            "blocks",
            (Block("b-1", "Upper end of the long bed beside the path by the pear", ""), Block("b-2", "Low", "")),
        ),
        outcomes=tuple(
            Outcome(
                f"o-{i}",
                f"Outcome {i + 1} as it was called at length",
                GradeScale(
                    tuple(Level(n, str(n), f"as in picture {n} of the sheet on the shed door") for n in range(4))
                )
                if i % 2
                else MeasurementScale("cm", resolution=0.1),
                primary=i == 0,
            )
            for i in range(outcomes)
        ),
        checkpoints=tuple(Checkpoint(f"c-{i}", f"Hour {i + 1}", 30 * (i + 1), 15, 15) for i in range(looks)),
        held_equal=(),
        cycle_word="",
        cycle_minutes=None,
        cycle_settings=(),
        fairness=tuple(Stand(item.key, False, "only a test") for item in ITEMS),
    )


def scored(world, looks) -> dict[tuple[str, str], list[float]]:
    """Score everything; what was written, by outcome and look."""
    drawn = np.random.default_rng(4)
    samples = list(Sample.objects.filter(trial=world.trial).order_by("code"))
    found = {}
    for n, look in enumerate(looks, start=1):
        at = world.trial.started_at + timedelta(minutes=30 * n)
        opened = round_services.open_round(world.trial, world.users["scorer"], look)
        rows = []
        for outcome in plan_of(world.trial).outcomes:
            graded = isinstance(outcome.scale, GradeScale)
            values = (
                drawn.integers(0, 4, len(samples)) if graded else np.round(drawn.uniform(100, 180, len(samples)), 1)
            )
            found[outcome.key, look] = [float(one) for one in values]
            rows += [
                Written(uuid4(), opened.pk, sample.pk, outcome.key, "value", float(value), "", at)
                for sample, value in zip(samples, values, strict=True)
            ]
        for start in range(0, len(rows), AT_ONCE):
            write_readings(world.trial, world.users["scorer"], rows[start : start + AT_ONCE])
        if n == 2:
            # As the database does by itself within a minute: inside one transaction it cannot.
            with as_owner() as cursor:
                cursor.execute("ANALYZE")
    return found


def plain(text: str) -> str:
    """Letters and digits alone: how a line is broken, or a space is set, tells nothing."""
    return re.sub(r"[\W_]+", "", unicodedata.normalize("NFKC", text)).casefold()


def read(pdf: bytes) -> tuple[str, int]:
    """All text of a PDF, and how many pages it has; fails where a letter or any ink stands beyond the margins.

    Text is taken letter by letter in its order on the page; letters that lie beyond the page are in the PDF, and are found by their place.
    """
    document = pypdfium2.PdfDocument(pdf)
    texts = []
    for number, page in enumerate(document, 1):
        width, height = page.get_size()
        words = page.get_textpage()
        text = words.get_text_range()
        texts.append(text)
        for i in range(words.count_chars()):
            left, bottom, right, top = words.get_charbox(i)
            if right > left:
                assert left >= 0 and bottom >= 0 and right <= width and top <= height, (
                    number,
                    text[max(0, i - 20) : i + 5],
                )
        ink = page.render(scale=1).to_numpy().min(axis=2) < 200
        edge = round(MARGIN * PIXELS)
        beyond = ink.copy()
        beyond[edge:-edge, edge:-edge] = False
        assert not beyond.any(), f"ink within {MARGIN} mm of the edge of page {number}: {np.argwhere(beyond)[:3]}"
        assert sum(not one.isspace() for one in text) > 30, f"page {number} has hardly anything on it: {text!r}"
    return plain("".join(texts)), len(texts)


def stand(text: str, *expected: str) -> None:
    lost = [one for one in expected if plain(one) not in text]
    assert not lost, lost[:5]


@pytest.fixture
def big_sealed():
    return make("running", big_plan(looks=2), scored=False)


@pytest.mark.parametrize("paper", cells(PAPERS, ["letter"]))
def test_a_scoring_sheet_has_a_box_for_each_outcome_of_each_sample(big_sealed, paper):
    plan = big_plan(looks=2)
    answer = big_sealed.call("scorer", "post", f"/prints/scoring.pdf?checkpoint=c-0&paper={paper}")
    text, _ = read(answer.content)
    stand(text, *(one.name for one in plan.outcomes), plan.title, "Low")
    codes = [one.code for one in Sample.objects.filter(trial=big_sealed.trial)]
    # Fifteen outcomes take two sheets side by side, and the codes stand on each of them.
    assert all(text.count(code) >= 2 for code in codes)
    boxes = sum(boxes_on(page) for page in pypdfium2.PdfDocument(answer.content))
    assert boxes == len(codes) * (len(plan.outcomes) + 1)


def boxes_on(page) -> int:
    """How many boxes to write in: paths as high as a cell, each with its four sides."""
    found = set()
    for one in page.get_objects(filter=[2]):
        left, bottom, right, top = one.get_bounds()
        high, wide = (top - bottom) / PIXELS, (right - left) / PIXELS
        if 8.5 < high < 9.6 and wide > 8:
            found.add((round(left), round(bottom)))
    return len(found)


@pytest.mark.parametrize("paper", cells(PAPERS, ["a4"]))
def test_who_gets_what_and_the_key_name_every_treatment_whole(big_sealed, paper):
    names = [one.name for one in big_plan(looks=2).treatments]
    for path in ("handout", "key"):
        text, _ = read(big_sealed.call("preparer", "post", f"/prints/{path}.pdf?paper={paper}").content)
        stand(text, *names, *(one.code for one in Sample.objects.filter(trial=big_sealed.trial)))
    mix, _ = read(big_sealed.get("preparer", f"/prints/mix.pdf?paper={paper}").content)
    stand(mix, big_plan(looks=2).title, GIANT[:80])


@pytest.mark.parametrize("sheet", cells(KEYS, [KEYS[0], KEYS[-1]]))
def test_a_tag_tells_its_code_and_place_whole_and_says_where_a_name_is_cut(big_sealed, sheet):
    size = next(one for one in LABEL_SHEETS if one.key == sheet)
    answer = big_sealed.get("scorer", f"/prints/labels.pdf?sheet={sheet}")
    pages = list(pypdfium2.PdfDocument(answer.content))
    samples = list(Sample.objects.filter(trial=big_sealed.trial))
    text = "".join(page.get_textpage().get_text_range() for page in pages)
    assert all(one.code in text for one in samples)
    assert text.count("Check") == len(samples) == len(re.findall(r"place \d+", text))
    # The title is longer than any tag: each says so.
    assert text.count("…") >= len(samples)
    # Each tag keeps to itself: its letters stand between its own edges.
    page, high = pages[0], pages[0].get_size()[1]
    words = page.get_textpage()
    for i in range(words.count_chars()):
        left, bottom, right, top = words.get_charbox(i)
        if right <= left:
            continue
        x, y = left / PIXELS, (high - top) / PIXELS
        column = (x - size.left) // (size.width + size.gap)
        row = (y - size.top) // size.height
        own = size.left + column * (size.width + size.gap)
        assert 0 <= column < size.across and 0 <= row < size.down
        assert (
            right / PIXELS <= own + size.width and (high - bottom) / PIXELS <= size.top + (row + 1) * size.height + 0.1
        )


@pytest.mark.parametrize("paper", cells(PAPERS, ["letter"]))
def test_a_panels_papers_keep_within_the_page(paper):
    world = make("running")
    address = panel_in(world, people=12)
    for method, role, path in (("post", "preparer", "pour"), ("get", "lead", "cards")):
        answer = getattr(world.clients[role], method)(f"{address}/prints/{path}.pdf?paper={paper}")
        read(answer.content)
    read(world.get("scorer", f"/prints/photo-card.pdf?paper={paper}").content)


@pytest.mark.parametrize("paper", PAPERS)
def test_a_small_report_tells_every_reading_and_cuts_nothing(paper):
    world = make("opened")
    text, _ = read(world.get("viewer", f"/report.pdf?paper={paper}").content)
    stand(text, PLAN.title, PLAN.question, *(one.name for one in PLAN.treatments), *(o.name for o in PLAN.outcomes))
    stand(text, *(one.code for one in Sample.objects.filter(trial=world.trial)), "12.5", "13.5")


def test_a_large_report_begins_with_what_matters_and_prints_its_readings_when_asked():
    plan = big_plan(looks=plays(30, 2))
    world = make("running", plan, scored=False)
    values = scored(world, [one.key for one in plan.checkpoints])
    verdict_services.ask_to_open(world.trial, world.users["lead"])
    verdict_services.open_key(world.trial, world.users["lead"], plan.title)
    world.trial.refresh_from_db()
    worked_out(world.trial)
    report = report_of(world.trial)
    single = 80 * len(plan.outcomes) * len(plan.checkpoints)
    for paper in cells(PAPERS, ["a4"]):
        _, pages = read(report_pdf(report, full=False, paper=paper))
        assert pages == 1
        unasked, few = read(report_pdf(report, full=True, paper=paper))
        assert re.findall(r"(\d+)valuesofsinglesamplesarenotset", unasked) == [str(single)], unasked[-3_000:]
        stand(unasked, plan.title)
        stand(unasked, *(one.name for one in plan.treatments), *(one.name for one in plan.outcomes))
        assert few < 100
    pdf = report_pdf(report, full=True, paper="a4", whole=True)
    whole, many = read(pdf)
    assert many > few
    codes = [one.code for one in Sample.objects.filter(trial=world.trial)]
    assert all(whole.count(code) >= len(plan.outcomes) for code in codes)
    for (outcome, _), row in values.items():
        if outcome == "o-0":
            stand(whole, *(f"{value:g}" for value in row))
    assert all(abs(PAPER_MM["a4"][0] - mm) < 1 for mm in widths(pdf))


def widths(pdf: bytes) -> list[float]:
    return [page.get_size()[0] / PIXELS for page in pypdfium2.PdfDocument(pdf)]
