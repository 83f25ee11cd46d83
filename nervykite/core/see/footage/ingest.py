"""Taking in a file: every frame is decoded once, for its time, its proxy picture, and its sound."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from itertools import chain
from pathlib import Path

import av
import numpy as np

from ...common.errors import Refusal
from . import conversion, cut_detection
from .opening import MAX_PIXELS, MAX_SIDE, MIN_SIDE, open_media, pictures_of, video_stream
from .planes import Planes
from .proxy import ProxySink, ProxyWriter, proxy_size, shrink
from .reader import decoded, quarters_of

MAX_FRAMES = 216_000
MAX_SECONDS = 7200
"""How long a shot may be: what is made of it (its sound, its place in a piece) is as long."""
MAX_GAP = 600
"""Seconds after which the next picture is not taken for the same recording."""
SOUND_RATE = 48_000
SLOWEST, FASTEST = 2_000, 768_000
"""Samples a second of sound that is read."""


@dataclass(frozen=True)
class Probe:
    """Content that a file turned out to hold; see `Shot`. `note` is a sentence when it could only be read in part."""

    width: int
    height: int
    rate: Fraction
    variable: bool
    tick: Fraction
    ticks: list[int]
    cuts: list[int]
    colour: str
    depth: int
    rotation: int
    note: str | None


def _open(path: Path, name: str) -> av.container.InputContainer:
    if path.stat().st_size == 0:
        raise Refusal(f"{name} is empty: it has no bytes. Copy it again from where it came from.")
    try:
        return open_media(path)
    except (av.FFmpegError, OSError) as error:
        raise Refusal(
            f"{name} cannot be read as video: it is damaged, cut off at the start, or something else altogether. "
            "Try the original file, or save it again as MP4."
        ) from error


def ingest(
    path: Path,
    name: str,
    proxy: ProxySink,
    progress: Callable[[float], None] = lambda share: None,
) -> Probe:
    """Reads a video once from end to end and writes its proxy.

    `progress` is called with the share done, 0…1, and may raise to stop the work. Times come from the frames as
    decoded, so what cannot be decoded is not counted. Raises Refusal with a sentence for files that are empty, not
    video, without a single picture, or beyond the bounds of `opening` and of this module.
    """
    with _open(path, name) as file:
        stream = pictures_of(file, name)
        _check_size(name, stream.width or MIN_SIDE, stream.height or MIN_SIDE)
        expected = _expected_frames(file, stream)
        read = _Reading(name, proxy)
        for frame in _readable(file, stream, name):
            if frame is None or not read.takes(frame):
                read.trouble = True
                break
            progress(min(0.99, len(read.stamps) / expected) if expected else 0.5)
        return read.probe(stream, expected)


class _Reading:
    """The frames of a file as they are read; their proxy pictures are written as they come."""

    def __init__(self, name: str, proxy: ProxySink) -> None:
        self.stamps: list[int] = []
        self.trouble = False
        self._name, self._proxy = name, proxy
        self._glances: list[np.ndarray] = []
        self._writer: ProxyWriter | None = None
        self._first: av.VideoFrame | None = None
        self._size, self._tick, self._last_duration = (0, 0), Fraction(0), 0

    def takes(self, frame: av.VideoFrame) -> bool:
        """Takes in a frame; False if it does not go on from those before, so that the file breaks off there."""
        name, stamps = self._name, self.stamps
        if frame.pts is None or (stamps and frame.pts <= stamps[-1]):
            return True  # without a time of its own, a frame cannot be pointed at
        if stamps and (frame.pts - stamps[-1]) * self._tick > MAX_GAP:
            return False
        if len(stamps) == MAX_FRAMES:
            raise Refusal(f"{name} has more than {MAX_FRAMES} frames. Cut out the part you need first.")
        if stamps and (frame.pts - stamps[0]) * self._tick > MAX_SECONDS:
            raise Refusal(f"{name} is longer than {MAX_SECONDS // 3600} hours. Cut out the part you need first.")
        planes = _planes(frame, name)
        if self._first is None:
            self._first, self._size = frame, planes.size
            _check_size(name, *self._size)
            self._tick = _tick(frame, name)
            self._writer = ProxyWriter(self._proxy, *proxy_size(*self._size))
        elif planes.size != self._size or frame.time_base != self._first.time_base:
            return False
        assert self._writer is not None
        stamps.append(frame.pts)
        self._last_duration = frame.duration or self._last_duration
        small = shrink(planes, *proxy_size(*self._size))
        self._writer.add(small)
        self._glances.append(cut_detection.glance(small.y))
        return True

    def probe(self, stream: av.VideoStream, expected: int) -> Probe:
        """The content of the file, once all is read; `expected`: how many frames were announced, 0 if not said."""
        name, tick, first = self._name, self._tick, self._first
        if self._writer is None or first is None:
            raise Refusal(f"{name} has no picture that can be decoded. Copy it again, or save it again as MP4.")
        self._writer.close()
        ticks = [s - self.stamps[0] for s in self.stamps]
        steps = np.diff(ticks)
        rate = _rate(stream, steps, tick)
        most = max(1, int(MAX_GAP / tick))
        step = int(np.median(steps)) if len(steps) else self._last_duration or round(1 / rate / tick)
        ticks.append(ticks[-1] + min(max(1, step), most))
        # Containers round times to their tick; only what differs by more than that is a variable rate.
        variable = bool(len(steps) and (np.abs(steps * float(tick * rate) - 1) > max(0.05, 1.1 * tick * rate)).any())
        note, many = None, len(self.stamps)
        if self.trouble or (expected and many < 0.98 * expected - 1):
            note = f"{name} breaks off: {many} frames could be read, about {expected or 'more'} were announced."
        depth = max((c.bits for c in first.format.components), default=8)
        takes, colour = cut_detection.cuts_of(self._glances), conversion.describe(first)
        return Probe(*self._size, rate, variable, tick, ticks, takes, colour, depth, quarters_of(first) * 90, note)


def _check_size(name: str, width: int, height: int) -> None:
    """Raises Refusal if a picture is too large or too small to be worked on."""
    if max(width, height) > MAX_SIDE or width * height > MAX_PIXELS:
        most = f"{MAX_SIDE} a side and {MAX_PIXELS // 1_000_000} million in all"
        raise Refusal(f"{name} is {width} × {height} pixels; the most is {most}. Save it smaller first.")
    if min(width, height) < MIN_SIDE:
        raise Refusal(f"{name} is {width} × {height} pixels; the least is {MIN_SIDE} a side. Choose another file.")


def _readable(file, stream, name: str) -> Iterator[av.VideoFrame | None]:
    """The frames of a stream, see `decoded`. Raises Refusal if this program has no decoder that takes it."""
    try:
        yield from decoded(file, stream)
    except (av.FFmpegError, ValueError, RuntimeError) as error:
        codec = stream.codec_context.name if stream.codec_context else "unknown"
        raise Refusal(
            f"The pictures of {name} cannot be decoded ({codec}): they are damaged, or of a kind this program does not"
            " know. Save it again as MP4 with H.264."
        ) from error


def _planes(frame: av.VideoFrame, name: str) -> Planes:
    """A decoded frame, upright. Raises Refusal if its kind of pixels cannot be converted."""
    try:
        return conversion.to_planes(frame).turned(quarters_of(frame))
    except (av.FFmpegError, ValueError, KeyError) as error:
        raise Refusal(
            f"{name} has pixels of a kind that cannot be read ({frame.format.name}). Save it again as MP4 with H.264."
        ) from error


def _tick(frame: av.VideoFrame, name: str) -> Fraction:
    """The unit of a frame's times, in seconds. Raises Refusal if there is none."""
    tick = Fraction(frame.time_base or 0)
    if not 0 < tick <= MAX_GAP:
        raise Refusal(f"{name} does not say when its pictures are shown. Save it again as MP4.")
    return tick


