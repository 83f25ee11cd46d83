"""Washes: finishes on what lies below them, mixed in as much as they cover."""

from collections.abc import Callable
from concurrent.futures import Executor

import cv2
import numpy as np
from numba import njit

from ...kinds.sources.picture import Patch
from ...piece.model.blend import BlendMode
from ...piece.model.finish import Stage
from ...see.footage.planes import Planes
from .draws import Worn
from .finish_stages import dressed
from .glass import Box, Glass, On, lay, put_together
from .opened import closed, opened


def weights(mask: Glass | None, box: Box, opacity: float, outside: bool) -> np.ndarray:
    """The weights of a wash in a box of the canvas (left, top, right, bottom): float32 (h, w), 0…1.

    mask: what it is limited to, or what it keeps free (`outside`); None where that is nowhere.
    """
    left, top, right, bottom = box
    alpha = np.zeros((bottom - top, right - left), np.float32)
    if mask is not None:
        a, b, c, d = mask.box
        x0, y0, x1, y1 = max(a, left), max(b, top), min(c, right), min(d, bottom)
        if x0 < x1 and y0 < y1:
            alpha[y0 - top : y1 - top, x0 - left : x1 - left] = mask.rgba[y0 - b : y1 - b, x0 - a : x1 - a, 3]
    np.clip(alpha, 0, 1, out=alpha)
    return (1 - alpha if outside else alpha) * np.float32(opacity)


@njit(cache=True, nogil=True, fastmath=True)
def _mix(below, above, weight, out):
    for i in range(weight.size):
        w = weight[i]
        for n in range(4):
            out[i, n] = below[i, n] + w * (above[i, n] - below[i, n])


def mixed(below: np.ndarray, above: np.ndarray, weight: np.ndarray) -> np.ndarray:
    """One picture with as much of another one: float32 (h, w, 4) each, weight float32 (h, w)."""
    out = np.empty_like(below)
    _mix(below.reshape(-1, 4), np.ascontiguousarray(above).reshape(-1, 4), weight.ravel(), out.reshape(-1, 4))
    return out


def wash_planes(
    planes: Planes,
    chain: tuple[Worn, ...],
    weight: np.ndarray | float,
    blend: BlendMode,
    stage: Stage,
    bands: int = 1,
    pool: Executor | None = None,
) -> Planes:
    """A whole canvas with finishes on. Where the weight, float32 (h, w) or one number, is 0, not a bit is changed."""
    below = opened(planes)
    above = over_black(dressed(Patch(0, 0, rgba=below), chain, stage).rgba)
    if blend != "normal":
        out = planes.copy()
        shown = above * (weight if isinstance(weight, float) else weight[..., None])
        lay(out, Glass(0, 0, np.ascontiguousarray(shown, np.float32)), 1.0, blend, bands, pool)
        return out
    if isinstance(weight, float):
        weight = np.full(planes.y.shape, weight, np.float32)
    return closed(mixed(below, above, weight))


def over_black(rgba: np.ndarray | None) -> np.ndarray:
    """The picture with black where finishes have taken it away, of a whole canvas."""
    assert rgba is not None
    if (rgba[..., 3] < 1).any():
        rgba = rgba.copy()
        rgba[..., 3] = 1
    return rgba


def wash_glass(
    below: Glass, chain: tuple[Worn, ...], weigh: Callable[[Box], np.ndarray], blend: BlendMode, stage: Stage
) -> Glass | None:
    """A group's glass so far, with finishes on; `weigh`: how much of them there is in a box."""
    done = dressed(Patch(below.left, below.top, rgba=below.rgba), chain, stage)
    assert done.rgba is not None
    a, b = below.box, Glass(done.left, done.top, done.rgba).box
    box = min(a[0], b[0]), min(a[1], b[1]), max(a[2], b[2]), max(a[3], b[3])
    grown, above = (_widened(Glass(x.left, x.top, x.rgba), box) for x in (below, done) if x.rgba is not None)
    weight = weigh(box)
    if blend == "normal":
        return Glass(box[0], box[1], mixed(grown, above, weight))
    shown = Glass(box[0], box[1], above * weight[..., None])
    return put_together([On(Glass(box[0], box[1], grown)), On(shown, blend)], stage.canvas)


def _widened(glass: Glass, box: Box) -> np.ndarray:
    """A glass on all of a box that it lies in: float32 (h, w, 4)."""
    left, top, right, bottom = box
    a, b, c, d = glass.box
    sides = b - top, bottom - d, a - left, right - c
    return cv2.copyMakeBorder(glass.rgba, *sides, cv2.BORDER_CONSTANT)
