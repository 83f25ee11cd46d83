"""Exact frames of a file, by number."""

from bisect import bisect_right
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av

from ...common.errors import Refusal
from ...piece.model.shot import Shot
from .conversion import to_planes
from .opening import open_media, video_stream
from .planes import Planes


def quarters_of(frame: av.VideoFrame) -> int:
    """The number of quarter turns anticlockwise bring the frame upright."""
    return round(frame.rotation / 90) % 4


def decoded(file: av.container.InputContainer, stream) -> Iterator[av.VideoFrame | None]:
    """The frames from where the file stands, past damage as far as that goes; None last if the rest is beyond it."""
    packets = file.demux(stream)
    failures = 0
    while True:
        try:
            packet = next(packets, None)
            if packet is None:
                return
            yield from packet.decode()
            failures = 0
        except av.FFmpegError:
            failures += 1
            if failures > 20:
                yield None
                return


class Reader:
    """Decodes frames of one shot; asking for them in order is fast, jumping seeks to the key frame before.

    Not for several threads at once.
    """

    def __init__(self, path: Path, shot: Shot) -> None:
        self._shot = shot
        self._tick = Fraction(shot.tick)
        self._origin: int | None = None
        self._open(str(path))

    def _open(self, path: str) -> None:
        self._file = open_media(path)
        self._stream = video_stream(self._file)
        self._frames: Iterator[av.VideoFrame | None] = decoded(self._file, self._stream)
        self._next = 0

    def close(self) -> None:
        """Lets the file go."""
        self._file.close()

    def __enter__(self) -> "Reader":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def planes(self, number: int) -> Planes:
        """Source frame `number`, upright, as planes."""
        frame = self.frame(number)
        return to_planes(frame).turned(quarters_of(frame))

    def frame(self, number: int) -> av.VideoFrame:
        """Source frame `number` as it left the decoder."""
        if not 0 <= number < self._shot.frames:
            raise Refusal(f"{self._shot.name} has no frame {number}; its last one is {self._shot.frames - 1}.")
        if not self._next <= number <= self._next + 60:
            self._seek(number)
        for _ in range(2):
            while self._next <= number:
                frame = next(self._frames, None)
                if frame is None:
                    break
                if frame.pts is None:
                    continue
                at = self._number(frame)
                self._next = at + 1
                if at == number:
                    return frame
            # The seek came out behind the frame, as some indexes make it: start over from the beginning.
            self._restart()
        raise Refusal(f"Frame {number} of {self._shot.name} can no longer be read; the file may have changed.")

    def _number(self, frame: av.VideoFrame) -> int:
        # Frames are found by their time, a half tick of slack for containers that round.
        ticks = (frame.pts - self._start()) * frame.time_base / self._tick
        return max(0, bisect_right(self._shot.ticks, float(ticks) + 0.5) - 1)

    def _start(self) -> int:
        if self._origin is None:
            with open_media(self._file.name) as fresh:
                self._origin = next(f.pts for f in decoded(fresh, video_stream(fresh)) if f and f.pts is not None)
        return self._origin

    def _seek(self, number: int) -> None:
        at = self._start() + int(self._shot.ticks[number] * self._tick / self._stream.time_base)
        try:
            self._file.seek(at, stream=self._stream, backward=True)
        except av.FFmpegError:
            return self._restart()
        self._frames = decoded(self._file, self._stream)
        self._next = 0

    def _restart(self) -> None:
        name = self._file.name
        self._file.close()
        self._open(name)
