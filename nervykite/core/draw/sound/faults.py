"""Faults of a sound as it was recorded."""

from typing import Literal

import numpy as np

from ...craft.synthesis.sample_rate import RATE

Fault = Literal["clipped", "silent"]

FULL = 32_700
"""A sample of 16 bits at full scale, or all but."""
FLAT = 4
"""So many of them, one after the other, were cut off: a wave has its top in one or two."""
OFTEN = 3
"""In so many places a second it is heard; a single click is not."""
QUIET = 8
"""What is never above this is silence with a little noise of its making."""


def fault_of(samples: np.ndarray) -> Fault | None:
    """The fault of samples, int16 (2, n) at 48 kHz: clipped for at least a second, or silent; None if there is none."""
    worst, loudest = 0, 0
    for first in range(0, samples.shape[1], RATE):
        part = samples[:, first : first + RATE]
        peak = int(np.abs(part.astype(np.int32)).max(initial=0))
        loudest = max(loudest, peak)
        if peak >= FULL:
            worst = max(worst, max(_flat(channel) for channel in part))
    if loudest <= QUIET:
        return "silent"
    return "clipped" if worst >= OFTEN else None


def _flat(channel: np.ndarray) -> int:
    """In how many places a channel stays at full scale."""
    at_top = np.abs(channel.astype(np.int32)) >= FULL
    edges = np.flatnonzero(np.diff(np.concatenate([[0], at_top.astype(np.int8), [0]])))
    return int(np.count_nonzero(edges[1::2] - edges[::2] >= FLAT))
