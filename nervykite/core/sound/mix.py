"""The sound of a piece: the shots' own sound, in the order and the lengths of the ground."""

import wave
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

import numpy as np

from .plan import RATE, SoundPlan

FADE = 144
"""Samples (3 ms) over which sound comes and goes at a cut, so that it does not click."""


def mix(plan: SoundPlan, sound_of: Callable[[str], np.ndarray]) -> np.ndarray:
    """The whole piece: float32 (2, n) at RATE, n as many samples as the plan lasts.

    `sound_of` gives the sound in a stored file, float32 (2, m) at RATE.
    """
    out = np.zeros((2, plan.length), np.float32)
    for clip in plan.clips:
        piece = sound_of(clip.file)[:, clip.source : clip.source + clip.past - clip.first].copy()
        fade = min(FADE, piece.shape[1] // 2)
        if fade:
            ramp = np.linspace(0, 1, fade, dtype=np.float32)
            piece[:, :fade] *= ramp
            piece[:, -fade:] *= ramp[::-1]
        out[:, clip.first : clip.first + piece.shape[1]] = piece
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
