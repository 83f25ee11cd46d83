"""Moves and behaviours as they would be on a layer: what the bench shows as small moving pictures."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..change.edits.moves import PutMove
from ..common.errors import Refusal
from ..kinds.sources.lying import box_around
from ..kinds.sources.rest import anchor_of, box_of, keyed_of
from ..piece.model import Behaviour, BehaviourKind, Document, GroundItem, Layer, MoveKind, PutOn
from ..piece.model.behaviour import BehaviourStage
from ..piece.model.framing import Box
from ..piece.motion.placing import Placement
from ..piece.motion.shifts import shifts_of
from ..piece.timeline.timeline import Timeline

LONG = 2.0
"""For how many seconds a behaviour is shown."""


@dataclass(frozen=True)
class Rehearsed:
    """The layer as it is seen for some frames: its flat matrices, a b c d e f as SVG has them, and its opacity.

    `first` is the project frame of the first of them, `still` the number of the one that tells most.
    """

    kind: str
    first: int
    matrices: list[list[float]]
    opacities: list[float]
    still: int


@dataclass(frozen=True)
class Rehearsal:
    """Some of them, over the layer's box without any pose, in canvas pixels; `home` is around where it stays."""

    box: Box
    home: Box
    shown: list[Rehearsed]


def rehearsal(
    document: Document, layer: Layer, side: Literal["in", "out", "always"], put: PutOn | None = None
) -> Rehearsal:
    """Each move on a side, or each behaviour, as it would be on a layer; `put` is shown with those settings.

    A move is shown from two frames before it to four after it.
    """
    timeline = Timeline(document)
    bare = layer.model_copy(update={"pose": type(layer.pose)()})
    shown = []
    if side == "always":
        for name, kind in BehaviourKind.family.all().items():
            if "sky" in kind.on:
                worn = layer.model_copy(update={"behaviours": [Behaviour(kind=name)], "entrance": None, "keys": []})
                shown.append(_frames(document, worn, timeline, name, _while(document, worn, timeline)))
        return _framed(box_of(document, bare), shown, 0)
    for name, move in MoveKind.family.all().items():
        if side not in move.sides:
            continue
        chosen = put if put is not None and put.kind == name else PutOn(kind=name)
        try:
            after = PutMove(layers=[layer.id], side=side, move=chosen).apply(_open(document, layer))
        except Refusal:
            continue
        changed = after.layer(layer.id)
        assert changed is not None
        shown.append(_frames(after, changed, Timeline(after, timeline), name, _when(after, changed, side)))
    return _framed(box_of(document, bare), shown, -1 if side == "in" else 0)


def _framed(box: Box, shown: list[Rehearsed], stays: int) -> Rehearsal:
    """The matrices of what is shown, framed on where the layer is in each one's frame `stays`."""
    home = _bounds(_moved(box, shown[0].matrices[stays])) if shown else box
    return Rehearsal(box, home, [replace(one, still=_telling(box, home, one, stays)) for one in shown])


def _moved(box: Box, matrix: list[float]) -> np.ndarray:
    """The corners of a box under a flat matrix, (4, 2)."""
    left, top, right, bottom = box
    a, b, c, d, e, f = matrix
    corners = np.array([(left, top), (right, top), (right, bottom), (left, bottom)])
    return corners @ np.array([[a, b], [c, d]]) + (e, f)


def _bounds(corners: np.ndarray) -> Box:
    (left, top), (right, bottom) = corners.min(0), corners.max(0)
    return float(left), float(top), float(right), float(bottom)


def _telling(box: Box, home: Box, one: Rehearsed, stays: int) -> int:
    """The number of the frame that is most unlike frame `stays`, of those in which it is well to be seen."""
    at_home = np.array([(home[0] + home[2]) / 2, (home[1] + home[3]) / 2])
    size = max(home[2] - home[0], home[3] - home[1], 1.0)
    rest = _moved(box, one.matrices[stays])
    best, found = len(one.matrices) // 2, -1.0
    for n, (matrix, opacity) in enumerate(zip(one.matrices, one.opacities, strict=True)):
        corners = _moved(box, matrix)
        seen = np.abs(corners.mean(0) - at_home).max() < 0.25 * size and 0.3 < np.ptp(corners, 0).max() / size < 1.3
        unlike = float(np.abs(corners - rest).max()) / size + 1 - opacity
        if seen and opacity >= 0.35 and unlike > found:
            best, found = n, unlike
    return best


def shaken(document: Document, item: GroundItem | None) -> Rehearsal:
    """Each behaviour as it would be on a ground item, or (None) on all of the piece."""
    on = "piece" if item is None else "ground"
    width, height = document.project.width, document.project.height
    rate = float(document.project.rate)
    times = np.arange(round(LONG * rate), dtype=float)
    shown = []
    for name, kind in BehaviourKind.family.all().items():
        if on not in kind.on:
            continue
        one = Behaviour(kind=name)
        stage = BehaviourStage(0, 0, len(times), rate, box_around((width, height)))
        shifts = shifts_of([one], [one.way], times, stage)
        matrices = []
        for n in range(len(times)):
            across, down, turn, scale = (float(v[n]) for v in (shifts.across, shifts.down, shifts.turn, shifts.scale))
            matrices.append(Placement((across, down), scale, scale, turn).matrix((width / 2, height / 2)))
        shown.append(Rehearsed(name, 0, [_flat(m) for m in matrices], [1.0] * len(times), 0))
    return _framed((0.0, 0.0, float(width), float(height)), shown, 0)


def _flat(matrix: np.ndarray) -> list[float]:
    return [round(float(v), 4) for v in matrix[:2].T.ravel()]


def _open(document: Document, layer: Layer) -> Document:
    """The document with the layer and its groups unlocked: a look changes nothing."""
    layers = [x.model_copy(update={"locked": False}) if x.locked else x for x in document.project.layers]
    return document.model_copy(update={"project": document.project.model_copy(update={"layers": layers})})


def _when(document: Document, layer: Layer, side: str) -> range:
    ties = Timeline(document).ties_of(layer)
    frames = [ties.frame(k) for k in layer.keys if k.made == side]
    return range(min(frames) - 2, max(frames) + 5)


def _while(document: Document, layer: Layer, timeline: Timeline) -> range:
    start = timeline.ties_of(layer).start
    return range(start, start + round(LONG * float(document.project.rate)))


def _frames(document: Document, layer: Layer, timeline: Timeline, name: str, frames: range) -> Rehearsed:
    keyed, anchor = keyed_of(document, layer, timeline), anchor_of(document, layer, timeline)
    matrices = [keyed.placement(f).matrix(anchor) for f in frames]
    opacities = [round(keyed.opacity(f), 4) for f in frames]
    return Rehearsed(name, frames.start, [_flat(m) for m in matrices], opacities, 0)
