"""Pixels through tables of colours."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def _place(value, low, by, size):
    """Between which entry and the next a value lies, and how far from the first."""
    at = min(max((value - low) * by, np.float32(0)), np.float32(size - 1))
    n = min(int(at), size - 2)
    return n, at - np.float32(n)


@njit(cache=True, nogil=True, fastmath=True)
def apart(pixels, table, low, by, amount, out):
    """Each of R', G', B' by itself; table (n, 3)."""
    for i in range(pixels.shape[0]):
        a = pixels[i, 3]
        out[i, 3] = a
        for c in range(3):
            own = pixels[i, c]
            if a <= np.float32(1e-5):
                out[i, c] = own
                continue
            n, f = _place(own / a, low[c], by[c], table.shape[0])
            new = table[n, c] + f * (table[n + 1, c] - table[n, c])
            new = min(max(new, np.float32(0)), np.float32(1))
            out[i, c] = own + amount * (new * a - own)


@njit(cache=True, nogil=True, fastmath=True)
def together(pixels, table, low, by, amount, out):
    """R'G'B' together; table (n, n, n, 3) by blue, green, red.

    From the corner below a colour one goes along the axis on which it lies farthest, then the next, then the last.
    """
    size = table.shape[0]
    one, zero = np.float32(1), np.float32(0)
    for i in range(pixels.shape[0]):
        a = pixels[i, 3]
        out[i, 3] = a
        if a <= np.float32(1e-5):
            for c in range(3):
                out[i, c] = pixels[i, c]
            continue
        r, x = _place(pixels[i, 0] / a, low[0], by[0], size)
        g, y = _place(pixels[i, 1] / a, low[1], by[1], size)
        b, z = _place(pixels[i, 2] / a, low[2], by[2], size)
        # The two corners on the way between the first and the last.
        if x >= y:
            if y >= z:
                r1, g1, b1, r2, g2, b2, p, q, s = r + 1, g, b, r + 1, g + 1, b, x, y, z
            elif x >= z:
                r1, g1, b1, r2, g2, b2, p, q, s = r + 1, g, b, r + 1, g, b + 1, x, z, y
            else:
                r1, g1, b1, r2, g2, b2, p, q, s = r, g, b + 1, r + 1, g, b + 1, z, x, y
        elif z >= y:
            r1, g1, b1, r2, g2, b2, p, q, s = r, g, b + 1, r, g + 1, b + 1, z, y, x
        elif z >= x:
            r1, g1, b1, r2, g2, b2, p, q, s = r, g + 1, b, r, g + 1, b + 1, y, z, x
        else:
            r1, g1, b1, r2, g2, b2, p, q, s = r, g + 1, b, r + 1, g + 1, b, y, x, z
        for c in range(3):
            new = (
                (one - p) * table[b, g, r, c]
                + (p - q) * table[b1, g1, r1, c]
                + (q - s) * table[b2, g2, r2, c]
                + s * table[b + 1, g + 1, r + 1, c]
            )
            own = pixels[i, c]
            out[i, c] = own + amount * (min(max(new, zero), one) * a - own)
