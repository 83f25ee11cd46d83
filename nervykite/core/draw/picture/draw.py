"""Putting a sprite onto planes: premultiplied over (Porter and Duff 1984), moved, turned and scaled."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np
from numba import njit

from ...see.footage.planes import Planes
from .bands import WHOLE, Bands
from .tiles import EMPTY, TILE, WHOLLY, Cells, cells_of, classify, tiles_of

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


BLACK = 16.0, 128.0, 128.0
"""What luma and both chroma planes are where there is no light."""


class Sprite:
    """A picture ready to be drawn, in canvas pixels at rest.

    `left` and `top` (even) say where its corner rests. luma (h, w), cb and cr (h/2, w/2) are planes as `pack`
    makes them, or with `light` as `opened.packed_light` does, each with a transparent rim, so that sampling never needs
    to look outside.
    """

    def __init__(
        self, left: int, top: int, luma: np.ndarray, cb: np.ndarray, cr: np.ndarray, light: bool = False
    ) -> None:
        self.left, self.top = left, top
        self.luma, self.cb, self.cr = luma, cb, cr
        self.light = light
        self._half: Sprite | None = None
        self._known: list[tuple[np.ndarray, Cells]] | None = None
        self.in_light: np.ndarray | None = None
        """What `smear.py` makes of it when it first moves."""

    @property
    def planes(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Luma, cb, cr."""
        return self.luma, self.cb, self.cr

    @property
    def alpha(self) -> np.ndarray:
        """The coverage of each pixel: float32 (h, w), 0…1."""
        return (self.luma >> np.uint64(32)).astype(np.float32) / FULL

    @property
    def nbytes(self) -> int:
        """Memory held, in bytes."""
        packed = self.luma.nbytes + self.cb.nbytes + self.cr.nbytes
        return packed + packed // 8  # and the colours alone

    def known(self) -> list[tuple[np.ndarray, Cells]]:
        """Of each plane its colours alone, flat, uint8, as they are where it covers all; and its cells."""
        if self._known is None:
            luma, chroma = cells_of(self.luma, FULL), cells_of(self.cb, FULL)
            plains = [np.ascontiguousarray(p.view(np.uint8)[:, 1::8]).ravel() for p in self.planes]
            self._known = list(zip(plains, (luma, chroma, chroma), strict=True))
        return self._known

    def half(self) -> "Sprite":
        """The sprite at half size, for drawing it small without flicker; made when first asked for."""
        if self._half is None:
            blacks = BLACK if self.light else (0, 0, 0)
            y, u, v = (_halved(p, round(b * FULL)) for p, b in zip(self.planes, blacks, strict=True))
            self._half = Sprite(0, 0, y, u, v, light=self.light)
        return self._half


def _halved(plane: np.ndarray, clear: int) -> np.ndarray:
    parts = []
    for shift, empty in ((0, clear), (32, 0)):
        part = (plane >> np.uint64(shift) & np.uint64(0xFFFFFFFF)).astype(np.uint16)
        part = np.pad(part, ((0, part.shape[0] % 2 + 2), (0, part.shape[1] % 2 + 2)), constant_values=empty)
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
def _over_pixels(row, packed, k, opacity, start, past):
    """Draws pixels of a packed plane from place k on over columns start…past of a row: pixels meet pixels."""
    for c in range(past - start):
        v = packed[k + c]
        kept = np.uint64(row[start + c]) * (np.uint64(65536) - (v >> np.uint64(32)) * opacity)
        colour = (v & np.uint64(0xFFFFFFFF)) * opacity
        row[start + c] = np.uint8((colour + kept + np.uint64(32768)) >> np.uint64(16))


@njit(cache=True, nogil=True)
def _sampled(row, plain, width, x, y, across, down, start, past):
    """Copies colours, interpolated from place x, y on (1/65536 pixel), to columns start…past of a row."""
    byte, eight, right, below = np.uint64(255), np.uint64(8), np.uint64(1), np.uint64(width)
    for c in range(np.uint64(start), np.uint64(past)):
        k = np.uint64((y >> 16) * width + (x >> 16))
        fx = np.uint64(x >> 8) & byte
        fy = np.uint64(y >> 8) & byte
        x += across
        y += down
        v00 = np.uint64(plain[k])
        v10 = np.uint64(plain[k + below])
        upper = (v00 << eight) + (np.uint64(plain[k + right]) - v00) * fx
        lower = (v10 << eight) + (np.uint64(plain[k + below + right]) - v10) * fx
        row[c] = np.uint8(((upper << eight) + (lower - upper) * fy + np.uint64(32768)) >> np.uint64(16))


