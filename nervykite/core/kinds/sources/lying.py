"""The lie of the ground on the canvas over time: framing, its keys, and the behaviours of an item and of the piece."""

import math
from collections.abc import Sequence
from functools import cached_property

import numpy as np

from ...piece.model import Behaviour, Document, Framing, GroundItem
from ...piece.model.behaviour import BehaviourStage, Shift, Shifts
from ...piece.motion.channels import FRAMING
from ...piece.motion.keyed import Keyed
from ...piece.motion.shifts import Looked, shifts_of
from ...piece.timeline.timeline import Timeline
from ...see.footage.framing_matrix import by_hand
from .cover import Cover, covering
from .steadied import steadied_of


class Lying:
    """An item of the ground, to be asked how it lies at a time."""

    def __init__(self, timeline: Timeline, item: GroundItem) -> None:
        document = timeline.document
        self._item, self._size = item, item.source.size(document)
        self._canvas = document.project.width, document.project.height
        ties = timeline.ties_of(item)
        self.stage = BehaviourStage(
            ties.start, ties.landing, ties.end, float(document.project.rate), box_around(self._canvas)
        )
        self.keyed = Keyed(item, ties, self.stage.rate, self.stage)
        self._framed = any(c in FRAMING for c in self.keyed.tracks)
        self._behaves = any(b.visible for b in item.behaviours)
        self._steadied = steadied_of(timeline, item)
        self.moves = self._framed or self._behaves or self._steadied is not None
        """Whether it lies otherwise at one time than at another."""

    def framing(self, time: float, seen: float | None = None) -> Framing:
        """Its framing at a time, in project frames, while it shows what is seen at another one, if that is given."""
        framing = self._keyed(time)
        if self._steadied is not None:
            framing = self._steadied.framing(framing, time if seen is None else seen)
        shift = self.keyed.shift(time)
        if shift is None:
            return framing
        return shaken(framing, self._size, self._canvas, shift, self._cover.at(time))

    def values(self, time: float) -> dict[str, list[float]]:
        """The numbers of its framing by hand at a time, by channel, without what its behaviours add."""
        framing = by_hand(self._keyed(time), self._size, self._canvas)
        return {c: [getattr(framing, c.partition(".")[2])] for c in FRAMING}

    def _keyed(self, time: float) -> Framing:
        if not self._framed:
            return self._item.framing
        framing = by_hand(self._item.framing, self._size, self._canvas)
        given = {c: self.keyed.number(c, time) for c in FRAMING if c in self.keyed.tracks}
        return framing.model_copy(update={c.partition(".")[2]: v for c, v in given.items()})

    @property
    def larger(self) -> float:
        """Number of times as large it is made at most, so that the edge of the picture never shows while it shakes."""
        steadied = self._steadied.larger if self._steadied is not None else 1.0
        return steadied * (self._cover.most if self._behaves else 1.0)

    @cached_property
    def _cover(self) -> Cover:
        times = _times(self.stage, self._item.behaviours)
        framing = by_hand(self._item.framing, self._size, self._canvas)
        tracks = {c: t for c, t in self.keyed.tracks.items() if c in FRAMING}
        lies = {n: np.full(len(times), getattr(framing, n)) for n in ("across", "down", "scale", "turn")}
        for channel, track in tracks.items():
            lies[channel.partition(".")[2]] = np.array([track.value(t)[0] for t in times.tolist()])
        needed = covering(lies, self._size, self._canvas, self.keyed.shifts(times))
        return Cover.of(times, needed, self.stage.rate)


def lying_of(timeline: Timeline, item: GroundItem) -> Lying:
    """The lie of an item of a document's ground, worked out once for the document."""
    return timeline.kept(("lying", item.id), lambda: Lying(timeline, item))


class Shaking:
    """A whole piece and its behaviours, to be asked how they move it at a time."""

    def __init__(self, document: Document, length: int) -> None:
        self._behaviours = [b for b in document.project.behaviours if b.visible]
        self._canvas = document.project.width, document.project.height
        self.stage = BehaviourStage(0, 0, length, float(document.project.rate), box_around(self._canvas))
        self.moves = bool(self._behaviours)
        """Whether there is anything that moves it."""
        self._shown = Looked(self._shifts)

    def shift(self, time: float) -> Shift:
        """The shift that its behaviours add then."""
        return self._shown.at(time)

    def ahead(self, times: Sequence[float]) -> None:
        """Is told at which times it will be asked for that."""
        if self.moves:
            self._shown.ahead(times)

    def matrix(self, time: float) -> np.ndarray:
        """Canvas pixels to canvas pixels, 3×3: all that is seen, larger, turned about the middle, and moved."""
        across, down, turn, scale, _ = self.shift(time)
        cos, sin = (f(math.radians(turn)) * scale * self._cover.at(time) for f in (math.cos, math.sin))
        x, y = self._canvas[0] / 2, self._canvas[1] / 2
        return np.array(
            [[cos, -sin, x + across - cos * x + sin * y], [sin, cos, y + down - sin * x - cos * y], [0, 0, 1]]
        )

    def framing(self, framing: Framing, size: tuple[int, int], time: float) -> Framing:
        """The framing of footage that lay as given."""
        return shaken(framing, size, self._canvas, self.shift(time), self._cover.at(time))

    @property
    def larger(self) -> float:
        """The number of times as large it is made at most, so that the edge of the picture never shows."""
        return self._cover.most if self.moves else 1.0

    @cached_property
    def _cover(self) -> Cover:
        times = _times(self.stage, self._behaviours)
        shifts = self._shifts(times)
        rest = {"across": 0.0, "down": 0.0, "scale": 1.0, "turn": 0.0}
        lies = {n: np.full(len(shifts.across), v) for n, v in rest.items()}
        return Cover.of(times, covering(lies, self._canvas, self._canvas, shifts), self.stage.rate)

    @property
    def grows(self) -> float:
        """The number of times as large as at rest things get at most."""
        return self.larger * math.prod(1 + (b.way.grows() - 1) * b.strength for b in self._behaviours)

    def _shifts(self, times: np.ndarray) -> Shifts:
        return shifts_of(self._behaviours, [b.way for b in self._behaviours], times, self.stage)


def box_around(canvas: tuple[int, int]) -> tuple[float, float, float, float]:
    """The canvas, from its middle."""
    return -canvas[0] / 2, -canvas[1] / 2, canvas[0] / 2, canvas[1] / 2


def shaken(framing: Framing, size: tuple[int, int], canvas: tuple[int, int], shift: Shift, larger: float) -> Framing:
    """A framing under what behaviours add, about the middle of the canvas. Sizes are (w, h)."""
    across, down, turn, scale, _ = shift
    if across == down == turn == 0 and scale == larger == 1:
        return framing
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


def _times(stage: BehaviourStage, behaviours: Sequence[Behaviour]) -> np.ndarray:
    """The times, twice a frame, at which what is moved so may be seen."""
    first = stage.start - max((b.before for b in behaviours), default=0)
    past = stage.end + max((b.after for b in behaviours), default=0)
    past = max(first, past)  # what ends before it begins is looked at once
    return np.arange(2 * (first - 1), 2 * (past + 1) + 1) / 2
