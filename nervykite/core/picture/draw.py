"""Putting a sprite onto planes: premultiplied over (Porter and Duff 1984), moved, turned and scaled."""

import math
from collections.abc import Iterator, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit

from ..footage.planes import Planes

FULL = 256
"""Alpha of what covers all: a power of two, so that drawing needs no division."""

MARGIN = 0.05
"""How far from a plane's edge sampling stays, in pixels: more than rounded steps drift over 4096 columns."""


def pack(colour: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """A plane with its alpha: uint64 of the same shape, alpha·colour in the low half and alpha in the high.

    colour is uint8, alpha uint16, 0…FULL. Both halves are then interpolated by the same multiplications, and
    where alpha is FULL or the colours are the target's own, the result is exact to the bit.
    """
    cover = alpha.astype(np.uint64)
    return np.ascontiguousarray(colour * cover | cover << np.uint64(32))


class Sprite:
    """A cutout ready to be drawn, in canvas pixels at rest.

    `left` and `top` (even) say where its corner rests. luma (h, w), cb and cr (h/2, w/2) are planes as `pack`
    makes them, each with a transparent rim, so that sampling never needs to look outside.
    """

    def __init__(self, left: int, top: int, luma: np.ndarray, cb: np.ndarray, cr: np.ndarray) -> None:
        self.left, self.top = left, top
        self.luma, self.cb, self.cr = luma, cb, cr
        self._half: Sprite | None = None

    @property
    def alpha(self) -> np.ndarray:
        """How much each pixel covers: float32 (h, w), 0…1."""
        return (self.luma >> np.uint64(32)).astype(np.float32) / FULL

    @property
    def nbytes(self) -> int:
        """Memory held, in bytes."""
        return self.luma.nbytes + self.cb.nbytes + self.cr.nbytes

    def half(self) -> "Sprite":
        """The sprite at half size, for drawing it small without flicker; made when first asked for."""
        if self._half is None:
            self._half = Sprite(0, 0, *(_halved(p) for p in (self.luma, self.cb, self.cr)))
        return self._half


def _halved(plane: np.ndarray) -> np.ndarray:
    parts = []
    for shift in (0, 32):
        part = (plane >> np.uint64(shift) & np.uint64(0xFFFFFFFF)).astype(np.uint16)
        part = np.pad(part, ((0, part.shape[0] % 2 + 2), (0, part.shape[1] % 2 + 2)))
        size = part.shape[1] // 2, part.shape[0] // 2
        parts.append(cv2.resize(part, size, interpolation=cv2.INTER_AREA).astype(np.uint64))
    return np.ascontiguousarray(parts[0] | parts[1] << np.uint64(32))


@njit(cache=True, nogil=True, fastmath=True)
def _span(origin, step, low, high, first, past):
    """The whole numbers x in first…past for which origin + step·x lies within low…high."""
    if abs(step) < 1e-9:
        if origin < low or origin > high:
            return first, first
        return first, past
    a = (low - origin) / step
    b = (high - origin) / step
    if a > b:
        a, b = b, a
    return max(first, math.ceil(a - 1e-6)), min(past, math.floor(b + 1e-6) + 1)


@njit(cache=True, nogil=True)
def _over(target, packed, height, width, m, opacity, first_row, past_row):
    """Draws a packed plane, given flat, over rows of a target plane.

    m (2×3) takes target pixels to the plane's. Places are whole numbers of 1/65536 pixel, weights of 1/256; sums of
    both packed halves stay within 32 bits each.
    """
    byte = np.uint64(255)
    eight = np.uint64(8)
    right = np.uint64(1)
    below = np.uint64(width)
    across = np.int64(round(m[0, 0] * 65536))
    down = np.int64(round(m[1, 0] * 65536))
    columns = target.shape[1]
    for r in range(first_row, past_row):
        x0 = m[0, 1] * (r + 0.5) + m[0, 2] + 0.5 * m[0, 0] - 0.5
        y0 = m[1, 1] * (r + 0.5) + m[1, 2] + 0.5 * m[1, 0] - 0.5
        a, b = _span(x0, m[0, 0], MARGIN, width - 1 - MARGIN, 0, columns)
        a, b = _span(y0, m[1, 0], MARGIN, height - 1 - MARGIN, a, b)
        if a >= b:
            continue
        x = np.int64((x0 + m[0, 0] * a) * 65536 + 0.5)
        y = np.int64((y0 + m[1, 0] * a) * 65536 + 0.5)
        row = target[r]
        for c in range(np.uint64(a), np.uint64(b)):
            k = np.uint64((y >> 16) * width + (x >> 16))
            fx = np.uint64(x >> 8) & byte
            fy = np.uint64(y >> 8) & byte
            x += across
            y += down
            v00 = packed[k]
            v01 = packed[k + right]
            v10 = packed[k + below]
            v11 = packed[k + below + right]
            if v00 | v01 | v10 | v11 == 0:
                continue
            upper = (v00 << eight) + (v01 - v00) * fx
            lower = (v10 << eight) + (v11 - v10) * fx
            both = (upper << eight) + (lower - upper) * fy
            colour = ((both & np.uint64(0xFFFFFFFF)) >> eight) * opacity >> eight
            cover = (both >> np.uint64(40)) * opacity >> eight
            kept = np.uint64(row[c]) * (np.uint64(65536) - cover)
            row[c] = np.uint8((colour + kept + np.uint64(32768)) >> np.uint64(16))


@dataclass(frozen=True)
class Placed:
    """A sprite, where it goes (3×3, canvas pixels at rest to canvas pixels), and how opaque, 0…1."""

    sprite: Sprite
    matrix: np.ndarray
    opacity: float = 1.0


def draw(planes: Planes, placed: Sequence[Placed], bands: int = 1, pool: Executor | None = None) -> None:
    """Draws sprites over planes, in place and in order.

    Sampling is bilinear, from a sprite shrunk by halves where it is drawn small. At whole-pixel moves no pixel is
    resampled. With a pool, each of so many bands of rows gets all its sprites in one go.
    """
    work = [part for one in placed for part in _parts(planes, one)]
    if pool is None or bands == 1:
        _draw_band(work, 0.0, 1.0)
        return
    edges = [k / bands for k in range(bands + 1)]
    others = [pool.submit(_draw_band, work, a, b) for a, b in zip(edges[1:], edges[2:], strict=False)]
    _draw_band(work, edges[0], edges[1])
    for other in others:
        other.result()


def _parts(planes: Planes, one: Placed) -> Iterator[tuple]:
    """The arguments of `_over` for each plane, with the rows that the sprite reaches."""
    sprite, size = one.sprite, math.sqrt(abs(np.linalg.det(one.matrix[:2, :2])))
    strength = np.uint64(round(one.opacity * 256))
    if size < 1e-4 or strength == 0:
        return
    full = one.matrix @ np.array([[1, 0, sprite.left], [0, 1, sprite.top], [0, 0, 1.0]])
    while size < 0.6 and min(sprite.cb.shape) > 4:
        sprite, size = sprite.half(), size * 2
        full = full @ np.diag([2, 2, 1.0])
    half = full.copy()
    half[:2, 2] /= 2
    for target, packed, forward in (
        (planes.y, sprite.luma, full),
        (planes.u, sprite.cb, half),
        (planes.v, sprite.cr, half),
    ):
        height, width = packed.shape
        ys = [forward[1, 0] * x + forward[1, 1] * y + forward[1, 2] for x in (0, width) for y in (0, height)]
        first, past = max(0, math.floor(min(ys))), min(target.shape[0], math.ceil(max(ys)))
        if first < past:
            back = np.ascontiguousarray(np.linalg.inv(forward)[:2])
            yield target, packed.ravel(), height, width, back, strength, first, past


def _draw_band(work: list[tuple], low: float, high: float) -> None:
    """Draws what falls within a share of each plane's rows, low…high of 0…1."""
    for target, packed, height, width, back, strength, first, past in work:
        rows = target.shape[0]
        a, b = max(first, round(low * rows)), min(past, round(high * rows))
        if a < b:
            _over(target, packed, height, width, back, strength, a, b)
