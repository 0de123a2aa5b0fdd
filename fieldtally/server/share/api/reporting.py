"""Doors of the report: read, printed, written beside, published; charts, workbook and verdict to take along."""

from __future__ import annotations

import io
import json
import re
from typing import Literal
from uuid import UUID

import pypdfium2
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from fieldtally.core.charts.dots import HUES
from fieldtally.core.design.letters import letter_of
from fieldtally.core.problems import Problem
from fieldtally.core.verdict.agreeing import agreement_sentences
from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.measuring.models import Photo
from fieldtally.server.panels.queries import read_panels, told_whole
from fieldtally.server.people.models import Trial
from fieldtally.server.people.sight import Sight, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.printing import Paper, pdf_bytes
from fieldtally.server.rounds.models import Reading
from fieldtally.server.share.api.files import fetched, fetched_by_reader
from fieldtally.server.share.making import Wanted
from fieldtally.server.share.models import ReaderPrediction, Report
from fieldtally.server.share.pack_writer import verdict_document
from fieldtally.server.share.printed import report_page, waiting_page
from fieldtally.server.share.publishing import published_report, put_out, take_back
from fieldtally.server.share.raw import FEW_VALUES
from fieldtally.server.share.report import MOST_PHOTOS, SECTIONS, chart_of, leads_of, report_of
from fieldtally.server.verdict.lining_up import LineUpOut, LineUpPickIn, line_up_out, pick, reader_of
from fieldtally.server.verdict.results import NotYet, concluded, kept_study
from fieldtally.server.verdict.study import Study
from fieldtally.server.verdict.told import panels_alone

router = Router()
LONGEST_COMMENT = 4_000
MOST_READERS = 10_000
WIDE_CHART = 900


def _opened(request: HttpRequest, trial_id: UUID) -> Sight:
    seen = sight(request, trial_id)
    seen.need("see_report")
    return seen


def _named(trial: Trial, ending: str) -> str:
    plain = re.sub(r"[^a-z0-9]+", "-", trial.title.casefold()).strip("-") or "trial"
    return f"{plain}{ending}"


