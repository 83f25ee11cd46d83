"""The sound of a piece as it is heard and sent: mixed, brought to a loudness, and kept below a peak."""

import threading
from collections.abc import Iterator
from functools import cached_property

import numpy as np

from ...common.kept import Kept
from .limit import SPAN, limited, true_peak
from .loudness import loudness
from .mix import Block, Mixer
from .plan import BLOCK, SoundPlan, times
from .taken import Sounds

MOST = 24.0
"""Decibels by which a piece is made louder at most: beyond that there is only noise."""
NEAR, TRIES = 0.04, 6
"""How near in LU a loudness has to come, and how often it is tried: what is limited is less loud than it was meant."""

Blocks = Kept[Block]


def blocks_kept() -> Blocks:
    """Room for blocks, about seven minutes of them."""
    return Kept(160_000_000, lambda block: block.samples.nbytes)


class Master:
    """The finished sound of a plan. Blocks that another plan has as well are found again. Safe for several threads."""

    def __init__(self, plan: SoundPlan, sounds: Sounds, kept: Blocks | None = None) -> None:
        self.plan = plan
        self._mixer, self._kept = Mixer(plan, sounds), blocks_kept() if kept is None else kept
        self._keys: list[str] = [plan.block(n) for n in range(plan.blocks)]
        self._gain: float | None = None
        self._lock = threading.Lock()

    def block(self, number: int) -> Block:
        """A block before it is mastered."""
        return self._kept.get(self._keys[number], lambda: self._mixer.block(number))

    def key(self, number: int) -> str:
        """The key of a block: equal keys are equal to the sample."""
        beside = [self._keys[n] for n in range(max(0, number - 1), min(len(self._keys), number + 2))]
        return f"{'.'.join(k[:10] for k in beside)}.{self.gain:.3f}.{self.plan.mix.peak:g}"

    @property
    def gain(self) -> float:
        """By how many decibels the mix is made louder, before it is limited."""
        with self._lock:
            if self._gain is None:
                self._gain = round(self._found(), 3)
            return self._gain

    def _found(self) -> float:
        target = self.plan.mix.loudness
        if target is None or self.plan.silent:
            return 0.0
        is_ = loudness(self.block(n).samples for n in range(self.plan.blocks))
        if is_ is None:
            return 0.0
        gain = min(MOST, target - is_)
        ceiling = times(self.plan.mix.peak)
        loudest = max(float(np.abs(self.block(n).samples).max(initial=0)) for n in range(self.plan.blocks))
        # What never comes near the ceiling is not limited, and as loud as it was meant.
        if loudest * times(gain) < 0.5 * ceiling:
            return gain
        for _ in range(TRIES):
            is_ = loudness(self._limited(n, gain) for n in range(self.plan.blocks))
            if is_ is None or abs(target - is_) < NEAR:
                break
            gain = min(MOST, gain + target - is_)
        return gain

    def samples(self, first: int, past: int) -> np.ndarray:
        """Samples first…past (half-open) as they are heard: float32 (2, n) at 48 kHz; silence outside the piece."""
        parts = []
        for number in range(max(0, first) // BLOCK, -(-min(past, self.plan.length) // BLOCK)):
            at = number * BLOCK
            parts.append(self.finished(number)[:, max(0, first - at) : max(0, past - at)])
        found = np.concatenate(parts, 1) if parts else np.zeros((2, 0), np.float32)
        lead = max(0, min(past, 0) - first)
        return np.pad(found, ((0, 0), (lead, max(0, past - first - lead - found.shape[1]))))

    def finished(self, number: int) -> np.ndarray:
        """A block as it is heard, float32 (2, n)."""
        return self._limited(number, self.gain)

    def levels(self, number: int) -> np.ndarray:
        """The peaks of the parts of a block, as loud as they are in what is heard: float32 (3, LEVELS)."""
        return self.block(number).levels * np.float32(times(self.gain))

    def _limited(self, number: int, gain: float) -> np.ndarray:
        first, past = number * BLOCK, min(self.plan.length, (number + 1) * BLOCK)
        return limited(self._raw(first - SPAN, past + SPAN) * np.float32(10 ** (gain / 20)), times(self.plan.mix.peak))

    def _raw(self, first: int, past: int) -> np.ndarray:
        """Samples first…past of the mix; silence outside the piece."""
        out = np.zeros((2, past - first), np.float32)
        for number in range(max(0, first // BLOCK), min(self.plan.blocks, -(-past // BLOCK))):
            block, at = self.block(number).samples, number * BLOCK
            a, b = max(first, at), min(past, at + block.shape[1])
            out[:, a - first : b - first] = block[:, a - at : b - at]
        return out

    @cached_property
    def measured(self) -> tuple[float | None, float]:
        """The loudness in LUFS (None if nothing is heard) and the true peak, 1 being full scale, of what is heard."""
        peak = 0.0

        def blocks() -> Iterator[np.ndarray]:
            nonlocal peak
            for number in range(self.plan.blocks):
                block = self.finished(number)
                peak = max(peak, true_peak(block, peak))
                yield block

        return loudness(blocks()), peak
