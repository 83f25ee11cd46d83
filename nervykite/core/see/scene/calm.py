"""A camera's way made calm: what each frame has to be moved by to stand still, or to go smoothly.

The way is evened out by a Gaussian over time, as in Matsushita et al. 2006, about each frame itself, so that a long pan
does not lean on maps of frames far away. All is told as turns, zooms and shifts, which is what footage can lie in.
"""

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Turned:
    """A turn, zoom and shift for each of some frames: a place z, as a complex number, goes to `by`·z + `to`: (n,)."""

    by: np.ndarray
    to: np.ndarray

    def inverse(self) -> "Turned":
        """The maps that take each back."""
        return Turned(1 / self.by, -self.to / self.by)

    def weakened(self, strength: float, middle: complex) -> "Turned":
        """A part of it, 0…1, about a place that is moved in a straight line."""
        by = np.exp(strength * np.log(self.by))
        moved = middle + strength * (self.by * middle + self.to - middle)
        return Turned(by, moved - by * middle)

    def at(self, place: float) -> "Turned":
        """That of a frame by its place, in parts: between two the way from one to the other is shared out."""
        steps = np.arange(len(self.by))
        by, to = (np.interp(place, steps, v.real) + 1j * np.interp(place, steps, v.imag) for v in (self.by, self.to))
        return Turned(np.array([by]), np.array([to]))

    def matrix(self) -> np.ndarray:
        """The first as a map (3, 3)."""
        a, b = self.by[0], self.to[0]
        return np.array([[a.real, -a.imag, b.real], [a.imag, a.real, b.imag], [0, 0, 1]])


def turned(maps: np.ndarray, size: tuple[int, int]) -> Turned:
    """The turns, zooms and shifts that do most nearly over a frame of a size (w, h) what maps (n, 3, 3) do."""
    w, h = size
    x, y = np.meshgrid(np.linspace(0, w - 1, 5), np.linspace(0, h - 1, 5))
    grid = np.stack([x.ravel(), y.ravel(), np.ones(x.size)])
    there = maps @ grid
    there = there[:, :2] / there[:, 2:]
    z, q = grid[0] + 1j * grid[1], there[:, 0] + 1j * there[:, 1]
    off, mean = z - z.mean(), q.mean(1)
    by = (np.conj(off) * (q - mean[:, None])).sum(1) / (np.abs(off) ** 2).sum()
    return Turned(by, mean - by * z.mean())


def smoothed(maps: np.ndarray, size: tuple[int, int], spread: float) -> Turned:
    """The maps that lay each frame where a smooth way would have it.

    maps: (n, 3, 3) from each frame to the one that is seen from; size: of the frames, (w, h); spread: of the Gaussian,
    in frames. It is a straight line through what lies around each frame that is taken, so that a pan does not lag where
    it begins and ends.
    """
    count, frames, back = len(maps), np.arange(len(maps)), np.linalg.inv(maps)
    if count < 3:
        return Turned(np.ones(count, complex), np.zeros(count, complex))
    reach = min(max(1, round(3 * spread)), count - 1)
    moments, by, to = np.zeros((3, count)), np.zeros((2, count), complex), np.zeros((2, count), complex)
    for far in range(-reach, reach + 1):
        there = np.clip(frames + far, 0, count - 1)
        way = turned(back @ maps[there], size)
        weight = np.where(frames + far == there, np.exp(-0.5 * (far / spread) ** 2), 0.0)
        for power in range(3):
            moments[power] += weight * far**power
        for power in range(2):
            by[power] += weight * far**power * way.by
            to[power] += weight * far**power * way.to
    whole = moments[0] * moments[2] - moments[1] ** 2
    on_line = [(moments[2] * v[0] - moments[1] * v[1]) / whole for v in (by, to)]
    return Turned(*on_line).inverse()