def _file(content: bytes, kind: str, name: str) -> HttpResponse:
    return HttpResponse(content, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


def _page(trial: Trial, *, names: bool, short: bool) -> HttpResponse:
    """The report, or a page that waits for the verdict."""
    try:
        return report_page(report_of(trial, names=names), full=not short)
    except NotYet as waited:
        return waiting_page(waited.problems[0].says)


@router.get("/trials/{trial_id}/report.html", response={200: None, 202: None, 403: ProblemsOut, 404: ProblemsOut})
def read(request: SignedIn, trial_id: UUID, short: bool = False) -> HttpResponse:
    """The report as a page of its own."""
    return _page(_opened(request, trial_id).trial, names=True, short=short)


@router.get("/trials/{trial_id}/report.pdf", response={200: None, 303: None, 403: ProblemsOut, 404: ProblemsOut})
def printed(
    request: SignedIn, trial_id: UUID, paper: Paper = "a4", short: bool = False, whole: bool = False
) -> HttpResponse:
    """The report as PDF; of a large trial the way to where it will be.  ``whole``: with the values of all samples where they are many."""
    return fetched(request, trial_id, Wanted("report", paper, short, whole))


class ReportOut(Schema):
    """What is written beside the figures, by section; chosen photos; and where it is published (empty: nowhere)."""

    sections: list[str]
    comments: dict[str, str]
    photos: list[UUID]
    token: str
    names: bool
    readers: int
    may_publish: bool
    many_readings: bool


def _out(seen: Sight) -> ReportOut:
    kept = Report.objects.filter(pk=seen.trial.pk).first()
    return ReportOut(
        sections=list(SECTIONS),
        comments=dict(kept.comments) if kept else {},
        photos=[UUID(one) for one in kept.photos] if kept else [],
        token=kept.token if kept else "",
        names=kept.names if kept else False,
        readers=ReaderPrediction.objects.filter(trial=seen.trial).count(),
        may_publish=seen.may("publish"),
        many_readings=Reading.objects.filter(trial=seen.trial)[: FEW_VALUES + 1].count() > FEW_VALUES,
    )


@router.get("/trials/{trial_id}/report", response={200: ReportOut, 403: ProblemsOut, 404: ProblemsOut})
def report(request: SignedIn, trial_id: UUID) -> ReportOut:
    """What is written beside the report's figures."""
    return _out(_opened(request, trial_id))


class ReportIn(Schema):
    """Comments by section, and the photos (ids) to show, in order."""

    comments: dict[str, str]
    photos: list[UUID] = []


@router.put(
    "/trials/{trial_id}/report", response={200: ReportOut, 403: ProblemsOut, 404: ProblemsOut, 422: ProblemsOut}
)
def write(request: SignedIn, trial_id: UUID, body: ReportIn) -> ReportOut:
    """Write beside the figures; the figures themselves cannot be changed."""
    seen = _opened(request, trial_id)
    seen.need("write_report")
    for section, text in body.comments.items():
        if section not in SECTIONS:
            raise Declined(422, Problem(f"comments.{section[:20]}", "There is no such section."))
        if len(text) > LONGEST_COMMENT:
            raise Declined(422, Problem(f"comments.{section}", f"Up to {LONGEST_COMMENT:,} letters, please."))
    known = set(Photo.objects.filter(trial=seen.trial, gone=False, pk__in=body.photos).values_list("pk", flat=True))
    if len(body.photos) > MOST_PHOTOS or set(body.photos) - known:
        raise Declined(422, Problem("photos", f"Up to {MOST_PHOTOS} photos of this trial, please."))
    comments = {section: text.strip() for section, text in body.comments.items() if text.strip()}
    Report.objects.update_or_create(
        trial=seen.trial, defaults={"comments": comments, "photos": [str(one) for one in body.photos]}
    )
    return _out(seen)


class PublishIn(Schema):
    """``out``: whether anybody with the address may read; ``names``: whether people are named there, all of whom agreed."""

    out: bool
    names: bool = False


@router.post("/trials/{trial_id}/publish", response={200: ReportOut, 403: ProblemsOut, 404: ProblemsOut})
def publish(request: SignedIn, trial_id: UUID, body: PublishIn) -> ReportOut:
    """Publish the report at an address nobody guesses, or take it back: the old address is then worth nothing."""
    seen = _opened(request, trial_id)
    seen.need("publish")
    if body.out:
        put_out(seen.trial, request.user, names=body.names)
    else:
        take_back(seen.trial)
    return _out(seen)


@router.get("/trials/{trial_id}/chart", response={200: None, 403: ProblemsOut, 404: ProblemsOut})
def chart(
    request: SignedIn,
    trial_id: UUID,
    outcome: str,
    kind: Literal["dots", "time"] = "dots",
    form: Literal["svg", "png"] = "svg",
) -> HttpResponse:
    """One chart of an outcome (key), to put elsewhere."""
    seen = _opened(request, trial_id)
    drawn = _drawn(kept_study(seen.trial), seen.trial, outcome, kind)
    return _picture(drawn, form, _named(seen.trial, f"-{kind}"))


def _drawn(study: Study, trial: Trial, outcome: str, kind: str) -> str:
    own = [one for one in concluded(trial).findings if one.outcome == outcome]
    wanted = next((one for one in study.plan.outcomes if one.key == outcome), None)
    main = next((one for one in own if one.checkpoint is None), None)
    if main is None or wanted is None:
        raise missing()
    if kind == "dots":
        return chart_of(study, main, wanted, WIDE_CHART)
    drawn = leads_of(study, [one for one in own if one.checkpoint is not None], wanted, WIDE_CHART)
    if drawn is None:
        raise missing()
    return drawn


def _picture(drawn: str, form: str, name: str) -> HttpResponse:
    if form == "svg":
        return _file(drawn.encode(), "image/svg+xml", f"{name}.svg")
    found = re.search(r'width="([\d.]+)" height="([\d.]+)"', drawn)
    width, height = (float(one) for one in found.groups()) if found else (WIDE_CHART, WIDE_CHART / 2)
    made = pdf_bytes("prints/chart.html", {"chart": drawn, "wide": width, "tall": height})
    page = pypdfium2.PdfDocument(made)[0]
    out = io.BytesIO()
    page.render(scale=2 * 96 / 72).to_pil().save(out, "PNG")
    return _file(out.getvalue(), "image/png", f"{name}.png")


@router.get("/trials/{trial_id}/workbook.xlsx", response={200: None, 303: None, 403: ProblemsOut, 404: ProblemsOut})
def workbook(request: SignedIn, trial_id: UUID) -> HttpResponse:
    """Summary and all tables as XLSX; of a large trial the way to where it will be."""
    return fetched(request, trial_id, Wanted("workbook"))


@router.get("/trials/{trial_id}/verdict.json", response={200: None, 403: ProblemsOut, 404: ProblemsOut})
def verdict(request: SignedIn, trial_id: UUID) -> HttpResponse:
    """Every figure of the verdict as JSON, as a trial pack holds it."""
    seen = _opened(request, trial_id)
    told = json.dumps(verdict_document(concluded(seen.trial)), ensure_ascii=False, indent=1)
    return _file(told.encode(), "application/json", _named(seen.trial, "-verdict.json"))


# What anybody with the address may read


class PublishedTreatment(Schema):
    """A treatment, and how many readers expected it to be best."""

    key: str
    letter: str
    name: str
    expected: int


class PublishedOut(Schema):
    """A published trial.  Before a reader has said what they expect, or that they would rather not, the result is left out.
    ``asks``: there is a best one to be expected; of a tasting there is not."""

    title: str
    question: str
    asks: bool
    treatments: list[PublishedTreatment]
    readers: int
    sentences: list[str]
    level: str


def _published(kept: Report, *, told: bool) -> PublishedOut:
    study = kept_study(kept.trial)
    rows = list(ReaderPrediction.objects.filter(trial=kept.trial).values_list("treatment", flat=True)) if told else []
    found = [one for one in concluded(kept.trial).findings if one.claim] if told else []
    # What the panels found stands here in the same words as everywhere; where they are all there is, alone.
    panels = [told_whole(one, named=False)[0].sentence for one in read_panels(kept.trial)] if told else []
    agree = told and study.plan.agreement is not None
    instruments = agreement_sentences(concluded(kept.trial).instruments) if agree else ()
    if panels_alone(study, panels):
        found, instruments = [], ()
    return PublishedOut(
        title=kept.trial.title,
        question=study.plan.question,
        asks=not study.plan.tasting and study.plan.agreement is None,
        treatments=[
            PublishedTreatment(key=t.key, letter=letter_of(i), name=t.name, expected=rows.count(t.key))
            for i, t in enumerate(study.plan.treatments)
        ],
        readers=len(rows),
        sentences=[*(one.sentence for one in found), *instruments, *panels],
        level=found[0].strength.level if found else "",
    )


@router.get("/published/{token}", auth=None, response={200: PublishedOut, 404: ProblemsOut})
def published(request: HttpRequest, token: str) -> PublishedOut:
    """What was asked and compared; not yet what came of it."""
    return _published(published_report(token), told=False)


class ExpectedIn(Schema):
    """The treatment (key) that a reader expects to be best; empty: they would rather not say."""

    treatment: str = ""


@router.post("/published/{token}/expected", auth=None, response={200: PublishedOut, 404: ProblemsOut, 422: ProblemsOut})
def expect(request: HttpRequest, token: str, body: ExpectedIn) -> PublishedOut:
    """Say what one expects, or nothing, and read what came of it."""
    kept = published_report(token)
    request.session[f"read/{kept.trial.pk}"] = True
    keys = {t.key for t in kept_study(kept.trial).plan.treatments}
    if body.treatment and body.treatment not in keys:
        raise Declined(422, Problem("treatment", "This is not among what was compared."))
    said = f"expected/{kept.trial.pk}"
    if body.treatment and said not in request.session and kept.trial.reader_predictions.count() < MOST_READERS:
        ReaderPrediction.objects.create(trial=kept.trial, treatment=body.treatment)
        request.session[said] = True
    return _published(kept, told=True)


@router.get("/published/{token}/line-up", auth=None, response={200: LineUpOut, 404: ProblemsOut, 409: ProblemsOut})
def published_line_up(request: HttpRequest, token: str) -> LineUpOut:
    """A reader's own line-up."""
    trial = published_report(token).trial
    return line_up_out(trial, reader_of(request.session, trial))


@router.post(
    "/published/{token}/line-up",
    auth=None,
    response={200: LineUpOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def published_pick(request: HttpRequest, token: str, body: LineUpPickIn) -> LineUpOut:
    """Pick one, once, before it is told which."""
    trial = published_report(token).trial
    who = reader_of(request.session, trial)
    if trial.line_up_picks.filter(user=None).count() >= MOST_READERS:
        raise Declined(409, "So many readers have picked that no more are counted.")
    pick(trial, who, body.picture)
    return line_up_out(trial, who)


@router.get("/published/{token}/report.html", auth=None, response={200: None, 202: None, 404: ProblemsOut})
def published_page(request: HttpRequest, token: str, short: bool = False) -> HttpResponse:
    """The whole report, for anybody with the address."""
    kept = published_report(token)
    return _page(kept.trial, names=kept.names, short=short)


@router.get("/published/{token}/report.pdf", auth=None, response={200: None, 303: None, 404: ProblemsOut})
def published_paper(request: HttpRequest, token: str, paper: Paper = "a4") -> HttpResponse:
    """The same as PDF; of a large trial the way to where it will be."""
    return fetched_by_reader(published_report(token), Wanted("report", paper))


@router.get("/published/{token}/card.png", auth=None, response={200: None, 404: ProblemsOut})
def card(request: HttpRequest, token: str) -> HttpResponse:
    """A picture for sharing: title and question, and not the result."""
    kept = published_report(token)
    study = kept_study(kept.trial)
    context = {
        "title": kept.trial.title,
        "question": study.plan.question,
        "treatments": [
            {"letter": letter_of(i), "name": t.name, "hue": HUES[i % 8]}
            for i, t in enumerate(study.plan.treatments[:6])
        ],
        "samples": study.plan.sample.counted(study.plan.sample_count),
    }
    page = pypdfium2.PdfDocument(pdf_bytes("prints/card.html", context))[0]
    out = io.BytesIO()
    page.render(scale=1.0).to_pil().save(out, "PNG")
    return HttpResponse(out.getvalue(), content_type="image/png")
