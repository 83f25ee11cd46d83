"""The sound of the beach, by synthesis: surf, wind, and footsteps in sync with the picture."""

import numpy as np
from scipy.signal import butter, sosfilt

from .gait import STANCES
from .shots import SHOTS

RATE = 48000
"""Samples a second."""


def _band(noise: np.ndarray, low: float, high: float) -> np.ndarray:
    return sosfilt(butter(2, [low, high], "band", fs=RATE, output="sos"), noise)


def surf(seconds: float, seed: int) -> np.ndarray:
    """Waves that swell, break and hiss: float64 (2, n), about -0.3…0.3."""
    rng = np.random.default_rng(seed)
    n = int(seconds * RATE)
    t = np.arange(n) / RATE
    sides = []
    for side in range(2):
        swell = 0.5 + 0.5 * np.sin(2 * np.pi * t / 3.7 + 0.4 * side)
        roar = _band(rng.standard_normal(n), 60, 500) * (0.35 + 0.65 * swell)
        hiss = _band(rng.standard_normal(n), 1500, 7000) * np.roll(swell, RATE // 3) ** 3
        wind = _band(rng.standard_normal(n), 200, 900) * (0.6 + 0.4 * np.sin(2 * np.pi * t / 2.3 + side))
        sides.append(0.35 * roar + 0.10 * hiss + 0.10 * wind)
    return np.stack(sides) * 0.8


def footstep(hard: float, seed: int) -> np.ndarray:
    """One foot in dry sand: a soft thud and a scatter of grains; float64 (n,)."""
    rng = np.random.default_rng(seed)
    t = np.arange(int(0.35 * RATE)) / RATE
    thud = np.sin(2 * np.pi * 70 * t * (1 - 0.5 * t)) * np.exp(-t * 28)
    grains = _band(rng.standard_normal(len(t)), 900, 5000) * np.exp(-t * 16) * np.minimum(1, t * 60)
    return hard * (0.55 * thud + 0.22 * grains)


def soundtrack(shot_name: str) -> np.ndarray:
    """The sound of a shot: float32 (2, n), within -1…1, as long as the picture."""
    shot = SHOTS[shot_name]
    track = surf(shot.frames / shot.rate, seed=4)
    for k, (_foot, lands, leaves) in enumerate(STANCES):
        for time, hard in ((lands, 1.0 if lands == 0.27 else 0.7), (leaves - 0.05, 0.25)):
            at = int((time / shot.slow * shot.rate + shot.top) / shot.rate * RATE)
            if not 0 <= at < track.shape[1]:
                continue
            step = footstep(hard, seed=20 + k)[: track.shape[1] - at]
            pan = 0.5 + 0.35 * np.clip(time / 0.6, -1, 1)
            track[0, at : at + len(step)] += step * (1 - pan)
            track[1, at : at + len(step)] += step * pan
    return np.tanh(track).astype(np.float32)
