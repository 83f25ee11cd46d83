"""Alpha in a narrow band around an outline, by the colours there.

The matting Laplacian of Levin, Lischinski and Weiss ("A closed-form solution to natural image matting", 2008),
never built: its product with a vector is two passes over the 3 × 3 windows (after He, Sun and Tang 2010), over the
windows that touch the band only, so that the work depends on the length of the outline and not on the picture.
"""

from collections.abc import Callable

import cv2
import numpy as np
from numba import njit, prange

EPSILON = 2e-6
"""How much colour may deviate from a line within a window, as variance of colours 0…1."""
THREE = np.uint32(3)
"""The length of a window's rows, in the type of the numbers that it is added to."""
DIAGONAL = 9 * 0.6
"""About what the Laplacian has on its diagonal."""
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
    """The parts that a mask (h, w) covers, numbered row by row: uint32 (h, w), 0 elsewhere; and how many there are."""
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
    picture: np.ndarray, guess: np.ndarray, band: np.ndarray, pull: np.ndarray | float = 2e-3, steps: int = 300
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
    _descend(field, product, here, want, weight, steps)
    alpha[inner][ys - edge[0], xs - edge[2]] = np.clip(field[here], 0, 1)
    return alpha


def _descend(
    field: np.ndarray, product: Callable[[np.ndarray], np.ndarray], here: np.ndarray, want: np.ndarray,
    weight: np.ndarray, steps: int,
) -> None:  # fmt: skip
    """Takes a field, in place, towards the solution of product(field) = weight·want by conjugate gradients."""
    residual = weight * want - product(field)
    direction = residual / (DIAGONAL + weight)
    along = first = float(residual @ direction)
    search = np.zeros_like(field)
    search[here] = direction
    for _ in range(steps):
        if along < ENOUGH * max(first, 1e-9) or along < 1e-8:
            break
        along = _advance(field, search, here, direction, product(search), residual, weight, along)
