"""The fine edge: real alpha in a narrow band around an outline.

The matting Laplacian of Levin, Lischinski and Weiss ("A closed-form solution to natural image matting", 2008),
never built: its product with a vector is two passes over the 3 × 3 windows (after He, Sun and Tang 2010), over the
windows that touch the band only, so that the work depends on the length of the outline and not on the picture.
"""

import math

import cv2
import numpy as np
from numba import njit, prange

from .part import around

EPSILON = 2e-6
"""How much colour may deviate from a line within a window, as variance of colours 0…1."""
ALL = np.ones((1, 3), np.float32)
"""Adds up the channels of a picture."""
THREE = np.uint32(3)
"""The length of a window's rows, in the type of the numbers that it is added to."""
DIAGONAL = 9 * 0.6
"""About what the Laplacian has on its diagonal."""
BESIDE = 3.0
"""How far beside an edge, in pixels, the band begins: the outline that one starts from is a pixel or two off."""
PULL, HOLD = 2e-3, 0.3
"""How strongly a solution is drawn to the guess: an outline that is off must not keep the edge from where it is, but it
is all there is to go by where both sides look alike."""
RISE = 0.5
"""The part of an edge's width in which the guess goes from 0 to 1."""
CRISP, LEAST_TRUST = 2.0, 0.02
"""The width, in pixels, up to which an edge is crisp; what is left of the trust in a guess where it is much wider, as
hair is: that is to be found."""
CLEAN, STEEPER, HAIR, SOON = 1.0, 3, (4.8, 8.0), 5
"""How strongly the second solution is drawn to a ramp where the first one has found the edge, if that is crisp, and how
fast less where it is wider; from which width on, in pixels, the first one counts more and more, and by which alone;
after how many steps it is good enough, as it begins near its end."""
LARGE = 800_000
"""The pixels of a picture from which on the first solution is found at half the size: where edges are shows as well."""
CLEAR = 0.04
"""From what on a matte that is about known is not clear."""
ALIKE, UNLIKE = 0.02, 0.06
"""Contrasts, of colours 0…1, up to which both sides look alike, and from which on they do not."""
ENOUGH = 1e-4
"""The part of the first error at which a solution is good enough: less changes alpha by a hundredth."""


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _windows(colours, rows, epsilon, mean, inverse):
    """Mean colour (n, 3) and inverse covariance (n, 6) of the windows whose rows begin at `rows` (n, 3)."""
    for k in prange(len(rows)):
        m0 = 0.0
        m1 = 0.0
        m2 = 0.0
        c00 = 0.0
        c01 = 0.0
        c02 = 0.0
        c11 = 0.0
        c12 = 0.0
        c22 = 0.0
        for row in range(3):
            first = rows[k, row]
            for step in range(THREE):
                r = colours[first + step, 0]
                g = colours[first + step, 1]
                b = colours[first + step, 2]
                m0 += r
                m1 += g
                m2 += b
                c00 += r * r
                c01 += r * g
                c02 += r * b
                c11 += g * g
                c12 += g * b
                c22 += b * b
        m0 /= 9
        m1 /= 9
        m2 /= 9
        e = epsilon / 9
        c00 = c00 / 9 - m0 * m0 + e
        c01 = c01 / 9 - m0 * m1
        c02 = c02 / 9 - m0 * m2
        c11 = c11 / 9 - m1 * m1 + e
        c12 = c12 / 9 - m1 * m2
        c22 = c22 / 9 - m2 * m2 + e
        i00 = c11 * c22 - c12 * c12
        i01 = c02 * c12 - c01 * c22
        i02 = c01 * c12 - c02 * c11
        d = 1 / (c00 * i00 + c01 * i01 + c02 * i02)
        mean[k, 0] = m0
        mean[k, 1] = m1
        mean[k, 2] = m2
        inverse[k, 0] = i00 * d
        inverse[k, 1] = i01 * d
        inverse[k, 2] = i02 * d
        inverse[k, 3] = (c00 * c22 - c02 * c02) * d
        inverse[k, 4] = (c01 * c02 - c00 * c12) * d
        inverse[k, 5] = (c00 * c11 - c01 * c01) * d


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _fit(colours, alpha, rows, mean, inverse, line):
    """The line (n, 4: a, b) that each window's alpha follows as its colour changes."""
    for k in prange(len(rows)):
        p = np.float32(0)
        s0 = np.float32(0)
        s1 = np.float32(0)
        s2 = np.float32(0)
        for row in range(3):
            first = rows[k, row]
            for step in range(THREE):
                a = alpha[first + step]
                p += a
                s0 += a * colours[first + step, 0]
                s1 += a * colours[first + step, 1]
                s2 += a * colours[first + step, 2]
        p /= np.float32(9)
        m0 = mean[k, 0]
        m1 = mean[k, 1]
        m2 = mean[k, 2]
        s0 = s0 / np.float32(9) - p * m0
        s1 = s1 / np.float32(9) - p * m1
        s2 = s2 / np.float32(9) - p * m2
        u = inverse[k, 0] * s0 + inverse[k, 1] * s1 + inverse[k, 2] * s2
        v = inverse[k, 1] * s0 + inverse[k, 3] * s1 + inverse[k, 4] * s2
        w = inverse[k, 2] * s0 + inverse[k, 4] * s1 + inverse[k, 5] * s2
        line[k, 0] = u
        line[k, 1] = v
        line[k, 2] = w
        line[k, 3] = p - u * m0 - v * m1 - w * m2


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _product(colours, alpha, here, rows, line, pull, out):
    """(L + pull) · alpha at the pixels `here`, which the windows (n, 3 rows of three) from `rows` on contain."""
    for k in prange(len(here)):
        s0 = np.float32(0)
        s1 = np.float32(0)
        s2 = np.float32(0)
        s3 = np.float32(0)
        for row in range(3):
            first = rows[k, row]
            for step in range(THREE):
                s0 += line[first + step, 0]
                s1 += line[first + step, 1]
                s2 += line[first + step, 2]
                s3 += line[first + step, 3]
        c = here[k]
        said = s0 * colours[c, 0] + s1 * colours[c, 1] + s2 * colours[c, 2] + s3
        out[k] = (np.float32(9) + pull[k]) * alpha[c] - said


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _advance(field, search, here, direction, moved, residual, weight, along):
    """One step of the conjugate gradients, in place; returns how far there is to go."""
    curve = 0.0
    for k in prange(len(here)):
        curve += direction[k] * moved[k]
    length = np.float32(along / curve)
    rest = 0.0
    for k in prange(len(here)):
        field[here[k]] += length * direction[k]
        r = residual[k] - length * moved[k]
        residual[k] = r
        rest += r * r / (np.float32(DIAGONAL) + weight[k])
    ratio = np.float32(rest / along)
    for k in prange(len(here)):
        d = residual[k] / (np.float32(DIAGONAL) + weight[k]) + ratio * direction[k]
        direction[k] = d
        search[here[k]] = d
    return rest


