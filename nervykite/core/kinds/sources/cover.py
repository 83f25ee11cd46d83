"""The enlargement that what shakes needs, so that the edge of the picture never shows."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import maximum_filter1d, uniform_filter1d

from ...piece.model.behaviour import Shifts

MARGIN = 1.002
"""How much larger than it has to be it is made, so that no edge shows between two times either."""


@dataclass(frozen=True)
class Cover:
    """Number of times as large a picture is made over time, at times in frames, evenly spaced: both float64 (n,)."""

    times: np.ndarray
    factors: np.ndarray

    @classmethod
    def of(cls, times: np.ndarray, needed: np.ndarray, rate: float) -> "Cover":
        """No less than is needed at any of some times, twice a frame, and without haste.

        The largest of what is needed within most of a second to either side, averaged over half of that: so the mean is
        never below what is needed, what drifts is hardly seen to breathe, and what dies out goes back to its own size.
        """
        wide = max(1, round(0.8 * rate)) * 2
        most = maximum_filter1d(needed, 2 * wide + 1, mode="nearest")
        # Rounded: a mean of ones is to be one.
        return cls(times, np.round(uniform_filter1d(most, wide + 1, mode="nearest"), 9))

    def at(self, time: float) -> float:
        """The factor at a time."""
        return float(np.interp(time, self.times, self.factors))

    @property
    def most(self) -> float:
        """The largest."""
        return float(self.factors.max())


def covering(
    lies: Mapping[str, np.ndarray], size: tuple[int, int], canvas: tuple[int, int], shifts: Shifts
) -> np.ndarray:
    """The number of times as large a picture has to be at each of some times to cover the canvas: float64 (n,), at
    least 1.

    lies: across, down, scale and turn of its framing by hand at those times, each (n,). When it does not cover the
    canvas without being shaken either, nothing is asked for. Each corner of the canvas, taken back through what is
    added, has to lie within the picture, which each of its four sides says as a bound on how large that is.
    """
    half, middle, corners = _within(lies, size, canvas)
    bare = _back(np.broadcast_to(corners, (len(middle), 4, 2)), lies["turn"])
    covers = (np.abs(bare - middle[:, None]) <= half[:, None] + 1e-6).all((1, 2))
    moved = corners[None] - np.stack([shifts.across, shifts.down], -1)[:, None]
    reach = _back(_back(moved, shifts.turn) / shifts.scale[:, None, None], lies["turn"])
    needed = _enough(reach, half, middle)
    return np.where(covers & np.isfinite(needed) & (needed > 1 + 1e-9), needed * MARGIN, 1.0)


def bounded(lies: Mapping[str, np.ndarray], size: tuple[int, int], canvas: tuple[int, int]) -> np.ndarray:
    """The number of times as large, about the middle of the canvas, a picture has to be to cover that: float64 (n,), at
    least 1, infinite where it does not reach that middle. See `covering`.
    """
    half, middle, corners = _within(lies, size, canvas)
    return _enough(_back(np.broadcast_to(corners, (len(middle), 4, 2)), lies["turn"]), half, middle)


def _within(
    lies: Mapping[str, np.ndarray], size: tuple[int, int], canvas: tuple[int, int]
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Half of a picture's sides, (n, 2), its middle from the canvas's, as it sees it, (n, 2), and the canvas's corners
    from there, (4, 2).
    """
    fills = max(canvas[0] / size[0], canvas[1] / size[1])
    half = np.array([size[0], size[1]]) * fills / 2 * lies["scale"][:, None]
    corners = np.array([[x, y] for x in (-0.5, 0.5) for y in (-0.5, 0.5)]) * canvas
    placed = np.stack([lies["across"], lies["down"]], -1)[:, None] * canvas
    return half, _back(placed, lies["turn"])[:, 0], corners


def _back(points: np.ndarray, degrees: np.ndarray) -> np.ndarray:
    """Points (n, k, 2) turned back by so many degrees, (n,)."""
    cos, sin = (f(np.radians(degrees))[:, None] for f in (np.cos, np.sin))
    return np.stack([cos * points[..., 0] + sin * points[..., 1], cos * points[..., 1] - sin * points[..., 0]], -1)


def _enough(reach: np.ndarray, half: np.ndarray, middle: np.ndarray) -> np.ndarray:
    """The number of times as large what lies so has to be to hold points (n, k, 2): (n,), infinite if that does not
    help.
    """
    needed = np.ones(len(middle))
    for sign, room in ((1, half + middle), (-1, half - middle)):
        wanted = (sign * reach / np.maximum(room, 1e-6)[:, None]).max((1, 2))
        needed = np.maximum(needed, np.where((room > 1e-6).all(1), wanted, np.inf))
    return needed
