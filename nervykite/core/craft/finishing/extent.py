"""The visible part of a picture, and places and directions in it. Pictures are R'G'B'A, float32 (h, w, 4)."""

import math

import numpy as np

from ...piece.model.finish import Sides, Stage

HARDLY = 0.02
"""Alpha below which nothing counts as seen."""


def box_of(rgba: np.ndarray, stage: Stage) -> tuple[int, int, int, int]:
    """Box of what there is to see: left, top, right, bottom in pixels; all where it covers the canvas, or is empty."""
    h, w = rgba.shape[:2]
    seen = None if stage.opaque else seen_box(rgba, HARDLY, cover=True)
    return seen or (0, 0, w, h)


def seen_box(rgba: np.ndarray, hardly: float, cover: bool = False) -> tuple[int, int, int, int] | None:
    """Where anything is more than hardly: left, top, right, bottom; None if nowhere. `cover`: what counts is alpha."""
    from .compiled.seen_kernels import seen

    left, top, right, bottom = seen(np.ascontiguousarray(rgba, np.float32), np.float32(hardly), cover)
    return (left, top, right, bottom) if right else None


def place_of(rgba: np.ndarray, stage: Stage, across: float, down: float) -> tuple[float, float]:
    """A place given as shares of what there is to see, in pixels."""
    left, top, right, bottom = box_of(rgba, stage)
    return left + across * (right - left), top + down * (bottom - top)


def swept(rgba: np.ndarray, stage: Stage, angle: float) -> np.ndarray:
    """The place of each pixel along a direction, in degrees, across what there is to see: float32 (h, w), 0…1."""
    left, top, right, bottom = box_of(rgba, stage)
    h, w = rgba.shape[:2]
    y, x = np.mgrid[:h, :w].astype(np.float32)
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    span = max(1.0, abs((right - left) * c) + abs((bottom - top) * s))
    along = 0.5 + ((x + 0.5 - (left + right) / 2) * c + (y + 0.5 - (top + bottom) / 2) * s) / span
    return np.clip(along, 0, 1).astype(np.float32)


def towards(far: float, angle: float, around: float) -> Sides:
    """A kernel that reaches so far in a direction, in degrees, and a little all around."""
    x, y = far * math.cos(math.radians(angle)), far * math.sin(math.radians(angle))
    return max(0.0, -x) + around, max(0.0, -y) + around, max(0.0, x) + around, max(0.0, y) + around
