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
from .blend_modes import PLUS_LIGHTER, blended, clipped
from .draw import FULL, PlacedSprite, settled
from .pixel_kernels import Packed, byte_of, chroma_at, halves, rgb_of, sample, ycc_of


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def _over(mode, br, bg, bb, sr, sg, sb, a):
    """An opaque backdrop with a source of coverage a over it, all 0…1."""
    if mode == PLUS_LIGHTER:
        r, g, b = clipped(br + a * sr), clipped(bg + a * sg), clipped(bb + a * sb)
    else:
        r, g, b = blended(mode, br, bg, bb, sr, sg, sb)
        a = min(a, np.float32(1))
        r, g, b = br + a * (r - br), bg + a * (g - bg), bb + a * (b - bb)
    return r, g, b


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def _sampled(luma, height, width, m, flat, light, px, py):
    """Luma and alpha of a sprite at a target pixel, see `sample`; flat: the map m needs no division."""
    x, y = px + 0.5, py + 0.5
    sx, sy = m[0, 0] * x + m[0, 1] * y + m[0, 2], m[1, 0] * x + m[1, 1] * y + m[1, 2]
    depth = 1.0
    if not flat:
        depth = m[2, 0] * x + m[2, 1] * y + m[2, 2]
    if depth > 1e-9:
        if not flat:
            sx, sy = sx / depth, sy / depth
        black = np.float32(16) if light else np.float32(0)
        level, a = sample(luma, height, width, sx - 0.5, sy - 0.5, black)
    else:
        level, a = np.float32(0), np.float32(0)
    return level, a


