"""Colours as they are apart from alpha, as most files with alpha keep them."""

import cv2
import numpy as np
from numba import njit

NEAR = 9
"""Pixels, to a side, out of which what is clear gets its colour: formats that halve colours would else mix it in."""


@njit(cache=True, nogil=True)
def _divided(rgba, around, full, out):
    """Pixels given flat, (n, 4), by their alpha; those that are not seen by what is around them."""
    zero, one = np.float32(0), np.float32(1)
    for i in range(rgba.shape[0]):
        alpha = min(max(rgba[i, 3], zero), one)
        source, by, seen = rgba, alpha, alpha > np.float32(1e-6)
        if not seen:
            source, by = around, around[i, 3]
        for c in range(3):
            value = zero
            if seen or by > np.float32(1e-4):
                value = min(max(source[i, c] / by, zero), one)
            out[i, c] = np.uint32(np.rint(value * full))
        out[i, 3] = np.uint32(np.rint(alpha * full))


def straight(rgba: np.ndarray, dtype: type = np.uint8) -> np.ndarray:
    """Premultiplied R'G'B'A, float32 (h, w, 4), as R'G'B'A apart from alpha, uint8 or uint16 (h, w, 4).

    Where nothing is seen it has the colour of what is near, or none.
    """
    rgba = np.ascontiguousarray(rgba, np.float32)
    around = cv2.boxFilter(rgba, -1, (NEAR, NEAR))
    out: np.ndarray = np.empty(rgba.shape, dtype)
    _divided(rgba.reshape(-1, 4), around.reshape(-1, 4), np.float32(np.iinfo(dtype).max), out.reshape(-1, 4))
    return out
