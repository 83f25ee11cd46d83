"""WAV files of 16 bits at the program's rate: written block by block, and read where somebody listens."""

import struct
from pathlib import Path
from typing import Protocol

import numpy as np

from ...craft.synthesis.sample_rate import RATE

HEADER = 44


class WavSink(Protocol):
    """The target that a WAV is written to."""

    def write(self, data: bytes, /) -> int:
        """Appends bytes."""
        ...

    def rewrite(self, at: int, data: bytes, /) -> None:
        """Overwrites what was written at a place."""
        ...


def header(samples: int) -> bytes:
    """The header before so many samples of two channels (RIFF WAVE, format 1)."""
    size = samples * 4
    return struct.pack("<4sI4s4sIHHIIHH4sI", b"RIFF", 36 + size, b"WAVE", b"fmt ", 16, 1, 2, RATE, RATE * 4, 4, 16,
                       b"data", size)  # fmt: skip


def packed(sound: np.ndarray) -> bytes:
    """Float32 (2, n), -1…1, as 16-bit samples; what is louder is clipped."""
    return (np.clip(sound.T, -1, 1) * 32767).round().astype("<i2").tobytes()


class WavWriter:
    """Writes sound as it comes; `close` says in the header how much that was."""

    def __init__(self, out: WavSink) -> None:
        self._out, self._samples = out, 0
        out.write(header(0))

    def write(self, sound: np.ndarray) -> None:
        """The next samples, float32 (2, n), -1…1."""
        self._out.write(packed(sound))
        self._samples += sound.shape[1]

    def close(self) -> int:
        """Completes the file; how many samples it has."""
        self._out.rewrite(0, header(self._samples))
        return self._samples


def read_wav(path: Path) -> np.ndarray:
    """The samples of a file that `WavWriter` wrote: int16 (2, n), read where they are asked for."""
    if path.stat().st_size <= HEADER:
        return np.zeros((2, 0), np.int16)
    data = np.memmap(path, "<i2", "r", HEADER)
    return data[: len(data) // 2 * 2].reshape(-1, 2).T
