"""Pictures laid over each other."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, fastmath=True)
def over(above, below, out):
    """Premultiplied pixels (n, 4)."""
    one = np.float32(1)
    for i in range(out.shape[0]):
        left = one - min(above[i, 3], one)
        for n in range(4):
            out[i, n] = above[i, n] + left * below[i, n]


@njit(cache=True, nogil=True, fastmath=True)
def flat(alpha, red, green, blue, out):
    """One colour as opaque as an alpha (n,)."""
    for i in range(alpha.size):
        a = alpha[i]
        out[i, 0] = a * red
        out[i, 1] = a * green
        out[i, 2] = a * blue
        out[i, 3] = a


@njit(cache=True, nogil=True, fastmath=True)
def lay_on(alpha, red, green, blue, below):
    """One colour as opaque as an alpha (n,) over premultiplied pixels (n, 4), in place."""
    for i in range(alpha.size):
        a = alpha[i]
        if a > 0:
            left = np.float32(1) - a
            below[i, 0] = a * red + left * below[i, 0]
            below[i, 1] = a * green + left * below[i, 1]
            below[i, 2] = a * blue + left * below[i, 2]
            below[i, 3] = a + left * below[i, 3]


@njit(cache=True, nogil=True, fastmath=True)
def cover(alpha, colours, out):
    """Straight colours (n, 3) within an alpha (n,): 0…1 each."""
    one, zero = np.float32(1), np.float32(0)
    for i in range(alpha.size):
        a = min(max(alpha[i], zero), one)
        for n in range(3):
            out[i, n] = min(max(colours[i, n], zero), one) * a
        out[i, 3] = alpha[i]
