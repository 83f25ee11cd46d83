"""Where change is greatest."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, fastmath=True)
def ridge(much, turn, out):
    h, w = much.shape
    for r in range(1, h - 1):
        for c in range(1, w - 1):
            m = much[r, c]
            if m <= np.float32(1e-4):
                continue
            x, y = np.cos(turn[r, c]), np.sin(turn[r, c])
            # The larger of both neighbours across the edge, between pixels.
            most = np.float32(0)
            for sign in (-1.0, 1.0):
                px, py = c + sign * x, r + sign * y
                i, j = min(int(py), h - 2), min(int(px), w - 2)
                fy, fx = np.float32(py - i), np.float32(px - j)
                near = (much[i, j] * (1 - fx) + much[i, j + 1] * fx) * (1 - fy)
                near += (much[i + 1, j] * (1 - fx) + much[i + 1, j + 1] * fx) * fy
                most = max(most, near)
            if m >= most:
                out[r, c] = m
