"""Tables read for each pixel."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def read(table, value):
    """The value of a table of 1024 entries at a place 0…1, between its entries."""
    place = min(max(value, np.float32(0)), np.float32(1)) * np.float32(1023)
    low = min(int(place), 1022)
    return table[low] + (place - np.float32(low)) * (table[low + 1] - table[low])


@njit(cache=True, nogil=True, fastmath=True)
def through(pixels, red, green, blue, bright, saturation, out):
    """Premultiplied pixels (n, 4) through a curve for each channel, with other brightness and saturation."""
    for i in range(pixels.shape[0]):
        a = pixels[i, 3]
        if a <= np.float32(1e-5):
            for n in range(4):
                out[i, n] = pixels[i, n]
            continue
        r, g, b = read(red, pixels[i, 0] / a), read(green, pixels[i, 1] / a), read(blue, pixels[i, 2] / a)
        luma = np.float32(0.2126) * r + np.float32(0.7152) * g + np.float32(0.0722) * b
        by = read(bright, luma) / max(luma, np.float32(1e-4))
        luma *= by
        r = luma + saturation * (r * by - luma)
        g = luma + saturation * (g * by - luma)
        b = luma + saturation * (b * by - luma)
        one, zero = np.float32(1), np.float32(0)
        out[i, 0] = min(max(r, zero), one) * a
        out[i, 1] = min(max(g, zero), one) * a
        out[i, 2] = min(max(b, zero), one) * a
        out[i, 3] = a


@njit(cache=True, nogil=True, fastmath=True)
def mapped(pixels, weights, ramp, amount, out):
    """Premultiplied pixels (n, 4) with their luma mapped to a ramp, by an amount 0…1."""
    for i in range(pixels.shape[0]):
        a = pixels[i, 3]
        out[i, 3] = a
        if a <= np.float32(1e-5):
            for n in range(3):
                out[i, n] = pixels[i, n]
            continue
        luma = (weights[0] * pixels[i, 0] + weights[1] * pixels[i, 1] + weights[2] * pixels[i, 2]) / a
        for n in range(3):
            own = pixels[i, n]
            out[i, n] = own + amount * (read(ramp[n], luma) * a - own)
