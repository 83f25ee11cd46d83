"""The sound of a piece: the shots' own sound, in the order, the lengths and the speeds of the ground; and cues."""

import functools
from collections.abc import Callable

import numpy as np

from ..kept import Kept
from ..model import Cue, Sounding
from ..timeline.timeline import Timeline
from .plan import RATE, Clip, Placed, SoundPlan, placed
from .speed import played

FADE = 144
"""Samples (3 ms) over which sound comes and goes at a cut, so that it does not click."""
STRETCH, JOIN = 20 * RATE, RATE // 50
"""Samples of a clip whose speed is changed in one go; and over how many of them one such stretch goes over into the
next."""

SoundOf = Callable[[str], np.ndarray]
"""The sound in a stored file at RATE: float32 (2, m), or int16 where 32767 is 1. It need not be in memory."""


@functools.lru_cache(4096)
def _length(kind: type[Sounding], settings: str) -> int:
    """How many samples are made of settings: that is asked for each time that a piece is shown."""
    return _made(kind, settings).shape[1]


@functools.lru_cache(200)
def _made(kind: type[Sounding], settings: str) -> np.ndarray:
    """What is made of settings, kept: the same sound is often heard more than once."""
    made = kind.model_validate_json(settings).made()
    assert made is not None
    return made


def long_of(cue: Cue, timeline: Timeline) -> float:
    """For how many seconds a cue is heard."""
    if cue.lasts is not None:
        return cue.lasts
    at = placed(cue, timeline)
    if cue.loops and at is not None and at.past is not None:
        return (at.past - at.first) / RATE
    if cue.sound.file is not None:
        seconds = next((a.seconds for a in timeline.document.assets.values() if a.file == cue.sound.file), 0.0)
    else:
        seconds = _length(type(cue.sound), cue.sound.model_dump_json()) / RATE
    return max(0.0, seconds - cue.skip)


class Mixer:
    """Makes the sound of a plan, as much of it as is asked for."""

    def __init__(self, plan: SoundPlan, sound_of: SoundOf) -> None:
        self._plan, self._sound_of = plan, sound_of
        self._stretches: Kept[np.ndarray] = Kept(4)

    def samples(self, first: int, past: int) -> np.ndarray:
        """Samples first…past (half-open): float32 (2, n) at RATE."""
        out = np.zeros((2, past - first), np.float32)
        for clip in self._plan.clips:
            if clip.past <= first or clip.first >= past:
                continue
            sound = self._sound_of(clip.file)
            length = min(clip.past - clip.first, max(0, int((sound.shape[1] - clip.source) / clip.speed)))
            low, high = max(first, clip.first) - clip.first, min(past - clip.first, length)
            if low >= high:
                continue
            piece = self._piece(clip, sound, low, high)
            fade = min(FADE, length // 2)
            if fade > 1:
                at = np.arange(low, high)
                piece *= np.clip(np.minimum(at, length - 1 - at) / (fade - 1), 0, 1).astype(np.float32)
            start = clip.first + low - first
            out[:, start : start + piece.shape[1]] = piece
        for cue in self._plan.cues:
            self._add(cue, first, past, out)
        return out

    def _add(self, cue: Placed, first: int, past: int, out: np.ndarray) -> None:
        """Adds what of a cue falls into samples first…past."""
        sound = self._sound(cue)
        left = sound.shape[1] - cue.skip
        if left <= 0:
            return
        length = left if cue.past is None else cue.past - cue.first
        length = length if cue.loops else min(length, left)
        low, high = max(first, cue.first) - cue.first, min(past - cue.first, length)
        if low >= high:
            return
        at = np.arange(low, high)
        from_ = at % left
        own = sound[:, cue.skip + (left - 1 - from_ if cue.reversed else from_)].astype(np.float32)
        if sound.dtype == np.int16:
            own /= 32767
        # Where a sound is cut it would click; what is made is silent at its own ends.
        whole = not isinstance(cue.sound, str)
        comes = max(cue.fade_in, 0 if whole and not cue.skip else FADE, 1)
        goes = max(cue.fade_out, 0 if whole and length >= left else FADE, 1)
        shape = np.minimum(1, np.minimum((at + 1) / comes, (length - at) / goes))
        if cue.loops and left > 2 * FADE:
            shape = shape * np.clip(np.minimum(from_ + 1, left - from_) / FADE, 0, 1)
        # Between the ears as loud at every place; in the middle as it is.
        angle = (cue.pan + 1) * np.pi / 4
        ears = np.array([np.cos(angle), np.sin(angle)], np.float32) * np.float32(np.sqrt(2) * cue.gain)
        start = cue.first + low - first
        out[:, start : start + own.shape[1]] += own * shape.astype(np.float32) * ears[:, None]

    def _sound(self, cue: Placed) -> np.ndarray:
        """All of a cue's sound."""
        sound = cue.sound
        if isinstance(sound, str):
            return self._sound_of(sound)
        return _made(type(sound), sound.model_dump_json())

    def _piece(self, clip: Clip, sound: np.ndarray, low: int, high: int) -> np.ndarray:
        """Samples low…high (half-open) of a clip, float32."""
        if clip.speed == 1:
            piece = sound[:, clip.source + low : clip.source + high].astype(np.float32)
            return piece / 32767 if sound.dtype == np.int16 else piece
        parts = []
        at = low
        while at < high:
            number, within = divmod(at, STRETCH)
            stretch = self._stretch(clip, sound, number)
            taken = stretch[:, within : within + high - at].copy()
            if number and within < JOIN:  # the one before goes over into this one
                tail = self._stretch(clip, sound, number - 1)[:, STRETCH + within : STRETCH + JOIN]
                tail = tail[:, : taken.shape[1]]
                share = ((within + np.arange(tail.shape[1])) / JOIN).astype(np.float32)
                taken[:, : tail.shape[1]] = share * taken[:, : tail.shape[1]] + (1 - share) * tail
            parts.append(taken[:, : STRETCH - within])
            at += parts[-1].shape[1]
        return np.concatenate(parts, 1)

    def _stretch(self, clip: Clip, sound: np.ndarray, number: int) -> np.ndarray:
        """A stretch of a clip, and JOIN samples more."""

        def make() -> np.ndarray:
            at = clip.source + int(number * STRETCH * clip.speed)
            return played(sound, at, STRETCH + JOIN, clip.speed, clip.pitch)

        return self._stretches.get((clip, number), make)


def mix(plan: SoundPlan, sound_of: SoundOf, first: int = 0, past: int | None = None) -> np.ndarray:
    """Samples first…past (half-open; None: to the end) of a piece, see `Mixer`."""
    return Mixer(plan, sound_of).samples(first, plan.length if past is None else past)
