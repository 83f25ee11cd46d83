"""Where a sound is loud."""

from dataclasses import dataclass

import numpy as np

from ...craft.synthesis.sample_rate import RATE

STEP = RATE // 100


@dataclass(frozen=True)
class Loud:
    """Settings of what counts as loud: at most `below` dB under the loudest; gaps up to `gap` seconds are bridged."""

    below: float = 26.0
    gap: float = 0.4


def stretches(sound: np.ndarray, settings: Loud | None = None) -> tuple[tuple[int, int], ...]:
    """Where a sound is loud enough to be in the bed's way: half-open, in samples. sound: (2, n), float32 or int16."""
    s = settings or Loud()
    steps = sound.shape[1] // STEP
    if not steps:
        return ()
    # Step by step, as a long file need not be in memory.
    power = np.array([(sound[:, n * STEP : (n + 1) * STEP].astype(np.float32) ** 2).mean() for n in range(steps)])
    power /= 32767.0**2 if sound.dtype == np.int16 else 1.0
    loud = np.flatnonzero(power > max(power.max(), 1e-9) * 10 ** (-s.below / 10))
    if not len(loud):
        return ()
    parts = np.split(loud, np.flatnonzero(np.diff(loud) > s.gap * RATE / STEP) + 1)
    return tuple((int(p[0]) * STEP, (int(p[-1]) + 1) * STEP) for p in parts)
