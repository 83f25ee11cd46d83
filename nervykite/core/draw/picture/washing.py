"""Washes: finishes on what lies below them, mixed in as much as they cover."""

from collections.abc import Callable

import numpy as np
from numba import njit

from ...kinds.sources.picture import Patch
from ...piece.model.blend import BlendMode
from ...piece.model.finish import Stage
from ...see.footage.planes import Planes
from .bands import WHOLE, Bands
from .draws import Worn
from .finish_stages import dressed
from .glass import Box, Glass, On, lay, put_together
from .opened import closed, opened


def weights(mask: Glass | None, box: Box, opacity: float, outside: bool) -> np.ndarray:
    """The weights of a wash in a box of the canvas (left, top, right, bottom): float32 (h, w), 0…1.

    mask: what it is limited to, or what it keeps free (`outside`); None where that is nowhere.
    """
    left, top, right, bottom = box
    alpha = np.zeros((bottom - top, right - left), np.float32) if mask is None else mask.alpha_on(box)
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
    bands: Bands = WHOLE,
) -> Planes:
    """A whole canvas with finishes on. Where the weight, float32 (h, w) or one number, is 0, not a bit is changed."""
    below = opened(planes)
    above = over_black(dressed(Patch(0, 0, rgba=below), chain, stage).rgba)
    if blend != "normal":
        out = planes.copy()
        shown = above * (weight if isinstance(weight, float) else weight[..., None])
        lay(out, Glass(0, 0, np.ascontiguousarray(shown, np.float32)), 1.0, blend, bands)
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
    grown, above = below.on(box), Glass(done.left, done.top, done.rgba).on(box)
    weight = weigh(box)
    if blend == "normal":
        return Glass(box[0], box[1], mixed(grown, above, weight))
    shown = Glass(box[0], box[1], above * weight[..., None])
    return put_together([On(Glass(box[0], box[1], grown)), On(shown, blend)], stage.canvas)
