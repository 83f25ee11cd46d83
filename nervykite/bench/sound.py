"""How well beats are found, in the demo's tune and in pieces whose beats are known, and how long three minutes take."""

from time import perf_counter

import av
import numpy as np

from ..core.sound.beats import beats_of
from ..demo.project import FOOTAGE
from . import Result
from .tunes import agreement, piece

PIECES: tuple[tuple[str, dict[str, float]], ...] = (
    *((f"{bpm} bpm", {"bpm": bpm}) for bpm in (60, 72, 85, 96, 110, 124, 140, 160, 180)),
    *((f"{bpm} bpm, swung", {"bpm": bpm, "swing": 1.0}) for bpm in (90, 120, 150)),
    *((f"{bpm} bpm, voice and noise", {"bpm": bpm, "voice": 0.5, "noise": 0.03}) for bpm in (70, 100, 128, 170)),
)


def measure() -> Result:
    """F-measures at ±50 ms; the ratio is how many times as fast as it plays three minutes are listened to."""
    figures: dict[str, float] = {}
    errors = []
    for name, settings in PIECES:
        sound, known = piece(**settings)  # type: ignore[arg-type]
        score, error = agreement(np.array(beats_of(sound).beats), known)
        figures[f"{name}: F"] = score
        errors.append(error)
    tune = _tune()
    found = beats_of(tune)
    figures["the demo's tune: F"], error = agreement(np.array(found.beats), np.arange(0, tune.shape[1] / 48_000, 0.6))
    figures["median error, ms"] = float(np.median([*errors, error]))
    long, _ = piece(118, 180.0)
    begun = perf_counter()
    beats_of(long)
    took = perf_counter() - begun
    figures["three minutes, s"] = took
    aim = "F 0.95, median error 10 ms, three minutes in 4 s"
    return Result("sound", 180 / took, aim, figures, "times as fast as it plays")


def _tune() -> np.ndarray:
    with av.open(str(FOOTAGE / "relay-tune.ogg")) as file:
        return np.concatenate([frame.to_ndarray() for frame in file.decode(audio=0)], 1)
