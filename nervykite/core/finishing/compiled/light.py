"""Curves of light, pixel by pixel."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, fastmath=True)
def curve(pixels, table, roots, out):
    """Between the values of the table it is interpolated."""
    hardly, one, fine = np.float32(1e-6), np.float32(1), np.float32(4095)
    for i in range(pixels.shape[0]):
        a = pixels[i, 3]
        cover = max(a, max(pixels[i, 0], max(pixels[i, 1], pixels[i, 2])))
        if cover <= hardly:
            for n in range(4):
                out[i, n] = 0
            continue
        for n in range(3):
            straight = min(max(pixels[i, n] / cover, np.float32(0)), one)
            place = (np.sqrt(straight) if roots else straight) * fine
            low = min(int(place), 4094)
            share = place - np.float32(low)
            out[i, n] = (table[low] + share * (table[low + 1] - table[low])) * cover
        out[i, 3] = a
