"""The part that kernels on sprites and planes share: sampling, and Y'CbCr (BT.709, limited) to R'G'B' and back."""

from typing import NamedTuple

import numpy as np
from numba import njit

from .blend_modes import formula
from .draw import MARGIN, Sprite


class Packed(NamedTuple):
    """The packed planes of a sprite, flat, with the height and width of its luma and of its chroma."""

    luma: np.ndarray
    height: int
    width: int
    cb: np.ndarray
    cr: np.ndarray
    chroma_height: int
    chroma_width: int

    @classmethod
    def of(cls, sprite: Sprite) -> "Packed":
        """Those of a sprite."""
        (height, width), (chroma_height, chroma_width) = sprite.luma.shape, sprite.cb.shape
        chroma = sprite.cb.ravel(), sprite.cr.ravel()
        return cls(sprite.luma.ravel(), height, width, *chroma, chroma_height, chroma_width)


@formula
def halves(packed):
    """Colour and alpha of a packed pixel: processors turn small whole numbers into floats more quickly."""
    return np.float32(np.int32(packed & np.uint64(0xFFFFFFFF))), np.float32(np.int32(packed >> np.uint64(32)))


@formula
def sample(packed, height, width, x, y, black):
    """Bilinear: alpha·(colour − black) and alpha of a packed plane at a place; nothing beside it."""
    if not (MARGIN <= x <= width - 1 - MARGIN and MARGIN <= y <= height - 1 - MARGIN):
        return np.float32(0), np.float32(0)
    k = int(y) * width + int(x)
    fx, fy = np.float32(x - int(x)), np.float32(y - int(y))
    v00, v01, v10, v11 = packed[k], packed[k + 1], packed[k + width], packed[k + width + 1]
    if v00 | v01 | v10 | v11 == 0:
        return np.float32(0), np.float32(0)
    w00, w01, w10, w11 = (1 - fx) * (1 - fy), fx * (1 - fy), (1 - fx) * fy, fx * fy
    (c00, a00), (c01, a01), (c10, a10), (c11, a11) = halves(v00), halves(v01), halves(v10), halves(v11)
    colour = w00 * c00 + w01 * c01 + w10 * c10 + w11 * c11
    cover = w00 * a00 + w01 * a01 + w10 * a10 + w11 * a11
    return colour * np.float32(1 / 256) - black, cover * np.float32(1 / 256)


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def chroma_at(cb, cr, height, width, half, c, r, light):
    """Chroma of a sprite at a place of the target's chroma planes, from no colour; with `light`, premultiplied."""
    depth = half[2, 0] * c + half[2, 1] * r + half[2, 2]
    sx = (half[0, 0] * c + half[0, 1] * r + half[0, 2]) / depth - 0.5
    sy = (half[1, 0] * c + half[1, 1] * r + half[1, 2]) / depth - 0.5
    black = np.float32(128) if light else np.float32(0)
    du, cover = sample(cb, height, width, sx, sy, black)
    dv, _ = sample(cr, height, width, sx, sy, black)
    if not light and cover > 0:
        # Straight colour, from planes whose alphas differ a little at an edge.
        du, dv = du / cover - np.float32(128), dv / cover - np.float32(128)
    return du, dv


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def rgb_of(level, du, dv):
    """R'G'B' of a luma of 0…1 and of chroma relative to no colour, in levels."""
    red = level + np.float32(1.5748 / 224) * dv
    green = level - np.float32(0.18732427 / 224) * du - np.float32(0.46812427 / 224) * dv
    blue = level + np.float32(1.8556 / 224) * du
    return red, green, blue


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def ycc_of(red, green, blue):
    """Luma of R'G'B', 0…1, and chroma relative to no colour, in levels."""
    level = np.float32(0.2126) * red + np.float32(0.7152) * green + np.float32(0.0722) * blue
    return level, np.float32(224 / 1.8556) * (blue - level), np.float32(224 / 1.5748) * (red - level)


@formula
def byte_of(x):
    """The nearest of 256 levels."""
    return np.uint8(min(max(x + np.float32(0.5), np.float32(0)), np.float32(255)))
