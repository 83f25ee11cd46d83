"""Where a layer rests on the canvas, before anything moves it."""

from functools import reduce

import numpy as np

from ...piece.model import Document, Framing, Layer
from ...piece.model.behaviour import BehaviourStage
from ...piece.model.framing import Box
from ...piece.motion.keyed import Keyed
from ...piece.motion.placing import Placement
from ...piece.timeline.timeline import Timeline
from ...see.footage.framing_matrix import fit_matrix, moved_box
from .lying import lying_of


def framing_of(document: Document, layer: Layer, timeline: Timeline | None = None) -> Framing:
    """The framing of a layer on the canvas: its own, or that of the footage that it hangs over where it lands."""
    if layer.framing is not None:
        return layer.framing
    item = document.item(layer.over) if layer.over else None
    if item is None or not item.stirs:
        return item.framing if item else Framing()
    timeline = timeline or Timeline(document)
    span = timeline.span(layer)
    return item.framing if span is None else lying_of(timeline, item).framing(span.landing)


def rest_of(document: Document, layer: Layer, timeline: Timeline | None = None) -> np.ndarray:
    """A layer's source's own pixels to canvas pixels where it is at rest: 3×3."""
    canvas = document.project.width, document.project.height
    return fit_matrix(layer.source.size(document), canvas, framing_of(document, layer, timeline))


def own_box(document: Document, layer: Layer) -> Box:
    """The box, in its source's own pixels, around what a layer shows; the whole picture if nothing tells."""
    return layer.source.bounds(document) or (0, 0, *layer.source.size(document))


def anchor_of(document: Document, layer: Layer, timeline: Timeline | None = None) -> tuple[float, float]:
    """A layer's anchor at rest, in canvas pixels."""
    if layer.anchor is not None:
        x, y = layer.anchor
    else:
        left, top, right, bottom = own_box(document, layer)
        x, y = (left + right) / 2, (top + bottom) / 2
    place = rest_of(document, layer, timeline) @ [x, y, 1]
    return float(place[0]), float(place[1])


def stage_of(document: Document, layer: Layer, timeline: Timeline) -> BehaviourStage | None:
    """Where a layer's behaviours play; None if it has none."""
    if not layer.behaviours:
        return None
    ties = timeline.ties_of(layer)
    left, top, right, bottom = moved_box(rest_of(document, layer, timeline), own_box(document, layer))
    x, y = anchor_of(document, layer, timeline)
    box = left - x, top - y, right - x, bottom - y
    return BehaviourStage(ties.start, ties.landing, ties.end, float(document.project.rate), box)


def keyed_of(document: Document, layer: Layer, timeline: Timeline) -> Keyed:
    """A layer's keys and behaviours, ready to be asked."""
    stage = stage_of(document, layer, timeline)
    return Keyed(layer, timeline.ties_of(layer), float(document.project.rate), stage)


def box_of(document: Document, layer: Layer, timeline: Timeline | None = None) -> Box:
    """The box that a layer covers of the canvas without its keys: of a group, what its members do."""
    pose = layer.pose
    stands = Placement(pose.position, pose.scale * pose.width, pose.scale * pose.height, pose.rotation, pose.shear)
    return box_placed(document, layer, stands, timeline)


def box_placed(document: Document, layer: Layer, placed: Placement, timeline: Timeline | None = None) -> Box:
    """The same of a layer placed in another way."""
    if layer.source.gathers:
        boxes: list[Box] = [box_of(document, x, timeline) for x in document.project.layers if x.group == layer.id]
        inside = reduce(hull, boxes) if boxes else own_box(document, layer)
        rest = np.eye(3)
    else:
        inside = own_box(document, layer)
        rest = rest_of(document, layer, timeline)
    return moved_box(placed.matrix(anchor_of(document, layer, timeline)) @ rest, inside)


def hull(one: Box, other: Box) -> Box:
    """The smallest box around two."""
    return min(one[0], other[0]), min(one[1], other[1]), max(one[2], other[2]), max(one[3], other[3])
