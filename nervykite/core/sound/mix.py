"""The sound of a piece: the shots' own sound, in the order and the lengths of the ground."""

from collections.abc import Callable

import numpy as np

from .plan import SoundPlan

FADE = 144
"""Samples (3 ms) over which sound comes and goes at a cut, so that it does not click."""


def mix(plan: SoundPlan, sound_of: Callable[[str], np.ndarray], first: int = 0, past: int | None = None) -> np.ndarray:
    """Samples first…past (half-open; None: to the end) of a piece: float32 (2, n) at RATE.

    `sound_of` gives the sound in a stored file at RATE: float32 (2, m), or int16 where 32767 is 1. Only the samples
    that are heard are asked for, so it need not be in memory.
    """
    past = plan.length if past is None else past
    out = np.zeros((2, past - first), np.float32)
    for clip in plan.clips:
        if clip.past <= first or clip.first >= past:
            continue
        sound = sound_of(clip.file)
        length = min(clip.past - clip.first, max(0, sound.shape[1] - clip.source))
        low, high = max(first, clip.first) - clip.first, min(past - clip.first, length)
        if low >= high:
            continue
        piece = sound[:, clip.source + low : clip.source + high].astype(np.float32)
        if sound.dtype == np.int16:
            piece /= 32767
        fade = min(FADE, length // 2)
        if fade > 1:
            at = np.arange(low, high)
            piece *= np.clip(np.minimum(at, length - 1 - at) / (fade - 1), 0, 1).astype(np.float32)
        start = clip.first + low - first
        out[:, start : start + piece.shape[1]] = piece
    return out
