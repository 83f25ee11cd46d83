"""A picture as finishes work on it, R'G'B'A in float, out of planes and back into them; exact where nothing is changed.

Chroma is interpolated, then shifted so that each four pixels have the mean that they came with: putting them back gives
the same bits. What lies between two levels is dithered by interleaved gradient noise (Jimenez 2014), by less than half
a level, so that gradients do not band and what is exact stays so. After ITU-R BT.709-6, item 3, limited range.
"""

import cv2
import numpy as np
from numba import njit

from ...see.footage.planes import Planes
from .draw import FULL


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def _dithered(value, x, y):
    """A value in levels as a whole one, 0…255, given the pixel."""
    a = np.float32(0.06711056) * x + np.float32(0.00583715) * y
    b = np.float32(52.9829189) * (a - np.floor(a))
    # Less than half a level either way: what is whole stays as it is.
    up = value + np.float32(0.01) + np.float32(0.98) * (b - np.floor(b))
    return np.uint8(min(max(up, np.float32(0)), np.float32(255)))


@njit(cache=True, nogil=True, fastmath=True)
def _opened(y, cb, cr, alpha, out):
    black, unit, small = np.float32(16), np.float32(1 / 219), np.float32(1 / 224)
    for i in range(y.size):
        a = alpha[i]
        luma = (np.float32(y[i]) - black) * unit
        b, r = cb[i] * small, cr[i] * small
        out[i, 0] = (luma + np.float32(1.5748) * r) * a
        out[i, 1] = (luma - np.float32(0.18732427) * b - np.float32(0.46812427) * r) * a
        out[i, 2] = (luma + np.float32(1.8556) * b) * a
        out[i, 3] = a


def opened(planes: Planes, alpha: np.ndarray | None = None) -> np.ndarray:
    """Planes of even size (w, h) as premultiplied R'G'B'A: float32 (h, w, 4).

    alpha: float32 (h, w), 0…1; without one all of it is opaque. Colours are not clipped: what no screen can show comes
    back as it was.
    """
    height, width = planes.y.shape
    chroma = []
    for plane in (planes.u, planes.v):
        plain = plane.astype(np.float32) - np.float32(128)
        wide = cv2.resize(plain, (width, height))
        missing = plain - cv2.resize(wide, plane.shape[::-1], interpolation=cv2.INTER_AREA)
        wide = wide + cv2.resize(missing, (width, height), interpolation=cv2.INTER_NEAREST)
        chroma.append(np.ascontiguousarray(wide, np.float32).ravel())
    cover = np.ones((height, width), np.float32) if alpha is None else np.ascontiguousarray(alpha, np.float32)
    out = np.empty((height, width, 4), np.float32)
    luma = np.ascontiguousarray(planes.y).ravel()
    _opened(luma, chroma[0], chroma[1], cover.ravel(), out.reshape(-1, 4))
    return out


@njit(cache=True, nogil=True, fastmath=True)
def _closed(rgba, width, back, y, u, v):
    """Rows of pixels given flat, (h, 4 w)."""
    one, quarter = np.float32(1), np.float32(0.25)
    for r in range(rgba.shape[0]):
        row, out = rgba[r], y[r]
        for c in range(width):
            keep = one - min(row[4 * c + 3], one)
            luma = (
                np.float32(0.2126) * (row[4 * c] + keep * back[0])
                + np.float32(0.7152) * (row[4 * c + 1] + keep * back[1])
                + np.float32(0.0722) * (row[4 * c + 2] + keep * back[2])
            )
            out[c] = _dithered(np.float32(16) + np.float32(219) * luma, np.float32(c), np.float32(r))
    for r in range(u.shape[0]):
        upper, lower, us, vs = rgba[2 * r], rgba[2 * r + 1], u[r], v[r]
        for c in range(u.shape[1]):
            i = 8 * c
            gone = quarter * (
                min(upper[i + 3], one) + min(upper[i + 7], one) + min(lower[i + 3], one) + min(lower[i + 7], one)
            )
            red = quarter * (upper[i] + upper[i + 4] + lower[i] + lower[i + 4]) + (one - gone) * back[0]
            green = quarter * (upper[i + 1] + upper[i + 5] + lower[i + 1] + lower[i + 5]) + (one - gone) * back[1]
            blue = quarter * (upper[i + 2] + upper[i + 6] + lower[i + 2] + lower[i + 6]) + (one - gone) * back[2]
            luma = np.float32(0.2126) * red + np.float32(0.7152) * green + np.float32(0.0722) * blue
            us[c] = _dithered(
                np.float32(128) + np.float32(224 / 1.8556) * (blue - luma), np.float32(c + 17), np.float32(r)
            )
            vs[c] = _dithered(
                np.float32(128) + np.float32(224 / 1.5748) * (red - luma), np.float32(c), np.float32(r + 29)
            )


def closed(rgba: np.ndarray, background: tuple[float, float, float] = (0, 0, 0)) -> Planes:
    """Planes of premultiplied R'G'B'A, float32 (h, w, 4) of even sides, over a background (R', G', B', 0…1)."""
    height, width = rgba.shape[:2]
    half = height // 2, width // 2
    planes = Planes(np.empty((height, width), np.uint8), np.empty(half, np.uint8), np.empty(half, np.uint8))
    rows = np.ascontiguousarray(rgba, np.float32).reshape(height, 4 * width)
    _closed(rows, width, np.array(background, np.float32), planes.y, planes.u, planes.v)
    return planes