@njit(cache=True, nogil=True)
def _numbered(mask):
    """What a mask (h, w) covers, numbered row by row: uint32 (h, w), 0 elsewhere; and how many there are."""
    h, w = mask.shape
    numbers = np.zeros((h, w), np.uint32)
    count = 0
    for y in range(h):
        for x in range(w):
            if mask[y, x]:
                numbers[y, x] = count
                count += 1
    return numbers, count


@njit(cache=True, nogil=True)
def _listed(mask, count, numbers):
    """The pixels (n, 2: y, x) that a mask covers, and the numbers (n, 3) at which the rows of three around begin."""
    h, w = mask.shape
    places, rows = np.empty((count, 2), np.int32), np.empty((count, 3), np.uint32)
    k = 0
    for y in range(1, h - 1):
        for x in range(1, w - 1):
            if mask[y, x]:
                places[k, 0] = y
                places[k, 1] = x
                for row in range(3):
                    rows[k, row] = numbers[y + row - 1, x - 1]
                k += 1
    return places, rows


def solve_alpha(
    picture: np.ndarray, guess: np.ndarray, band: np.ndarray, pull: np.ndarray | float = PULL, steps: int = 300
) -> np.ndarray:
    """Alpha where `band` is set, by the closed form, everywhere else the guess rounded to 0 or 1.

    picture: uint8 or float RGB (h, w, 3), float in 0…1; guess: float32 (h, w), 0…1, towards which `pull` (a number
    or (h, w)) draws the solution; band: bool (h, w). Conjugate gradients, preconditioned by the pull's and the
    Laplacian's diagonal. Returns float32 (h, w), 0…1.

    What is worked on lies in memory pixel after pixel, not as a picture: a band that goes round a tall subject
    touches another page of a picture in every row, and to find those costs many times the arithmetic.
    """
    alpha = (guess > 0.5).astype(np.float32)
    if not band.any():
        return alpha
    rows, columns = np.nonzero(band.any(1))[0], np.nonzero(band.any(0))[0]
    pad = 3
    y0, x0 = rows[0] - pad, columns[0] - pad
    y1, x1 = rows[-1] + pad + 1, columns[-1] + pad + 1
    h, w = band.shape
    inner = (slice(max(0, y0), min(h, y1)), slice(max(0, x0), min(w, x1)))
    edge = (max(0, -y0), max(0, y1 - h), max(0, -x0), max(0, x1 - w))  # beyond the frame its last pixels go on

    def rimmed(values: np.ndarray) -> np.ndarray:
        return cv2.copyMakeBorder(np.ascontiguousarray(values[inner]), *edge, cv2.BORDER_REPLICATE)

    inside = cv2.copyMakeBorder(band[inner].astype(np.uint8), *edge, cv2.BORDER_CONSTANT)
    windows = cv2.dilate(inside, np.ones((3, 3), np.uint8))
    needed = cv2.dilate(windows, np.ones((3, 3), np.uint8))
    pixels, _ = _numbered(needed)
    numbers, many = _numbered(windows)
    _, own = _listed(windows, many, pixels)
    places, touching = _listed(inside, cv2.countNonZero(inside), numbers)
    ys, xs = places.T
    here = pixels[ys, xs]
    colours = rimmed(picture)[needed > 0].astype(np.float32)
    if picture.dtype == np.uint8:
        colours /= 255
    mean, inverse = np.empty((len(own), 3), np.float32), np.empty((len(own), 6), np.float32)
    _windows(colours, own, EPSILON * 9, mean, inverse)
    line = np.empty((len(own), 4), np.float32)
    want = rimmed(guess)[ys, xs].astype(np.float32)
    drawn = rimmed(pull)[ys, xs] if isinstance(pull, np.ndarray) else np.full(len(here), pull)
    weight = drawn.astype(np.float32)
    out = np.empty(len(here), np.float32)

    def product(field: np.ndarray) -> np.ndarray:
        _fit(colours, field, own, mean, inverse, line)
        _product(colours, field, here, touching, line, weight, out)
        return out

    field = rimmed(alpha)[needed > 0]
    field[here] = want
    residual = weight * want - product(field)
    direction = residual / (DIAGONAL + weight)
    along = first = float(residual @ direction)
    search = np.zeros_like(field)
    search[here] = direction
    for _ in range(steps):
        if along < ENOUGH * max(first, 1e-9) or along < 1e-8:
            break
        along = _advance(field, search, here, direction, product(search), residual, weight, along)
    alpha[inner][ys - edge[0], xs - edge[2]] = np.clip(field[here], 0, 1)
    return alpha


