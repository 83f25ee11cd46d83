"""Blending a sprite with what lies below it: W3C Compositing and Blending Level 1, sections 5 to 10, in R'G'B'.

Over an opaque backdrop the result is αs·B(Cb, Cs) + (1 − αs)·Cb; `plus-lighter` (Level 2) is min(1, αs·Cs + Cb). Only
the pixels that the sprite covers are converted, and they alone change.
"""

import math
from collections.abc import Callable
from functools import partial

import numpy as np
from numba import njit

from ...piece.model.blend import MODES, BlendMode
from ...see.footage.planes import Planes
from .bands import WHOLE, Bands
from .draw import FULL, MARGIN, PlacedSprite, settled

# Whole numbers in a formula would make it one of doubles.
ZERO, HALF, ONE, TWO, FOUR, TWELVE, SIXTEEN = (np.float32(n) for n in (0, 0.5, 1, 2, 4, 12, 16))


@njit(cache=True, nogil=True, inline="always")
def _separable(mode, b, s):
    """B(Cb, Cs) of one channel, float32, by the mode's place in MODES."""
    if mode == 1:
        return b * s
    if mode == 2:
        return min(b, s)
    if mode == 3:  # color-burn
        if b >= ONE:
            return ONE
        return ZERO if s <= ZERO else ONE - min(ONE, (ONE - b) / s)
    if mode == 4:
        return b + s - b * s
    if mode == 5:
        return max(b, s)
    if mode == 6:  # color-dodge
        if b <= ZERO:
            return ZERO
        return ONE if s >= ONE else min(ONE, b / (ONE - s))
    if mode == 8:  # overlay: hard-light the other way round
        return TWO * s * b if b <= HALF else s + (TWO * b - ONE) - s * (TWO * b - ONE)
    if mode == 9:  # soft-light
        if s <= HALF:
            return b - (ONE - TWO * s) * b * (ONE - b)
        d = ((SIXTEEN * b - TWELVE) * b + FOUR) * b if b <= HALF * HALF else np.sqrt(b)
        return b + (TWO * s - ONE) * (d - b)
    if mode == 10:  # hard-light
        return TWO * b * s if s <= HALF else b + (TWO * s - ONE) - b * (TWO * s - ONE)
    if mode == 11:
        return abs(b - s)
    if mode == 12:
        return b + s - TWO * b * s
    return s


@njit(cache=True, nogil=True, inline="always")
def _clipped(x):
    return min(max(x, np.float32(0)), np.float32(1))


@njit(cache=True, nogil=True, inline="always")
def _lum(r, g, b):
    return np.float32(0.3) * r + np.float32(0.59) * g + np.float32(0.11) * b


@njit(cache=True, nogil=True)
def _with_lum(r, g, b, lum):
    """SetLum and ClipColor of the standard."""
    d = lum - _lum(r, g, b)
    r, g, b = r + d, g + d, b + d
    low, high = min(r, min(g, b)), max(r, max(g, b))
    level = _lum(r, g, b)
    if low < 0:
        share = level / (level - low)
        r, g, b = level + (r - level) * share, level + (g - level) * share, level + (b - level) * share
    if high > 1:
        share = (1 - level) / (high - level)
        r, g, b = level + (r - level) * share, level + (g - level) * share, level + (b - level) * share
    return r, g, b


@njit(cache=True, nogil=True)
def _with_sat(r, g, b, sat):
    """SetSat of the standard."""
    low, high = min(r, min(g, b)), max(r, max(g, b))
    if high <= low:
        return np.float32(0), np.float32(0), np.float32(0)
    share = sat / (high - low)
    return (r - low) * share, (g - low) * share, (b - low) * share


@njit(cache=True, nogil=True)
def _whole(mode, br, bg, bb, sr, sg, sb):
    """B(Cb, Cs) of a mode that looks at all channels at once."""
    backdrop = _lum(br, bg, bb)
    if mode == 13:  # hue
        sat = max(br, max(bg, bb)) - min(br, min(bg, bb))
        r, g, b = _with_sat(sr, sg, sb, sat)
        return _with_lum(r, g, b, backdrop)
    if mode == 14:  # saturation
        sat = max(sr, max(sg, sb)) - min(sr, min(sg, sb))
        r, g, b = _with_sat(br, bg, bb, sat)
        return _with_lum(r, g, b, backdrop)
    if mode == 15:  # color
        return _with_lum(sr, sg, sb, backdrop)
    return _with_lum(br, bg, bb, _lum(sr, sg, sb))


