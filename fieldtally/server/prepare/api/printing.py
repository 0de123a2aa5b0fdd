"""Paper: tags with their codes, the sheet for whoever prepares, the key for an envelope, the mix sheet.

File names carry the first letters of the trial's random id and nothing else; tags carry no word that could name a treatment.
"""

from dataclasses import asdict
from datetime import UTC
from itertools import groupby
from typing import Literal
from uuid import UUID

from django.http import HttpResponse
from django.utils import timezone
from ninja import Router, Schema

from fieldtally.core.blinding.checking import check_letter
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined, ProblemsOut
from fieldtally.server.people.sight import Sight, blacked_out, earlier_names, sight
from fieldtally.server.people.signedin import SignedIn
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import is_covered, plan_of, samples_of
from fieldtally.server.plan.shuffling import flasks_for
from fieldtally.server.prepare.api.handout import looked
from fieldtally.server.prepare.api.mixing import sheet_out
from fieldtally.server.prepare.applying import handed
from fieldtally.server.printing import LABEL_SHEETS, PAPER_MM, LabelSheet, Paper, file_name, pdf, qr

router = Router()
MOST_COPIES = 5


class SheetSize(Schema):
    """A sheet of labels by its size: ``across`` × ``down`` of them at ``width`` × ``height``, all in mm, on paper of ``page``."""

    key: str
    name: str
    paper: Paper
    page: tuple[float, float]
    count: int
    across: int
    down: int
    width: float
    height: float
    left: float
    top: float
    gap: float


class SheetSizes(Schema):
    """All of them."""

    sheets: list[SheetSize]


@router.get("/label-sheets", response=SheetSizes)
def sizes(request: SignedIn) -> SheetSizes:
    """The label sheets that tags can be printed on."""
    return SheetSizes(
        sheets=[SheetSize(**{**asdict(s), "count": s.count, "page": PAPER_MM[s.paper]}) for s in LABEL_SHEETS]
    )


@router.get(
    "/trials/{trial_id}/prints/labels.pdf",
    response={200: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut, 422: ProblemsOut},
)
def labels(
    request: SignedIn, trial_id: UUID, sheet: str = "a4-tags", skip: int = 0, copies: int = 1, flasks: bool = False
) -> HttpResponse:
    """Tags for all samples, a number of ``copies`` of each, after ``skip`` labels of the first sheet that are used already; or
    those of the flasks of a shuffle."""
    seen = sight(request, trial_id)
    seen.need("print_tags")
    _sealed(seen)
    size = next((one for one in LABEL_SHEETS if one.key == sheet), None)
    if size is None:
        raise Declined(422, Problem("sheet", "There is no such label sheet."))
    if not 0 <= skip < size.count:
        raise Declined(422, Problem("skip", f"A sheet holds {size.count} labels; skip fewer than that."))
    if not 1 <= copies <= MOST_COPIES:
        raise Declined(422, Problem("copies", f"Between 1 and {MOST_COPIES} tags for each."))
    tags = _flask_tags(seen) if flasks else _sample_tags(seen, request)
    placed = [tag for tag in tags for _ in range(copies)]
    return pdf(
        "prints/labels.html", _laid_out(size, placed, skip), paper=size.paper, name=file_name(seen.trial.pk, "tags")
    )


def _sealed(seen: Sight) -> None:
    if seen.trial.sealed_at is None:
        raise Declined(409, "Seal the plan first: codes and layout are drawn then.")


def where(sample: Sample, blocks: dict[str, str]) -> str:
    """Where a sample stands, in words, its place first: the end of a long name may have no room."""
    place = f"place {sample.place}" if sample.row is None else f"row {sample.row}, column {sample.column}"
    block = blocks.get(sample.block, "")
    return f"{place}, {block}" if block else place


def _sample_tags(seen: Sight, request: SignedIn) -> list[dict[str, object]]:
    plan = plan_of(seen.trial)
    names = [*plan.telling_names, *earlier_names(seen.trial)]
    # Tags hang where everybody reads them: names are blacked out whoever prints.
    blocks = {block.key: blacked_out(block.name, names) for block in plan.layout.blocks}
    title = blacked_out(seen.trial.title, names)
    return [
        {
            "code": sample.code,
            "letter": check_letter(sample.code, str(seen.trial.pk)),
            "where": where(sample, blocks),
            "title": title,
            "qr": qr(request.build_absolute_uri(f"/s/{sample.pk}")),
        }
        for sample in samples_of(seen.trial)
    ]


