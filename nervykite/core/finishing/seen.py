"""What there is to see of a picture, and places and directions in that. Pictures are R'G'B'A, float32 (h, w, 4)."""

import math

import numpy as np

from ..model.finish import Stage

HARDLY = 0.02
"""Alpha below which nothing counts as seen."""


def box_of(rgba: np.ndarray, stage: Stage) -> tuple[int, int, int, int]:
    """What there is to see: left, top, right, bottom in pixels; all of it where it covers the canvas, or is empty."""
    h, w = rgba.shape[:2]
    ys, xs = np.flatnonzero(rgba[..., 3].max(1) > HARDLY), np.flatnonzero(rgba[..., 3].max(0) > HARDLY)
    if stage.opaque or not len(ys):
        return 0, 0, w, h
    return int(xs[0]), int(ys[0]), int(xs[-1]) + 1, int(ys[-1]) + 1


def place_of(rgba: np.ndarray, stage: Stage, across: float, down: float) -> tuple[float, float]:
    """A place given as shares of what there is to see, in pixels."""
    left, top, right, bottom = box_of(rgba, stage)
    return left + across * (right - left), top + down * (bottom - top)


def swept(rgba: np.ndarray, stage: Stage, angle: float) -> np.ndarray:
    """How far each pixel lies along a direction, in degrees, across what there is to see: float32 (h, w), 0…1."""
    left, top, right, bottom = box_of(rgba, stage)
    h, w = rgba.shape[:2]
    y, x = np.mgrid[:h, :w].astype(np.float32)
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    span = max(1.0, abs((right - left) * c) + abs((bottom - top) * s))
    along = 0.5 + ((x + 0.5 - (left + right) / 2) * c + (y + 0.5 - (top + bottom) / 2) * s) / span
    return np.clip(along, 0, 1).astype(np.float32)
