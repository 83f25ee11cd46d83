"""A stretch of a motion path: a cubic Bézier curve, gone along by its length.

The length is the integral of the speed by Gauss and Legendre's rule; what lies at a length is found in a table of
lengths and then by Newton's method.
"""

import math

import numpy as np

Point = tuple[float, float]
PARTS = 16
"""Into how many parts a curve is cut for its table."""
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(8)


class PathSegment:
    """The curve from one key to the next, with its two handles given as places; coordinates of any unit."""

    def __init__(self, start: Point, leave: Point, arrive: Point, end: Point) -> None:
        self._points = np.array([start, leave, arrive, end], float)
        middle = _NODES / 2 + 0.5
        times = (np.arange(PARTS)[:, None] + middle) / PARTS
        parts = (np.linalg.norm(self._speed(times.ravel()), axis=-1).reshape(PARTS, -1) @ _WEIGHTS) / (2 * PARTS)
        self._lengths = np.concatenate([[0.0], np.cumsum(parts)])

    @property
    def length(self) -> float:
        """The length of it."""
        return float(self._lengths[-1])

    def at(self, share: float) -> Point:
        """Where so much of its length is gone; before 0 and after 1 straight on as it begins and ends."""
        t = self._time(share)
        x, y = self._place(t)
        if 0 <= share <= 1 or self.length == 0:
            return x, y
        far = (share - min(max(share, 0.0), 1.0)) * self.length
        turn = self._heading(t)
        return x + far * math.cos(turn), y + far * math.sin(turn)

    def heading(self, share: float) -> float:
        """In which direction it goes there, in radians, clockwise on screen from the right."""
        return self._heading(self._time(share))

    def _heading(self, t: float) -> float:
        """The direction at a time; where a handle lies on its key, that towards the next of its points."""
        x, y = self._speed(np.array([t]))[0]
        if math.hypot(x, y) < 1e-9:
            near, far = (self._place(min(max(t + d, 0.0), 1.0)) for d in (-1e-3, 1e-3))
            x, y = far[0] - near[0], far[1] - near[1]
        return math.atan2(y, x)

    def _time(self, share: float) -> float:
        """The parameter, 0…1, at a share of the length."""
        if share <= 0 or share >= 1 or self.length == 0:
            return min(max(share, 0.0), 1.0)
        aim = share * self.length
        n = min(int(np.searchsorted(self._lengths, aim, side="right")) - 1, PARTS - 1)
        low, high = n / PARTS, (n + 1) / PARTS
        t = low + (aim - self._lengths[n]) / max(1e-12, self._lengths[n + 1] - self._lengths[n]) / PARTS
        for _ in range(4):
            past = self._lengths[n] + self._between(low, t) - aim
            speed = float(np.linalg.norm(self._speed(np.array([t]))[0]))
            if speed < 1e-9:
                break
            t = min(max(t - past / speed, low), high)
        return t

    def _between(self, low: float, t: float) -> float:
        """The length between two times near each other."""
        times = low + (t - low) * (_NODES / 2 + 0.5)
        return float(np.linalg.norm(self._speed(times), axis=-1) @ _WEIGHTS) * (t - low) / 2

    def _place(self, t: float) -> Point:
        a, b, c, d = (1 - t) ** 3, 3 * (1 - t) ** 2 * t, 3 * (1 - t) * t * t, t**3
        x, y = np.array([a, b, c, d]) @ self._points
        return float(x), float(y)

    def _speed(self, t: np.ndarray) -> np.ndarray:
        """The derivative at some times: (n, 2)."""
        one, two, three = np.diff(self._points, axis=0)
        u = t[:, None]
        return 3 * ((1 - u) ** 2 * one + 2 * (1 - u) * u * two + u * u * three)
