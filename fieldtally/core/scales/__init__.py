"""Scales: what a reading of an outcome can be.

Each kind of scale is a small frozen record that answers the same three questions: are you sound (:meth:`problems`), may
this value stand on you (:meth:`refusal`), and what number is meant by this text (:meth:`parse`).
"""

from typing import Annotated

from pydantic import Discriminator

from fieldtally.core.scales.count import CountScale
from fieldtally.core.scales.grade import GradeScale, Level
from fieldtally.core.scales.measurement import MeasurementScale
from fieldtally.core.scales.numbers import honest, number_in
from fieldtally.core.scales.passfail import PassFailScale

Scale = Annotated[GradeScale | MeasurementScale | CountScale | PassFailScale, Discriminator("kind")]
"""Any scale; in a document its ``kind`` says which."""

__all__ = [
    "CountScale",
    "GradeScale",
    "Level",
    "MeasurementScale",
    "PassFailScale",
    "Scale",
    "honest",
    "number_in",
]
