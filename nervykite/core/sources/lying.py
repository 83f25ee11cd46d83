"""How the ground lies on the canvas over time: framing, its keys, and the behaviours of an item and of the piece."""

import math
from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np

from ..footage.framing import by_hand
from ..model import Behaviour, Document, Framing, GroundItem
from ..motion.channels import FRAMING
from ..motion.keys import Keyed
from ..motion.shifts import Shifts, Stage, shifts_of
from ..timeline.timeline import Timeline

MARGIN = 1.002
"""How much larger than it has to be what shakes is made, so that no edge shows between two frames either."""


class Lying:
    """An item of the ground, to be asked how it lies at a time."""

    def __init__(self, timeline: Timeline, item: GroundItem) -> None:
        document = timeline.document
        self._item, self._size = item, item.source.size(document)
        self._canvas = document.project.width, document.project.height
        ties = timeline.ties_of(item)
        self.stage = Stage(ties.start, ties.landing, ties.end, float(document.project.rate), box_around(self._canvas))
        self.keyed = Keyed(item, ties, self.stage.rate, self.stage)
        self._framed = any(c in FRAMING for c in self.keyed.tracks)
        self._behaves = any(b.visible for b in item.behaviours)
        self.moves = self._framed or self._behaves
        """Whether it lies otherwise at one time than at another."""

    def framing(self, time: float) -> Framing:
        """How it lies at a time, in project frames."""
        framing = self._keyed(time)
        shifts = self.keyed.shifts(time)
        return framing if shifts is None else shaken(framing, self._size, self._canvas, shifts, self.larger)

    def _keyed(self, time: float) -> Framing:
        if not self._framed:
            return self._item.framing
        framing = by_hand(self._item.framing, self._size, self._canvas)
        given = {c: self.keyed.number(c, time) for c in FRAMING if c in self.keyed.tracks}
        return framing.model_copy(update={c.partition(".")[2]: v for c, v in given.items()})

    @cached_property
    def larger(self) -> float:
        """How many times as large its behaviours make it all along, so that the edge of the picture never shows."""
        if not self._behaves:
            return 1.0
        times = _times(self.stage, self._item.behaviours)
        framing = by_hand(self._item.framing, self._size, self._canvas)
        tracks = {c: t for c, t in self.keyed.tracks.items() if c in FRAMING}
        lies = {n: np.full(len(times), getattr(framing, n)) for n in ("across", "down", "scale", "turn")}
        for channel, track in tracks.items():
            lies[channel.partition(".")[2]] = np.array([track.value(t)[0] for t in times.tolist()])
        return covering(lies, self._size, self._canvas, self.keyed.over(times))


def lying_of(timeline: Timeline, item: GroundItem) -> Lying:
    """How an item of a document's ground lies, worked out once for the document."""
    return timeline.kept(("lying", item.id), lambda: Lying(timeline, item))


class Shaking:
    """A whole piece and its behaviours, to be asked how they move it at a time."""

    def __init__(self, document: Document, length: int) -> None:
        self._behaviours = [b for b in document.project.behaviours if b.visible]
        self._canvas = document.project.width, document.project.height
        self.stage = Stage(0, 0, length, float(document.project.rate), box_around(self._canvas))
        self.moves = bool(self._behaviours)
        """Whether there is anything that moves it."""

    def shifts(self, time: float) -> tuple[float, ...]:
        """What its behaviours add: across, down, turn, factors of scale and opacity."""
        return _parts_at(self._over(np.array([time], float)), 0)

    def matrix(self, time: float) -> np.ndarray:
        """Canvas pixels to canvas pixels, 3×3: all that is seen, larger, turned about the middle, and moved."""
        across, down, turn, scale, _ = self.shifts(time)
        cos, sin = (f(math.radians(turn)) * scale * self.larger for f in (math.cos, math.sin))
        x, y = self._canvas[0] / 2, self._canvas[1] / 2
        return np.array(
            [[cos, -sin, x + across - cos * x + sin * y], [sin, cos, y + down - sin * x - cos * y], [0, 0, 1]]
        )

    def framing(self, framing: Framing, size: tuple[int, int], time: float) -> Framing:
        """How footage lies that lay as given."""
        return shaken(framing, size, self._canvas, self.shifts(time), self.larger)

    @cached_property
    def larger(self) -> float:
        """How many times as large it is made all along, so that the edge of the picture never shows."""
        if not self.moves:
            return 1.0
        shifts = self._over(_times(self.stage, self._behaviours))
        rest = {"across": 0.0, "down": 0.0, "scale": 1.0, "turn": 0.0}
        lies = {n: np.full(len(shifts.across), v) for n, v in rest.items()}
        return covering(lies, self._canvas, self._canvas, shifts)

    @property
    def grows(self) -> float:
        """How many times as large as at rest things get at most."""
        return self.larger * math.prod(1 + (b.way.grows() - 1) * b.strength for b in self._behaviours)

    def _over(self, times: np.ndarray) -> Shifts:
        return shifts_of(self._behaviours, [b.way for b in self._behaviours], times, self.stage)


