"""Edits that put layers in line with one another or with the canvas."""

from typing import Literal

from ...common.errors import Refusal
from ...kinds.sources.rest import box_placed, keyed_of
from ...piece.model import Document, Layer
from ...piece.model.base import FrameNumber
from ...piece.model.framing import Box
from ...piece.timeline.timeline import Timeline
from .base import Edit, open_layer
from .keyframing import SetValue
from .layering import Layers, names_of

Edge = Literal["left", "centre", "right", "top", "middle", "bottom"]
SHARES: dict[str, tuple[int, float]] = {
    "left": (0, 0.0), "centre": (0, 0.5), "right": (0, 1.0), "top": (1, 0.0), "middle": (1, 0.5), "bottom": (1, 1.0),
}  # fmt: skip
"""Which axis an edge belongs to, and where along it."""


def box_at(document: Document, layer: Layer, frame: int) -> Box:
    """The box that a layer covers of the canvas at a frame, its groups left out."""
    timeline = Timeline(document)
    return box_placed(document, layer, keyed_of(document, layer, timeline).placement(frame), timeline)


class AlignLayers(Edit):
    """Moves layers so that an edge of each, as it is at a frame, lies on that of the canvas, or of all of them."""

    kind: Literal["align"] = "align"
    layers: Layers
    edge: Edge
    frame: FrameNumber
    to: Literal["canvas", "each other"] = "canvas"

    def title(self, document: Document) -> str:
        return f"align {names_of(document, self.layers)}"

    def apply(self, document: Document) -> Document:
        boxes = {x: box_at(document, open_layer(document, x), self.frame) for x in self.layers}
        axis, share = SHARES[self.edge]
        low, high = 0.0, float((document.project.width, document.project.height)[axis])
        if self.to == "each other":
            low, high = min(b[axis] for b in boxes.values()), max(b[axis + 2] for b in boxes.values())
        aim = low + (high - low) * share
        moves = {k: aim - (b[axis] + (b[axis + 2] - b[axis]) * share) for k, b in boxes.items()}
        return _moved(document, moves, axis, self.frame)


class DistributeLayers(Edit):
    """Moves layers so that their middles, as they are at a frame, lie evenly between those of the outermost two."""

    kind: Literal["distribute"] = "distribute"
    layers: Layers
    axis: Literal["across", "down"]
    frame: FrameNumber

    def title(self, document: Document) -> str:
        return f"distribute {names_of(document, self.layers)}"

    def apply(self, document: Document) -> Document:
        if len(self.layers) < 3:
            raise Refusal("Two layers have nothing between them. Choose three or more.")
        axis = 0 if self.axis == "across" else 1
        boxes = {x: box_at(document, open_layer(document, x), self.frame) for x in self.layers}
        middles = {k: (b[axis] + b[axis + 2]) / 2 for k, b in boxes.items()}
        order = sorted(middles, key=lambda k: middles[k])
        first, last = middles[order[0]], middles[order[-1]]
        step = (last - first) / (len(order) - 1)
        moves = {k: first + n * step - middles[k] for n, k in enumerate(order)}
        return _moved(document, moves, axis, self.frame)


def _moved(document: Document, moves: dict[str, float], axis: int, frame: int) -> Document:
    """The document with layers moved along an axis at a frame, as by dragging them there."""
    timeline = Timeline(document)
    for id_, by in moves.items():
        if abs(by) < 1e-6:
            continue
        layer = open_layer(document, id_)
        position = list(keyed_of(document, layer, timeline).position(frame))
        position[axis] += by
        document = SetValue(layer=id_, channel="position", frame=frame, value=position).apply(document)
    return document