@njit(cache=True, nogil=True)
def _over_sampled(row, packed, width, x, y, across, down, opacity, start, past):
    """Draws a packed plane, interpolated from place x, y on (1/65536 pixel), over columns start…past of a row."""
    byte, eight, right, below = np.uint64(255), np.uint64(8), np.uint64(1), np.uint64(width)
    for c in range(np.uint64(start), np.uint64(past)):
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


@njit(cache=True, nogil=True)
def _over(target, packed, plain, height, width, m, opacity, tiles, topmost, number, first_row, past_row):
    """Draws a packed plane, given flat, over rows of a target plane.

    m (2×3) takes target pixels to the plane's. Places are whole numbers of 1/65536 pixel, weights of 1/256; sums of
    both packed halves stay within 32 bits each. `tiles` says what it does to each tile (see `tiles.py`), `plain` are
    its colours for where it covers wholly; `topmost` is for each tile the number of the last one that does: what lies
    below that, as `number` of this one tells, is not drawn.
    """
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
        xa = np.int64((x0 + m[0, 0] * a) * 65536 + 0.5)
        ya = np.int64((y0 + m[1, 0] * a) * 65536 + 0.5)
        row, kinds, tops = target[r], tiles[r // TILE], topmost[r // TILE]
        start = a
        while start < b:
            t = start // TILE
            kind = kinds[t] if tops[t] <= number else EMPTY
            past = (t + 1) * TILE
            while past < b:
                t = past // TILE
                if (kinds[t] if tops[t] <= number else EMPTY) != kind:
                    break
                past += TILE
            past = min(past, b)
            x, y = xa + across * (start - a), ya + down * (start - a)
            if kind != EMPTY:
                on_pixels = across == 65536 and down == 0 and ((x | y) & 0xFF00) == 0
                whole = kind == WHOLLY and opacity == FULL
                k = (y >> 16) * width + (x >> 16)
                if on_pixels and whole:
                    row[start:past] = plain[k : k + past - start]
                elif on_pixels:
                    _over_pixels(row, packed, k, opacity, start, past)
                elif whole:
                    _sampled(row, plain, width, x, y, across, down, start, past)
                else:
                    _over_sampled(row, packed, width, x, y, across, down, opacity, start, past)
            start = past


@njit(cache=True, nogil=True)
def _over_any(target, packed, height, width, m, opacity, black, first_row, past_row):
    """Draws a packed plane, given flat, over rows of a target plane: in perspective, or one that gives light.

    m (3×3) takes target pixels to the plane's; opacity is 0…1; black is what the plane's colours count from (0 where
    they are as `pack` makes them).
    """
    for r in range(first_row, past_row):
        row = target[r]
        for c in range(target.shape[1]):
            depth = m[2, 0] * (c + 0.5) + m[2, 1] * (r + 0.5) + m[2, 2]
            if depth <= 1e-9:
                continue
            x = (m[0, 0] * (c + 0.5) + m[0, 1] * (r + 0.5) + m[0, 2]) / depth - 0.5
            y = (m[1, 0] * (c + 0.5) + m[1, 1] * (r + 0.5) + m[1, 2]) / depth - 0.5
            if not (MARGIN <= x <= width - 1 - MARGIN and MARGIN <= y <= height - 1 - MARGIN):
                continue
            k = int(y) * width + int(x)
            fx, fy = x - int(x), y - int(y)
            colour = 0.0
            cover = 0.0
            for v, weight in (
                (packed[k], (1 - fx) * (1 - fy)),
                (packed[k + 1], fx * (1 - fy)),
                (packed[k + width], (1 - fx) * fy),
                (packed[k + width + 1], fx * fy),
            ):
                colour += weight * float(v & np.uint64(0xFFFFFFFF))
                cover += weight * float(v >> np.uint64(32))
            was = float(row[c])
            value = was + opacity * ((colour / 256 - black) - cover / 256 * (was - black))
            row[c] = np.uint8(min(max(value + 0.5, 0.0), 255.0))


@dataclass(frozen=True)
class PlacedSprite:
    """A sprite, where it goes (projective 3×3, canvas pixels at rest to canvas pixels), and how opaque, 0…1."""

    sprite: Sprite
    matrix: np.ndarray
    opacity: float = 1.0


def draw(planes: Planes, placed: Sequence[PlacedSprite], bands: Bands = WHOLE) -> None:
    """Draws sprites over planes, in place and in order.

    Sampling is bilinear, from a sprite shrunk by halves where it is drawn small. At whole-pixel moves no pixel is
    resampled. Each band of rows gets all its sprites in one go.
    """
    topmost = [np.full(tiles_of(p.shape), -1, np.int16) for p in (planes.y, planes.u, planes.v)] if placed else []
    work = [part for number, one in enumerate(placed) for part in _parts(planes, one, topmost, number)]
    bands.run(partial(_draw_band, work, bands.count), 0, bands.count)


def settled(one: PlacedSprite) -> tuple[Sprite, np.ndarray, np.ndarray, bool] | None:
    """A sprite as it is sampled: shrunk by halves where it is drawn small; where its luma and its chroma go, 3×3 from
    their own pixels to the target's; and whether that is flat. None if nothing is seen of it.
    """
    sprite = one.sprite
    flat = bool(one.matrix[2, 0] == 0 and one.matrix[2, 1] == 0 and one.matrix[2, 2] == 1)
    size = drawn_size(one.matrix, sprite, flat)
    if size < 1e-4 or round(one.opacity * 256) == 0:
        return None
    full = one.matrix @ np.array([[1, 0, sprite.left], [0, 1, sprite.top], [0, 0, 1.0]])
    while size < 0.6 and min(sprite.cb.shape) > 4:
        sprite, size = sprite.half(), size * 2
        full = full @ np.diag([2, 2, 1.0])
    half = full.copy()
    half[:2, 2] /= 2
    half[2, :2] *= 2
    return sprite, full, half, flat


def _parts(planes: Planes, one: PlacedSprite, topmost: Sequence[np.ndarray], number: int) -> Iterator[tuple]:
    """For each plane the kernel that draws the sprite, its arguments, and the rows that it reaches.

    Enters it in `topmost` where it hides what was drawn before it; `number` counts up.
    """
    found = settled(one)
    if found is None:
        return
    sprite, full, half, flat = found
    tiled = flat and not sprite.light
    matrices, targets = (full, half, half), (planes.y, planes.u, planes.v)
    for n, (target, packed, forward, black) in enumerate(zip(targets, sprite.planes, matrices, BLACK, strict=True)):
        height, width = packed.shape
        first, past = _rows(forward, width, height, target.shape[0])
        if first >= past:
            continue
        back = np.ascontiguousarray(np.linalg.inv(forward))
        if not tiled:
            plane = target, packed.ravel(), height, width
            yield _over_any, (*plane, back, float(one.opacity), black if sprite.light else 0.0), first, past
            continue
        opacity = np.uint64(round(one.opacity * 256))
        plain, cells = sprite.known()[n]
        tiles = np.zeros(topmost[n].shape, np.uint8)
        back = np.ascontiguousarray(back[:2])
        classify(tiles, *cells, height, width, back)
        if opacity == FULL:
            topmost[n][tiles == WHOLLY] = number
        yield (
            _over,
            (target, packed.ravel(), plain, height, width, back, opacity, tiles, topmost[n], number),
            first,
            past,
        )


def drawn_size(matrix: np.ndarray, sprite: Sprite, flat: bool = False) -> float:
    """The size at which a projective 3×3 matrix draws a sprite's pixel, at the corner where that is largest.

    The square root of the area that the matrix makes of it; what lies behind the viewer counts as nothing.
    """
    if flat:
        return math.sqrt(abs(matrix[0, 0] * matrix[1, 1] - matrix[0, 1] * matrix[1, 0]))
    h, w = sprite.luma.shape
    corners = np.array([[sprite.left + x, sprite.top + y, 1] for x in (0, w) for y in (0, h)], float)
    depths = corners @ matrix[2]
    area = abs(np.linalg.det(matrix))
    return max((math.sqrt(area / d**3) for d in depths if d > 1e-9), default=0.0)


def _rows(forward: np.ndarray, width: int, height: int, rows: int) -> tuple[int, int]:
    """The rows of a target, first…past, that a plane reaches; all of them if part of it is behind the viewer."""
    _, (a, b, c), (d, e, f) = forward.tolist()
    ys = []
    for x, y in ((0, 0), (width, 0), (0, height), (width, height)):
        depth = d * x + e * y + f
        if depth <= 1e-9:
            return 0, rows
        ys.append((a * x + b * y + c) / depth)
    return max(0, math.floor(min(ys))), min(rows, math.ceil(max(ys)))


def _draw_band(work: list[tuple], count: int, low: int, high: int) -> None:
    """Draws what falls within a share of each plane's rows, low…high of so many."""
    for kernel, arguments, first, past in work:
        rows = arguments[0].shape[0]
        a, b = max(first, round(low / count * rows)), min(past, round(high / count * rows))
        if a < b:
            kernel(*arguments, a, b)