def _expected_frames(file, stream) -> int:
    if stream.frames:
        return stream.frames
    seconds = float(stream.duration * stream.time_base) if stream.duration else (file.duration or 0) / 1e6
    return round(seconds * float(stream.average_rate or 30))


def _rate(stream, steps: np.ndarray, tick: Fraction) -> Fraction:
    """The nominal rate: of the usual ones, the nearest to the median step if it is within a hundredth."""
    if not len(steps):
        return _usable(Fraction(stream.average_rate or 30))
    measured = 1 / (float(np.median(steps)) * float(tick))
    declared = [Fraction(r) for r in (stream.average_rate, stream.guessed_rate) if r]
    usual = [Fraction(n) for n in (24, 25, 30, 48, 50, 60, 90, 100, 120, 240)]
    usual += [Fraction(n * 1000, 1001) for n in (24, 30, 60, 120)]
    mean = len(steps) / (float(steps.sum()) * float(tick))
    for rate in [*declared, *sorted(usual, key=lambda r: abs(float(r) - mean))]:
        if abs(float(rate) / mean - 1) < 0.0005 and 1 <= rate <= 240:
            return rate
    near = min(usual, key=lambda r: abs(float(r) / measured - 1))
    if abs(float(near) / measured - 1) < 0.05:
        return near
    return _usable(Fraction(measured))


def _usable(rate: Fraction) -> Fraction:
    """A rate, as far as a project can have it."""
    return min(max(rate.limit_denominator(1001), Fraction(1)), Fraction(240))


def sound_of(path: Path, start: Fraction, seconds: Fraction) -> Iterator[np.ndarray]:
    """A file's first sound stream, from its first picture on and as long as the pictures at most, block by block.

    Blocks are float32 (2, n) at SOUND_RATE, one after the other; `start` is the time of the first picture in the file's
    own seconds. Silence fills what is missing before the sound. None come if there is no sound, or none that can be
    decoded.
    """
    most = round(seconds * SOUND_RATE)
    done = 0
    with open_media(path) as file:
        if not file.streams.audio:
            return
        stream = file.streams.audio[0]
        if stream.codec_context is None:
            return
        resampler = av.AudioResampler(format="fltp", layout="stereo", rate=SOUND_RATE)
        skip: int | None = None
        try:
            for frame in chain(file.decode(stream), [None]):
                if frame is not None and not SLOWEST <= frame.sample_rate <= FASTEST:
                    return  # no sound has such a rate; made into ours, a few samples of it would fill the memory
                if skip is None and frame is not None:
                    first = frame.pts * frame.time_base if frame.pts is not None else start
                    skip = round((start - first) * SOUND_RATE)
                    if skip < 0:
                        done = min(-skip, most)
                        for at in range(0, done, SOUND_RATE):
                            yield np.zeros((2, min(SOUND_RATE, done - at)), np.float32)
                for block in resampler.resample(frame):
                    samples = block.to_ndarray()
                    left = max(0, skip or 0)
                    skip = left - min(left, samples.shape[1])
                    samples = samples[:, left : left + most - done]
                    done += samples.shape[1]
                    if samples.shape[1]:
                        yield samples
                if done >= most:
                    return
        except av.FFmpegError:
            return


def first_time(path: Path) -> Fraction:
    """When the first picture is shown, in the file's own seconds."""
    with open_media(path) as file:
        frame = next(f for f in decoded(file, video_stream(file)) if f is not None)
        return Fraction(frame.pts or 0) * frame.time_base