@njit(cache=True, nogil=True, fastmath=True)
def _packed(rgba, luma, cb, cr, left, top):
    """Rows of pixels given flat, (h, 4 w)."""
    full, high, hardly = np.float32(FULL), np.uint64(32), np.float32(1e-4)
    one, half = np.float32(1), np.float32(0.5)
    for r in range(luma.shape[0]):
        row, out = rgba[r], luma[r]
        for c in range(luma.shape[1]):
            a = min(row[4 * c + 3], one)
            if a <= hardly:
                out[c] = 0
                continue
            light = (
                np.float32(0.2126) * row[4 * c]
                + np.float32(0.7152) * row[4 * c + 1]
                + np.float32(0.0722) * row[4 * c + 2]
            )
            cover = np.uint64(a * full + half)
            level = _dithered(np.float32(16) + np.float32(219) * light / a, np.float32(left + c), np.float32(top + r))
            out[c] = np.uint64(level) * cover | cover << high
    for r in range(cb.shape[0]):
        upper, lower = rgba[2 * r], rgba[2 * r + 1]
        for c in range(cb.shape[1]):
            i = 8 * c
            a = min(upper[i + 3], one) + min(upper[i + 7], one) + min(lower[i + 3], one) + min(lower[i + 7], one)
            cover = np.uint64(a * full * np.float32(0.25) + half)
            if a <= hardly or cover == 0:
                cb[r, c] = cr[r, c] = 0
                continue
            # Chroma is averaged premultiplied: colours beyond the edge must not bleed into it.
            red = (upper[i] + upper[i + 4] + lower[i] + lower[i + 4]) / a
            green = (upper[i + 1] + upper[i + 5] + lower[i + 1] + lower[i + 5]) / a
            blue = (upper[i + 2] + upper[i + 6] + lower[i + 2] + lower[i + 6]) / a
            light = np.float32(0.2126) * red + np.float32(0.7152) * green + np.float32(0.0722) * blue
            x, y = np.float32(left // 2 + c), np.float32(top // 2 + r)
            b = _dithered(np.float32(128) + np.float32(224 / 1.8556) * (blue - light), x + 17, y)
            d = _dithered(np.float32(128) + np.float32(224 / 1.5748) * (red - light), x, y + 29)
            cb[r, c] = np.uint64(b) * cover | cover << high
            cr[r, c] = np.uint64(d) * cover | cover << high


def packed_planes(rgba: np.ndarray, left: int, top: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Luma, cb and cr of premultiplied R'G'B'A as `draw.pack` makes them.

    rgba: float32 (h, w, 4) of even sides; left, top: where its corner lies, even.
    """
    height, width = rgba.shape[:2]
    half = height // 2, width // 2
    luma, cb, cr = np.empty((height, width), np.uint64), np.empty(half, np.uint64), np.empty(half, np.uint64)
    _packed(np.ascontiguousarray(rgba, np.float32).reshape(height, 4 * width), luma, cb, cr, left, top)
    return luma, cb, cr


@njit(cache=True, nogil=True, fastmath=True)
def _lit(rgba, width, luma, cb, cr):
    """Rows of pixels given flat, (h, 4 w); light relative to black."""
    full, high, quarter = np.float32(FULL), np.uint64(32), np.float32(0.25)
    one, zero, half = np.float32(1), np.float32(0), np.float32(0.5)
    most = np.float32(255 * FULL)
    for r in range(luma.shape[0]):
        row, out = rgba[r], luma[r]
        for c in range(width):
            i = 4 * c
            red, green, blue = (
                min(max(row[i], zero), one),
                min(max(row[i + 1], zero), one),
                min(max(row[i + 2], zero), one),
            )
            light = np.float32(0.2126) * red + np.float32(0.7152) * green + np.float32(0.0722) * blue
            alpha = min(max(row[i + 3], zero), one)
            level = min(max((np.float32(219) * light + np.float32(16)) * full, zero), most)
            out[c] = np.uint64(level + half) | np.uint64(alpha * full + half) << high
    for r in range(cb.shape[0]):
        upper, lower = rgba[2 * r], rgba[2 * r + 1]
        for c in range(cb.shape[1]):
            red = green = blue = cover = zero
            for row in (upper, lower):
                for i in (8 * c, 8 * c + 4):
                    red += min(max(row[i], zero), one)
                    green += min(max(row[i + 1], zero), one)
                    blue += min(max(row[i + 2], zero), one)
                    cover += min(max(row[i + 3], zero), one)
            light = np.float32(0.2126) * red + np.float32(0.7152) * green + np.float32(0.0722) * blue
            b = np.float32(224 / 1.8556) * quarter * (blue - light) + np.float32(128)
            d = np.float32(224 / 1.5748) * quarter * (red - light) + np.float32(128)
            above = np.uint64(cover * quarter * full + half) << high
            cb[r, c] = np.uint64(min(max(b * full, zero), most) + half) | above
            cr[r, c] = np.uint64(min(max(d * full, zero), most) + half) | above


def packed_light(rgba: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Luma, cb and cr of premultiplied R'G'B'A whose colours may exceed its alpha, as uint64.

    The low half is (light + black)·FULL, `draw.BLACK`, so that it is never negative; `_over_any` takes black off again.
    rgba: float32 (h, w, 4) of even sides.
    """
    height, width = rgba.shape[:2]
    half = height // 2, width // 2
    luma, cb, cr = np.empty((height, width), np.uint64), np.empty(half, np.uint64), np.empty(half, np.uint64)
    _lit(np.ascontiguousarray(rgba, np.float32).reshape(height, 4 * width), width, luma, cb, cr)
    return luma, cb, cr