def box_around(canvas: tuple[int, int]) -> tuple[float, float, float, float]:
    """The canvas, from its middle."""
    return -canvas[0] / 2, -canvas[1] / 2, canvas[0] / 2, canvas[1] / 2


def shaken(
    framing: Framing, size: tuple[int, int], canvas: tuple[int, int], shifts: Sequence[float], larger: float
) -> Framing:
    """A framing under what behaviours add, about the middle of the canvas. Sizes are (w, h)."""
    across, down, turn, scale, _ = shifts
    framing = by_hand(framing, size, canvas)
    cos, sin = (f(math.radians(turn)) * scale * larger for f in (math.cos, math.sin))
    x, y = framing.across * canvas[0], framing.down * canvas[1]
    return framing.model_copy(
        update={
            "across": (cos * x - sin * y + across) / canvas[0],
            "down": (sin * x + cos * y + down) / canvas[1],
            "scale": framing.scale * scale * larger,
            "turn": framing.turn + turn,
        }
    )


def covering(lies: Mapping[str, np.ndarray], size: tuple[int, int], canvas: tuple[int, int], shifts: Shifts) -> float:
    """How many times as large a picture has to be made so that it covers the canvas at all of some times; at least 1.

    lies: across, down, scale and turn of its framing by hand at those times, each (n,). When it does not cover the
    canvas without being shaken either, nothing is asked for. Each corner of the canvas, taken back through what is
    added, has to lie within the picture, which each of its four sides says as a bound on how large that is.
    """
    fills = max(canvas[0] / size[0], canvas[1] / size[1])
    half = np.array([size[0], size[1]]) * fills / 2 * lies["scale"][:, None]  # (n, 2)
    corners = np.array([[x, y] for x in (-0.5, 0.5) for y in (-0.5, 0.5)]) * canvas

    def back(points: np.ndarray, degrees: np.ndarray) -> np.ndarray:
        """Points (…, k, 2) turned back, for each time."""
        cos, sin = (f(np.radians(degrees))[:, None] for f in (np.cos, np.sin))
        return np.stack([cos * points[..., 0] + sin * points[..., 1], cos * points[..., 1] - sin * points[..., 0]], -1)

    placed = np.stack([lies["across"], lies["down"]], -1)[:, None] * canvas
    middle = back(placed, lies["turn"])[:, 0]
    bare = back(np.broadcast_to(corners, (len(middle), 4, 2)), lies["turn"])
    covers = (np.abs(bare - middle[:, None]) <= half[:, None] + 1e-6).all((1, 2))
    moved = corners[None] - np.stack([shifts.across, shifts.down], -1)[:, None]
    reach = back(back(moved, shifts.turn) / shifts.scale[:, None, None], lies["turn"])
    rooms = half + middle, half - middle
    covers &= (rooms[0] > 1e-6).all(1) & (rooms[1] > 1e-6).all(1)
    if not covers.any():
        return 1.0
    far = [(sign * reach[covers] / room[covers][:, None]).max() for sign, room in zip((1, -1), rooms, strict=True)]
    needed = float(max(far))
    return 1.0 if needed <= 1 else needed * MARGIN


def _times(stage: Stage, behaviours: Sequence[Behaviour]) -> np.ndarray:
    """The times, twice a frame, at which what is moved so may be seen."""
    first = stage.start - max((b.before for b in behaviours), default=0)
    past = stage.end + max((b.after for b in behaviours), default=0)
    return np.arange(2 * (first - 1), 2 * (past + 1) + 1) / 2


def _parts_at(shifts: Shifts, n: int) -> tuple[float, ...]:
    parts = (shifts.across, shifts.down, shifts.turn, shifts.scale, shifts.opacity)
    return tuple(float(p[n]) for p in parts)
