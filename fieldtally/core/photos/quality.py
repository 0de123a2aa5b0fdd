"""Whether a photo can be measured: what is clipped, blurred, without reference or in plainly other light is said, and marks or refuses the
reading."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from PIL import Image
from scipy.ndimage import label
from skimage.measure import blur_effect

from fieldtally.core.photos import card
from fieldtally.core.photos.colour import Pixels
from fieldtally.core.photos.correcting import BLACK, BURNT, Correction, ReferenceKind
from fieldtally.core.photos.finding import Found, seen_through
from fieldtally.core.photos.recipe import NEEDS_LIGHT, NEEDS_SIZE, Measure

CLIPPED_SAID, CLIPPED_REFUSED = 0.02, 0.25
BLUR_SAID, BLUR_REFUSED = 0.9, 2.5
"""How wide an edge of the card is, in mm."""
BLURRED = 0.42
"""The blur of a photo without a card: 0 sharp, 1 nothing but blur (Crété-Roffet et al. 2007)."""
LEFT_SAID, LEFT_REFUSED = 2.5, 7.0
UNEVEN_SAID, UNEVEN_REFUSED = 0.15, 0.5
VEIL_SAID, VEIL_REFUSED = 0.03, 0.35
SHINES = 0.10
"""Linear light by which what shines is lighter than what most of a thing is like."""
SHEEN_BLOCKS, SHEEN_FEWEST, SHEEN_SMOOTH, SHEEN_ALIKE, SHEEN_SAID = 8, 1_500, 0.4, 0.4, 0.004
SHEEN_PEAK = 2.2
"""How much more there is than a smooth surface shows: a reflected lamp is steeper."""
CRUMBS = 5
BENT_SAID = 0.03
PATCHY_SAID, PATCHY_REFUSED = 1.0, 1.25
APART = "turn card and sample so that both lie in the same light, or shade both"
STOPS_APART, WARMTH_APART = 2.0, 1.6


@dataclass(frozen=True)
class Flag:
    """Something about a photo that a reading of it must carry; ``refuses``: there is no reading then."""

    key: str
    says: str
    refuses: bool = False


def clipping(pixels: Pixels, of_colour: bool = True) -> list[Flag]:
    """Of the object's own pixels (n, 3): what is burnt out or black; ``of_colour``: it refuses where that is much."""
    if not len(pixels):
        return []
    burnt = float((pixels >= BURNT).any(axis=-1).mean())
    black = float((pixels < BLACK).any(axis=-1).mean())
    found = []
    for share, key, says in ((burnt, "burnt", "too bright"), (black, "black", "too dark")):
        if share > CLIPPED_SAID:
            refused = of_colour and share > CLIPPED_REFUSED
            told = f"{round(100 * share)} % of what is measured was {says} for the camera: its colour is lost there."
            found.append(Flag(key, told + (" Take it again." if refused else ""), refused))
    return found


def reference(correction: Correction, asked: ReferenceKind, measure: Measure) -> list[Flag]:
    """Of the reference that was ``asked`` for: whether it is there, and can be trusted, for what is measured.  Lengths and areas
    change with no light; a colour is not measured without a reference, nor what counts by its colour where the card is missing that
    other photos have."""
    if measure in NEEDS_SIZE:
        return []
    if correction.kind == "none":
        needed = measure in NEEDS_LIGHT or asked != "none"
        says = "No card was found on this photo" if asked == "card" else "There is nothing to take the light from"
        way_out = "; colours are as taken."
        if measure in NEEDS_LIGHT:
            way_out = ": a colour cannot be measured. Lay the card beside the sample, or mark a grey or white area."
        elif needed:
            way_out = (
                ": what counts cannot be told by its colour as on the others. Lay the card beside the sample, mark a grey or white "
                "area, or take the light from nothing."
            )
        return [Flag("reference", says + way_out, needed)]
    found = []
    name = {"card": "card", "grey": "grey area", "white": "white area"}[correction.kind]
    if correction.burnt > (0.55 if correction.kind == "card" else 0.05):
        found.append(Flag("reference burnt", f"The {name} is burnt out or black; take the photo again, darker.", True))
    if correction.left is not None and correction.left > LEFT_SAID:
        refused = correction.left > LEFT_REFUSED
        says = f"The fields of the card stay ΔE {correction.left:.1f} from what is printed: is it in mixed light, or glossy?"
        found.append(Flag("card off", says, refused))
    if correction.patchy > PATCHY_SAID:
        # Scattered light that lies unevenly is a glare on the card, and not on the thing.
        refused = correction.patchy > PATCHY_REFUSED or correction.scattered > VEIL_SAID
        says = "Places on the card that are printed alike look unlike: a shadow or a glare lies over a part of it."
        found.append(Flag("patchy", says + (f" Please {APART}." if refused else ""), refused))
    if correction.dropped:
        says = "A field of the card does not fit the others: covered, dirty, in glare? It was left out."
        if correction.dropped > 1:
            says = f"{correction.dropped} fields of the card do not fit the others: covered, dirty, in glare? They were left out."
        found.append(Flag("field", says))
    if correction.kind == "card" and correction.scattered > VEIL_SAID:
        refused = correction.scattered > VEIL_REFUSED
        says = f"Scattered light lies over the card, {round(100 * correction.scattered)} % of white; it was taken off."
        found.append(Flag("veil", says + (" Shade the lens, and take it again." if refused else ""), refused))
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