@njit(cache=True, nogil=True, inline="always")
def _halves(packed):
    """Colour and alpha of a packed pixel: processors turn small whole numbers into floats more quickly."""
    return np.float32(np.int32(packed & np.uint64(0xFFFFFFFF))), np.float32(np.int32(packed >> np.uint64(32)))


@njit(cache=True, nogil=True, inline="always")
def _sample(packed, height, width, x, y, black):
    """Bilinear: alpha·(colour − black) and alpha of a packed plane at a place; nothing beside it."""
    if not (MARGIN <= x <= width - 1 - MARGIN and MARGIN <= y <= height - 1 - MARGIN):
        return np.float32(0), np.float32(0)
    k = int(y) * width + int(x)
    fx, fy = np.float32(x - int(x)), np.float32(y - int(y))
    v00, v01, v10, v11 = packed[k], packed[k + 1], packed[k + width], packed[k + width + 1]
    if v00 | v01 | v10 | v11 == 0:
        return np.float32(0), np.float32(0)
    w00, w01, w10, w11 = (1 - fx) * (1 - fy), fx * (1 - fy), (1 - fx) * fy, fx * fy
    (c00, a00), (c01, a01), (c10, a10), (c11, a11) = _halves(v00), _halves(v01), _halves(v10), _halves(v11)
    colour = w00 * c00 + w01 * c01 + w10 * c10 + w11 * c11
    cover = w00 * a00 + w01 * a01 + w10 * a10 + w11 * a11
    return colour * np.float32(1 / 256) - black, cover * np.float32(1 / 256)


@njit(cache=True, nogil=True, fastmath=True)
def _blend(mode, y, u, v, luma, lh, lw, cb, cr, ch, cw, m, half, flat, opacity, light, first, past, left, right):
    """Blends rows first…past of the chroma planes, columns left…right, and the luma that goes with them.

    m and half (3×3) take target pixels to the sprite's luma and chroma; flat says that they need no division, light
    that colours count from black.
    """
    y_black = np.float32(16) if light else np.float32(0)
    c_black = np.float32(128) if light else np.float32(0)
    rows, columns = y.shape
    alphas = np.empty(4, np.float32)
    lumas = np.empty(4, np.float32)
    for r in range(first, past):
        for c in range(left, right):
            covered = False
            for k in range(4):
                py, px = 2 * r + k // 2, 2 * c + k % 2
                alphas[k] = 0
                if py >= rows or px >= columns:
                    continue
                sx = m[0, 0] * (px + 0.5) + m[0, 1] * (py + 0.5) + m[0, 2]
                sy = m[1, 0] * (px + 0.5) + m[1, 1] * (py + 0.5) + m[1, 2]
                if not flat:
                    depth = m[2, 0] * (px + 0.5) + m[2, 1] * (py + 0.5) + m[2, 2]
                    if depth <= 1e-9:
                        continue
                    sx, sy = sx / depth, sy / depth
                sx, sy = sx - 0.5, sy - 0.5
                lumas[k], alphas[k] = _sample(luma, lh, lw, sx, sy, y_black)
                covered = covered or alphas[k] > 0 or (light and lumas[k] > 0)
            if not covered:
                continue
            depth = half[2, 0] * (c + 0.5) + half[2, 1] * (r + 0.5) + half[2, 2]
            if depth <= 1e-9:
                continue
            sx = (half[0, 0] * (c + 0.5) + half[0, 1] * (r + 0.5) + half[0, 2]) / depth - 0.5
            sy = (half[1, 0] * (c + 0.5) + half[1, 1] * (r + 0.5) + half[1, 2]) / depth - 0.5
            pu, ca = _sample(cb, ch, cw, sx, sy, c_black)
            pv, _ = _sample(cr, ch, cw, sx, sy, c_black)
            # Chroma relative to no colour, for each share of coverage.
            du = pu if light else pu - 128 * ca
            dv = pv if light else pv - 128 * ca
            if ca > 0 and not light:
                du, dv = du / ca, dv / ca
            tu, tv = np.float32(u[r, c]) - 128, np.float32(v[r, c]) - 128
            sum_u = np.float32(0)
            sum_v = np.float32(0)
            count = 0
            for k in range(4):
                py, px = 2 * r + k // 2, 2 * c + k % 2
                if py >= rows or px >= columns:
                    continue
                count += 1
                a = alphas[k] * opacity
                t = (np.float32(y[py, px]) - 16) * np.float32(1.0 / 219)
                br = t + np.float32(1.5748 / 224) * tv
                bg = t - np.float32(0.18732427 / 224) * tu - np.float32(0.46812427 / 224) * tv
                bb = t + np.float32(1.8556 / 224) * tu
                br, bg, bb = _clipped(br), _clipped(bg), _clipped(bb)
                if a <= 0 and not light:
                    sum_u += tu
                    sum_v += tv
                    continue
                by = np.float32(1.0 / 219)
                level = lumas[k] * by * opacity if light else (lumas[k] / alphas[k] - 16) * by
                share = opacity if light else np.float32(1)
                sr = level + np.float32(1.5748 / 224) * dv * share
                sg = level - (np.float32(0.18732427 / 224) * du + np.float32(0.46812427 / 224) * dv) * share
                sb = level + np.float32(1.8556 / 224) * du * share
                if light:  # premultiplied; where there is more light than coverage, it covers as much as it shines
                    a = max(a, max(sr, max(sg, sb)))
                    if a <= 0:
                        sum_u += tu
                        sum_v += tv
                        continue
                    sr, sg, sb = sr / a, sg / a, sb / a
                sr, sg, sb = _clipped(sr), _clipped(sg), _clipped(sb)
                if mode == 7:  # plus-lighter
                    r1, g1, b1 = _clipped(br + a * sr), _clipped(bg + a * sg), _clipped(bb + a * sb)
                else:
                    if mode >= 13:
                        r1, g1, b1 = _whole(mode, br, bg, bb, sr, sg, sb)
                    else:
                        r1, g1, b1 = _separable(mode, br, sr), _separable(mode, bg, sg), _separable(mode, bb, sb)
                    a = min(a, np.float32(1))
                    r1, g1, b1 = br + a * (r1 - br), bg + a * (g1 - bg), bb + a * (b1 - bb)
                level = np.float32(0.2126) * r1 + np.float32(0.7152) * g1 + np.float32(0.0722) * b1
                y[py, px] = np.uint8(min(max(16 + 219 * level + np.float32(0.5), np.float32(0)), np.float32(255)))
                sum_u += np.float32(224 / 1.8556) * (b1 - level)
                sum_v += np.float32(224 / 1.5748) * (r1 - level)
            u[r, c] = np.uint8(min(max(sum_u / count + np.float32(128.5), np.float32(0)), np.float32(255)))
            v[r, c] = np.uint8(min(max(sum_v / count + np.float32(128.5), np.float32(0)), np.float32(255)))


