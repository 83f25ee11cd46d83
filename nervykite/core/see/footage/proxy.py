"""Proxies: small pictures of every frame, each on its own, so that any of them is quick to reach.

A proxy file is Motion JPEG: JPEG pictures one after the other, then their offsets (unsigned 64-bit, little
endian), then how many there are. The JPEGs carry the planes' values as they are (BT.709, limited range).
"""

import struct
from fractions import Fraction
from pathlib import Path
from typing import Protocol

import av
import cv2
import numpy as np

from .conversion import _plane
from .planes import Planes

SIDE = 960
"""The longest side of a proxy picture."""


def proxy_size(width: int, height: int) -> tuple[int, int]:
    """The size of a proxy: the same shape, at most SIDE long, even."""
    scale = min(1.0, SIDE / max(width, height))
    return max(2, round(width * scale / 2) * 2), max(2, round(height * scale / 2) * 2)


def shrink(planes: Planes, width: int, height: int) -> Planes:
    """The picture at another even size, every pixel the mean of those it covers."""
    if planes.size == (width, height):
        return planes
    way = cv2.INTER_AREA if width < planes.size[0] else cv2.INTER_LINEAR
    half = (width // 2, height // 2)
    return Planes(
        cv2.resize(planes.y, (width, height), interpolation=way),
        cv2.resize(planes.u, half, interpolation=way),
        cv2.resize(planes.v, half, interpolation=way),
    )


class ProxySink(Protocol):
    """The target that a proxy is written to."""

    def write(self, data: bytes, /) -> int:
        """Appends bytes."""
        ...


class ProxyWriter:
    """Writes a proxy picture by picture; `close` completes the file."""

    def __init__(self, out: ProxySink, width: int, height: int) -> None:
        self._out = out
        self._offsets: list[int] = []
        self._at = 0
        self._codec = av.CodecContext.create("mjpeg", "w")
        self._codec.width, self._codec.height = width, height
        self._codec.pix_fmt = "yuvj420p"
        self._codec.time_base = Fraction(1, 30)
        self._codec.options = {"flags": "+qscale", "global_quality": str(118 * 2)}

    def add(self, planes: Planes) -> None:
        """Appends one picture."""
        for packet in self._codec.encode(_as_frame(planes)):
            data = bytes(packet)
            self._offsets.append(self._at)
            self._out.write(data)
            self._at += len(data)

    def close(self) -> None:
        """Writes the offsets."""
        self._out.write(np.array([*self._offsets, self._at], "<u8").tobytes())
        self._out.write(struct.pack("<Q", len(self._offsets)))


def _as_frame(planes: Planes) -> av.VideoFrame:
    width, height = planes.size
    frame = av.VideoFrame(width, height, "yuvj420p")
    for plane, values in zip(frame.planes, (planes.y, planes.u, planes.v), strict=True):
        padded = np.zeros((values.shape[0], plane.line_size), np.uint8)
        padded[:, : values.shape[1]] = values
        plane.update(padded.tobytes())
    return frame


def pictures_in(path: Path) -> int:
    """The number of pictures a file holds, of which the first and the last could be read; none if it is no proxy."""
    try:
        proxy = Proxy(path)
        rising = len(proxy) > 0 and proxy.rises
        for number in (0, len(proxy) - 1) if rising else ():
            proxy.planes(number)
        return len(proxy) if rising else 0
    except (av.FFmpegError, OSError, ValueError, IndexError, struct.error):
        return 0


class Proxy:
    """Reads pictures of a proxy file; several threads may ask at once."""

    def __init__(self, path: Path) -> None:
        self._data = np.memmap(path, np.uint8, "r")
        (count,) = struct.unpack("<Q", self._data[-8:].tobytes())
        self._offsets = self._data[-8 - 8 * (count + 1) : -8].view("<u8")

    def __len__(self) -> int:
        return len(self._offsets) - 1

    @property
    def rises(self) -> bool:
        """True if its pictures lie one after the other, and before their offsets."""
        steps = np.diff(self._offsets.astype(np.int64))
        return bool((steps > 0).all() and self._offsets[0] == 0 and self._offsets[-1] <= len(self._data))

    def planes(self, number: int) -> Planes:
        """Picture `number`, at proxy size."""
        start, past = int(self._offsets[number]), int(self._offsets[number + 1])
        codec = av.CodecContext.create("mjpeg", "r")
        codec.thread_count = 1
        packet = av.Packet(self._data[start:past].tobytes())
        frame = [*codec.decode(packet), *codec.decode(None)][0]
        return Planes(*(_plane(p) for p in frame.planes[:3]))
