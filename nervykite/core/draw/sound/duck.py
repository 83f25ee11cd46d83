"""The bed steps back under voices and hits.

When that is follows from what will be heard, not from what was: the bed is down when a voice begins, and the same
samples come out wherever one begins to listen.
"""

import numpy as np

from ...craft.synthesis.sample_rate import RATE
from .plan import PlacedSound, SoundPlan
from .taken import Sounds


def stepped_back(plan: SoundPlan, sounds: Sounds, first: int, past: int) -> np.ndarray:
    """The factors for samples first…past (half-open) of the bed: float32 (n,)."""
    duck = plan.mix.duck
    comes, goes = duck.attack * RATE, duck.release * RATE
    down = np.zeros(past - first, np.float32)
    voices, hits = duck.voice and not plan.mix.footage.muted, duck.hits and not plan.mix.hits.muted
    for cue in plan.cues:
        if not (voices if cue.part == "voice" else hits and cue.part == "hits") or cue.gain <= 0:
            continue
        for low, high in _heard(cue, sounds):
            a, b = int(max(first, low - comes)), int(min(past, high + goes) + 1)
            if a >= b:
                continue
            at = np.arange(a, min(b, past))
            share = np.minimum((at - low + comes) / comes, (high + goes - at) / goes).clip(0, 1)
            part = down[a - first : a - first + len(at)]
            np.maximum(part, 0.5 - 0.5 * np.cos(np.pi * share), out=part)
    return np.asarray(10 ** (-duck.depth / 20 * down), np.float32)


def _heard(cue: PlacedSound, sounds: Sounds) -> list[tuple[float, float]]:
    """Where in the piece a cue is in the bed's way."""
    whole = sounds.whole(cue.sound)
    own = whole.shape[1] - cue.skip
    left = own / float(cue.speed)
    length = left if cue.past is None else min(cue.past - cue.first, left)
    found = []
    for a, b in sounds.loud(cue.sound):
        low, high = max(0.0, (a - cue.skip) / float(cue.speed)), min(length, (b - cue.skip) / float(cue.speed))
        if cue.reversed:
            low, high = max(0.0, left - high), min(length, left - low)
        if low < high:
            found.append((cue.first + low, cue.first + high))
    if cue.loops and cue.past is not None:  # it would be hard to say when it is not
        found = [(float(cue.first), float(cue.past))]
    return found
