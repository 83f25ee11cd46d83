"""The document and a frame number to a list of draws. Pure: no pixels, no files, no memory of other frames."""

import hashlib
import math
from dataclasses import dataclass, field

import numpy as np

from ..clock import conform, landing
from ..finishes.registry import active
from ..footage.library import fit_matrix
from ..matte.combine import bounds
from ..model import Document, GroundItem, Hold, Layer, Matte, Tie
from ..model.base import Model
from ..model.layers import Finish
from ..motion.keys import value_at

FILL_GROW, FILL_SOFTEN = 5.0, 4.0
"""How much wider than the matte, in source pixels, a plate fills the hole: the edge's own mixture has to go as well."""
AT_REST = (1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0)


def _hash(text: str) -> str:
    return hashlib.sha1(text.encode()).hexdigest()[:20]


def _digest(*parts: Model) -> str:
    """Stands for documents wherever it would be slow to compare them whole."""
    return _hash("\n".join(p.model_dump_json() for p in parts))


@dataclass(frozen=True)
class GroundDraw:
    """The footage under everything: a source frame of a shot, fitted, with its finishes, which `digest` stands for.

    With `plate` it is that picture instead.
    """

    shot: str
    frame: int
    fit: str
    finishes: tuple[Finish, ...]
    digest: str
    plate: str | None = None


@dataclass(frozen=True)
class SpriteSpec:
    """All that a cutout's sprite depends on, besides the size of the canvas; `digest` stands for the rest.

    With `plate` it shows that picture in the place of the subject.
    """

    shot: str
    frame: int
    fit: str
    matte: Matte = field(repr=False)
    finishes: tuple[Finish, ...] = field(repr=False)
    digest: str = ""
    plate: str | None = None

    @classmethod
    def of(
        cls, shot: str, frame: int, matte: Matte, fit: str, finishes: tuple[Finish, ...] = (), plate: str | None = None
    ) -> "SpriteSpec":
        """The spec of a frame's matte under finishes."""
        return cls(shot, frame, fit, matte, finishes, _digest(matte, *finishes), plate)


@dataclass(frozen=True)
class LayerDraw:
    """A sprite, where it goes (3×3, canvas pixels at rest to canvas pixels), and how opaque, 0…1."""

    layer: str
    sprite: SpriteSpec
    matrix: tuple[float, ...]
    opacity: float


@dataclass(frozen=True)
class Draws:
    """One frame, from the ground up."""

    ground: GroundDraw | None
    layers: tuple[LayerDraw, ...]
    background: str

    @property
    def key(self) -> str:
        """A hash of all that the frame's pixels depend on, besides its size."""
        g = self.ground
        ground = g and (g.shot, g.frame, g.fit, g.digest, g.plate)
        sprites = [(s.shot, s.frame, s.fit, s.digest, s.plate) for s in (x.sprite for x in self.layers)]
        places = [(x.matrix, x.opacity) for x in self.layers]
        return _hash(repr((self.background, ground, sprites, places)))


@dataclass(frozen=True)
class Span:
    """A layer's place in time: first frame, first frame after it, and its landing."""

    start: int
    end: int
    landing: int

    @property
    def ties(self) -> dict[Tie, int]:
        """What keys count from."""
        return {"start": self.start, "landing": self.landing, "end": self.end}


