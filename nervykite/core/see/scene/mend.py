"""Mending a plate by brush: from what lies around, or from another picture of the same place."""

import cv2
import numpy as np

from ..matte.part import around
from .resynth import resynthesised

BESIDE, LEAST = 1.5, 48
"""How far around an area its surroundings are looked at to fill it, in its lengths and in pixels at least."""
FEATHER = 6
"""How softly what is put in passes into the plate, px."""


def filled(plate: np.ndarray, area: np.ndarray, usable: np.ndarray | None = None) -> np.ndarray:
    """A plate uint8 RGB (h, w, 3) with an area, bool (h, w), filled from what lies around it, see `resynthesised`.

    usable: from where may be taken, bool (h, w); everywhere beside the area if nothing else is said.
    """
    if not area.any():
        return plate.copy()
    rows, columns = around(area, 0)
    long = max(rows.stop - rows.start, columns.stop - columns.start)
    box = around(area, max(LEAST, round(BESIDE * long)))
    part, hole = plate[box], area[box]
    grown = cv2.dilate(hole.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    result = plate.copy()
    result[box] = _put(part, resynthesised(part, grown, None if usable is None else usable[box]), hole)
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
    return np.round(part + share * (new.astype(np.float32) - part)).astype(np.uint8)
