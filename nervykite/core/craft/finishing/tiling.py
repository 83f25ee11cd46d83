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
    """The picture premultiplied, float32; made smaller where it is drawn smaller, so that it does not flicker."""
    if tile.shape[2] == 3:
        tile = cv2.merge([*cv2.split(tile), np.full(tile.shape[:2], 255, np.uint8)])
    by = wide / tile.shape[1]
    if by >= 1:
        return _premultiplied(tile.astype(np.float32) * np.float32(1 / 255))
    size = max(1, round(wide)), max(1, round(tile.shape[0] * by))
    # In bytes: a large picture as floats would take four times the room.
    *colours, alpha = cv2.split(tile)
    bytes_ = cv2.merge([*(cv2.multiply(c, alpha, scale=1 / 255) for c in colours), alpha])
    return cv2.resize(bytes_, size, interpolation=cv2.INTER_AREA).astype(np.float32) * np.float32(1 / 255)


def _premultiplied(rgba: np.ndarray) -> np.ndarray:
    rgba[..., :3] *= rgba[..., 3:]
    return rgba