def edge_width(picture: np.ndarray, outline: np.ndarray, most: float) -> tuple[np.ndarray, np.ndarray]:
    """How wide the transition at the outline is, in pixels, 1…most, and how far it shows, 0…1: float32 (h, w).

    The contrast between the colours a little inside and a little outside, over the steepest change between them:
    a step edge gives about 1, a blurred one the length of its ramp. Where the two sides look alike nothing can be
    said, and the edge counts as crisp. Both are meaningful near the outline.
    """
    values = picture.astype(np.float32) / (255 if picture.dtype == np.uint8 else 1)
    inside = outline > 0.5
    reach = max(3.0, most / 2)

    half = (inside.shape[1] + 1) // 2, (inside.shape[0] + 1) // 2
    coarse = cv2.resize(values, half, interpolation=cv2.INTER_AREA)

    def side(mask: np.ndarray) -> np.ndarray:
        core = cv2.erode(mask.astype(np.float32), np.ones((3, 3), np.uint8))
        core = (cv2.resize(core, half, interpolation=cv2.INTER_AREA) > 0.99).astype(np.float32)  # of this side alone
        weight = cv2.GaussianBlur(core, (0, 0), reach / 2)
        return cv2.GaussianBlur(coarse * core[..., None], (0, 0), reach / 2) / np.maximum(weight, 1e-4)[..., None]

    apart = cv2.sqrt(cv2.transform((side(inside) - side(~inside)) ** 2, ALL))
    contrast = cv2.resize(apart, inside.shape[::-1], interpolation=cv2.INTER_LINEAR)
    dx = cv2.Sobel(values, cv2.CV_32F, 1, 0, ksize=3, scale=1 / 8)
    dy = cv2.Sobel(values, cv2.CV_32F, 0, 1, ksize=3, scale=1 / 8)
    slope = cv2.sqrt(cv2.transform(dx * dx + dy * dy, ALL))
    side_length = 2 * max(2, math.ceil(most / 3)) + 1
    steepest = cv2.dilate(slope, np.ones((side_length, side_length), np.uint8))
    wide = np.where(contrast > UNLIKE, contrast / np.maximum(steepest, 1e-3), 1.0)
    shows = np.clip((contrast - ALIKE) / (UNLIKE - ALIKE), 0, 1)
    return np.clip(cv2.GaussianBlur(np.minimum(wide, most), (0, 0), 4), 1, most).astype(np.float32), shows