@njit(cache=True, nogil=True, fastmath=True)
def _blend(mode, y, u, v, sprite, m, half, flat, opacity, light, first, past, left, right):
    """Blends rows first…past of the chroma planes, columns left…right, and the luma that goes with them.

    m and half (3×3) take target pixels to the sprite's luma and chroma; flat says that they need no division, light
    that colours count from black.
    """
    rows, columns = y.shape
    luma, lh, lw, cb, cr, ch, cw = sprite
    unit, share = np.float32(1.0 / 219), opacity if light else np.float32(1)
    alphas, lumas = np.empty(4, np.float32), np.empty(4, np.float32)
    for r in range(first, past):
        for c in range(left, right):
            covered = False
            for k in range(4):
                alphas[k] = 0
                if 2 * r + k // 2 < rows and 2 * c + k % 2 < columns:
                    lumas[k], alphas[k] = _sampled(luma, lh, lw, m, flat, light, 2 * c + k % 2, 2 * r + k // 2)
                    covered = covered or alphas[k] > 0 or (light and lumas[k] > 0)
            if not covered or half[2, 0] * (c + 0.5) + half[2, 1] * (r + 0.5) + half[2, 2] <= 1e-9:
                continue
            du, dv = chroma_at(cb, cr, ch, cw, half, c + 0.5, r + 0.5, light)
            tu, tv = np.float32(u[r, c]) - 128, np.float32(v[r, c]) - 128
            sum_u, sum_v, count = np.float32(0), np.float32(0), 0
            for k in range(4):
                py, px = 2 * r + k // 2, 2 * c + k % 2
                if py >= rows or px >= columns:
                    continue
                count += 1
                a = alphas[k] * opacity
                own_u, own_v = tu, tv
                if a > 0 or light:
                    level = lumas[k] * unit * opacity if light else (lumas[k] / alphas[k] - 16) * unit
                    sr, sg, sb = rgb_of(level, du * share, dv * share)
                    if light:  # premultiplied; where there is more light than coverage, it covers as much as it shines
                        a = max(a, max(sr, max(sg, sb)))
                    if a > 0:
                        if light:
                            sr, sg, sb = sr / a, sg / a, sb / a
                        br, bg, bb = rgb_of((np.float32(y[py, px]) - 16) * unit, tu, tv)
                        br, bg, bb = clipped(br), clipped(bg), clipped(bb)
                        br, bg, bb = _over(mode, br, bg, bb, clipped(sr), clipped(sg), clipped(sb), a)
                        level, own_u, own_v = ycc_of(br, bg, bb)
                        y[py, px] = byte_of(16 + 219 * level)
                sum_u += own_u
                sum_v += own_v
            u[r, c], v[r, c] = byte_of(sum_u / count + 128), byte_of(sum_v / count + 128)


@njit(cache=True, nogil=True, fastmath=True)
def _blend_whole(mode, y, u, v, sprite, across, down, opacity, first, past, left, right):
    """The same where pixels meet pixels and nothing gives light: the sprite's corner lies at across, down (even, luma).

    Rows first…past and columns left…right of the chroma planes lie within the sprite and within the picture.
    """
    unit, share, middle = np.float32(1.0 / 219), np.float32(1.0 / FULL), np.float32(128)
    quarter, black = np.float32(0.25), np.float32(16)
    luma, _, lw, cb, cr, _, cw = sprite
    for r in range(first, past):
        for c in range(left, right):
            i = (2 * r - down) * lw + 2 * c - across
            p0, p1, p2, p3 = luma[i], luma[i + 1], luma[i + lw], luma[i + lw + 1]
            if p0 | p1 | p2 | p3 == 0:
                continue
            k = (r - down // 2) * cw + c - across // 2
            pu, ca = halves(cb[k])
            pv, _ = halves(cr[k])
            du, dv = np.float32(0), np.float32(0)
            if ca > 0:
                du, dv = pu / ca - middle, pv / ca - middle
            tu, tv = np.float32(u[r, c]) - middle, np.float32(v[r, c]) - middle
            # What chroma adds to luma is the same for all four.
            ru, gu, bu = rgb_of(np.float32(0), du, dv)
            rb, gb, bb = rgb_of(np.float32(0), tu, tv)
            sum_u, sum_v = np.float32(0), np.float32(0)
            for n in range(4):
                row, column = 2 * r + n // 2, 2 * c + n % 2
                light, cover = halves(p0 if n == 0 else (p1 if n == 1 else (p2 if n == 2 else p3)))
                own_u, own_v = tu, tv
                if cover > 0:
                    a = min(cover * share, np.float32(1)) * opacity
                    t = (np.float32(y[row, column]) - black) * unit
                    level = (light / cover - black) * unit
                    b0, b1, b2 = clipped(t + rb), clipped(t + gb), clipped(t + bb)
                    s0, s1, s2 = clipped(level + ru), clipped(level + gu), clipped(level + bu)
                    b0, b1, b2 = _over(mode, b0, b1, b2, s0, s1, s2, a)
                    level, own_u, own_v = ycc_of(b0, b1, b2)
                    y[row, column] = byte_of(black + np.float32(219) * level)
                sum_u += own_u
                sum_v += own_v
            u[r, c], v[r, c] = byte_of(sum_u * quarter + middle), byte_of(sum_v * quarter + middle)


def blend(planes: Planes, one: PlacedSprite, mode: BlendMode, bands: Bands = WHOLE) -> None:
    """Blends a sprite with planes, in place. Sampling is as `draw` does it."""
    found = settled(one)
    if found is None:
        return
    sprite, full, half, flat = found
    ch, cw = sprite.cb.shape
    top, bottom, left, right = _reach(half, cw, ch, planes.u.shape)
    place, opacity, pixels = MODES.index(mode), np.float32(one.opacity), Packed.of(sprite)
    target = planes.y, planes.u, planes.v
    whole = bool(flat and np.array_equal(full[:2, :2], np.eye(2)) and not np.mod(full[:2, 2], 2).any())
    kernel: Callable[..., None]
    if whole and not sprite.light and not any(side % 2 for side in planes.y.shape):
        across, down = int(full[0, 2]), int(full[1, 2])
        left, right = max(left, across // 2), min(right, across // 2 + cw)
        top, bottom = max(top, down // 2), min(bottom, down // 2 + ch)
        kernel = partial(_blend_whole, place, *target, pixels, across, down, opacity)
    else:
        back, small = (np.ascontiguousarray(np.linalg.inv(m)) for m in (full, half))
        kernel = partial(_blend, place, *target, pixels, back, small, flat, opacity, sprite.light)
    if top < bottom and left < right:
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
