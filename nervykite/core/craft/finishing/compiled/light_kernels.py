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


@njit(cache=True, nogil=True, fastmath=True)
def shine(pixels, much, one):
    """So much of a light on each premultiplied linear pixel (n, 4), no brighter than what it covers can be."""
    for i in range(much.size):
        a = min(max(pixels[i, 3], np.float32(0)), np.float32(1))
        for n in range(3):
            pixels[i, n] = min(pixels[i, n] + one[n] * much[i] * a, a)


@njit(cache=True, nogil=True, fastmath=True)
def between(first, second, third, last, far, out):
    """Of four pictures (h, w, 4) as much as says how far each pixel lies from the first, 0, to the last, 1."""
    for r in range(far.shape[0]):
        for c in range(far.shape[1]):
            place = far[r, c] * np.float32(3)
            n = min(int(place), 2)
            share = place - np.float32(n)
            one = first if n == 0 else second if n == 1 else third
            other = second if n == 0 else third if n == 1 else last
            for k in range(4):
                out[r, c, k] = one[r, c, k] + share * (other[r, c, k] - one[r, c, k])


@njit(cache=True, nogil=True, fastmath=True)
def glow(pixels, much, one, alpha):
    """So much of a light around what pixels (n, 4), premultiplied and linear, cover (n,): it covers nothing itself."""
    for i in range(much.size):
        for n in range(3):
            pixels[i, n] = min(pixels[i, n] + one[n] * much[i], np.float32(1))
        pixels[i, 3] = alpha[i]
