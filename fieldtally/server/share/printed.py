"""The report as a page on a screen, and as pages of paper."""

from __future__ import annotations

from django.http import HttpResponse
from django.template.loader import render_to_string

from fieldtally.core.charts.dots import HUES
from fieldtally.server.printing import Paper, pdf_bytes, screen_faces
from fieldtally.server.share.report import WholeReport


def _context(report: WholeReport, *, full: bool, screen: bool) -> dict[str, object]:
    return {
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


def report_pdf(report: WholeReport, *, full: bool, paper: Paper) -> bytes:
    """The report on paper."""
    return pdf_bytes("prints/report.html", _context(report, full=full, screen=False), paper=paper)


def waiting_page(says: str, done: int = 0, total: int = 0, *, every: int = 2) -> HttpResponse:
    """A page that says how far it is and looks again by itself, every so many seconds (0: never)."""
    context = {"says": says, "done": done, "total": total, "faces": screen_faces(), "again": every}
    answer = own_style(HttpResponse(render_to_string("share/waiting.html", context), status=202))
    if every:
        answer["Refresh"] = str(every)
    return answer
