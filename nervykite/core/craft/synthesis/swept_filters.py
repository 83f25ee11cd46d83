"""Filters that move from sample to sample."""

import numpy as np
from numba import njit

from .sample_rate import RATE

RATE_ = float(RATE)


@njit(cache=True, nogil=True)
def svf(sound, hertz, q, out):
    """The band of a state-variable filter (Simper 2013), its peak at 1, whose frequency moves: float64 (n,) each."""
    one = two = 0.0
    k = 1.0 / q
    for n in range(len(sound)):
        g = np.tan(np.pi * hertz[n] / RATE_)
        a = 1.0 / (1.0 + g * (g + k))
        v3 = sound[n] - two
        v1 = a * one + g * a * v3
        v2 = two + g * v1
        one, two = 2.0 * v1 - one, 2.0 * v2 - two
        out[n] = k * v1
