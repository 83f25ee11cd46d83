"""The fine edge: real alpha in a narrow band around an outline.

The matting Laplacian of Levin, Lischinski and Weiss ("A closed-form solution to natural image matting", 2008),
never built: its product with a vector is two passes over the 3 × 3 windows (after He, Sun and Tang 2010), over the
windows that touch the band only, so that the work depends on the length of the outline and not on the picture.
"""

import math

import cv2
import numpy as np
from numba import njit, prange

EPSILON = 2e-6
"""How much colour may deviate from a line within a window, as variance of colours 0…1."""
ALL = np.ones((1, 3), np.float32)
"""Adds up the channels of a picture."""
DIAGONAL = 9 * 0.6
"""About what the Laplacian has on its diagonal."""
ENOUGH = 1e-4
"""The part of the first error at which a solution is good enough: less changes alpha by less than 0.001."""


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _windows(picture, ys, xs, epsilon, mean, inverse):
    """Mean colour (n, 3) and inverse covariance (n, 6) of the windows around (ys, xs)."""
    for k in prange(len(ys)):
        m0 = 0.0
        m1 = 0.0
        m2 = 0.0
        c00 = 0.0
        c01 = 0.0
        c02 = 0.0
        c11 = 0.0
        c12 = 0.0
        c22 = 0.0
        for dy in range(-1, 2):
            for dx in range(-1, 2):
                r = picture[ys[k] + dy, xs[k] + dx, 0]
                g = picture[ys[k] + dy, xs[k] + dx, 1]
                b = picture[ys[k] + dy, xs[k] + dx, 2]
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
def _fit(picture, alpha, ys, xs, mean, inverse, line):
    """The line (n, 4: a, b) that each window's alpha follows as its colour changes."""
    for k in prange(len(ys)):
        p = 0.0
        s0 = 0.0
        s1 = 0.0
        s2 = 0.0
        for dy in range(-1, 2):
            for dx in range(-1, 2):
                a = alpha[ys[k] + dy, xs[k] + dx]
                p += a
                s0 += a * picture[ys[k] + dy, xs[k] + dx, 0]
                s1 += a * picture[ys[k] + dy, xs[k] + dx, 1]
                s2 += a * picture[ys[k] + dy, xs[k] + dx, 2]
        p /= 9
        s0 = s0 / 9 - p * mean[k, 0]
        s1 = s1 / 9 - p * mean[k, 1]
        s2 = s2 / 9 - p * mean[k, 2]
        u = inverse[k, 0] * s0 + inverse[k, 1] * s1 + inverse[k, 2] * s2
        v = inverse[k, 1] * s0 + inverse[k, 3] * s1 + inverse[k, 4] * s2
        w = inverse[k, 2] * s0 + inverse[k, 4] * s1 + inverse[k, 5] * s2
        line[k, 0] = u
        line[k, 1] = v
        line[k, 2] = w
        line[k, 3] = p - u * mean[k, 0] - v * mean[k, 1] - w * mean[k, 2]


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _product(picture, alpha, ys, xs, number, line, pull, out):
    """(L + pull) · alpha at the pixels (ys, xs)."""
    for k in prange(len(ys)):
        y = ys[k]
        x = xs[k]
        total = 0.0
        for dy in range(-1, 2):
            for dx in range(-1, 2):
                n = number[y + dy, x + dx]
                if n >= 0:
                    total += alpha[y, x] - (
                        line[n, 0] * picture[y, x, 0]
                        + line[n, 1] * picture[y, x, 1]
                        + line[n, 2] * picture[y, x, 2]
                        + line[n, 3]
                    )
        out[k] = total + pull[k] * alpha[y, x]


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _advance(field, search, ys, xs, direction, moved, residual, weight, along):
    """One step of the conjugate gradients, in place; returns how far there is to go."""
    curve = 0.0
    for k in prange(len(ys)):
        curve += direction[k] * moved[k]
    length = np.float32(along / curve)
    rest = 0.0
    for k in prange(len(ys)):
        field[ys[k], xs[k]] += length * direction[k]
        r = residual[k] - length * moved[k]
        residual[k] = r
        rest += r * r / (np.float32(DIAGONAL) + weight[k])
    ratio = np.float32(rest / along)
    for k in prange(len(ys)):
        d = residual[k] / (np.float32(DIAGONAL) + weight[k]) + ratio * direction[k]
        direction[k] = d
        search[ys[k], xs[k]] = d
    return rest


