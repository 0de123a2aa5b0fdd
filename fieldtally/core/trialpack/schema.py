"""The tables of a trial pack and the types of their columns: what is written, what is read, and what the documentation lists."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, cast

FORMAT = "field-tally-pack/1"
FieldType = Literal["string", "integer", "number", "datetime", "date", "boolean", "object", "array"]
Fields = tuple[tuple[str, FieldType], ...]


@dataclass(frozen=True)
class TableSchema:
    """A table: what a row is, its columns in order, and those that tell rows apart (none: their order does).  Packs of earlier versions are
    without the columns ``added``."""

    title: str
    fields: Fields
    key: tuple[str, ...] = ()
    added: tuple[str, ...] = ()


def _fields(text: str) -> Fields:
    """``sample place:integer`` as columns; a string where no type is named."""
    found = (word.partition(":") for word in text.split())
    return tuple((name, cast(FieldType, kind or "string")) for name, _, kind in found)


SCHEMAS: dict[str, TableSchema] = {
    "treatments": TableSchema("What was compared", _fields("treatment name kind samples:integer note"), ("treatment",)),
    "samples": TableSchema(
        "Every sample, what it got and when that began",
        _fields(
            "sample block place:integer plot:integer row:integer column:integer starts:integer treatment "
            "started_at:datetime started_by set_aside"
        ),
        ("sample",),
    ),
    "outcomes": TableSchema(
        "What was looked at", _fields("outcome name kind unit better margin:number primary:boolean"), ("outcome",)
    ),
    "checkpoints": TableSchema(
        "When it was looked at, in minutes from the start of exposure",
        _fields(
            "checkpoint name stage offset_minutes:integer cycle:integer window_before_minutes:integer "
            "window_after_minutes:integer"
        ),
        ("checkpoint",),
    ),
    "rounds": TableSchema(
        "Each scorer's pass over the samples at a checkpoint, and how blind it was",
        _fields("checkpoint scorer opened_at:datetime blinding looked_by"),
        ("checkpoint", "scorer"),
        ("looked_by",),
    ),
    "second_codes": TableSchema(
        "Samples that came back under a second code", _fields("code checkpoint sample"), ("code",)
    ),
    "readings": TableSchema(
        "Every reading, replaced ones among them",
        _fields(
            "reading:integer sample outcome checkpoint scorer kind value:number words responses:array reason "
            "taken_at:datetime stored_at:datetime source device take:integer supersedes:integer second_code"
        ),
        ("reading",),
    ),
    "deviations": TableSchema(
        "What did not go to plan",
        _fields(
            "deviation:integer sample kind reason by at:datetime after_key:boolean about accident event:integer "
            "since:datetime"
        ),
        ("deviation",),
    ),
    "conditions": TableSchema(
        "What it was like around the samples",
        _fields(
            "place at:datetime temperature_c:number humidity_percent:number rain_mm:number light_lx:number device by "
            "stored_at:datetime"
        ),
        added=("stored_at",),
    ),
    "costs": TableSchema("What it costs", _fields("treatment what amount:number money")),
    "panels": TableSchema(
        "Panels, their plans and the seeds that servings were drawn from",
        _fields(
            "panel:integer title plan:object version:integer seed by created_at:datetime begun_at:datetime "
            "closed_at:datetime closed_because added_sessions:integer seal began_with:integer opened_at:datetime"
        ),
        ("panel",),
        ("seal", "began_with", "opened_at"),
    ),
    "assessors": TableSchema(
        "Who judged, by number",
        _fields(
            "panel:integer assessor:integer experience blind:boolean left_out consented_at:datetime stopped_at:datetime"
        ),
        ("panel", "assessor"),
    ),
    "judgements": TableSchema(
        "Every set that was served, and the answer",
        _fields(
            "panel:integer assessor:integer session:integer place:integer order codes:array spilt answer:array "
            "confidence:integer preference:integer grades:array chips:array words given_at:datetime stored_at:datetime "
            "stimulus:integer"
        ),
        ("panel", "assessor", "session", "place"),
        ("stimulus",),
    ),
    "materials": TableSchema(
        "Sounds and pictures that were put before panels",
        _fields("panel:integer thing name file seconds:number stimulus:integer"),
        ("panel", "thing", "stimulus"),
        ("stimulus",),
    ),
    "key_looks": TableSchema("Who looked at the key while it was sealed", _fields("by at:datetime")),
    "predictions": TableSchema("What people foresaw", _fields("by text at:datetime")),
    "guesses": TableSchema("What scorers believed samples to be", _fields("sample scorer belief at:datetime")),
    "applications": TableSchema(
        "What each sample was given",
        _fields(
            "application:integer sample dose planned:number given:number unit written version:integer note "
            "supersedes:integer by at:datetime stored_at:datetime"
        ),
        ("application",),
    ),
    "cycles": TableSchema("Cycles that were counted, and their settings", _fields("note set_to:object by at:datetime")),
    "lots": TableSchema("Packs that were used", _fields("product lot expires:date opened:date by at:datetime")),
    "held": TableSchema("What was seen to be held equal", _fields("entry by at:datetime"), ("entry",)),
    "mixed": TableSchema(
        "Steps of the mix sheet that were done",
        _fields("step says version:integer acknowledged:array by at:datetime"),
        ("step", "version"),
    ),
    "notes": TableSchema(
        "What was written into the log", _fields("note:integer text working by at:datetime"), ("note",)
    ),
    "photos": TableSchema(
        "Pictures, their files and what they show",
        _fields(
            "photo:integer file checkpoint sample outcome level:number note:integer caption width:integer "
            "height:integer brightness:number tint:array by taken_at:datetime stored_at:datetime"
        ),
        ("photo",),
    ),
    "gauges": TableSchema(
        "How outcomes are measured in photos",
        _fields("gauge:integer outcome photo:integer recipe:object marks:object by at:datetime"),
        ("gauge",),
    ),
    "gaugings": TableSchema(
        "What was measured in a photo, what of it counted (a PNG in base64), and the readings that came of it",
        _fields(
            "gauge:integer photo:integer value:number uncertainty:number colour:array flags:array marks:object box:array "
            "mask readings:array by at:datetime by_hand:boolean"
        ),
        (),
        ("by_hand",),
    ),
    "ready": TableSchema(
        "Who showed in practice that they are ready to score",
        _fields("outcome by off:number bias:number sets:integer at:datetime until:datetime"),
    ),
    "together": TableSchema(
        "Samples that scorers graded together before a round",
        _fields(
            "checkpoint outcome samples:array grades:array begun_by begun_at:datetime shown_at:datetime note:integer"
        ),
    ),
    "interim_looks": TableSchema(
        "Interim looks that were taken", _fields("checkpoint stop:boolean says by at:datetime"), ("checkpoint",)
    ),
    "chain": TableSchema(
        "What was recorded, in its order, each entry naming the one before; the last one names the files of the pack",
        _fields("number:integer what at before salt items:array link"),
        ("number",),
    ),
}