def fine_edge(
    picture: np.ndarray, outline: np.ndarray, reach: float = 10.0, seen: np.ndarray | None = None, trust: float = PULL
) -> np.ndarray:
    """A matte with a real edge from a hard outline.

    picture: uint8 RGB (h, w, 3); outline: float32 (h, w), 0…1, its edge where it is one half. The band is as wide
    as the edge itself and a bit more, up to `reach` pixels to each side: an edge that the outline missed by a pixel or
    two is found, and then solved once more from where it is, which makes it clean. Where both sides look alike the
    outline is kept. seen: about what the matte is, float32 (h, w), 0…1, if that is known; else it is taken for a ramp
    across the outline, as wide as the edge. trust: how strongly the solution is drawn to that at least, where the edge
    is crisp. Returns float32 (h, w), 0…1.
    """
    hard = (outline > 0.5).astype(np.uint8)
    if hard.min() == hard.max():
        return hard.astype(np.float32)
    box = around(cv2.morphologyEx(hard, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)), 2 * math.ceil(reach) + 6)
    part = picture[box]
    wide, shows = _width_at_half_size(part, outline[box], reach)
    least = HOLD * (PULL / HOLD) ** shows
    inside = _depth(hard[box])
    band = np.abs(inside) <= np.minimum(1 + (BESIDE - 1) * shows + 0.9 * wide, reach)
    guess = _across(inside, wide) if seen is None else seen[box]
    if seen is not None:
        band |= (np.abs(inside) <= reach) & (guess > CLEAR) & (guess < 1 - CLEAR)
    alpha = hard.astype(np.float32)
    first = solve_alpha if hard.size < LARGE else _solved_at_half_size
    found = first(part, guess, band, np.maximum(least, trust * np.clip((CRISP / wide) ** 2, LEAST_TRUST, 1)))
    alpha[box] = _cleaned(part, found, wide, least, reach)
    return alpha


