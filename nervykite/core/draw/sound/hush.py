"""Hushing a part of the mix at a standstill: it is silent, it stops and rings out, or is heard as if behind a
wall.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.signal import fftconvolve, firwin

from ...craft.synthesis.sample_rate import RATE
from ...piece.model.mixing import Part
from .plan import Hushed, SoundPlan

Sound = Callable[[int, int], np.ndarray | None]
"""Samples first…past of a part; None where nothing of it is heard."""


@dataclass(frozen=True)
class HushSettings:
    """The settings by which a part is hushed.

    `turn` is over how many samples it goes over; what rings out is the last `source` seconds, answered every `delay`
    seconds `decay` times as loud, `high` Hz and less of it, for `lasts` seconds, over an air that is `air` as loud;
    behind the wall is what lies below `wall` Hz.
    """

    turn: int = 960
    source: float = 0.5
    delay: float = 0.27
    decay: float = 0.52
    high: float = 3200.0
    lasts: float = 2.4
    air: float = 0.35
    wall: float = 420.0
    taps: int = 1023


def hushed(
    plan: SoundPlan, part: Part, sound: Sound, first: int, past: int, room: HushSettings | None = None
) -> np.ndarray | None:
    """Samples first…past (half-open) of a part, float32 (2, n), hushed where the plan says so."""
    s = room or HushSettings()
    out = sound(first, past)
    for hush in plan.hushed:
        if hush.part != part or hush.first >= past or hush.past <= first:
            continue
        low, high = max(first, hush.first), min(past, hush.past)
        here = slice(low - first, high - first)
        # Both ways within the standstill, so that what is outside it stays as it is to the sample.
        at = np.arange(low, high)
        turn = max(1, min(s.turn, (hush.past - hush.first) // 2))
        away = np.minimum(1, np.minimum((at - hush.first) / turn, (hush.past - at) / turn)).astype(np.float32)
        if out is not None:
            out[:, here] *= 1 - away
        more = _instead(hush, sound, low, high, s)
        if more is not None:
            out = np.zeros((2, past - first), np.float32) if out is None else out
            out[:, here] += away * more
    return out


def _instead(hush: Hushed, sound: Sound, low: int, high: int, s: HushSettings) -> np.ndarray | None:
    """The sound heard instead in samples low…high of what is hushed."""
    if hush.way == "muffled":
        half = s.taps // 2
        around = sound(low - half, high + half)
        return None if around is None else _convolved(around, _wall(s), "valid")
    if hush.way == "echo":
        before = round(s.source * RATE)
        last = sound(hush.first - before, hush.first)
        if last is None or low >= hush.first + round((s.lasts + s.source) * RATE):
            return None
        last = last.copy()
        last[:, : s.turn] *= np.linspace(0, 1, s.turn, dtype=np.float32)
        rings = _convolved(last, _answers(s), "full")[:, before + low - hush.first : before + high - hush.first]
        return np.pad(rings, ((0, 0), (0, high - low - rings.shape[1])))
    return None


def _convolved(sound: np.ndarray, by: np.ndarray, mode: str) -> np.ndarray:
    return np.asarray(fftconvolve(sound, np.atleast_2d(by), mode, axes=1), np.float32)


@lru_cache(4)
def _wall(s: HushSettings) -> np.ndarray:
    return np.asarray(firwin(s.taps, s.wall, fs=RATE), np.float32)


@lru_cache(4)
def _answers(s: HushSettings) -> np.ndarray:
    """The response to one click: float32 (2, n)."""
    count = round(s.lasts * RATE)
    at = np.arange(count) / RATE
    noise = np.random.default_rng(7).normal(size=(2, count))
    fall = 10 ** (-3 * at / s.lasts)
    answers = noise * fall * s.air / np.sqrt(RATE * 0.25)
    dull = firwin(255, s.high, fs=RATE)
    tap, n = dull, 1
    while round(n * s.delay * RATE) + len(tap) < count:
        start = round(n * s.delay * RATE)
        # Each answer has been through the room once more, and comes from the other side.
        sides = np.array([1.0, 0.6] if n % 2 else [0.6, 1.0])
        answers[:, start : start + len(tap)] += s.decay**n * sides[:, None] * tap
        tap, n = np.convolve(tap, dull), n + 1
    # What was loudest at first must be gone at the end.
    return np.asarray(
        fftconvolve(answers, dull[None], axes=1)[:, :count] * np.clip((s.lasts - at) / 0.2, 0, 1), np.float32
    )
