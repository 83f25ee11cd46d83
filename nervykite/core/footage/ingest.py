"""Taking in a file: every frame is decoded once, for its time, its proxy picture, and its sound."""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import BinaryIO

import av
import numpy as np

from ..errors import Refusal
from . import colour, cuts
from .proxy import ProxyWriter, proxy_size, shrink
from .reader import decoded, quarters_of, video_stream

MAX_SIDE = 8192
MAX_FRAMES = 216_000
SOUND_RATE = 48_000


@dataclass(frozen=True)
class Probe:
    """What a file turned out to hold; see `Shot`. `note` is a sentence when it could only be read in part."""

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
        return av.open(str(path))
    except (av.FFmpegError, OSError) as error:
        raise Refusal(
            f"{name} cannot be read as video: it is damaged, cut off at the start, or something else altogether. "
            "Try the original file, or save it again as MP4."
        ) from error


def ingest(
    path: Path,
    name: str,
    proxy: BinaryIO,
    progress: Callable[[float], None] = lambda share: None,
) -> Probe:
    """Reads a video once from end to end and writes its proxy.

    `progress` is called with the share done, 0…1, and may raise to stop the work. Times come from the frames as
    decoded, so what cannot be decoded is not counted. Raises Refusal with a sentence for files that are empty,
    not video, without a single picture, or beyond MAX_SIDE pixels a side or MAX_FRAMES frames.
    """
    with _open(path, name) as file:
        stream = video_stream(file)
        if stream is None:
            kind = "only sound" if file.streams.audio else "no pictures"
            raise Refusal(f"{name} holds {kind}. Choose a video.")
        if max(stream.width or 0, stream.height or 0) > MAX_SIDE:
            raise Refusal(
                f"{name} is {stream.width} × {stream.height} pixels; the most is {MAX_SIDE} a side. "
                "Save it smaller first."
            )
        stream.thread_type = "AUTO"
        expected = _expected_frames(file, stream)
        stamps: list[int] = []
        glances: list[np.ndarray] = []
        writer = first = None
        last_duration = 0
        trouble = False
        for frame in decoded(file, stream):
            if frame is None:
                trouble = True
                break
            if frame.pts is None or (stamps and frame.pts <= stamps[-1]):
                continue  # without a time of its own, a frame cannot be pointed at
            if len(stamps) == MAX_FRAMES:
                raise Refusal(f"{name} has more than {MAX_FRAMES} frames. Cut out the part you need first.")
            planes = colour.to_planes(frame).turned(quarters_of(frame))
            if writer is None:
                first = frame
                size = planes.size
                writer = ProxyWriter(proxy, *proxy_size(*size))
            elif planes.size != size:
                trouble = True
                break
            stamps.append(frame.pts)
            last_duration = frame.duration or last_duration
            small = shrink(planes, *proxy_size(*size))
            writer.add(small)
            glances.append(cuts.glance(small.y))
            progress(min(0.99, len(stamps) / expected) if expected else 0.5)
        if writer is None or first is None:
            raise Refusal(f"{name} has no picture that can be decoded. Copy it again, or save it again as MP4.")
        writer.close()
        tick = Fraction(first.time_base)
        ticks = [s - stamps[0] for s in stamps]
        steps = np.diff(ticks)
        rate = _rate(stream, steps, tick)
        step = int(np.median(steps)) if len(steps) else last_duration or round(1 / rate / tick)
        ticks.append(ticks[-1] + max(1, step))
        # Containers round times to their tick; only what differs by more than that is a variable rate.
        variable = bool(len(steps) and (np.abs(steps * float(tick * rate) - 1) > max(0.05, 1.1 * tick * rate)).any())
        note = None
        if trouble or (expected and len(stamps) < 0.98 * expected - 1):
            note = f"{name} breaks off: {len(stamps)} frames could be read, about {expected or 'more'} were announced."
        depth = max(c.bits for c in first.format.components)
        rotation = quarters_of(first) * 90
        takes = cuts.cuts_of(glances)
        return Probe(*size, rate, variable, tick, ticks, takes, colour.describe(first), depth, rotation, note)


def _expected_frames(file, stream) -> int:
    if stream.frames:
        return stream.frames
    seconds = float(stream.duration * stream.time_base) if stream.duration else (file.duration or 0) / 1e6
    return round(seconds * float(stream.average_rate or 30))


def _rate(stream, steps: np.ndarray, tick: Fraction) -> Fraction:
    """The nominal rate: of the usual ones, the nearest to the median step if it is within a hundredth."""
    if not len(steps):
        return Fraction(stream.average_rate or 30).limit_denominator(1001)
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
    return min(max(Fraction(measured).limit_denominator(1001), Fraction(1)), Fraction(240))


def sound_of(path: Path, start: Fraction, seconds: Fraction) -> np.ndarray | None:
    """A file's first sound stream as float32 (2, n) at SOUND_RATE, cut to begin with the picture.

    `start` is the time of the first picture in the file's own seconds; silence fills what is missing.
    None if there is no sound or it cannot be decoded.
    """
    with av.open(str(path)) as file:
        if not file.streams.audio:
            return None
        stream = file.streams.audio[0]
        resampler = av.AudioResampler(format="fltp", layout="stereo", rate=SOUND_RATE)
        n = round(seconds * SOUND_RATE)
        track = np.zeros((2, n), np.float32)
        at = None
        try:
            for frame in file.decode(stream):
                if at is None:
                    first = frame.pts * frame.time_base if frame.pts is not None else start
                    at = round((first - start) * SOUND_RATE)
                for block in resampler.resample(frame):
                    at = _put(track, block.to_ndarray(), at)
            for block in resampler.resample(None):
                at = _put(track, block.to_ndarray(), at or 0)
        except av.FFmpegError:
            pass
        return track if at is not None else None


def _put(track: np.ndarray, block: np.ndarray, at: int) -> int:
    past = at + block.shape[1]
    low, high = max(0, at), min(track.shape[1], past)
    if low < high:
        track[:, low:high] = block[:, low - at : high - at]
    return past


def first_time(path: Path) -> Fraction:
    """When the first picture is shown, in the file's own seconds."""
    with av.open(str(path)) as file:
        frame = next(f for f in decoded(file, video_stream(file)) if f is not None)
        return Fraction(frame.pts or 0) * frame.time_base