def shining(light: Any, thing: Any) -> Any:
    """Where on a thing (h, w) something shines: lighter than most of it by as much in all channels, as a reflected lamp is."""
    common = np.median(light[thing], axis=0)
    more = light - common
    least, most = more.min(axis=2), more.max(axis=2)
    return thing & (least > SHINES) & (least > 0.6 * most)


def sheen(light: Any, thing: Any) -> float:
    """How much light (linear, as a share of white) lies over a thing (h, w) on average beyond where it lies least, when it grows
    smoothly to one place and by as much in all channels: a reflected lamp, or the unevenness of a grey thing, which cannot be told
    apart.  0 where it does not."""
    rows, columns = np.nonzero(thing)
    if len(rows) < SHEEN_FEWEST:
        return 0.0
    top, left, tall, wide = rows.min(), columns.min(), np.ptp(rows) + 1, np.ptp(columns) + 1
    block = (rows - top) * SHEEN_BLOCKS // tall * SHEEN_BLOCKS + (columns - left) * SHEEN_BLOCKS // wide
    values = light[rows, columns]
    order = np.argsort(block, kind="stable")
    cuts = np.flatnonzero(np.diff(block[order])) + 1
    parts = [part for part in np.split(order, cuts) if len(part) >= 0.4 * tall * wide / SHEEN_BLOCKS**2]
    if len(parts) < 2 * SHEEN_BLOCKS:
        return 0.0
    middle = np.array([np.median(values[part], axis=0) for part in parts], dtype=np.float64)
    y = np.array([rows[part].mean() for part in parts]) / tall
    x = np.array([columns[part].mean() for part in parts]) / wide
    x, y = x - x.mean(), y - y.mean()
    smooth = np.column_stack([np.ones_like(x), x, y, x * x, y * y, x * y, (x * x + y * y) ** 2])
    fitted = smooth @ np.linalg.lstsq(smooth, middle, rcond=None)[0]
    told = 1 - ((middle - fitted) ** 2).sum(axis=0) / np.maximum(
        ((middle - middle.mean(axis=0)) ** 2).sum(axis=0), 1e-9
    )
    over = fitted - np.quantile(fitted, 0.1, axis=0)
    least, most = over.min(axis=1), over.max(axis=1)
    bright = most > 0.5 * float(most.max())
    alike = float((least[bright] / np.maximum(most[bright], 1e-6)).mean())
    if float(told.mean()) < SHEEN_SMOOTH or alike < SHEEN_ALIKE:
        return 0.0
    return SHEEN_PEAK * float(np.maximum(least, 0).mean())


def crumbs(thing: Any) -> list[Flag]:
    """Whether what stands out (h, w) falls apart, so that it is no thing: its ground looks like most of it."""
    parts, many = label(thing)
    if many < CRUMBS or np.bincount(parts.ravel())[1:].max() > 0.4 * thing.sum():
        return []
    says = f"What stands out from the ground falls apart into {many} pieces: lay it on another ground, or mark its own outline."
    return [Flag("crumbs", says, True)]


def bending(bend: float) -> list[Flag]:
    """Whether the lens bends straight lines so far that it is said (a share at the corner)."""
    if abs(bend) <= BENT_SAID:
        return []
    says = f"The lens bends straight lines, by {100 * abs(bend):.0f} % in the corner; sizes were put right by the card."
    return [Flag("lens", says)]


def overlap(thing: Any, covered: Any) -> list[Flag]:
    """Whether the mark lies over the card."""
    shared = float((thing & covered).sum()) / max(1.0, float(thing.sum()))
    return [Flag("on card", "The mark reaches over the card.", True)] if shared > 0.02 else []
