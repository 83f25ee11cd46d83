"""The sound of a piece: the shots' own sound, in the order and the lengths of the ground."""

import wave
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import BinaryIO

import numpy as np

from ..model import Shot
from ..picture.evaluate import Evaluation

RATE = 48_000
FADE = 144
"""Samples (3 ms) over which sound comes and goes at a cut, so that it does not click."""


def samples_before(frame: int, rate: Fraction) -> int:
    """How many samples there are before the start of a project frame."""
    return round(Fraction(frame * RATE) / rate)


def mix(evaluation: Evaluation, sound_of: Callable[[Shot], np.ndarray | None]) -> np.ndarray:
    """The whole piece: float32 (2, n) at RATE, n as many samples as its frames last.

    `sound_of` gives a shot's sound from its first picture on, float32 (2, m) at RATE, or None.
    """
    project = evaluation.document.project
    out = np.zeros((2, samples_before(evaluation.length, project.rate)), np.float32)
    for item in project.ground:
        shot = evaluation.document.shots[item.shot]
        sound = sound_of(shot)
        if sound is None:
            continue
        start = evaluation.starts[item.id]
        low = samples_before(start, project.rate)
        past = samples_before(start + len(evaluation.tables[item.id]), project.rate)
        source = round(shot.ticks[min(item.first, shot.frames - 1)] * Fraction(shot.tick) * RATE)
        piece = sound[:, source : source + past - low].copy()
        fade = min(FADE, piece.shape[1] // 2)
        if fade:
            ramp = np.linspace(0, 1, fade, dtype=np.float32)
            piece[:, :fade] *= ramp
            piece[:, -fade:] *= ramp[::-1]
        out[:, low : low + piece.shape[1]] = piece
    return out


def write_wav(out: Path | BinaryIO, sound: np.ndarray) -> None:
    """Writes float32 (2, n), -1…1, as 16-bit WAV at RATE; what is louder is clipped."""
    with wave.open(str(out) if isinstance(out, Path) else out, "wb") as file:
        file.setnchannels(2)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes((np.clip(sound.T, -1, 1) * 32767).round().astype("<i2").tobytes())


def read_wav(path: Path) -> np.ndarray:
    """Reads what `write_wav` wrote: float32 (2, n)."""
    with wave.open(str(path), "rb") as file:
        data = np.frombuffer(file.readframes(file.getnframes()), "<i2")
    return np.ascontiguousarray(data.reshape(-1, 2).T.astype(np.float32) / 32767)
