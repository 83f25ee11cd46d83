"""The document and a time to an ordered list of draws. Pure: no pixels, no files, no memory of other frames."""

import math
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from ..footage.framing import fit_matrix
from ..model import Document, FinishKind, Framing, GroundItem, Layer
from ..model.blend import BlendMode
from ..motion.channels import POSE
from ..motion.keys import Keyed
from ..sources.picture import Picture, digest
from ..timeline.timeline import Timeline

Matrix = tuple[float, ...]
"""A projective 3×3 matrix, row by row: canvas pixels at rest to canvas pixels."""
AT_REST: Matrix = (1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0)


@dataclass(frozen=True)
class SpriteSpec:
    """All that a sprite depends on, besides the size of the canvas: a picture, how it is framed, what it wears."""

    picture: Picture
    framing: Framing
    finishes: tuple[FinishKind, ...] = ()
    digest: str = ""

    @classmethod
    def of(cls, picture: Picture, framing: Framing, finishes: tuple[FinishKind, ...] = ()) -> "SpriteSpec":
        """The spec of a picture under finishes."""
        return cls(picture, framing, finishes, digest(picture.digest, framing, *finishes))


@dataclass(frozen=True)
class SpriteDraw:
    """A sprite, where it goes, and how opaque, 0…1. `largest` is how large its layer is drawn at any time (1 = as it
    rests): that decides how fine the sprite is."""

    layer: str
    sprite: SpriteSpec
    matrix: Matrix
    opacity: float
    largest: float = field(default=1.0, compare=False)
    blend: BlendMode = "normal"

    @cached_property
    def key(self) -> str:
        """Stands for all that its pixels depend on."""
        return f"{self.sprite.digest}{self.matrix}{self.opacity}{max(1.0, self.largest)}{self.blend}"


@dataclass(frozen=True)
class Draws:
    """One frame, from the ground up: what lies under everything (None: the background), then draw after draw.

    `leaving` is what goes over into the ground at that time, and how much of it is still seen, 0…1.
    """

    ground: SpriteSpec | None
    layers: tuple[SpriteDraw, ...]
    background: str
    leaving: tuple[SpriteSpec, float] | None = None

    @property
    def key(self) -> str:
        """A hash of all that the frame's pixels depend on, besides its size."""
        ground = self.ground and self.ground.digest
        if self.leaving is not None:
            ground = digest(ground, self.leaving[0].digest, self.leaving[1])
        return digest(self.background, ground, [x.key for x in self.layers])


