"""Grains of a picture, carried off by a field of noise without sources (curl noise: Bridson et al. 2007)."""

import numpy as np

from .noise import cloud


def carried(
    rgba: np.ndarray, order: np.ndarray, *, strength: float, angle: float, distance: float, size: float, unrest: float,
    spin: float, fade: float, seed: int, corner: tuple[int, int], swirl: float,
    on: tuple[tuple[int, int], tuple[int, int]],
) -> np.ndarray:  # fmt: skip
    """A picture of which part has left as grains: premultiplied float32 (h, w, 4).

    order: when each pixel leaves, float32 (h, w), from first 0 to last 1; strength: how far that has come, 0…1, where
    at 1 all have gone; angle: where to, in radians; distance, size, swirl: in pixels; corner: where the picture's
    corner lies on the canvas; on: how high and wide what comes out is, and where in that the picture's corner lies.
    """
    from .compiled.grains_kernels import carry

    lasts = 0.5  # of all the time each is on its way
    gone = np.clip((strength * (1 + lasts) - order) / lasts, 0, 1).astype(np.float32)
    if strength >= 1:
        gone[:] = 1
    h, w = gone.shape
    x, y = float(corner[0]), float(corner[1])
    # The curl of noise: its slopes, turned by a right angle.
    field = cloud((h + 1, w + 1), swirl, seed + 11, x, y, 2) * np.float32(swirl)
    flow_x, flow_y = np.diff(field, axis=0)[:, :w], -np.diff(field, axis=1)[:h]
    (high, wide), (left, top) = on
    given = np.ascontiguousarray(rgba, np.float32)
    out = np.zeros((high, wide, 4), np.float32)
    np.multiply(given, (gone <= 0)[..., None], out=out[top : top + h, left : left + w])
    carry(
        given, gone, np.ascontiguousarray(flow_x), np.ascontiguousarray(flow_y), float(size), float(np.cos(angle)),
        float(np.sin(angle)), float(distance), float(unrest), float(spin), float(fade), int(seed), x, y,
        int(left), int(top), out,
    )  # fmt: skip
    return out
