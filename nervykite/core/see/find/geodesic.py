"""Distances along the picture: cheap through like colours, dear across edges."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, fastmath=True)
def _sweep(far, cost):
    """One pass down and one up over the eight neighbours (Toivanen 1996)."""
    h, w = far.shape
    diagonal = np.float32(1.41421356)
    for y in range(h):
        for x in range(w):
            d = far[y, x]
            c = cost[y, x]
            if x > 0:
                d = min(d, far[y, x - 1] + 0.5 * (c + cost[y, x - 1]))
            if y > 0:
                d = min(d, far[y - 1, x] + 0.5 * (c + cost[y - 1, x]))
                if x > 0:
                    d = min(d, far[y - 1, x - 1] + diagonal * 0.5 * (c + cost[y - 1, x - 1]))
                if x < w - 1:
                    d = min(d, far[y - 1, x + 1] + diagonal * 0.5 * (c + cost[y - 1, x + 1]))
            far[y, x] = d
    for y in range(h - 1, -1, -1):
        for x in range(w - 1, -1, -1):
            d = far[y, x]
            c = cost[y, x]
            if x < w - 1:
                d = min(d, far[y, x + 1] + 0.5 * (c + cost[y, x + 1]))
            if y < h - 1:
                d = min(d, far[y + 1, x] + 0.5 * (c + cost[y + 1, x]))
                if x > 0:
                    d = min(d, far[y + 1, x - 1] + diagonal * 0.5 * (c + cost[y + 1, x - 1]))
                if x < w - 1:
                    d = min(d, far[y + 1, x + 1] + diagonal * 0.5 * (c + cost[y + 1, x + 1]))
            far[y, x] = d


def geodesic_distance(begin: np.ndarray, cost: np.ndarray, sweeps: int = 4) -> np.ndarray:
    """The cost of the cheapest way from where one may begin to each pixel (Criminisi, Sharp and Blake 2008).

    begin: bool (h, w), True where a way may begin, or float32 (h, w), the price of beginning there (1e9: not).
    cost: float32 (h, w), the price of crossing a pixel, > 0. Returns float32 (h, w), at most 1e9.
    """
    far = np.where(begin, 0, 1e9).astype(np.float32) if begin.dtype == bool else begin.astype(np.float32)
    cost = np.ascontiguousarray(cost, np.float32)
    if far.min() < 1e9:
        for _ in range(sweeps):
            _sweep(far, cost)
    return far
