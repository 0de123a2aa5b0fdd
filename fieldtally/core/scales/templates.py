"""Scales to begin with: common sets, in words that fit most trials and are meant to be changed.

A template is one attribute or several that are looked at together on the same sample, in one go.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from fieldtally.core.scales import (
    CountScale,
    EventScale,
    GradeScale,
    LadderScale,
    Level,
    MeasurementScale,
    PassFailScale,
    PercentScale,
    Scale,
    Shade,
    ShadeScale,
)


@dataclass(frozen=True)
class Attribute:
    """One scale of a template, with the name and the direction it usually has."""

    name: str
    scale: Scale
    better: Literal["more", "less", "target", "none"] = "more"
    margin: float | None = None


@dataclass(frozen=True)
class Template:
    """A set to begin with: what it is called, when it serves, and its attributes."""

    key: str
    name: str
    serves: str
    attributes: tuple[Attribute, ...]


def stars(anchors: tuple[str, ...], *, halves: bool = False) -> GradeScale:
    """Grades 0, 1, 2 … with these anchors; with ``halves`` also 0.5, 1.5 … for what lies between two.

    >>> [level.label for level in stars(("gone", "poor", "good"), halves=True).levels]
    ['0', '½', '1', '1½', '2']
    """
    levels = []
    for value, anchor in enumerate(anchors):
        levels.append(Level(float(value), str(value), anchor))
        if halves and value < len(anchors) - 1:
            levels.append(Level(value + 0.5, f"{value or ''}½", ""))
    return GradeScale(tuple(levels))


LETTERS = tuple(f"{letter}{sign}" for letter in "DCBA" for sign in ("−", "", "+"))


def letters(anchors: tuple[str, str, str, str, str]) -> GradeScale:
    """Letter grades F, D−, D, D+ … A+; the plain letters F, D, C, B, A carry the anchors."""
    by_letter = dict(zip("FDCBA", anchors, strict=True))
    return GradeScale(
        (
            Level(0.0, "F", by_letter["F"]),
            *(Level(float(i), label, by_letter.get(label, "")) for i, label in enumerate(LETTERS, start=1)),
        )
    )


_LASTING = ("nothing left of it", "poor", "middling", "good", "very good", "as new")

TEMPLATES: tuple[Template, ...] = (
    Template(
        "state",
        "State, 0 to 5",
        "how well something has lasted",
        (Attribute("State", stars(_LASTING), margin=1.0),),
    ),
    Template(
        "state-halves",
        "State, 0 to 5 with halves",
        "the same, where a practised eye sees finer",
        (Attribute("State", stars(_LASTING, halves=True), margin=0.5),),
    ),
    Template(
        "letters",
        "Letters, F to A+",
        "a result judged as in school",
        (
            Attribute(
                "Result",
                letters(
                    ("of no use", "does it badly", "does it in part", "does it, with faults", "does it without fault")
                ),
                margin=3.0,
            ),
        ),
    ),
    Template(
        "senses",
        "Look, smell and feel",
        "food, wood, cloth, soil: three grades in one go",
        (
            Attribute("Look", stars(("spoilt", "poor", "fair", "good", "perfect")), margin=1.0),
            Attribute("Smell", stars(("foul", "off", "faint", "clean", "fresh")), margin=1.0),
            Attribute("Feel", stars(("falls apart", "slack", "soft", "firm", "as on the first day")), margin=1.0),
        ),
    ),
    Template(
        "plant",
        "A plant's progress",
        "seedlings and young plants",
        (
            Attribute("Height", MeasurementScale("cm", 0.5, 0.0, 300.0)),
            Attribute("Leaves", CountScale(None, "leaves")),
            Attribute("Vigour", stars(("dead", "weak", "fair", "strong", "lush")), margin=1.0),
        ),
    ),
    Template(
        "emergence",
        "How many came up",
        "seeds, cuttings, grafts: so many of so many",
        (Attribute("Came up", CountScale(20, "seeds"), margin=2.0),),
    ),
    Template(
        "cover",
        "Share of the surface",
        "cover, browning, rust, moss, mould",
        (Attribute("Surface affected", PercentScale("affected"), "less", 10.0),),
    ),
    Template(
        "shade",
        "A chart of shades",
        "ripeness, rust, tarnish, fading: the nearest step",
        (
            Attribute(
                "Shade",
                ShadeScale(
                    tuple(
                        Shade(label, swatch)
                        for label, swatch in (
                            ("palest", "#f2e8cf"),
                            ("pale", "#dfc98f"),
                            ("middle", "#bf9b4e"),
                            ("deep", "#8f6a2a"),
                            ("deepest", "#5a3d14"),
                        )
                    )
                ),
                "none",
                1.0,
            ),
        ),
    ),
    Template(
        "lasts",
        "Until it happens",
        "first wilt, first crack, first leak: the look at which it was seen",
        (Attribute("First failure", EventScale("the first sign of failure"), "less"),),
    ),
    Template(
        "load",
        "How much it holds",
        "string, joints, knots, glue: rising load until it gives",
        (Attribute("Load held", LadderScale("kg", (5.0, 10.0, 15.0, 20.0, 25.0)), margin=5.0),),
    ),
    Template(
        "works",
        "Works or not",
        "a plain yes or no",
        (Attribute("Works", PassFailScale("works", "does not"), margin=0.3),),
    ),
)
