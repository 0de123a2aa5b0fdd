"""Scales: what a reading of an outcome can be.

Each kind of scale is a small frozen record that answers the same three questions: are you sound (:meth:`problems`), may
this value stand on you (:meth:`refusal`), and what number is meant by this text (:meth:`parse`).
"""

from typing import Annotated

from pydantic import Discriminator

from fieldtally.core.quantities.numbers import honest, number_in
from fieldtally.core.scales.count import CountScale
from fieldtally.core.scales.curve import CurveScale
from fieldtally.core.scales.event import EventScale
from fieldtally.core.scales.grade import GradeScale, Level
from fieldtally.core.scales.ladder import LadderScale
from fieldtally.core.scales.measurement import MeasurementScale
from fieldtally.core.scales.note import NoteScale
from fieldtally.core.scales.passfail import PassFailScale
from fieldtally.core.scales.percent import PercentScale
from fieldtally.core.scales.shade import Shade, ShadeScale

Scale = Annotated[
    GradeScale
    | MeasurementScale
    | CountScale
    | PassFailScale
    | PercentScale
    | ShadeScale
    | EventScale
    | LadderScale
    | CurveScale
    | NoteScale,
    Discriminator("kind"),
]
"""Any scale; in a document its ``kind`` says which."""


def unit_of(scale: Scale) -> str:
    """The unit in which a difference on ``scale`` is told: ``mL``, ``grades``, ``share`` (0 to 1), ``steps``, ``seeds``."""
    match scale:
        case GradeScale():
            return "grades"
        case PassFailScale() | EventScale():
            return "share"
        case CountScale(what=what):
            return what
        case CurveScale():
            return scale.words
        case NoteScale():
            return ""
        case _:
            return scale.unit


__all__ = [
    "CountScale",
    "CurveScale",
    "EventScale",
    "GradeScale",
    "LadderScale",
    "Level",
    "MeasurementScale",
    "NoteScale",
    "PassFailScale",
    "PercentScale",
    "Scale",
    "Shade",
    "ShadeScale",
    "honest",
    "number_in",
    "unit_of",
]
