"""A picture laid side by side over a plane."""

import math

import cv2
import numpy as np


def tiled(
    tile: np.ndarray,
    shape: tuple[int, int],
    wide: float,
    angle: float,
    middle: tuple[float, float],
    shifted: float = 0.0,
) -> np.ndarray:
    """A picture, straight R'G'B'A, uint8 (h, w, 3 or 4), again and again: premultiplied R'G'B'A, float32 (*shape, 4).

    wide: how wide one of them is, in pixels; angle: how the rows are turned, in degrees; middle: the pixel at which the
    middle of one lies; shifted: how far every other row is, in widths.
    """
    one = _fitting(tile, wide)
    high, across = one.shape[:2]
    c, s = math.cos(math.radians(angle)) * across / wide, math.sin(math.radians(angle)) * across / wide
    y, x = np.mgrid[: shape[0], : shape[1]].astype(np.float32)
    x, y = x + np.float32(0.5 - middle[0]), y + np.float32(0.5 - middle[1])
    u, v = c * x + s * y + across / 2, c * y - s * x + high / 2
    if shifted:
        u = u + np.float32(shifted * across) * (np.floor(v / high) % 2)
    # One pixel of the next is kept beside it, so that samples run on across the seam.
    ring = cv2.copyMakeBorder(one, 1, 1, 1, 1, cv2.BORDER_WRAP)
    u, v = (u % across).astype(np.float32), (v % high).astype(np.float32)
    return cv2.remap(ring, u + np.float32(0.5), v + np.float32(0.5), cv2.INTER_LINEAR)


def _fitting(tile: np.ndarray, wide: float) -> np.ndarray:
    """The picture premultiplied, float32; made smaller first where it is drawn smaller, so that it does not flicker."""
    rgba: np.ndarray = tile.astype(np.float32) / np.float32(255)
    if rgba.shape[2] == 3:
        rgba = cv2.merge([*cv2.split(rgba), np.ones(rgba.shape[:2], np.float32)])
    rgba[..., :3] *= rgba[..., 3:]
    by = wide / rgba.shape[1]
    if by >= 1:
        return rgba
    size = max(1, round(wide)), max(1, round(rgba.shape[0] * by))
    return cv2.resize(rgba, size, interpolation=cv2.INTER_AREA)
