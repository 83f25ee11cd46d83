"""Draws put together by themselves, on nothing: a picture with alpha, as an isolated group is (W3C Compositing, 3.4).

A *glass* is premultiplied R'G'B'A, float32 (h, w, 4), colour beyond alpha being light, over part of a canvas. Onto it a
source goes by Co = cs·αs·(1 − αb) + αs·αb·B(cb, cs) + (1 − αs)·αb·cb; normal blending makes that an over.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from numba import njit

from ...piece.model.blend import MODES, BlendMode
from ...see.footage.planes import Planes
from .bands import WHOLE, Bands
from .blend_modes import PLUS_LIGHTER, blended, clipped
from .draw import PlacedSprite, settled
from .pixel_kernels import Packed, byte_of, chroma_at, rgb_of, sample, ycc_of

Box = tuple[int, int, int, int]
"""Left, top, right, bottom of part of a canvas; it may reach beyond."""


@dataclass(frozen=True)
class Glass:
    """The picture put together so far, and where its corner lies (even numbers, canvas pixels)."""

    left: int
    top: int
    rgba: np.ndarray

    @property
    def box(self) -> Box:
        """The part of the canvas that it is."""
        h, w = self.rgba.shape[:2]
        return self.left, self.top, self.left + w, self.top + h

    def on(self, box: Box) -> np.ndarray:
        """The part of it that lies on a box, and nothing beside it: float32 (h, w, 4)."""
        return self._part(self.rgba, box)

    def alpha_on(self, box: Box) -> np.ndarray:
        """The coverage of a box by it: float32 (h, w)."""
        return self._part(self.rgba[..., 3], box)

    def _part(self, plane: np.ndarray, box: Box) -> np.ndarray:
        a, b, c, d = self.box
        left, top, right, bottom = box
        out = np.zeros((bottom - top, right - left, *plane.shape[2:]), np.float32)
        x0, y0, x1, y1 = max(a, left), max(b, top), min(c, right), min(d, bottom)
        if x0 < x1 and y0 < y1:
            out[y0 - top : y1 - top, x0 - left : x1 - left] = plane[y0 - b : y1 - b, x0 - a : x1 - a]
        return out


@dataclass(frozen=True)
class On:
    """Something to be put onto a glass: a sprite where it goes, or another glass, so opaque; and how it is blended."""

    thing: PlacedSprite | Glass
    blend: BlendMode = "normal"
    opacity: float = 1.0


@njit(cache=True, nogil=True, fastmath=True)
def _onto(mode, glass, left, top, sprite, m, half, opacity, light, first, past, start, end):
    """Puts a packed sprite onto rows first…past, columns start…end of a glass whose corner lies at left, top.

    m and half (3×3) take canvas pixels to the sprite's luma and chroma.
    """
    y_black = np.float32(16) if light else np.float32(0)
    by, black = np.float32(1.0 / 219), np.float32(16)
    luma, lh, lw, cb, cr, ch, cw = sprite  # taken apart here: in the loop it costs a third more
    for r in range(first, past):
        py = r + top + 0.5
        known = -(1 << 30)
        du, dv = np.float32(0), np.float32(0)
        for c in range(start, end):
            px = c + left + 0.5
            depth = m[2, 0] * px + m[2, 1] * py + m[2, 2]
            if depth <= 1e-9:
                continue
            near = 1 / depth
            sx = (m[0, 0] * px + m[0, 1] * py + m[0, 2]) * near - 0.5
            sy = (m[1, 0] * px + m[1, 1] * py + m[1, 2]) * near - 0.5
            level, a = sample(luma, lh, lw, sx, sy, y_black)
            if a <= 0 and not (light and level > 0):
                continue
            pair = (c + left) // 2
            if pair != known:  # two pixels of a row have one chroma
                known = pair
                du, dv = chroma_at(cb, cr, ch, cw, half, pair + 0.5, (r + top) // 2 + 0.5, light)
            level = level * by if light else (level / a - black) * by
            red, green, blue = rgb_of(level, du, dv)
            a *= opacity
            if light:
                red, green, blue = red * opacity, green * opacity, blue * opacity
            else:
                red, green, blue = clipped(red) * a, clipped(green) * a, clipped(blue) * a
            _add(mode, glass, r, c, red, green, blue, a)


@njit(cache=True, nogil=True, fastmath=True)
def _join(mode, glass, left, top, inner, own_left, own_top, opacity, first, past):
    """Puts rows first…past of a glass onto another one; both corners are given in canvas pixels."""
    for r in range(first, past):
        for c in range(inner.shape[1]):
            red, green, blue = inner[r, c, 0] * opacity, inner[r, c, 1] * opacity, inner[r, c, 2] * opacity
            a = inner[r, c, 3] * opacity
            if a > 0 or max(red, max(green, blue)) > 0:
                _add(mode, glass, r + own_top - top, c + own_left - left, red, green, blue, a)


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def _add(mode, glass, r, c, red, green, blue, a):
    """Puts a premultiplied source onto a pixel of a glass; colour beyond coverage is light."""
    under = glass[r, c, 3]
    if mode > 0 and mode != PLUS_LIGHTER and under > 0:
        # Light covers as much as it shines where it is blended.
        a = max(a, max(red, max(green, blue)))
        if a > 0:
            b0, b1, b2 = glass[r, c, 0] / under, glass[r, c, 1] / under, glass[r, c, 2] / under
            red, green, blue = _mixed(mode, b0, b1, b2, red, green, blue, a, under)
    keep = np.float32(1) if mode == PLUS_LIGHTER else 1 - min(a, np.float32(1))
    glass[r, c, 0] = red + keep * glass[r, c, 0]
    glass[r, c, 1] = green + keep * glass[r, c, 1]
    glass[r, c, 2] = blue + keep * glass[r, c, 2]
    glass[r, c, 3] = min(np.float32(1), a + under) if mode == PLUS_LIGHTER else a + keep * under


@njit(cache=True, nogil=True, inline="always")
def _mixed(mode, br, bg, bb, red, green, blue, cover, under):
    """A premultiplied source as it is over a backdrop of colour br, bg, bb that covers `under` of the pixel."""
    br, bg, bb = clipped(br), clipped(bg), clipped(bb)
    sr, sg, sb = clipped(red / cover), clipped(green / cover), clipped(blue / cover)
    mr, mg, mb = blended(mode, br, bg, bb, sr, sg, sb)
    own, both = 1 - under, under * cover
    return own * red + both * mr, own * green + both * mg, own * blue + both * mb


@njit(cache=True, nogil=True, fastmath=True)
def _lay(mode, y, u, v, glass, left, top, opacity, first, past, start, end):
    """Puts a glass onto planes: rows first…past and columns start…end of the chroma planes."""
    unit, black, middle = np.float32(1.0 / 219), np.float32(16), np.float32(128)
    for r in range(first, past):
        for c in range(start, end):
            row, column = 2 * r - top, 2 * c - left
            seen = False
            for n in range(4):
                pixel = glass[row + n // 2, column + n % 2]
                seen = seen or pixel[3] > 0 or pixel[0] > 0 or pixel[1] > 0 or pixel[2] > 0
            if not seen:
                continue
            tu, tv = np.float32(u[r, c]) - middle, np.float32(v[r, c]) - middle
            # What chroma adds to luma is the same for all four.
            rb, gb, bb = rgb_of(np.float32(0), tu, tv)
            sum_u, sum_v = np.float32(0), np.float32(0)
            for n in range(4):
                pixel = glass[row + n // 2, column + n % 2]
                red, green, blue, a = pixel[0] * opacity, pixel[1] * opacity, pixel[2] * opacity, pixel[3] * opacity
                py, px = 2 * r + n // 2, 2 * c + n % 2
                most = max(red, max(green, blue))
                own_u, own_v = tu, tv
                if a > 0 or most > 0:
                    t = (np.float32(y[py, px]) - black) * unit
                    b0, b1, b2 = t + rb, t + gb, t + bb
                    if mode == PLUS_LIGHTER:
                        b0, b1, b2 = clipped(b0) + red, clipped(b1) + green, clipped(b2) + blue
                        b0, b1, b2 = clipped(b0), clipped(b1), clipped(b2)
                    else:
                        if mode > 0:
                            a = max(a, most)
                            red, green, blue = _mixed(mode, b0, b1, b2, red, green, blue, a, np.float32(1))
                        keep = 1 - min(a, np.float32(1))
                        b0, b1, b2 = red + keep * b0, green + keep * b1, blue + keep * b2
                    level, own_u, own_v = ycc_of(b0, b1, b2)
                    y[py, px] = byte_of(black + np.float32(219) * level)
                sum_u += own_u
                sum_v += own_v
            u[r, c] = byte_of(sum_u * np.float32(0.25) + middle)
            v[r, c] = byte_of(sum_v * np.float32(0.25) + middle)


def _reach(one: PlacedSprite, canvas: tuple[int, int]) -> Box | None:
    """The part of a canvas (w, h) that a sprite reaches; None if none of it."""
    sprite = one.sprite
    h, w = sprite.luma.shape
    xs = np.array([[sprite.left + x, sprite.top + y, 1] for x in (0, w) for y in (0, h)], float) @ one.matrix.T
    if (xs[:, 2] <= 1e-9).any():
        return 0, 0, *canvas
    x, y = xs[:, 0] / xs[:, 2], xs[:, 1] / xs[:, 2]
    left, top = max(0, math.floor(x.min())), max(0, math.floor(y.min()))
    right, bottom = min(canvas[0], math.ceil(x.max())), min(canvas[1], math.ceil(y.max()))
    return (left, top, right, bottom) if left < right and top < bottom else None


def put_together(ons: Sequence[On], canvas: tuple[int, int], bands: Bands = WHOLE) -> Glass | None:
    """Sprites and glasses put together on nothing, from the farthest to the nearest.

    None if nothing of it is seen on a canvas (w, h), both even.
    """
    works: list[tuple[Box, Callable[..., None]]] = []
    boxes = [b for one in ons if (b := one.thing.box if isinstance(one.thing, Glass) else _reach(one.thing, canvas))]
    if not boxes:
        return None
    left, top, right, bottom = (f(b[k] for b in boxes) for k, f in enumerate((min, min, max, max)))
    left, top = left // 2 * 2, top // 2 * 2
    right, bottom = right + (right - left) % 2, bottom + (bottom - top) % 2
    rgba = np.zeros((bottom - top, right - left, 4), np.float32)
    for one in ons:
        mode, thing = MODES.index(one.blend), one.thing
        if isinstance(thing, Glass):
            own = thing.left, thing.top, np.float32(one.opacity)
            works.append((thing.box, _joining(mode, rgba, left, top, thing, own)))
            continue
        reach, found = _reach(thing, canvas), settled(thing)
        if reach is not None and found is not None:
            works.append((reach, _drawing(mode, rgba, left, top, thing, found, reach)))

    def band(low: int, high: int) -> None:
        for box, work in works:
            first, past = max(low, box[1]), min(high, box[3])
            if first < past:
                work(first, past)

    bands.run(band, top, bottom)
    return Glass(left, top, rgba)


def _drawing(mode, rgba, left, top, placed: PlacedSprite, found, reach: Box) -> Callable[..., None]:
    """Puts rows of the canvas, first…past, of a sprite onto a glass."""
    sprite, full, half, _ = found
    back, small = (np.ascontiguousarray(np.linalg.inv(m)) for m in (full, half))
    own = Packed.of(sprite), back, small
    opacity, columns = np.float32(placed.opacity), (reach[0] - left, reach[2] - left)

    kernel: Callable[..., None] = partial(_onto, mode, rgba, left, top, *own, opacity, sprite.light)
    return lambda first, past: kernel(first - top, past - top, *columns)


def _joining(mode, rgba, left, top, inner: Glass, own) -> Callable[..., None]:
    """Puts rows of the canvas, first…past, of a glass onto another one."""
    kernel: Callable[..., None] = partial(_join, mode, rgba, left, top, inner.rgba, *own)
    return lambda first, past: kernel(first - inner.top, past - inner.top)


def lay(planes: Planes, glass: Glass, opacity: float, mode: BlendMode, bands: Bands = WHOLE) -> None:
    """Puts a glass onto planes of even size, in place."""
    left, top, right, bottom = glass.box
    start, end = max(0, left // 2), min(planes.u.shape[1], right // 2)
    first, past = max(0, top // 2), min(planes.u.shape[0], bottom // 2)
    if start >= end or first >= past:
        return
    given = MODES.index(mode), planes.y, planes.u, planes.v, glass.rgba, left, top, np.float32(opacity)
    bands.run(partial(_lay, *given), first, past, start, end)
