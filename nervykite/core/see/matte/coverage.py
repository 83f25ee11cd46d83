"""Exact anti-aliased coverage of polygons."""

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def _within_row(cells, left, right, width, d):
    """Enters an edge that goes down by d within a row, from left to right, into the cells (width + 1,) of that row."""
    if right <= 0:
        cells[0] += d
        return
    if left >= width:
        return
    if left < 0:  # the part left of the frame covers whole rows
        share = -left / (right - left)
        cells[0] += d * share
        d *= 1 - share
        left = 0.0
    if right > width:
        d *= (width - left) / (right - left)
        right = float(width)
    first = int(left)
    last = int(math.ceil(right))
    if last <= first + 1:
        middle = (left + right) / 2 - first
        cells[first] += d * (1 - middle)
        cells[first + 1] += d * middle
        return
    # The edge crosses several pixels: each gets its own trapezoid.
    per = 1.0 / (right - left)
    a = 1 - (left - first)
    covered = 0.5 * per * a * a
    cells[first] += d * covered
    before = covered
    for column in range(first + 1, last - 1):
        total = per * (column + 0.5 - left)
        cells[column] += d * (total - before)
        before = total
    b = right - (last - 1)
    total = 1 - 0.5 * per * b * b
    cells[last - 1] += d * (total - before)
    cells[last] += d * (1 - total)


@njit(cache=True, nogil=True)
def _accumulate(points, height, width, cells):
    n = points.shape[0]
    for i in range(n):
        x0 = points[i, 0]
        y0 = points[i, 1]
        x1 = points[(i + 1) % n, 0]
        y1 = points[(i + 1) % n, 1]
        if abs(y1 - y0) < 1e-9:  # too flat to cover anything, and its slope would overflow
            continue
        direction = 1.0
        if y0 > y1:
            x0, x1 = x1, x0
            y0, y1 = y1, y0
            direction = -1.0
        if y1 <= 0 or y0 >= height:
            continue
        slope = (x1 - x0) / (y1 - y0)
        x = x0
        if y0 < 0:
            x -= y0 * slope
            y0 = 0.0
        for row in range(int(y0), min(height, int(math.ceil(y1)))):
            top = max(float(row), y0)
            bottom = min(row + 1.0, y1)
            tall = bottom - top
            nx = x + slope * tall
            left = min(x, nx)
            right = max(x, nx)
            x = nx
            _within_row(cells[row], left, right, width, tall * direction)


def coverage(points: np.ndarray, height: int, width: int) -> np.ndarray:
    """The share of each pixel that a polygon covers, exactly.

    points (n, 2): x, y in pixels, pixel (0, 0) reaching from 0 to 1. Each edge adds its signed area to the
    pixels it crosses and a running sum along rows fills the inside (after Levien's "font-rs", 2016). The
    non-zero rule holds; where two edges of opposite direction cross inside one pixel, that pixel is approximate.

    Returns float32 (height, width), 0…1.
    """
    return coverage_of([points], height, width)


def coverage_of(rings: list[np.ndarray], height: int, width: int) -> np.ndarray:
    """The share of each pixel that several polygons (n, 2) cover together, by the non-zero rule.

    Rings of opposite direction cut each other out. Returns float32 (height, width), 0…1.
    """
    cells = np.zeros((height, width + 2), np.float64)
    for ring in rings:
        _accumulate(np.ascontiguousarray(ring, np.float64), height, width, cells)
    filled = np.abs(np.cumsum(cells[:, :width], axis=1))
    return np.minimum(filled, 1).astype(np.float32)
