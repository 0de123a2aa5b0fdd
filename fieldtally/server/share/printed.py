"""The report as a page on a screen, and as pages of paper."""

from __future__ import annotations

from django.http import HttpResponse
from django.template.loader import render_to_string
from pypdfium2 import PdfDocument

from fieldtally.core.charts.dots import HUES
from fieldtally.server.printing import Paper, pdf_bytes, screen_faces
from fieldtally.server.share.raw import FEW_VALUES
from fieldtally.server.share.report import WholeReport


def _context(report: WholeReport, *, full: bool, screen: bool, whole: bool = False) -> dict[str, object]:
    return {
        "apart": report.raw.values > FEW_VALUES and not whole,
        "report": report,
        "comments": report.comments,
        "full": full,
        "screen": screen,
        "hues": list(enumerate(HUES)),
        "given": any(one.given for one in report.compared),
        "costs": any(one.cost for one in report.compared),
        "faces": screen_faces() if screen else "",
    }


def own_style(answer: HttpResponse) -> HttpResponse:
    """``answer`` as a page that carries its own style, and nothing else."""
    answer._csp_update = {"style-src": ["'unsafe-inline'"]}  # type: ignore[attr-defined]
    return answer


def report_page(report: WholeReport, *, full: bool) -> HttpResponse:
    """The report on a screen."""
    size = {"page_width": 210.0, "page_height": 297.0}
    page = render_to_string("prints/report.html", {**_context(report, full=full, screen=True), **size})
    return own_style(HttpResponse(page))


WALL = {"text": 11.5, "title": 18.0, "sentence": 22.0, "chart": 92.0, "part": 14.0, "gap": 4.0}
"""Sizes of the sheet for the wall, in pt and mm."""
SMALLER = (1.0, 0.86, 0.74, 0.64, 0.55, 0.45, 0.36)
"""A trial with much to say is set in smaller letters, so that its sheet stays one."""


def report_pdf(report: WholeReport, *, full: bool, paper: Paper, whole: bool = False) -> bytes:
    """The report on paper; ``whole``: with the values of all samples, however many they are.  Not ``full``: one page for the wall."""
    context = _context(report, full=full, screen=False, whole=whole)
    made = b""
    for scale in (1.0,) if full else SMALLER:
        wall = {name: f"{size * scale:.2f}" for name, size in WALL.items()}
        made = pdf_bytes("prints/report.html", {**context, "wall": wall}, paper=paper)
        if full or len(PdfDocument(made)) == 1:
            break
    return made


def waiting_page(says: str, done: int = 0, total: int = 0, *, every: int = 2) -> HttpResponse:
    """A page that says how far it is and looks again by itself, every so many seconds (0: never)."""
    context = {"says": says, "done": done, "total": total, "faces": screen_faces(), "again": every}
    answer = own_style(HttpResponse(render_to_string("share/waiting.html", context), status=202))
    if every:
        answer["Refresh"] = str(every)
    return answer
