"""Mending a plate by brush: from what lies around, or from another picture of the same place."""

import math

import cv2
import numpy as np

from ..matte.part import around

LARGEST = 480
"""The longest side, in pixels, at which a hole is filled: a guess needs no detail, and filling is slow."""
FEATHER = 6
"""How softly what is put in passes into the plate, px."""


def filled(plate: np.ndarray, area: np.ndarray) -> np.ndarray:
    """A plate uint8 RGB (h, w, 3) with an area, bool (h, w), filled from what lies around it.

    Colours flow in from the rim (Telea 2004); the plate's own grain goes on top, so that the place is not smooth.
    """
    if not area.any():
        return plate.copy()
    box = around(area, max(24, round(0.4 * math.sqrt(area.sum()))))
    part, hole = plate[box], area[box].astype(np.uint8)
    by = min(1.0, LARGEST / max(hole.shape))
    small = cv2.resize(part, None, fx=by, fy=by, interpolation=cv2.INTER_AREA)
    shrunk = cv2.resize(hole, small.shape[1::-1], interpolation=cv2.INTER_NEAREST)
    gap = cv2.dilate(shrunk, np.ones((3, 3), np.uint8))
    coarse = cv2.inpaint(small, gap, 5, cv2.INPAINT_TELEA)
    flown = cv2.resize(coarse, hole.shape[::-1], interpolation=cv2.INTER_CUBIC).astype(np.float32)
    result = plate.copy()
    result[box] = _put(part, np.clip(flown + _grain(part, hole), 0, 255), area[box])
    return result


def cloned(plate: np.ndarray, other: np.ndarray, area: np.ndarray) -> np.ndarray:
    """A plate with an area taken from another picture of the same place, laid onto it; all uint8 RGB, bool (h, w).

    The other's brightness is evened out to the plate's along the rim of the area.
    """
    if not area.any():
        return plate.copy()
    box = around(area, 24)
    part, source, hole = plate[box], other[box].astype(np.float32), area[box]
    ring = (cv2.dilate(hole.astype(np.uint8), np.ones((25, 25), np.uint8)) > 0) & ~hole
    if ring.sum() > 50:
        gain = np.median((part[ring].astype(np.float32) + 8) / (source[ring] + 8), 0)
        if np.abs(gain - 1).max() < 0.25:
            source = source * gain
    result = plate.copy()
    result[box] = _put(part, np.clip(source, 0, 255), hole)
    return result


def _put(part: np.ndarray, new: np.ndarray, area: np.ndarray) -> np.ndarray:
    """`new` where the area is, passing softly into `part` outside of it."""
    share = cv2.GaussianBlur(cv2.dilate(area.astype(np.float32), np.ones((FEATHER, FEATHER))), (0, 0), FEATHER / 3)
    share = np.where(area, 1, share)[..., None]
    return np.round(part + share * (new - part)).astype(np.uint8)


def _grain(part: np.ndarray, hole: np.ndarray) -> np.ndarray:
    """Noise as strong as the finest detail of the surroundings: float32 (h, w, 1)."""
    grey = cv2.cvtColor(part, cv2.COLOR_RGB2GRAY).astype(np.float32)
    detail = grey - cv2.GaussianBlur(grey, (0, 0), 1.5)
    strength = min(6.0, 1.48 * float(np.median(np.abs(detail[hole == 0])))) if (hole == 0).any() else 0.0
    noise = np.random.default_rng(11).normal(0, 1, hole.shape).astype(np.float32)
    return (strength * noise)[..., None]