def _flask_tags(seen: Sight) -> list[dict[str, object]]:
    seen.need("print_flask_tags")
    codes = sorted(flasks_for(seen.trial, plan_of(seen.trial)).values())
    title = blacked_out(seen.trial.title, [*plan_of(seen.trial).telling_names, *earlier_names(seen.trial)])
    return [
        {
            "code": code,
            "letter": check_letter(code, str(seen.trial.pk)),
            "where": "flask",
            "title": title,
            "qr": qr(f"flask {code}"),
        }
        for code in codes
    ]


def _laid_out(size: LabelSheet, tags: list[dict[str, object]], skip: int) -> dict[str, object]:
    """Tags at their places on sheets, and the measures that follow from the size of a label (mm)."""
    sheets: list[list[dict[str, object]]] = []
    for i, tag in enumerate(tags, start=skip):
        number, at = divmod(i, size.count)
        row, column = divmod(at, size.across)
        while len(sheets) <= number:
            sheets.append([])
        left, top = size.left + column * (size.width + size.gap), size.top + row * size.height
        sheets[number].append({**tag, "left": left, "top": top})
    inset = max(2.0, size.height * 0.06)
    hole = 13.0 if size.cut else inset + 1
    qr_size = min(size.height - 2 * inset, size.width * 0.4)
    text_width = size.width - hole - qr_size - inset - 1
    code_size = min(text_width / 1.95, size.height * 0.4)
    small = max(2.3, min(3.6, size.height * 0.075))
    text_height = min(size.height - 1, code_size + 1 + small * 1.25 * 4)
    return {
        "sheets": sheets,
        "cut": size.cut,
        "width": size.width,
        "height": size.height,
        "inset": inset,
        "hole": hole,
        "qr_size": qr_size,
        "qr_half": qr_size / 2,
        "code_size": code_size,
        "small": small,
        "text_width": text_width,
        "text_height": text_height,
        "text_half": text_height / 2,
    }


@router.post(
    "/trials/{trial_id}/prints/handout.pdf",
    response={200: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def handout(request: SignedIn, trial_id: UUID, paper: Literal["a4", "letter"] = "a4") -> HttpResponse:
    """The sheet for whoever prepares: code, treatment, dose.  Printing it is a look at the key, and is recorded."""
    seen = looked(request, trial_id)
    trial = seen.trial
    rows = [
        {**vars(row), "check": check_letter(row.code, str(trial.pk)), "doses": row.doses}
        for row in handed(trial, request.user)
    ]
    places = [
        {"block": block, "rows": list(found)} for block, found in groupby(rows, key=lambda row: str(row["block"]))
    ]
    context = {"title": trial.title, "places": places, "covered": is_covered(trial)}
    return pdf("prints/handout.html", context, paper=paper, name=file_name(trial.pk, "preparing"))


@router.post(
    "/trials/{trial_id}/prints/key.pdf",
    response={200: None, 403: ProblemsOut, 404: ProblemsOut, 409: ProblemsOut},
)
def key(request: SignedIn, trial_id: UUID, paper: Literal["a4", "letter"] = "a4") -> HttpResponse:
    """The key for a sealed envelope.  Printing it is a look at the key, and is recorded."""
    seen = looked(request, trial_id)
    trial = seen.trial
    context = {
        "title": trial.title,
        "seal": trial.sealed.seal,
        "printed": timezone.now().astimezone(UTC).strftime("%Y-%m-%d %H:%M UTC"),
        "covered": is_covered(trial),
        "rows": sorted(handed(trial, request.user), key=lambda row: row.code),
    }
    return pdf("prints/envelope.html", context, paper=paper, name=file_name(trial.pk, "envelope"))


@router.get(
    "/trials/{trial_id}/prints/mix.pdf",
    response={200: None, 403: ProblemsOut, 404: ProblemsOut},
)
def mix(request: SignedIn, trial_id: UUID, paper: Literal["a4", "letter"] = "a4") -> HttpResponse:
    """The mix sheet on paper."""
    seen = sight(request, trial_id)
    seen.need("see_mix_sheet")
    plan = plan_of(seen.trial)
    context = {
        "title": seen.trial.title,
        "sheet": sheet_out(seen, request),
        "sample": plan.sample,
    }
    return pdf("prints/mix.html", context, paper=paper, name=file_name(seen.trial.pk, "mixing"))
