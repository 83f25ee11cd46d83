"""Pixels moved in OKLab."""

import numpy as np
from numba import njit

from .tones_kernels import read


@njit(cache=True, nogil=True, fastmath=True)
def shift(pixels, curve, out, to_lms, to_lab, from_lab, from_lms, means, gains, towards):
    """Premultiplied linear light in and out."""
    third, zero, one = np.float32(1 / 3), np.float32(0), np.float32(1)
    for i in range(pixels.shape[0]):
        a = pixels[i, 3]
        out[i, 3] = a
        if a <= np.float32(1e-5):
            for c in range(3):
                out[i, c] = pixels[i, c]
            continue
        r, g, b = pixels[i, 0] / a, pixels[i, 1] / a, pixels[i, 2] / a
        l = max(to_lms[0, 0] * r + to_lms[0, 1] * g + to_lms[0, 2] * b, zero) ** third
        m = max(to_lms[1, 0] * r + to_lms[1, 1] * g + to_lms[1, 2] * b, zero) ** third
        s = max(to_lms[2, 0] * r + to_lms[2, 1] * g + to_lms[2, 2] * b, zero) ** third
        light = read(curve, to_lab[0, 0] * l + to_lab[0, 1] * m + to_lab[0, 2] * s)
        p = to_lab[1, 0] * l + to_lab[1, 1] * m + to_lab[1, 2] * s
        q = to_lab[2, 0] * l + to_lab[2, 1] * m + to_lab[2, 2] * s
        p = towards[0] + (p - means[0]) * gains[0]
        q = towards[1] + (q - means[1]) * gains[1]
        l = (from_lab[0, 0] * light + from_lab[0, 1] * p + from_lab[0, 2] * q) ** 3
        m = (from_lab[1, 0] * light + from_lab[1, 1] * p + from_lab[1, 2] * q) ** 3
        s = (from_lab[2, 0] * light + from_lab[2, 1] * p + from_lab[2, 2] * q) ** 3
        for c in range(3):
            v = from_lms[c, 0] * l + from_lms[c, 1] * m + from_lms[c, 2] * s
            out[i, c] = min(max(v, zero), one) * a
