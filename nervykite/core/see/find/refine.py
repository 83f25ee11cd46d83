"""From a rough outline to one that lies on the edge: one more cut at a finer size, within a band.

Movers need it, which are found in small pictures: without it the demo's lose 0.005 of overlap.
"""

import math
from dataclasses import dataclass

import cv2
import numpy as np

from ...common.aside import crew
from ..matte.colours import SPACES, Mixture, lab, placed
from ..matte.part import around, smaller
from .cut import minimal_cut
from .evidence import edges_of, leaning_of, pairwise_of


@dataclass(frozen=True)
class RefineSettings:
    """The settings by which a rough outline is laid onto edges."""

    fine: int = 700_000
    """Pixels of the size at which it is cut."""
    reach: float = 3.0
    """How far from the rough outline, in its own pixels, the finer one may lie."""
    around: int = 30
    """How far from the outline, in pixels of the rough one, colours are learned."""
    colour: float = 0.3
    """The say of what colours are whose."""
    place: float = 0.5
    """The say of what colours are whose there."""
    before: float = 0.3
    """The say of what was found before."""
    outline: float = 1.5
    """The cost of the outline's length."""


def refined(
    picture: np.ndarray, found: np.ndarray, says: np.ndarray, settings: RefineSettings = RefineSettings()
) -> np.ndarray:
    """The outline of `found`, float32 (h, w), 0…1, laid onto the edges of a picture, uint8 RGB of a larger size.

    In a band of a few pixels of `found` to each side it is cut anew, by the colours that subject and surroundings
    have there, by what was found before and by what else `says` something for or against it, (h, w), about -1…1.
    Returns float32, 0…1, of `settings.fine` pixels at most.
    """
    medium, _ = smaller(picture, settings.fine)
    h, w = medium.shape[:2]
    ratio = h / found.shape[0]
    grown = cv2.resize(found, (w, h), interpolation=cv2.INTER_LINEAR)
    whole = (grown > 0.5).astype(np.uint8)
    if whole.min() == whole.max():
        return grown
    rim = cv2.morphologyEx(whole, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
    box = around(rim, math.ceil(settings.around * ratio) + 2)  # all that is looked at
    hard, before, colours = whole[box], grown[box], lab(medium[box], SPACES[0])
    away = cv2.distanceTransform(hard, cv2.DIST_L2, 5) + cv2.distanceTransform(1 - hard, cv2.DIST_L2, 5)
    radius = max(3.0, settings.reach * ratio)
    band = away <= radius
    rows, columns = np.flatnonzero(hard.any(1)), np.flatnonzero(hard.any(0))
    long = 0.25 * math.hypot(np.ptp(rows) + 4, np.ptp(columns) + 4)
    spots = placed(colours, long, 40.0)
    near = (away <= settings.around * ratio) & ~band
    core, rest = near & (hard > 0), near & (hard == 0)
    unary = settings.before * (2 * cv2.GaussianBlur(before, (0, 0), radius / 1.5) - 1)
    if min(core.sum(), rest.sum()) > 60:
        with crew() as aside:
            there = [aside.submit(Mixture.of, spots[area], 24, 4.0) for area in (core, rest)]
            anywhere = [aside.submit(Mixture.of, colours[area], 8) for area in (core, rest)]
            unary += settings.place * leaning_of(spots, there[0].result(), there[1].result(), band)
            unary += settings.colour * leaning_of(colours, anywhere[0].result(), anywhere[1].result(), band)
    unary += cv2.resize(says.astype(np.float32), (w, h), interpolation=cv2.INTER_LINEAR)[box] * band
    unary[~band] = 40 * (2.0 * hard[~band] - 1)
    fine = grown.copy()
    fine[box] = minimal_cut(unary, pairwise_of(edges_of(colours), settings.outline), before, 120)
    return fine
