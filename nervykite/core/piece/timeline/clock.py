"""Exact time: timecode, and which source frame each project frame shows."""

import functools
import math
from fractions import Fraction

import numpy as np

from ..model import Shot


def timecode(frame: int, rate: Fraction) -> str:
    """Minutes, seconds and frames, "01:07:23"; non-drop, so 29.97 counts 30 frames to its second."""
    whole = round(rate)
    seconds, frames = divmod(frame, whole)
    return f"{seconds // 60:02}:{seconds % 60:02}:{frames:02}"


@functools.lru_cache(maxsize=256)
def _exact(fraction: str) -> Fraction:
    """A fraction as it is written, read once."""
    return Fraction(fraction)


def seconds_of(shot: Shot, first: int, past: int) -> Fraction:
    """The time that frames first…past (half-open) of a shot are on screen, exactly, in seconds."""
    return (shot.ticks[past] - shot.ticks[first]) * _exact(shot.tick)


def lasting(shot: Shot, first: int, past: int, rate: Fraction) -> int:
    """The number of project frames, at `rate`, frames first…past (half-open) of a shot last: at least one."""
    past = min(past, shot.frames)
    tick = _exact(shot.tick)
    # Every edit asks this of every item of the ground: whole numbers are ten times as quick as fractions.
    over = (shot.ticks[past] - shot.ticks[min(first, past - 1)]) * tick.numerator * rate.numerator
    under = tick.denominator * rate.denominator
    whole, rest = divmod(over, under)
    up = 2 * rest > under or (2 * rest == under and whole % 2 == 1)
    return max(1, whole + up)


def conform(shot: Shot, first: int, past: int, rate: Fraction) -> np.ndarray:
    """The source frame that each project frame shows while frames first…past (half-open) of a shot are played.

    A frame is on screen from its own time to the next frame's. Each project frame takes what is on screen a
    little after its start: a quarter of its duration, but no more than half of a source frame's. That is late
    enough that a timestamp rounded upwards cannot repeat the frame before, and early enough that of 60 frames in
    a second the even ones are shown in 30, and of 240 every eighth.

    A range that goes beyond the shot ends with it. `rate` is the project's, frames a second. Returns an int64 array,
    at least one long, never falling, within first…past-1. All sums are in whole numbers.
    """
    tick = Fraction(shot.tick)
    length = lasting(shot, first, past, rate)
    past = min(past, shot.frames)
    first = min(first, past - 1)
    ticks = np.asarray(shot.ticks[first:past], np.int64) - shot.ticks[first]
    step, early = 1 / rate / tick, min(1 / (4 * rate), 1 / (2 * shot.rate)) / tick
    whole = math.lcm(step.denominator, early.denominator)
    at = np.arange(length, dtype=np.int64) * int(step * whole) + int(early * whole)
    return np.searchsorted(ticks * whole, at, side="right") - 1 + first


@functools.lru_cache(maxsize=256)
def _early(rate: Fraction, source: Fraction) -> Fraction:
    """The part of a project frame by which what it shows comes after its start, see `conform`."""
    return min(Fraction(1, 4), rate / (2 * source))


def before(shot: Shot, first: int, past: int, rate: Fraction, frame: int) -> int:
    """The number of project frames there are before a source frame while first…past (half-open) are played, see
    `conform`.

    Worked out without the table.
    """
    length = lasting(shot, first, past, rate)
    if frame >= min(past, shot.frames):
        return length
    if frame <= first:
        return 0
    tick, early = _exact(shot.tick), _early(rate, shot.rate)
    since = shot.ticks[frame] - shot.ticks[min(first, shot.frames - 1)]
    under = tick.denominator * rate.denominator
    over = since * tick.numerator * rate.numerator * early.denominator - early.numerator * under
    return min(length, max(0, -(-over // (under * early.denominator))))


def landing(table: np.ndarray, frame: int, past: int | None = None) -> int | None:
    """The first place in a conform table that shows `frame`, or what is shown instead of it; None if outside.

    past: the first frame after those that are played, if there are such after the last one that is seen.
    """
    if not len(table) or frame < table[0] or frame > max(table[-1], (past or 0) - 1):
        return None
    shown = table[np.searchsorted(table, frame, side="right") - 1]
    return int(np.searchsorted(table, shown, side="left"))