def _solved_at_half_size(picture: np.ndarray, guess: np.ndarray, band: np.ndarray, pull: np.ndarray) -> np.ndarray:
    """`solve_alpha` of a picture half as large, made as large again: a quarter of the work."""
    h, w = band.shape
    size = (w + 1) // 2, (h + 1) // 2
    part, about, drawn, inside = (
        cv2.resize(v, size, interpolation=cv2.INTER_AREA) for v in (picture, guess, pull, band.astype(np.float32))
    )
    # Alpha spreads from pixel to pixel, and so twice as far: a pull four times as strong keeps it to the same way.
    return cv2.resize(solve_alpha(part, about, inside > 0, 4 * drawn), (w, h), interpolation=cv2.INTER_LINEAR)


def _cleaned(picture: np.ndarray, found: np.ndarray, wide: np.ndarray, least: np.ndarray, reach: float) -> np.ndarray:
    """A solution float32 (h, w), 0…1, solved once more from where it has its edge.

    What is textured beside an edge leaves smears in the first one; but that tells where the edge is, and a ramp that is
    drawn there is clean. wide: how wide the edge is, px; least: how strongly it is drawn to the ramp at least; (h, w).
    """
    hard = (found > 0.5).astype(np.uint8)
    if hard.min() == hard.max():
        return found
    inside = _depth(hard)
    pull = np.maximum(least, CLEAN * np.clip((CRISP / wide) ** STEEPER, LEAST_TRUST, 1))
    band = np.abs(inside) <= np.minimum(1 + 0.9 * wide, reach)
    clean = solve_alpha(picture, _across(inside, wide), band, pull, SOON)
    share = np.clip((HAIR[1] - wide) / (HAIR[1] - HAIR[0]), 0, 1)
    return found + share * (clean - found)


def _depth(hard: np.ndarray) -> np.ndarray:
    """How far inside (> 0) or outside an outline, uint8 (h, w), 0 or 1, the middle of each pixel is: float32 (h, w)."""
    away = cv2.distanceTransform(hard, cv2.DIST_L2, 5) - cv2.distanceTransform(1 - hard, cv2.DIST_L2, 5)
    return away - np.where(hard > 0, np.float32(0.5), np.float32(-0.5))


def _across(inside: np.ndarray, wide: np.ndarray) -> np.ndarray:
    """About what a matte is across an edge: float32 (h, w), 0…1; by the way inside of it and how wide it is, px."""
    way = np.clip(0.5 + cv2.GaussianBlur(inside, (0, 0), 0.7) / np.maximum(1.5, RISE * wide), 0, 1)
    return way * way * (3 - 2 * way)


def _width_at_half_size(picture: np.ndarray, outline: np.ndarray, most: float) -> tuple[np.ndarray, np.ndarray]:
    """`edge_width` of a large picture from a half as large one: how wide an edge is changes slowly along it."""
    h, w = outline.shape
    if h * w < 300_000:
        return edge_width(picture, outline, most)
    size = (w + 1) // 2, (h + 1) // 2
    small, drawn = (cv2.resize(v, size, interpolation=cv2.INTER_AREA) for v in (picture, outline.astype(np.float32)))
    # A pixel is as wide as the narrowest edge: what is wider than that is twice as wide in full.
    narrow, shows = edge_width(small, drawn, most / 2)
    wide = np.clip(2 * narrow - 1, 1, most)
    return cv2.resize(wide, (w, h), interpolation=cv2.INTER_LINEAR), cv2.resize(shows, (w, h))
