"""Paper: pages written as HTML, set by WeasyPrint in the fonts of the front end, and sent as PDF.

Nothing is fetched: fonts come from the built front end, and an address in a page is printed, never followed.  The same content
always gives the same bytes, so that a file tells nothing by its dates or ids.
"""

from __future__ import annotations

import io
import os
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal
from uuid import UUID

import segno
from django.conf import settings
from django.http import HttpResponse
from django.template.loader import render_to_string
from django.utils.safestring import SafeString, mark_safe

# Fonts put into a PDF carry the moment of their cutting; with this fixed the same page always gives the same bytes.
os.environ.setdefault("SOURCE_DATE_EPOCH", "315532800")
Paper = Literal["a4", "letter"]
PAPER_MM: dict[Paper, tuple[float, float]] = {"a4": (210.0, 297.0), "letter": (215.9, 279.4)}
LONG_WORD = re.compile(r">[^<>]*?([^\s<>]{30,})")
SEAL = re.compile(r"[0-9a-f]{64}")
STYLE = re.compile(r"<style.*?</style>", re.DOTALL)
BREAK_ANYWHERE = "td, th, h1, h2, h3, p, li, dt, dd { overflow-wrap: anywhere; }"
"""A word wider than its column is broken, so that it stays on the page.  To weigh each break takes long, so that only pages with such a
word do it."""
FONTS = (("Tally", "atkinson-hyperlegible-next"), ("Tally Mono", "atkinson-hyperlegible-mono"))


@dataclass(frozen=True)
class LabelSheet:
    """A sheet of labels by its size, all in mm: ``across`` × ``down`` labels of ``width`` × ``height``, the first one ``left`` and
    ``top`` from the paper's corner, with ``gap`` between columns.  ``cut``: plain paper with lines to cut along."""

    key: str
    name: str
    paper: Paper
    across: int
    down: int
    width: float
    height: float
    left: float
    top: float
    gap: float = 0.0
    cut: bool = False

    @property
    def count(self) -> int:
        """Labels on a sheet."""
        return self.across * self.down


LABEL_SHEETS = (
    LabelSheet("a4-tags", "Plain A4, cut into 10 tie-on tags of 95 × 52 mm", "a4", 2, 5, 95, 52, 10, 18.5, 0, True),
    LabelSheet("a4-8", "A4, 8 labels of 99.1 × 67.7 mm", "a4", 2, 4, 99.1, 67.7, 4.65, 13.1, 2.5),
    LabelSheet("a4-21", "A4, 21 labels of 63.5 × 38.1 mm", "a4", 3, 7, 63.5, 38.1, 7.2, 15.15, 2.55),
    LabelSheet("a4-24", "A4, 24 labels of 70 × 37 mm", "a4", 3, 8, 70, 37, 0, 0.5),
    LabelSheet(
        "letter-tags",
        "Plain Letter, cut into 10 tie-on tags of 98 × 50 mm",
        "letter",
        2,
        5,
        98,
        50,
        9.95,
        14.7,
        0,
        True,
    ),
    LabelSheet("letter-6", "Letter, 6 labels of 4 × 3⅓ in", "letter", 2, 3, 101.6, 84.67, 3.97, 12.7, 4.76),
    LabelSheet("letter-10", "Letter, 10 labels of 4 × 2 in", "letter", 2, 5, 101.6, 50.8, 3.97, 12.7, 4.76),
    LabelSheet("letter-30", "Letter, 30 labels of 2⅝ × 1 in", "letter", 3, 10, 66.68, 25.4, 4.76, 12.7, 3.18),
)


def file_name(trial: UUID, what: str) -> str:
    """A file name that tells no treatment: not even the trial's title, which may name one."""
    return f"{what}-{str(trial)[:8]}"


def qr(text: str) -> SafeString:
    """``text`` as a QR code: an SVG of black squares, error correction M, with its quiet zone of four squares."""
    code = segno.make(text, error="m", micro=False)
    # segno writes nothing but numbers into this.
    return mark_safe(code.svg_inline(border=4, dark="#000", light="#fff", omitsize=True))  # noqa: S308


def qr_picture(text: str) -> bytes:
    """The same as an SVG file of its own."""
    written = io.BytesIO()
    segno.make(text, error="m", micro=False).save(written, kind="svg", border=4, scale=8, dark="#000", light="#fff")
    return written.getvalue()


def pdf(template: str, context: Mapping[str, Any], *, paper: Paper = "a4", name: str) -> HttpResponse:
    """The page ``template`` filled with ``context``, as a PDF to take along under a ``name`` that tells nothing."""
    return HttpResponse(
        pdf_bytes(template, context, paper=paper),
        content_type="application/pdf",
        headers={"Content-Disposition": f'attachment; filename="{name}.pdf"'},
    )


def pdf_bytes(template: str, context: Mapping[str, Any], *, paper: Paper = "a4") -> bytes:
    """The same, as bytes."""
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration

    fonts, fetcher = FontConfiguration(), _own_fonts_only()
    width, height = PAPER_MM[paper]
    page = render_to_string(template, {**context, "page_width": width, "page_height": height})
    css = CSS(
        string=_faces() + (BREAK_ANYWHERE if _has_long_word(page) else ""), font_config=fonts, url_fetcher=fetcher
    )
    made = HTML(string=page, url_fetcher=fetcher).write_pdf(
        stylesheets=[css], font_config=fonts, pdf_identifier=b"field-tally"
    )
    return bytes(made or b"")


def _has_long_word(page: str) -> bool:
    return any(not SEAL.fullmatch(word) for word in LONG_WORD.findall(STYLE.sub("", page)))


def _own_fonts_only() -> Any:
    """A fetcher that opens the fonts of the built front end and pictures written into the page, and refuses whatever else it may name."""
    from weasyprint.urls import FatalURLFetchingError, URLFetcher

    own = (settings.WEB / "assets").as_uri()

    class OwnFonts(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: Any = None) -> Any:
            if not url.startswith((f"{own}/", "data:image/jpeg;base64,")):
                raise FatalURLFetchingError(f"A page on paper fetches nothing, not {url[:80]} either.")
            return super().fetch(url, headers)

    return OwnFonts(allowed_protocols={"file", "data"})


def _faces() -> str:
    return _faces_at(lambda path: path.as_uri())


def screen_faces() -> SafeString:
    """The same fonts for a page on a screen."""
    # Names of files that this project built.
    return mark_safe(_faces_at(lambda path: f"/assets/{path.name}"))  # noqa: S308


def _faces_at(address: Callable[[Path], str]) -> str:
    found = []
    for family, file in FONTS:
        for path in sorted((settings.WEB / "assets").glob(f"{file}-latin-wght-normal-*.woff2")):
            found.append(f"@font-face {{ font-family: '{family}'; src: url({address(path)}); font-weight: 200 800; }}")
    return "\n".join(found)
