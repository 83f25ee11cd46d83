"""The tracer: a small network that looks at an outline from near, and says where the edge runs and how soft it is.

What finds a subject looks from afar, and its outline is a few pixels off, cuts corners, or follows a crease beside the
edge. The tracer is a U-Net (Ronneberger, Fischer and Brox, "U-Net: convolutional networks for biomedical image
segmentation", 2015) that is shown the outline square by square, as a mask to be corrected (after Cheng and others,
"CascadePSP", 2020). It was taught with squares of subjects whose true mattes are known, along outlines that are off.
`tools.learn` tells how, and can make it again.

Marks need it: without it their edges are up to 0.017 worse on the demo where nobody is known. What moves is laid onto
edges by other means, and is better without it.
"""

import math
from pathlib import Path

import cv2
import numpy as np
from numba import njit

from .networks import shipped, warm_up
from .part import around, smaller

MODEL = Path(__file__).with_name("tracer.tflite")
PIXELS = 700_000
"""Pixels of the size at which it looks."""
SIDE, APART = 64, 40
"""Rows and columns of a square, and how far from each other squares are, px."""
BEYOND = 16.0
"""How far from an outline it is told how far away that is, px."""
TRUSTED = 12.0
"""How far from the outline it is heard, px."""


def traced(picture: np.ndarray, outline: np.ndarray) -> np.ndarray | None:
    """A matte from an outline that is about right: float32 (h, w), 0…1.

    None if no network can be run here, or there is no edge, or less of a picture than it looks at once.

    picture: uint8 RGB (h, w, 3); outline: float32 (h, w), its edge where it is one half. It is looked at, and
    answered, at PIXELS at most, and enlarged to (h, w).
    """
    network = shipped(MODEL)
    if network is None:
        return None
    small, _ = smaller(picture, PIXELS)
    h, w = small.shape[:2]
    hard = (cv2.resize(outline, (w, h), interpolation=cv2.INTER_AREA) > 0.5).astype(np.uint8)
    if min(h, w) < SIDE or hard.min() == hard.max():
        return None
    answer = hard.astype(np.float32)
    box = around(cv2.morphologyEx(hard, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)), SIDE)
    part, away = small[box], signed_distance(hard[box])
    total, weight = np.zeros(away.shape, np.float32), np.zeros(away.shape, np.float32)
    for square in squares(np.abs(away) <= 1):
        total[square] += WINDOW * network(shown(part[square], away[square]))[0][..., 0]
        weight[square] += WINDOW
    heard = (weight > 0) & (np.abs(away) <= TRUSTED)
    answer[box][heard] = total[heard] / weight[heard]
    return cv2.resize(answer, outline.shape[::-1], interpolation=cv2.INTER_LINEAR)


def signed_distance(hard: np.ndarray) -> np.ndarray:
    """The signed distance of each pixel inside (> 0) or outside an outline, uint8 (h, w), 0 or 1: float32 (h, w),
    ±BEYOND px.
    """
    inside, outside = (cv2.distanceTransform(side, cv2.DIST_L2, 5) for side in (hard, 1 - hard))
    return np.clip(inside - outside, -BEYOND, BEYOND)


def shown(square: np.ndarray, away: np.ndarray) -> np.ndarray:
    """The input of the tracer: a square, uint8 RGB, and a signed distance (SIDE, SIDE): float32 (SIDE, SIDE, 4)."""
    values = np.empty((*away.shape, 4), np.float32)
    _show(square, away, values)
    return values


@njit(cache=True, nogil=True, fastmath=True)
def _show(square, away, values):
    height, width = away.shape
    means, power = np.zeros(3), 0.0
    for y in range(height):
        for x in range(width):
            for c in range(3):
                value = float(square[y, x, c])
                means[c] += value
                power += value * value
    means /= height * width
    gain = 1 / (math.sqrt(max(0.0, power / (3 * height * width) - means.mean() ** 2)) + 8)
    for y in range(height):
        for x in range(width):
            for c in range(3):
                values[y, x, c] = (square[y, x, c] - means[c]) * gain
            values[y, x, 3] = away[y, x] / BEYOND


def squares(line: np.ndarray) -> list[tuple[slice, slice]]:
    """The squares, as rows and columns, that cover what is set in `line`, bool (h, w) of SIDE at least each way."""
    h, w = line.shape
    margin = (SIDE - APART) // 2
    ys, xs = np.nonzero(line)
    cells = np.unique(np.stack([ys // APART, xs // APART], 1), axis=0)
    corners = np.clip(cells * APART - margin, 0, (h - SIDE, w - SIDE))
    return [(slice(y, y + SIDE), slice(x, x + SIDE)) for y, x in np.unique(corners, axis=0).tolist()]


def load() -> None:
    """Loads it and asks it once, as the first answer takes longest."""
    warm_up(MODEL)


def _window() -> np.ndarray:
    """The window of weights of a square's pixels, less towards its rim, where least is seen: float32 (SIDE, SIDE)."""
    rise = np.minimum(np.arange(SIDE) + 1, SIDE - np.arange(SIDE)).astype(np.float32)
    return np.minimum.outer(rise, rise) / (SIDE / 2)


WINDOW = _window()
