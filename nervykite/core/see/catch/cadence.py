"""The choice of frames to hold for a trail: evenly spaced in time, or by how far the body goes between them."""

from collections.abc import Sequence

import numpy as np
from scipy.ndimage import gaussian_filter1d

from .seen import Seen


def every(first: int, last: int, step: int, places: Sequence[int]) -> list[int]:
    """Every so manyth frame from one to another; each the nearest of `places`, in order and none twice.

    Raises ValueError if the step is not positive.
    """
    if step < 1:
        raise ValueError("a step is at least one frame")
    return _nearest(np.arange(first, last + 1, step), places)


def in_time(first: int, last: int, count: int, places: Sequence[int]) -> list[int]:
    """So many frames from one to another, evenly spaced in time."""
    return _nearest(np.linspace(first, last, max(1, count)) if count > 1 else np.array([first]), places)


def in_distance(way: np.ndarray, first: int, last: int, count: int, places: Sequence[int]) -> list[int]:
    """So many frames from one to another, between which the body goes equally far on the screen.

    way: how far it has gone by each frame from 0 on, see `travelled`. Where nothing goes anywhere they are evenly
    spaced in time.
    """
    gone = way[first : last + 1]
    if count < 2 or len(gone) < 2 or gone[-1] - gone[0] < 1e-4:
        return in_time(first, last, count, places)
    gone = gone + 1e-9 * np.arange(len(gone))  # who waits is somewhere all the same
    wanted = np.linspace(gone[0], gone[-1], count)
    return _nearest(np.interp(wanted, gone, np.arange(first, last + 1)), places)


def travelled(seen: Sequence[Seen]) -> np.ndarray:
    """The way that the body's middle has gone on the screen by each frame, in shares of the height: float64 (n,)."""
    there = np.array([s.share > 0 for s in seen], bool)
    if there.sum() < 2:
        return np.zeros(len(seen))
    boxes = np.array([s.box for s in seen])
    middle = np.stack([boxes[:, [0, 2]].mean(1), boxes[:, [1, 3]].mean(1)], 1)
    at = np.flatnonzero(there)
    numbers = np.arange(len(seen))
    filled = np.stack([np.interp(numbers, at, middle[at, k]) for k in (0, 1)], 1)
    smooth = gaussian_filter1d(filled, 1.0, axis=0, mode="nearest")
    steps = np.linalg.norm(np.diff(smooth, axis=0, prepend=smooth[:1]), axis=1)
    return np.cumsum(steps)


def _nearest(wanted: np.ndarray, places: Sequence[int]) -> list[int]:
    if not len(places):
        return []
    known = np.asarray(places)
    chosen = {int(known[np.abs(known - frame).argmin()]) for frame in wanted}
    return sorted(chosen)