def solve_alpha(
    picture: np.ndarray, guess: np.ndarray, band: np.ndarray, pull: np.ndarray | float = 3e-2, steps: int = 300
) -> np.ndarray:
    """Alpha where `band` is set, by the closed form, everywhere else the guess rounded to 0 or 1.

    picture: uint8 or float RGB (h, w, 3), float in 0…1; guess: float32 (h, w), 0…1, towards which `pull` (a number
    or (h, w)) draws the solution; band: bool (h, w). Conjugate gradients, preconditioned by the pull's and the
    Laplacian's diagonal. Returns float32 (h, w), 0…1.
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
    scale = 255 if picture.dtype == np.uint8 else 1

    def around(values: np.ndarray) -> np.ndarray:
        return cv2.copyMakeBorder(np.ascontiguousarray(values[inner]), *edge, cv2.BORDER_REPLICATE)

    colours = around(picture).astype(np.float32) / np.float32(scale)
    known = around(alpha)
    inside = cv2.copyMakeBorder(band[inner].astype(np.uint8), *edge, cv2.BORDER_CONSTANT)
    ys, xs = (v.astype(np.int32) for v in np.nonzero(inside))
    wys, wxs = (v.astype(np.int32) for v in np.nonzero(cv2.dilate(inside, np.ones((3, 3), np.uint8))))
    number = np.full(inside.shape, -1, np.int32)
    number[wys, wxs] = np.arange(len(wys), dtype=np.int32)
    mean, inverse = np.empty((len(wys), 3), np.float32), np.empty((len(wys), 6), np.float32)
    _windows(colours, wys, wxs, EPSILON * 9, mean, inverse)
    line = np.empty((len(wys), 4), np.float32)
    want = around(guess)[ys, xs].astype(np.float32)
    pulls = pull if isinstance(pull, np.ndarray) else np.full(band.shape, pull, np.float32)
    weight = around(pulls)[ys, xs].astype(np.float32)
    out = np.empty(len(ys), np.float32)

    def product(field: np.ndarray) -> np.ndarray:
        _fit(colours, field, wys, wxs, mean, inverse, line)
        _product(colours, field, ys, xs, number, line, weight, out)
        return out

    field = known.copy()
    field[ys, xs] = want
    residual = weight * want - product(field)
    direction = residual / (DIAGONAL + weight)
    along = first = float(residual @ direction)
    search = np.zeros_like(known)
    search[ys, xs] = direction
    for _ in range(steps):
        if along < ENOUGH * max(first, 1e-9) or along < 1e-8:
            break
        along = _advance(field, search, ys, xs, direction, product(search), residual, weight, along)
    solved = np.clip(field[edge[0] : field.shape[0] - edge[1], edge[2] : field.shape[1] - edge[3]], 0, 1)
    alpha[inner] = np.where(band[inner], solved, alpha[inner])
    return alpha


def edge_width(picture: np.ndarray, outline: np.ndarray, most: float) -> np.ndarray:
    """How wide the transition at the outline is, in pixels: float32 (h, w), meaningful near it, 1…most.

    The contrast between the colours a little inside and a little outside, over the steepest change between them:
    a step edge gives about 1, a blurred one the length of its ramp. Where the two sides look alike nothing can be
    said, and the edge counts as crisp.
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
    wide = np.where(contrast > 0.06, contrast / np.maximum(steepest, 1e-3), 1.0)
    return np.clip(cv2.GaussianBlur(np.minimum(wide, most), (0, 0), 4), 1, most).astype(np.float32)


def fine_edge(picture: np.ndarray, outline: np.ndarray, reach: float = 10.0) -> np.ndarray:
    """A matte with a real edge from a hard outline.

    picture: uint8 RGB (h, w, 3); outline: float32 (h, w), 0…1, its edge where it is one half. The band is as wide
    as the edge itself, up to `reach` pixels to each side. Returns float32 (h, w), 0…1.
    """
    hard = (outline > 0.5).astype(np.uint8)
    if hard.min() == hard.max():
        return hard.astype(np.float32)
    box = around(cv2.morphologyEx(hard, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)), 2 * math.ceil(reach) + 6)
    part, own = picture[box], hard[box]
    half = 1.0 + 0.9 * _width_at_half_size(part, outline[box], reach)
    away = cv2.distanceTransform(own, cv2.DIST_L2, 5) + cv2.distanceTransform(1 - own, cv2.DIST_L2, 5) - 0.5
    band = away <= np.minimum(half, reach)
    guess = cv2.GaussianBlur(outline[box].astype(np.float32), (0, 0), 1.2)
    alpha = hard.astype(np.float32)
    alpha[box] = solve_alpha(part, guess, band)
    return alpha


def _width_at_half_size(picture: np.ndarray, outline: np.ndarray, most: float) -> np.ndarray:
    """`edge_width` of a large picture from a half as large one: how wide an edge is changes slowly along it."""
    h, w = outline.shape
    if h * w < 300_000:
        return edge_width(picture, outline, most)
    size = (w + 1) // 2, (h + 1) // 2
    small, drawn = (cv2.resize(v, size, interpolation=cv2.INTER_AREA) for v in (picture, outline.astype(np.float32)))
    # A pixel is as wide as the narrowest edge: what is wider than that is twice as wide in full.
    narrow = edge_width(small, drawn, most / 2)
    return cv2.resize(np.clip(2 * narrow - 1, 1, most), (w, h), interpolation=cv2.INTER_LINEAR)


def around(mask: np.ndarray, margin: int) -> tuple[slice, slice]:
    """The rows and columns of the box around what a mask (h, w) covers, `margin` pixels larger, within the frame."""
    rows, columns = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    h, w = mask.shape
    return (
        slice(max(0, int(rows[0]) - margin), min(h, int(rows[-1]) + margin + 1)),
        slice(max(0, int(columns[0]) - margin), min(w, int(columns[-1]) + margin + 1)),
    )


def with_edge(picture: np.ndarray, outline: np.ndarray, reach: float) -> np.ndarray:
    """`fine_edge`, or the bare outline if `reach` is 0: float32 (h, w), 0…1."""
    return fine_edge(picture, outline, reach) if reach > 0 else (outline > 0.5).astype(np.float32)
