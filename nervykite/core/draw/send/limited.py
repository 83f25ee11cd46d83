"""A film of a size that is not to be exceeded: kept whole for a moment, then encoded in two passes by what it needs."""

from pathlib import Path
from typing import Any

import av
import numpy as np

from ...common.errors import Refusal
from .film import FilmWriting
from .writer import StreamFormat, Writing

ROOM = 0.985
"""How much of what it may have it is aimed at."""
OVERHEAD = 24
"""Bytes that a frame takes in the container beside its picture."""
LEAST = 20_000
"""Bits a second below which there is nothing to see."""


class Limited(Writing):
    """An MP4 film of so many bytes at most, by H.264."""

    def __init__(self, path: Path, picture: StreamFormat, most: int, sound: int) -> None:
        self._path, self._picture = path, picture
        seconds = float(picture.count / picture.rate)
        left = most * ROOM - OVERHEAD * picture.count - (sound / 8 * seconds if picture.sound else 0)
        self._bits = int(left * 8 / seconds)
        self._most, self._sound = most, sound
        if self._bits < LEAST:
            raise Refusal(f"{most / 1e6:g} MB is too little for {seconds:.0f} seconds. Allow more, or send less of it.")
        self._whole = path.with_name(f"{path.name}.whole")
        self._log = path.with_name(f"{path.name}.log")
        self._keep = FilmWriting(self._whole, "matroska", picture, self._lossless, ("pcm_f32le", 0))

    def frame(self, prepared: Any) -> None:
        self._keep.frame(prepared)

    def sound(self, samples: np.ndarray) -> None:
        self._keep.sound(samples)

    def close(self) -> None:
        try:
            self._keep.close()
            bits = self._bits
            for number in (1, 2):
                self._passed(number, bits)
            if self._path.stat().st_size > self._most:
                # It was harder than it looked at first.
                self._passed(2, int(bits * 0.97 * self._most / self._path.stat().st_size))
        finally:
            self._clear()

    def abandon(self) -> None:
        self._keep.abandon()
        self._clear()

    def _clear(self) -> None:
        for path in (self._whole, *self._path.parent.glob(f"{self._log.name}*")):
            path.unlink(missing_ok=True)

    def _lossless(self, out: av.container.OutputContainer) -> av.VideoStream:
        stream = out.add_stream("libx264", rate=self._picture.rate, options={"qp": "0", "preset": "ultrafast"})
        stream.pix_fmt = "yuv420p"
        return stream

    def _passed(self, number: int, bits: int) -> None:
        """The first pass, which says what each frame needs, or the second one."""

        def video(out: av.container.OutputContainer) -> av.VideoStream:
            given = f"pass={number}:stats={self._log}"
            stream = out.add_stream(
                "libx264", rate=self._picture.rate, options={"preset": "medium", "x264-params": given}
            )
            stream.pix_fmt, stream.bit_rate = "yuv420p", bits
            return stream

        with av.open(str(self._whole)) as whole:
            film = FilmWriting(self._path, "mp4", self._picture, video, ("aac", self._sound), {"movflags": "faststart"})
            for packet in whole.demux():
                for frame in packet.decode():
                    if isinstance(frame, av.VideoFrame):
                        frame.pict_type = 0
                        film.frame(frame)
                    elif number == 2:
                        film.sound(_samples(frame))
            film.close()


def _samples(frame: av.AudioFrame) -> np.ndarray:
    """The samples heard with a frame, float32 (2, n)."""
    found = frame.to_ndarray()
    return found if found.shape[0] == 2 else np.ascontiguousarray(found.reshape(-1, 2).T)