@njit(cache=True, nogil=True, fastmath=True)
def _blend_whole(mode, y, u, v, luma, lw, cb, cr, cw, across, down, opacity, first, past, left, right):
    """The same where pixels meet pixels and nothing gives light: the sprite's corner lies at across, down (even, luma).

    Rows first…past and columns left…right of the chroma planes lie within the sprite and within the picture.
    """
    unit, share, middle = np.float32(1.0 / 219), np.float32(1.0 / FULL), np.float32(128)
    red_v, green_u = np.float32(1.5748 / 224), np.float32(0.18732427 / 224)
    green_v, blue_u = np.float32(0.46812427 / 224), np.float32(1.8556 / 224)
    quarter, black, half = np.float32(0.25), np.float32(16), np.float32(0.5)
    for r in range(first, past):
        for c in range(left, right):
            i = (2 * r - down) * lw + 2 * c - across
            p0, p1, p2, p3 = luma[i], luma[i + 1], luma[i + lw], luma[i + lw + 1]
            if p0 | p1 | p2 | p3 == 0:
                continue
            k = (r - down // 2) * cw + c - across // 2
            pu, ca = _halves(cb[k])
            pv, _ = _halves(cr[k])
            du, dv = np.float32(0), np.float32(0)
            if ca > 0:
                du, dv = pu / ca - middle, pv / ca - middle
            ru, gu, bu = red_v * dv, -green_u * du - green_v * dv, blue_u * du
            tu, tv = np.float32(u[r, c]) - middle, np.float32(v[r, c]) - middle
            rb, gb, bb = red_v * tv, -green_u * tu - green_v * tv, blue_u * tu
            sum_u = np.float32(0)
            sum_v = np.float32(0)
            for n in range(4):
                packed = p0 if n == 0 else (p1 if n == 1 else (p2 if n == 2 else p3))
                row, column = 2 * r + n // 2, 2 * c + n % 2
                light, cover = _halves(packed)
                if cover <= 0:
                    sum_u += tu
                    sum_v += tv
                    continue
                a = min(cover * share, ONE) * opacity
                t = (np.float32(y[row, column]) - black) * unit
                level = (light / cover - black) * unit
                b0, b1, b2 = _clipped(t + rb), _clipped(t + gb), _clipped(t + bb)
                s0, s1, s2 = _clipped(level + ru), _clipped(level + gu), _clipped(level + bu)
                if mode == 7:  # plus-lighter
                    b0, b1, b2 = _clipped(b0 + a * s0), _clipped(b1 + a * s1), _clipped(b2 + a * s2)
                else:
                    if mode >= 13:
                        m0, m1, m2 = _whole(mode, b0, b1, b2, s0, s1, s2)
                    else:
                        m0, m1, m2 = _separable(mode, b0, s0), _separable(mode, b1, s1), _separable(mode, b2, s2)
                    b0, b1, b2 = b0 + a * (m0 - b0), b1 + a * (m1 - b1), b2 + a * (m2 - b2)
                level = np.float32(0.2126) * b0 + np.float32(0.7152) * b1 + np.float32(0.0722) * b2
                y[row, column] = np.uint8(_within(black + np.float32(219) * level + half))
                sum_u += np.float32(224 / 1.8556) * (b2 - level)
                sum_v += np.float32(224 / 1.5748) * (b0 - level)
            u[r, c] = np.uint8(_within(sum_u * quarter + middle + half))
            v[r, c] = np.uint8(_within(sum_v * quarter + middle + half))


@njit(cache=True, nogil=True, inline="always")
def _within(x):
    return min(max(x, ZERO), np.float32(255))


def blend(planes: Planes, one: PlacedSprite, mode: BlendMode, bands: Bands = WHOLE) -> None:
    """Blends a sprite with planes, in place. Sampling is as `draw` does it."""
    found = settled(one)
    if found is None:
        return
    sprite, full, half, flat = found
    ch, cw = sprite.cb.shape
    top, bottom, left, right = _reach(half, cw, ch, planes.u.shape)
    if top >= bottom or left >= right:
        return
    lh, lw = sprite.luma.shape
    back, small = (np.ascontiguousarray(np.linalg.inv(m)) for m in (full, half))
    place = MODES.index(mode)
    whole = bool(flat and np.array_equal(full[:2, :2], np.eye(2)) and not np.mod(full[:2, 2], 2).any())
    own = sprite.luma.ravel(), lh, lw, sprite.cb.ravel(), sprite.cr.ravel(), ch, cw
    given = (planes.y, planes.u, planes.v, *own, back, small, flat, np.float32(one.opacity), sprite.light)
    kernel: Callable[..., None] = partial(_blend, place, *given)
    if whole and not sprite.light and not any(side % 2 for side in planes.y.shape):
        across, down = int(full[0, 2]), int(full[1, 2])
        left, right = max(left, across // 2), min(right, across // 2 + cw)
        top, bottom = max(top, down // 2), min(bottom, down // 2 + ch)
        if top >= bottom or left >= right:
            return
        pixels = sprite.luma.ravel(), lw, sprite.cb.ravel(), sprite.cr.ravel(), cw
        kernel = partial(
            _blend_whole, place, planes.y, planes.u, planes.v, *pixels, across, down, np.float32(one.opacity)
        )
    bands.run(kernel, top, bottom, left, right)


def _reach(forward: np.ndarray, width: int, height: int, shape: tuple[int, int]) -> tuple[int, int, int, int]:
    """The rows and columns of a target, top, bottom, left, right, that a plane of a size reaches; all if part of it is
    behind the viewer.
    """
    corners = forward @ np.array([[0, width, 0, width], [0, 0, height, height], [1, 1, 1, 1.0]])
    if (corners[2] <= 1e-9).any():
        return 0, shape[0], 0, shape[1]
    x, y = corners[0] / corners[2], corners[1] / corners[2]
    rows = max(0, math.floor(y.min())), min(shape[0], math.ceil(y.max()))
    return *rows, max(0, math.floor(x.min())), min(shape[1], math.ceil(x.max()))
