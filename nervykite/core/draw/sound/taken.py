"""The sounds that a mix is made of, kept ready: files, what is made, and both at other speeds."""

import functools
from collections.abc import Callable
from fractions import Fraction

import numpy as np

from ...common.kept import Kept
from ...craft.synthesis.sample_rate import RATE
from ...piece.model import Sounding
from .loud import stretches
from .speed import played

STRETCH, JOIN = 20 * RATE, RATE // 50
"""Samples of a sound whose speed is changed in one go; and over how many of them one such stretch goes over into the
next."""

SoundOf = Callable[[str], np.ndarray]
"""The sound in a stored file at RATE: float32 (2, m), or int16 where 32767 is 1. It need not be in memory."""


@functools.lru_cache(4096)
def length_of(kind: type[Sounding], settings: str) -> int:
    """The number of samples are made of settings: that is asked for each time that a piece is shown."""
    return made_of(kind, settings).shape[1]


@functools.lru_cache(200)
def made_of(kind: type[Sounding], settings: str) -> np.ndarray:
    """The sound made of settings: float32 (2, n). The same sound is often heard more than once."""
    made = kind.model_validate_json(settings).made()
    assert made is not None
    return made


class Sounds:
    """Where mixers take their sounds from. It outlasts them, so that what one made ready the next one finds."""

    def __init__(self, sound_of: SoundOf) -> None:
        self._sound_of = sound_of
        self._stretches: Kept[np.ndarray] = Kept(24)
        self._loud: Kept[tuple[tuple[int, int], ...]] = Kept(500)

    def whole(self, sound: str | Sounding) -> np.ndarray:
        """All of a sound, (2, n), float32 or int16 where 32767 is 1."""
        return self._sound_of(sound) if isinstance(sound, str) else made_of(type(sound), sound.model_dump_json())

    def loud(self, sound: str | Sounding) -> tuple[tuple[int, int], ...]:
        """Where a sound is loud, see `stretches`."""
        return self._loud.get(_name(sound), lambda: stretches(self.whole(sound)))

    def part(self, sound: str | Sounding, source: int, speed: Fraction, pitch: bool, low: int, high: int) -> np.ndarray:
        """Samples low…high (half-open) of what is heard of a sound from its sample `source` on: float32 (2, n).

        It is played so many times as fast, higher with that if `pitch` says so. What there is not is silence.
        """
        whole = self.whole(sound)
        if speed == 1:
            return as_float(whole[:, source + low : source + high], high - low)
        parts, at = [], low
        while at < high:
            number, within = divmod(at, STRETCH)
            stretch = self._stretch(sound, whole, source, speed, pitch, number)
            taken = stretch[:, within : within + high - at].copy()
            if number and within < JOIN:  # the one before goes over into this one
                before = self._stretch(sound, whole, source, speed, pitch, number - 1)
                tail = before[:, STRETCH + within : STRETCH + JOIN][:, : taken.shape[1]]
                share = ((within + np.arange(tail.shape[1])) / JOIN).astype(np.float32)
                taken[:, : tail.shape[1]] = share * taken[:, : tail.shape[1]] + (1 - share) * tail
            parts.append(taken[:, : STRETCH - within])
            at += parts[-1].shape[1]
        return np.concatenate(parts, 1)

    def _stretch(
        self, sound: str | Sounding, whole: np.ndarray, source: int, speed: Fraction, pitch: bool, number: int
    ) -> np.ndarray:
        """A stretch, and JOIN samples more."""

        def make() -> np.ndarray:
            at = source + int(number * STRETCH * speed)
            # Nothing is stretched that is not there.
            left = min(STRETCH + JOIN, max(0, int((whole.shape[1] - at) / speed) + RATE // 10))
            found = played(whole, at, left, speed, pitch)
            return np.pad(found, ((0, 0), (0, STRETCH + JOIN - left)))

        return self._stretches.get((_name(sound), source, speed, pitch, number), make)


def _name(sound: str | Sounding) -> str:
    return sound if isinstance(sound, str) else sound.model_dump_json()


def as_float(sound: np.ndarray, length: int | None = None) -> np.ndarray:
    """A sound as float32, followed by silence up to a length."""
    found = sound.astype(np.float32)
    if sound.dtype == np.int16:
        found /= 32767
    short = 0 if length is None else length - found.shape[1]
    return np.pad(found, ((0, 0), (0, short))) if short > 0 else found
