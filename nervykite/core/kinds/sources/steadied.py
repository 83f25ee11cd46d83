"""The lie of the ground while it is steadied by a track of its shot."""

import math
from functools import cached_property

import numpy as np

from ...piece.model import Framing, GroundItem, Steady, Track
from ...piece.timeline.timeline import Timeline
from ...see.footage.framing_matrix import by_hand, fit_matrix
from ...see.scene.calm import Turned, smoothed, turned
from ...see.scene.fixes import maps_of
from .cover import MARGIN, bounded

MIDDLE = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1.0]])
"""Tracks count from the middle of the first pixel, what lies on the canvas from its corner."""
MOST = 2.0
"""How many times as large footage is made at most, so that its edge does not show."""


def seen_at(timeline: Timeline, item: GroundItem, time: float) -> float:
    """The frame, in parts, that an item of the ground shows at a time, or nearest to it."""
    table = timeline.tables[item.id]
    at = min(max(time - timeline.starts[item.id], 0.0), len(table) - 1.0)
    first = int(at)
    frame = float(table[first])
    if at > first and first + 1 < len(table):
        frame += (at - first) * float(table[first + 1] - table[first])
    return frame


def calmed(track: Track, size: tuple[int, int], rate: float, how: str = "smooth", calm: float = 0.5) -> Turned:
    """The maps that lay each frame of a track where a calm way would have it. size: of its shot, (w, h); rate: in
    frames/s.
    """
    maps = maps_of(track)
    return turned(maps, size) if how == "still" else smoothed(maps, size, calm * rate)


class Steadied:
    """An item of the ground that is steadied, to be asked how that changes how it lies."""

    def __init__(self, timeline: Timeline, item: GroundItem, steady: Steady, track: Track) -> None:
        document = timeline.document
        shot = document.shots[track.shot]
        self._timeline, self._item, self._track, self._fills = timeline, item, track, steady.fills
        self._size, self._canvas = (shot.width, shot.height), (document.project.width, document.project.height)
        middle = complex((shot.width - 1) / 2, (shot.height - 1) / 2)
        whole = calmed(track, self._size, float(shot.rate), steady.how, steady.calm)
        self._moves = whole.weakened(steady.strength, middle)

    def framing(self, framing: Framing, time: float) -> Framing:
        """Its framing at a time, in project frames, that would lie as given."""
        return self._placed(framing, self._moved(seen_at(self._timeline, self._item, time)), self.larger)

    def _moved(self, frame: float) -> Turned:
        """The map that moves a frame of the shot: none, if it is of another take than the one that was followed."""
        if not self._track.first <= frame < self._track.past:
            return Turned(np.ones(1, complex), np.zeros(1, complex))
        return self._moves.at(frame - self._track.first)

    @cached_property
    def larger(self) -> float:
        """The number of times as large it is made."""
        return min(MOST, max(1.0, self._needed.max())) if self._fills else 1.0

    @cached_property
    def edges(self) -> int:
        """At how many of its frames the edge of what was filmed is seen."""
        return int((self._needed > self.larger * (MARGIN if self.larger > 1 else 1.0) + 1e-6).sum())

    @cached_property
    def _needed(self) -> np.ndarray:
        """The number of times as large it would have to be at each of its frames to cover the canvas: (n,); 1 where it
        does not when it is not steadied either.
        """
        table = self._timeline.tables[self._item.id]
        rest = self._item.framing
        lies: dict[str, list[float]] = {n: [] for n in ("across", "down", "scale", "turn")}
        own = by_hand(rest, self._size, self._canvas)
        frames = np.unique(table)
        for frame in frames:
            placed = self._placed(rest, self._moved(float(frame)), 1.0)
            for name, values in lies.items():
                values.append(getattr(placed, name))
        still = {n: np.array([getattr(own, n)]) for n in lies}
        if not bounded(still, self._size, self._canvas)[0] <= 1 + 1e-6:
            return np.ones(len(frames))
        return bounded({n: np.array(v) for n, v in lies.items()}, self._size, self._canvas)

    def _placed(self, framing: Framing, moved: Turned, larger: float) -> Framing:
        """A framing over footage that is turned, zoomed and shifted, and so many times as large about the canvas's
        middle.
        """
        own = by_hand(framing, self._size, self._canvas)
        inner = MIDDLE @ moved.matrix() @ np.linalg.inv(MIDDLE)
        middle = fit_matrix(self._size, self._canvas, own) @ inner @ [self._size[0] / 2, self._size[1] / 2, 1]
        by = complex(moved.by[0])
        turn = math.degrees(math.atan2(by.imag, by.real)) * (-1 if own.mirrored else 1)
        return own.model_copy(
            update={
                "across": (float(middle[0]) - self._canvas[0] / 2) * larger / self._canvas[0],
                "down": (float(middle[1]) - self._canvas[1] / 2) * larger / self._canvas[1],
                "scale": own.scale * abs(by) * larger,
                "turn": own.turn + turn,
            }
        )


def steadied_of(timeline: Timeline, item: GroundItem) -> Steadied | None:
    """The steadying of an item, worked out once for the document; None without one, or by a track of another shot."""
    steady, document = item.steady, timeline.document
    track = document.tracks.get(steady.track) if steady is not None else None
    if steady is None or track is None or item.source.footage(document) != track.shot:
        return None
    return timeline.kept(("steadied", item.id), lambda: Steadied(timeline, item, steady, track))
