"""Where the card lies, to a fraction of a pixel, and how far the lens bends straight lines.

The four marks alone fix a view without a lens.  The edges of marks, dark fields and the bar are looked for along their normals; view and
the lens's first radial coefficient are fitted to all of them.  Source: Brown 1971, Close-range camera calibration, Photogrammetric
Engineering 37:855."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import map_coordinates
from scipy.optimize import least_squares

from fieldtally.core.photos import card
from fieldtally.core.photos.colour import Pixels, Reals, linear_of
from fieldtally.core.photos.finding import Found, bent, card_by_marks, seen_through, straight

REACH = 2.0
"""Millimetres on either side of where an edge should be."""
USUAL_LENS = 0.06
"""What the lens of a plain camera bends at the corner, as a share: how far a fit may go without evidence."""
FEWEST = 24
PLAIN = 0.25
"""By which share of the paler side an edge must be plain."""
MOST_BENT, LEAST_UNSURE = 0.35, 0.008
ASTRAY = 0.06
"""Millimetres that the edges of the card are off their fit as a rule: paper does not lie flat."""


def _edges() -> tuple[Reals, Reals]:
    """Points on edges of the card (n, 2) and the way across each, from dark to pale (n, 2)."""
    points: list[tuple[float, float]] = []
    across: list[tuple[float, float]] = []

    def add(x: float, y: float, dx: float, dy: float) -> None:
        points.append((x, y))
        across.append((dx, dy))

    half = card.MARK / 2
    for x, y in card.MARKS:
        for along in np.linspace(-3.8, 3.8, 5):
            add(x + half, y + along, 1, 0)
            add(x - half, y + along, -1, 0)
            add(x + along, y + half, 0, 1)
            add(x + along, y - half, 0, -1)
    for patch in card.PATCHES:
        top = patch.y < 30
        if patch.colour in card.GREYS[:2]:
            continue
        for along in np.linspace(0.15, 0.85, 5):
            add(patch.x + patch.width * along, patch.y if top else patch.y + patch.height, 0, -1 if top else 1)
    for patch in (card.PATCHES[len(card.GREYS) - 1], card.PATCHES[-1]):
        for along in np.linspace(0.15, 0.85, 5):
            add(patch.x + patch.width, patch.y + patch.height * along, 1, 0)
    first = card.PATCHES[len(card.GREYS)]
    for along in np.linspace(0.15, 0.85, 5):
        add(first.x, first.y + first.height * along, -1, 0)
    return np.array(points), np.array(across)


def find_card(pixels: Pixels) -> Found | None:
    """The card in a picture (height, width, 3), or None where it is not to be seen whole."""
    found = card_by_marks(pixels)
    return None if found is None else by_edges(pixels, found)


def by_edges(pixels: Pixels, found: Found) -> Found:
    """Where the card lies, and the lens, by all edges of the card found by its marks in a picture (height, width, 3)."""
    size = found.size
    view, bend = found.view / found.view[2, 2], 0.0
    points, across = _edges()
    # In linear light, in which a lens blurs: an edge lies where half of it comes from either side.
    grey = linear_of(pixels) @ np.array([0.3, 0.6, 0.1], dtype=np.float32)
    steps = np.linspace(-REACH, REACH, 65)
    unsure = USUAL_LENS
    for _ in range(3):
        # Every edge, where the view so far puts it, and along its normal in the picture.
        lines = (points[:, None] + across[:, None] * steps[None, :, None]).reshape(-1, 2)
        at = bent(seen_through(view, lines), size, bend)
        profile = map_coordinates(grey, [at[:, 1], at[:, 0]], order=1, mode="nearest").reshape(len(points), -1)
        off, good = _crossings(profile, steps)
        if good.sum() < FEWEST:
            break
        true = bent(seen_through(view, (points + across * off[:, None])[good]), size, bend)
        wanted, ways = points[good], across[good]

        def apart(x: Reals, true: Reals = true, wanted: Reals = wanted, ways: Reals = ways) -> Reals:
            there = np.append(x[:8], 1.0).reshape(3, 3)
            back = seen_through(
                np.asarray(np.linalg.pinv(there)), straight(true, size, float(np.clip(x[8], -MOST_BENT, MOST_BENT)))
            )
            rest = ((back - wanted) * ways).sum(axis=1)
            return np.append(rest / ASTRAY, x[8] / USUAL_LENS)

        start = np.append(view.ravel()[:8], bend)
        fitted = least_squares(apart, start, x_scale="jac", loss="soft_l1", f_scale=1.5, max_nfev=40)
        view, bend = np.append(fitted.x[:8], 1.0).reshape(3, 3), float(np.clip(fitted.x[8], -MOST_BENT, MOST_BENT))
        spread = max(0.35, float(np.median(np.abs(fitted.fun[:-1]))) * 1.48)
        covariance = np.linalg.pinv(fitted.jac.T @ fitted.jac)
        unsure = max(LEAST_UNSURE, spread * float(np.sqrt(covariance[8, 8])))
    return Found(found.marks, view, size, bend, unsure)


def _crossings(profile: Reals, steps: Reals) -> tuple[Reals, np.ndarray]:
    """Where each profile (n, m) from dark to pale crosses half way (n), and whether it does so plainly (n)."""
    third = profile.shape[1] // 4
    low, high = np.median(profile[:, :third], axis=1), np.median(profile[:, -third:], axis=1)
    half = (low + high)[:, None] / 2
    above = profile > half
    first = np.argmax(above, axis=1)
    rows = np.arange(len(profile))
    before = np.maximum(first - 1, 0)
    one, other = profile[rows, before], profile[rows, first]
    share = np.where(other > one, (half[:, 0] - one) / np.maximum(other - one, 1e-6), 0.0)
    at = steps[before] + np.clip(share, 0, 1) * (steps[1] - steps[0])
    crossings = np.abs(np.diff(above.astype(int), axis=1)).sum(axis=1)
    return at, (high - low > PLAIN * np.maximum(high, 1e-6)) & (crossings == 1) & (first > 0)