class Evaluation:
    """A document made ready to be asked for frames: the conform tables and the layers' spans, worked out once."""

    def __init__(self, document: Document) -> None:
        self.document = document
        project = document.project
        self.tables: dict[str, np.ndarray] = {}
        self.starts: dict[str, int] = {}
        at = 0
        for item in project.ground:
            self.starts[item.id] = at
            self.tables[item.id] = conform(item, document.shots[item.shot], project.rate)
            at += len(self.tables[item.id])
        self.length = at
        self.spans = {layer.id: self._span(layer) for layer in project.layers}
        self._anchors: dict[str, tuple[float, float]] = {}
        self._dressing = {item.id: _dressing(item) for item in project.ground}
        self._specs: dict[tuple[str, int, bool, bool], SpriteSpec | None] = {}

    def _span(self, layer: Layer) -> Span | None:
        hold = self.document.holds[layer.hold]
        item = self.document.item(layer.over)
        if item is None or item.shot != hold.shot or item.kind != "shot":
            return None
        if layer.arrangement == "along":
            return self._along(layer, hold, item)
        at = landing(self.tables[item.id], hold.frame)
        if at is None:
            return None
        m = self.starts[item.id] + at
        if layer.arrangement == "trail":
            end = self.length if layer.until is None else min(layer.until, self.length)
            return Span(m, max(end, m + 1), m)
        start = 0 if layer.until is None else layer.until
        return Span(min(start, m), m, m)

    def _along(self, layer: Layer, hold: Hold, item: GroundItem) -> Span | None:
        """The frames of the item that show the range through which the matte travels."""
        travel, own = hold.travel, hold.frame
        first, past = (travel.first, travel.past) if travel else (own, own + 1)
        table = self.tables[item.id]
        shown = np.flatnonzero((table >= first) & (table < past))
        if not len(shown):
            return None
        start = self.starts[item.id]
        at = landing(table, hold.frame)
        begin, end = start + int(shown[0]), start + int(shown[-1]) + 1
        return Span(begin, end, begin if at is None else start + at)

    def _spec(self, layer: Layer, frame: int, as_filmed: bool, fill: bool = False) -> SpriteSpec | None:
        """What the layer's sprite depends on at a source frame; None while nothing is carved there."""
        key = layer.id, frame, as_filmed, fill
        if key not in self._specs:
            self._specs[key] = self._make_spec(layer, frame, as_filmed, fill)
        return self._specs[key]

    def _make_spec(self, layer: Layer, frame: int, as_filmed: bool, fill: bool) -> SpriteSpec | None:
        hold, item = self.document.holds[layer.hold], self.document.item(layer.over)
        matte = hold.matte_at(frame)
        if item is None or matte is None or not matte.carved:
            return None
        if fill:
            if hold.plate is None:
                return None
            wide = {"grow": min(60, matte.grow + FILL_GROW), "soften_in": 0.0, "soften_out": FILL_SOFTEN, "fringe": 0.0}
            return SpriteSpec.of(hold.shot, frame, matte.model_copy(update=wide), item.fit, (), hold.plate)
        if as_filmed:
            matte = matte.model_copy(update={"fringe": 0.0})
        return SpriteSpec.of(hold.shot, frame, matte, item.fit, active(layer.finishes))

    def item_at(self, frame: int) -> tuple[GroundItem, int] | None:
        """The ground item on screen at a project frame, and the source frame it shows."""
        for item in self.document.project.ground:
            within = frame - self.starts[item.id]
            if 0 <= within < len(self.tables[item.id]):
                return item, int(self.tables[item.id][within])
        return None

    def rest(self, layer: Layer) -> np.ndarray:
        """Source pixels of the layer's hold to canvas pixels, where its own frame has them: 3×3."""
        item = self.document.item(layer.over)
        shot = self.document.shots[self.document.holds[layer.hold].shot]
        project = self.document.project
        fit = item.fit if item else "cover"
        return fit_matrix((shot.width, shot.height), (project.width, project.height), fit)

    def anchor(self, layer: Layer) -> tuple[float, float]:
        """The layer's anchor at rest, in canvas pixels."""
        if layer.id not in self._anchors:
            self._anchors[layer.id] = self._anchor(layer)
        return self._anchors[layer.id]

    def _anchor(self, layer: Layer) -> tuple[float, float]:
        hold = self.document.holds[layer.hold]
        shot = self.document.shots[hold.shot]
        if layer.anchor is not None:
            x, y = layer.anchor
        else:
            left, top, right, bottom = bounds(hold.matte) or (0, 0, shot.width, shot.height)
            x, y = (left + right) / 2, (top + bottom) / 2
        place = self.rest(layer) @ [x, y, 1]
        return float(place[0]), float(place[1])

    def values(self, layer: Layer, frame: int) -> dict[str, list[float]]:
        """Each channel's value at a frame."""
        span = self.spans[layer.id]
        ties: dict[Tie, int] = span.ties if span else {"start": 0, "landing": 0, "end": 0}
        return {c: value_at(layer, c, frame, ties) for c in ("position", "scale", "rotation", "opacity")}

    def matrix(self, layer: Layer, frame: int) -> np.ndarray:
        """The layer's own movement at a frame: canvas pixels at rest to canvas pixels, 3×3."""
        values = self.values(layer, frame)
        (x, y), (scale,), (turn,) = values["position"], values["scale"], values["rotation"]
        if scale == 1 and turn == 0:
            return np.array([[1, 0, x], [0, 1, y], [0, 0, 1.0]])
        ax, ay = self.anchor(layer)
        c, s = math.cos(math.radians(turn)) * scale, math.sin(math.radians(turn)) * scale
        return np.array([[c, -s, ax + x - c * ax + s * ay], [s, c, ay + y - s * ax - c * ay], [0, 0, 1]])

    def at(self, frame: int) -> Draws:
        """The draws of a project frame. The same document and frame always give equal draws."""
        shown = self.item_at(frame)
        ground = None
        if shown:
            item, source = shown
            ground = GroundDraw(item.shot, source, item.fit, *self._dressing[item.id], item.plate)
        layers = []
        for layer in self.document.project.layers:
            span = self.spans[layer.id]
            if not layer.visible or span is None or not span.start <= frame < span.end:
                continue
            opacity = self.values(layer, frame)["opacity"][0]
            if opacity <= 0:
                continue
            matrix = tuple(float(v) for v in self.matrix(layer, frame).ravel())
            over_own = shown is not None and shown[0].id == layer.over
            held = self.document.holds[layer.hold].frame
            if layer.arrangement == "along":
                held = shown[1] if shown is not None else held
            if layer.fill and over_own and shown is not None:
                lifted = self._spec(layer, shown[1], False, fill=True)
                if lifted is not None:
                    layers.append(LayerDraw(layer.id, lifted, AT_REST, 1.0))
            # Over its own frame, at rest, a cutout has the colours as filmed, so that nobody sees it land.
            lands = over_own and shown is not None and shown[1] == held and matrix == AT_REST
            spec = self._spec(layer, held, lands)
            if spec is not None:
                layers.append(LayerDraw(layer.id, spec, matrix, opacity))
        return Draws(ground, tuple(layers), self.document.project.background)


def _dressing(item: GroundItem) -> tuple[tuple[Finish, ...], str]:
    finishes = active(item.finishes)
    return finishes, _digest(*finishes)


def evaluate(document: Document, frame: int) -> Draws:
    """The draws of one frame of a document."""
    return Evaluation(document).at(frame)
