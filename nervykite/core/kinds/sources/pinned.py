"""Where the scene carries what is pinned to it."""

import math
from functools import cached_property

import numpy as np

from ...piece.model import GroundItem, Layer, Pin, Track
from ...piece.timeline.clock import landing
from ...piece.timeline.timeline import Timeline
from ...see.footage.framing_matrix import fit_matrix
from ...see.scene.calm import Turned
from ...see.scene.fixes import maps_of
from .lying import lying_of
from .steadied import MIDDLE, calmed, seen_at


class Pinned:
    """The tie of a layer to a track, to be asked where that carries it."""

    def __init__(self, timeline: Timeline, pin: Pin, track: Track) -> None:
        self._timeline, self._pin, self._track = timeline, pin, track
        self._maps = maps_of(track)
        document = timeline.document
        self._canvas = document.project.width, document.project.height
        shot = document.shots[track.shot]
        self._size = shot.width, shot.height

    def carried(self, time: float) -> np.ndarray:
        """The canvas as it was when it was pinned to the canvas at a time: (3, 3), the identity at that frame itself.

        It is `track(now) · track(held)⁻¹`, seen as the footage lies on the canvas at either time.
        """
        frame, lies = self._seen(time)
        if self._pin.how == "shake":
            shaken = self._shake.at(frame - self._track.first).matrix()
            return lies @ MIDDLE @ shaken @ np.linalg.inv(MIDDLE) @ np.linalg.inv(lies)
        held, lay = self._held
        if frame == self._pin.frame and np.array_equal(lies, lay):
            return np.eye(3)
        matrix = lies @ MIDDLE @ np.linalg.inv(self._map(frame)) @ held @ np.linalg.inv(MIDDLE) @ np.linalg.inv(lay)
        return matrix / matrix[2, 2]

    def matrix(self, time: float, own: np.ndarray, anchor: tuple[float, float]) -> np.ndarray:
        """A layer's own movement, carried by the scene: canvas pixels at rest to canvas pixels, (3, 3)."""
        carried = self.carried(time)
        if self._pin.how in ("full", "shake") or np.array_equal(carried, np.eye(3)):
            return carried @ own
        x, y = _at(own, anchor)
        to = _at(carried, (x, y))
        if self._pin.how == "place":
            return np.array([[1, 0, to[0] - x], [0, 1, to[1] - y], [0, 0, 1]]) @ own
        return _turned(carried, (x, y), to) @ own

    @cached_property
    def _shake(self) -> Turned:
        """The matrices from a calm camera's picture to that of this one, for each frame."""
        shot = self._timeline.document.shots[self._track.shot]
        return calmed(self._track, self._size, float(shot.rate)).inverse()

    @cached_property
    def largest(self) -> float:
        """The number of times as large as it was pinned the scene gets at most, in its middle."""
        if self._pin.how == "shake":
            return max(1.0, float(np.abs(self._shake.by).max()))
        middle = self._size[0] / 2, self._size[1] / 2
        held, _ = self._held
        there = [np.linalg.inv(m) @ held for m in self._maps]
        return max(1.0, *(_growth(m, middle) for m in there))

    @cached_property
    def _held(self) -> tuple[np.ndarray, np.ndarray]:
        """The map of the frame that it was pinned at, and how the footage lies there."""
        for item in self._items:
            table = self._timeline.tables[item.id]
            at = landing(table, self._pin.frame, item.source.beyond)
            if at is not None:
                time = self._timeline.starts[item.id] + at
                return self._map(self._pin.frame), self._lies(item, time)
        lies = self._lies(self._items[0], self._timeline.starts[self._items[0].id]) if self._items else np.eye(3)
        return self._map(self._pin.frame), lies

    @cached_property
    def _items(self) -> list[GroundItem]:
        """The items of the ground that show the track's shot."""
        document = self._timeline.document
        return [g for g in document.project.ground if g.source.footage(document) == self._track.shot]

    def _seen(self, time: float) -> tuple[float, np.ndarray]:
        """The frame of the shot, in parts, that is seen at a time or nearest to it, and how the footage lies then."""
        near = min(self._items, key=lambda g: self._away(g, time), default=None)
        if near is None:
            return self._pin.frame, self._held[1]
        start, end = self._timeline.starts[near.id], self._timeline.end_of(near.id)
        return seen_at(self._timeline, near, time), self._lies(near, min(max(time, start), end - 1))

    def _away(self, item: GroundItem, time: float) -> float:
        start, end = self._timeline.starts[item.id], self._timeline.end_of(item.id)
        return max(start - time, time - end + 1e-6, 0.0)

    def _lies(self, item: GroundItem, time: float) -> np.ndarray:
        return fit_matrix(self._size, self._canvas, lying_of(self._timeline, item).framing(time))

    def _map(self, frame: float) -> np.ndarray:
        """The track's map of a frame, or between two; beyond what it knows, that of its first or last one."""
        at = min(max(frame - self._track.first, 0.0), len(self._maps) - 1.0)
        first = int(at)
        if at == first:
            return self._maps[first]
        share = at - first
        return (1 - share) * self._maps[first] + share * self._maps[first + 1]


def _at(matrix: np.ndarray, point: tuple[float, float]) -> tuple[float, float]:
    x, y, w = matrix @ [*point, 1]
    return float(x / w), float(y / w)


def _turned(matrix: np.ndarray, point: tuple[float, float], to: tuple[float, float]) -> np.ndarray:
    """The turn and size that a map has at a point, which it takes elsewhere: (3, 3)."""
    (ax, ay), (bx, by) = (
        (np.subtract(_at(matrix, (point[0] + dx, point[1] + dy)), to)) for dx, dy in ((0.5, 0), (0, 0.5))
    )
    cos, sin = ax + by, ay - bx  # of two halves of a pixel
    x, y = point
    return np.array([[cos, -sin, to[0] - cos * x + sin * y], [sin, cos, to[1] - sin * x - cos * y], [0, 0, 1]])


def _growth(matrix: np.ndarray, point: tuple[float, float]) -> float:
    """The number of times as large a map makes what is around a point."""
    (ax, ay), (bx, by), (x, y) = (
        _at(matrix, (point[0] + dx, point[1] + dy)) for dx, dy in ((0.5, 0), (0, 0.5), (0, 0))
    )
    return math.sqrt(abs(2 * (ax - x) * 2 * (by - y) - 2 * (ay - y) * 2 * (bx - x)))


def pinned_of(timeline: Timeline, layer: Layer) -> Pinned | None:
    """The tie that carries a layer, worked out once for the document; None if it is pinned to nothing that is known."""
    pin = layer.pin
    track = timeline.document.tracks.get(pin.track) if pin is not None else None
    if pin is None or track is None or track.shot not in timeline.document.shots:
        return None
    # What runs along with its footage goes with its camera already.
    if not layer.source.still and layer.source.travel(timeline.document) is not None:
        return None
    return timeline.kept(("pinned", pin), lambda: Pinned(timeline, pin, track))
