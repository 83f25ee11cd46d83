"""Where a layer rests on the canvas, before anything moves it."""

from functools import reduce

import numpy as np

from ..footage.framing import fit_matrix
from ..model import Document, Framing, Layer
from ..model.source import Box
from ..motion.placing import placed


def framing_of(document: Document, layer: Layer) -> Framing:
    """How a layer lies on the canvas: in its own way, or as the footage that it hangs over."""
    if layer.framing is not None:
        return layer.framing
    item = document.item(layer.over) if layer.over else None
    return item.framing if item else Framing()


def rest_of(document: Document, layer: Layer) -> np.ndarray:
    """A layer's source's own pixels to canvas pixels where it is at rest: 3×3."""
    canvas = document.project.width, document.project.height
    return fit_matrix(layer.source.size(document), canvas, framing_of(document, layer))


def anchor_of(document: Document, layer: Layer) -> tuple[float, float]:
    """A layer's anchor at rest, in canvas pixels."""
    if layer.anchor is not None:
        x, y = layer.anchor
    else:
        left, top, right, bottom = layer.source.bounds(document) or (0, 0, *layer.source.size(document))
        x, y = (left + right) / 2, (top + bottom) / 2
    place = rest_of(document, layer) @ [x, y, 1]
    return float(place[0]), float(place[1])


def box_of(document: Document, layer: Layer) -> Box:
    """What a layer covers of the canvas without its keys: of a group, what its members do."""
    pose = layer.pose
    width, height = layer.source.size(document)
    whole = (0.0, 0.0, float(width), float(height))
    if layer.source.gathers:
        boxes: list[Box] = [box_of(document, x) for x in document.project.layers if x.group == layer.id]
        inside = reduce(hull, boxes) if boxes else whole
        rest = np.eye(3)
    else:
        inside = layer.source.bounds(document) or whole
        rest = rest_of(document, layer)
    left, top, right, bottom = inside
    moved = placed(pose.position, pose.scale, pose.rotation, anchor_of(document, layer)) @ rest
    x, y, _ = moved @ np.array([[left, right, left, right], [top, top, bottom, bottom], [1, 1, 1, 1]])
    return float(x.min()), float(y.min()), float(x.max()), float(y.max())


def hull(one: Box, other: Box) -> Box:
    """The smallest box around two."""
    return min(one[0], other[0]), min(one[1], other[1]), max(one[2], other[2]), max(one[3], other[3])