class Evaluation:
    """A document made ready to be asked for frames. What frames share is worked out once, when it is first asked."""

    def __init__(self, document: Document, timeline: Timeline | None = None) -> None:
        self.document = document
        self.timeline = timeline or Timeline(document)
        self._keyed: dict[str, Keyed] = {}
        self._anchors: dict[str, tuple[float, float]] = {}
        self._specs: dict[object, SpriteSpec | None] = {}
        self._still: dict[object, tuple[float, SpriteDraw | None]] = {}

    @property
    def length(self) -> int:
        """How many frames the piece has."""
        return self.timeline.length

    @cached_property
    def _canvas(self) -> tuple[int, int]:
        return self.document.project.width, self.document.project.height

    @cached_property
    def _active(self) -> list[tuple[int, int, Layer]]:
        """Layers that are seen at some time, with their spans, from the farthest to the nearest."""
        spans = ((self.timeline.spans[x.id], x) for x in self.document.project.layers if x.visible)
        return [(s.start, s.end, x) for s, x in spans if s is not None]

    def keyed(self, owner: Layer | GroundItem) -> Keyed:
        """The keys of a layer or a ground item, ready to be asked."""
        if owner.id not in self._keyed:
            self._keyed[owner.id] = Keyed(owner, self.timeline.ties_of(owner))
        return self._keyed[owner.id]

    def framing(self, layer: Layer) -> Framing:
        """How a layer rests on the canvas: as the footage does that it hangs over."""
        item = self.document.item(layer.over)
        return item.framing if item else Framing()

    def rest(self, layer: Layer) -> np.ndarray:
        """The layer's source's own pixels to canvas pixels where it is at rest: 3×3."""
        return fit_matrix(layer.source.size(self.document), self._canvas, self.framing(layer))

    def anchor(self, layer: Layer) -> tuple[float, float]:
        """The layer's anchor at rest, in canvas pixels."""
        if layer.id not in self._anchors:
            self._anchors[layer.id] = self._anchor(layer)
        return self._anchors[layer.id]

    def _anchor(self, layer: Layer) -> tuple[float, float]:
        if layer.anchor is not None:
            x, y = layer.anchor
        else:
            left, top, right, bottom = layer.source.bounds(self.document) or (0, 0, *layer.source.size(self.document))
            x, y = (left + right) / 2, (top + bottom) / 2
        place = self.rest(layer) @ [x, y, 1]
        return float(place[0]), float(place[1])

    def values(self, layer: Layer, time: float) -> dict[str, list[float]]:
        """The value of each channel of the pose, and of each setting that has keys, at a time."""
        keyed = self.keyed(layer)
        return {c: keyed.value(c, time) for c in POSE} | self.settings(layer, time)

    def settings(self, owner: Layer | GroundItem, time: float) -> dict[str, list[float]]:
        """The value of each setting of a layer's or a ground item's finishes that has keys, at a time."""
        keyed = self.keyed(owner)
        return {c: keyed.value(c, time) for c in keyed.settings}

    def matrix(self, layer: Layer, time: float) -> np.ndarray:
        """The layer's own movement at a time: canvas pixels at rest to canvas pixels, 3×3."""
        keyed = self.keyed(layer)
        x, y = keyed.value("position", time)
        (scale,), (turn,) = keyed.value("scale", time), keyed.value("rotation", time)
        if scale == 1 and turn == 0:
            return np.array([[1, 0, x], [0, 1, y], [0, 0, 1.0]])
        ax, ay = self.anchor(layer)
        c, s = math.cos(math.radians(turn)) * scale, math.sin(math.radians(turn)) * scale
        return np.array([[c, -s, ax + x - c * ax + s * ay], [s, c, ay + y - s * ax - c * ay], [0, 0, 1]])

    def at(self, time: float) -> Draws:
        """The draws at a time, in project frames. The same document and time always give equal draws."""
        document, shown = self.document, self.timeline.item_at(time)
        ground = leaving = None
        if shown:
            ground = self._lying(shown.item, shown.frame, time)
            leaving = self._leaving(shown.item, time) if shown.item.fade else None
        layers = []
        for start, end, layer in self._active:
            if not start <= time < end:
                continue
            own = shown if shown is not None and shown.item.id == layer.over else None
            frame = layer.source.shows(document, shown)
            opacity, drawn = self._drawn(layer, frame, own is not None and own.frame == frame, time)
            if opacity <= 0:
                continue
            behind = self._spec(layer, own.frame, "behind", ()) if own is not None else None
            if behind is not None:
                layers.append(SpriteDraw(layer.id, behind, AT_REST, 1.0))
            if drawn is not None:
                layers.append(drawn)
        return Draws(ground, tuple(layers), document.project.background, leaving)

    def _lying(self, item: GroundItem, frame: int, time: float) -> SpriteSpec | None:
        """What an item of the ground shows at one of its source's frames."""
        looks = self.keyed(item).looks(time)
        key = item.id, frame, looks
        if key not in self._specs:
            picture = item.source.picture(self.document, frame)
            self._specs[key] = None if picture is None else SpriteSpec.of(picture, item.framing, looks)
        return self._specs[key]

    def _leaving(self, item: GroundItem, time: float) -> tuple[SpriteSpec, float] | None:
        """What lies before an item while it goes over into that, and how much of it is seen; it goes on meanwhile."""
        since = time - self.timeline.starts[item.id]
        before = self.timeline.before(item)
        if before is None or since >= item.fade:
            return None
        spec = self._lying(before, before.source.beyond_end(self.document, int(since)), time)
        return None if spec is None else (spec, 1 - (since + 1) / (item.fade + 1))

    def _drawn(self, layer: Layer, frame: int, home: bool, time: float) -> tuple[float, SpriteDraw | None]:
        """A layer's opacity and draw at a time, None if there is nothing to see.

        `home` says that the footage shows the very frame that it does. Once it moves no more, or before it begins to,
        it is the same draw all along.
        """
        keyed = self.keyed(layer)
        still = keyed.still(time)
        key = layer.id, frame, home, still
        if still and key in self._still:
            return self._still[key]
        matrix = tuple(float(v) for v in self.matrix(layer, time).ravel())
        how = "landed" if home and matrix == AT_REST else "flying"
        spec = self._spec(layer, frame, how, keyed.looks(time))
        (opacity,) = keyed.value("opacity", time)
        made = None if spec is None else SpriteDraw(layer.id, spec, matrix, opacity, keyed.most("scale"), layer.blend)
        if still:
            self._still[key] = opacity, made
        return opacity, made

    def _spec(self, layer: Layer, frame: int, how: str, looks: tuple[FinishKind, ...]) -> SpriteSpec | None:
        """What a sprite of the layer depends on at one of its source's frames; None while there is nothing to see."""
        key = layer.id, frame, how, looks
        if key not in self._specs:
            if how == "behind":
                picture = layer.source.behind(self.document, frame)
            else:
                picture = layer.source.picture(self.document, frame, landed=how == "landed")
            self._specs[key] = None if picture is None else SpriteSpec.of(picture, self.framing(layer), looks)
        return self._specs[key]


def evaluate(document: Document, time: float) -> Draws:
    """The draws of one frame of a document."""
    return Evaluation(document).at(time)
