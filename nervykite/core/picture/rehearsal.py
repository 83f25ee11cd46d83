"""Moves and behaviours as they would be on a layer: what the bench shows as small moving pictures."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..edits.moves import PutMove
from ..errors import Refusal
from ..model import Behaviour, BehaviourKind, Document, GroundItem, Layer, MoveKind, PutOn
from ..model.source import Box
from ..motion.placing import Placement
from ..motion.shifts import Stage, shifts_of
from ..sources.lying import box_around
from ..sources.rest import anchor_of, box_of, keyed_of
from ..timeline.timeline import Timeline

LONG = 2.0
"""For how many seconds a behaviour is shown."""


@dataclass(frozen=True)
class Rehearsed:
    """What is seen of a layer for some frames: its flat matrices, a b c d e f as SVG has them, and its opacity.

    `first` is the project frame of the first of them.
    """

    kind: str
    first: int
    matrices: list[list[float]]
    opacities: list[float]


@dataclass(frozen=True)
class Rehearsal:
    """Some of them, over the layer's box where it rests, in canvas pixels."""

    box: Box
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
        return Rehearsal(box_of(document, bare), shown)
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
    return Rehearsal(box_of(document, bare), shown)


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
        stage = Stage(0, 0, len(times), rate, box_around((width, height)))
        shifts = shifts_of([one], [one.way], times, stage)
        matrices = []
        for n in range(len(times)):
            across, down, turn, scale = (float(v[n]) for v in (shifts.across, shifts.down, shifts.turn, shifts.scale))
            matrices.append(Placement((across, down), scale, scale, turn).matrix((width / 2, height / 2)))
        shown.append(Rehearsed(name, 0, [_flat(m) for m in matrices], [1.0] * len(times)))
    return Rehearsal((0.0, 0.0, float(width), float(height)), shown)


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
    return Rehearsed(name, frames.start, [_flat(m) for m in matrices], [round(keyed.opacity(f), 4) for f in frames])
