"""Whether a photo can be measured: what is clipped, blurred, without reference or in plainly other light is said, and marks or refuses the
reading."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from PIL import Image
from skimage.measure import blur_effect

from fieldtally.core.photos import card
from fieldtally.core.photos.colour import Pixels
from fieldtally.core.photos.correcting import BLACK, BURNT, Correction, ReferenceKind
from fieldtally.core.photos.finding import Found, seen_through

CLIPPED_SAID, CLIPPED_REFUSED = 0.02, 0.25
BLUR_SAID, BLUR_REFUSED = 0.9, 2.5
"""How wide an edge of the card is, in mm."""
BLURRED = 0.42
"""The blur of a photo without a card: 0 sharp, 1 nothing but blur (Crété-Roffet et al. 2007)."""
LEFT_SAID, LEFT_REFUSED = 2.5, 7.0
UNEVEN_SAID, UNEVEN_REFUSED = 0.12, 0.35
STOPS_APART, WARMTH_APART = 2.0, 1.6


@dataclass(frozen=True)
class Flag:
    """Something about a photo that a reading of it must carry; ``refuses``: there is no reading then."""

    key: str
    says: str
    refuses: bool = False


def clipping(pixels: Pixels) -> list[Flag]:
    """Of the object's own pixels (n, 3): what is burnt out or black."""
    if not len(pixels):
        return []
    burnt = float((pixels >= BURNT).any(axis=-1).mean())
    black = float((pixels < BLACK).any(axis=-1).mean())
    found = []
    for share, key, says in ((burnt, "burnt", "too bright"), (black, "black", "too dark")):
        if share > CLIPPED_SAID:
            refused = share > CLIPPED_REFUSED
            told = f"{round(100 * share)} % of what is measured was {says} for the camera: its colour is lost there."
            found.append(Flag(key, told + (" Take it again." if refused else ""), refused))
    return found


def reference(correction: Correction, asked: ReferenceKind, needed: bool) -> list[Flag]:
    """Of the reference that was ``asked`` for: whether it is there, and can be trusted.  ``needed``: without one there is no reading."""
    if correction.kind == "none":
        says = "No card was found on this photo" if asked == "card" else "There is nothing to take the light from"
        return [
            Flag(
                "reference", says + (": a colour cannot be measured." if needed else "; colours are as taken."), needed
            )
        ]
    found = []
    name = {"card": "card", "grey": "grey area", "white": "white area"}[correction.kind]
    if correction.burnt > (0.55 if correction.kind == "card" else 0.05):
        found.append(Flag("reference burnt", f"The {name} is burnt out or black; take the photo again, darker.", True))
    if correction.left is not None and correction.left > LEFT_SAID:
        refused = correction.left > LEFT_REFUSED
        says = f"The fields of the card stay ΔE {correction.left:.1f} from what is printed: is it in mixed light, or glossy?"
        found.append(Flag("card off", says, refused))
    limit = (UNEVEN_SAID, UNEVEN_REFUSED) if correction.kind == "card" else (0.15, 0.5)
    if correction.uneven is not None and correction.uneven > limit[0]:
        says = (
            f"The light on the {name} is uneven, by {round(100 * correction.uneven)} %: a shadow, a lamp from the side?"
        )
        found.append(Flag("uneven", says, correction.uneven > limit[1]))
    return found


def sharpness(pixels: Pixels, found: Found | None) -> list[Flag]:
    """Whether the photo is blurred: by how wide the edges of the card's marks are, or without a card by the picture as a whole."""
    if found is None:
        small = Image.fromarray(pixels).convert("L")
        small.thumbnail((350, 350), Image.Resampling.BOX)
        blur = float(blur_effect(np.asarray(small)))
        return [Flag("blurred", "The photo is blurred; edges and small spots are guessed.")] if blur > BLURRED else []
    wide = edge_width(pixels, found)
    if wide <= BLUR_SAID:
        return []
    refused = wide > BLUR_REFUSED
    says = f"The photo is blurred: an edge on the card is {wide:.1f} mm wide."
    return [Flag("blurred", says + (" Take it again." if refused else ""), refused)]


def edge_width(pixels: Pixels, found: Found) -> float:
    """How wide, in mm, the edge of a mark is from nearly black to nearly white: the median of many places."""
    reach = np.linspace(-2.6, 2.6, 53)
    widths = []
    for x, y in card.MARKS:
        for along in (-2.8, 0.0, 2.8):
            for dx, dy, ex, ey in ((1, 0, 0, 1), (-1, 0, 0, 1), (0, 1, 1, 0), (0, -1, 1, 0)):
                points = np.column_stack(
                    [x + dx * (card.MARK / 2 + reach) + ex * along, y + dy * (card.MARK / 2 + reach) + ey * along]
                )
                at = np.round(seen_through(found.view, points)).astype(int)
                inside = (at >= 0).all() and (at[:, 0] < pixels.shape[1]).all() and (at[:, 1] < pixels.shape[0]).all()
                if not inside:
                    continue
                profile = pixels[at[:, 1], at[:, 0]].mean(axis=1)
                low, high = float(np.median(profile[:8])), float(np.median(profile[-8:]))
                if high - low < 30:
                    continue
                risen = (profile - low) / (high - low)
                first, last = np.argmax(risen > 0.1), len(risen) - 1 - np.argmax(risen[::-1] < 0.9)
                widths.append(max(0.0, float(reach[last] - reach[first])))
    return float(np.median(widths)) if widths else 0.0


def other_light(now: Correction, then: Correction) -> list[Flag]:
    """Whether two photos that are compared were taken in plainly different light; the correction took it out as far as it can."""
    brighter = abs(now.stops - then.stops) > STOPS_APART
    ratio = now.warmth / max(1e-6, then.warmth)
    warmer = max(ratio, 1 / max(1e-6, ratio)) > WARMTH_APART
    if not (brighter or warmer):
        return []
    which = " and ".join(word for word, so in (("brightness", brighter), ("colour", warmer)) if so)
    return [
        Flag("other light", f"The light was plainly different in {which} from that of the photo it is compared with.")
    ]


def overlap(thing: Any, covered: Any) -> list[Flag]:
    """Whether the mark lies over the card."""
    shared = float((thing & covered).sum()) / max(1.0, float(thing.sum()))
    return [Flag("on card", "The mark reaches over the card.", True)] if shared > 0.02 else []
