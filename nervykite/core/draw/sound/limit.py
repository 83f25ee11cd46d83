"""A limiter that looks ahead: no peak, not even between two samples, is higher than a ceiling."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import minimum_filter1d, uniform_filter1d
from scipy.signal import resample_poly

SPAN = 2400
"""Samples before and after a peak within which it is brought down: as far as one has to know what comes."""


@dataclass(frozen=True)
class Limits:
    """The settings by which peaks are found: `finer` times as finely as the samples, where louder than `near` of the
    ceiling.

    That is done in pieces of so many samples, seen with some around them.
    """

    finer: int = 4
    near: float = 0.6
    piece: int = 4096
    around: int = 64


def limited(sound: np.ndarray, ceiling: float, settings: Limits | None = None) -> np.ndarray:
    """A sound below a ceiling: float32 (2, n), from float32 (2, n + 2 SPAN), which is known SPAN samples farther.

    The peaks are those of ITU-R BS.1770, annex 2. The loudness is what it has to be at each sample, at its lowest
    within SPAN samples, and twice averaged over SPAN: it never rises above what it has to be.
    """
    inner = sound[:, SPAN:-SPAN]
    need = np.minimum(1, ceiling / np.maximum(_peaks(sound, ceiling, settings or Limits()), 1e-9))
    if need.min() >= 1:
        return inner
    lowest = minimum_filter1d(need, 2 * SPAN + 1)
    half = SPAN - SPAN % 2
    smooth = uniform_filter1d(uniform_filter1d(lowest, half + 1), half + 1)
    return np.asarray(inner * smooth[SPAN:-SPAN], np.float32)


def _peaks(sound: np.ndarray, ceiling: float, s: Limits) -> np.ndarray:
    """At each sample the highest that either channel comes to, there or half the way to the next ones: float64 (n,)."""
    peaks = np.abs(sound).max(0).astype(float)
    count = sound.shape[1]
    for a in range(0, count, s.piece):
        b = min(count, a + s.piece)
        if peaks[a:b].max() <= s.near * ceiling:
            continue
        low, high = max(0, a - s.around), min(count, b + s.around)
        fine = np.abs(resample_poly(sound[:, low:high], s.finer, 1, axis=1)).max(0)
        fine = fine[(a - low) * s.finer : (b - low) * s.finer].reshape(-1, s.finer).max(1)
        np.maximum(peaks[a:b], fine, out=peaks[a:b])
        # What lies between two samples is brought down at both.
        if b < count:
            peaks[b] = max(peaks[b], fine[-1])
        peaks[a + 1 : b] = np.maximum(peaks[a + 1 : b], fine[:-1])
    return peaks


def true_peak(sound: np.ndarray, least: float = 0.0, settings: Limits | None = None) -> float:
    """The highest that a sound comes to between its samples, if that is more than `least`: float32 (2, n)."""
    loudest = max(least, float(np.abs(sound).max(initial=0.0)))
    return float(_peaks(sound, loudest, settings or Limits()).max(initial=0.0))
