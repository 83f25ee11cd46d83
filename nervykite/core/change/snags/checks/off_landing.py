"""A cutout that all but lies where it landed."""

from collections.abc import Iterable
from typing import ClassVar, Literal

import numpy as np

from ....piece.model import Layer
from ...edits import Several
from ...edits.keyframing import SetValue
from ..snag import Check, Inspection, Snag

NEAR = 3.0
"""Pixels of 1080 from its place within which it was meant to lie there."""
HOME: dict[str, list[float]] = {
    "position": [0, 0],
    "scale": [1],
    "width": [1],
    "height": [1],
    "rotation": [0],
    "shear": [0],
}


class OffLanding(Check):
    """On its own frame a cutout and the footage below it are one picture, unless it is a hair beside that."""

    kind: Literal["off landing"] = "off landing"
    title: ClassVar[str] = "Cutouts a hair off"
    hint: ClassVar[str] = "A cutout misses its landing by a pixel or two"

    def found(self, look: Inspection) -> Iterable[Snag]:
        for layer in look.shown:
            span = look.timeline.spans[layer.id]
            if span is None or layer.over is None or layer.source.moment(look.document) is None or layer.group:
                continue
            if layer.framing is not None or layer.behaviours:
                continue
            if not (span.start <= span.landing < span.end or layer.arrangement.swaps):
                continue
            off = landed(look, layer, span.landing)
            if off is None or not 1e-6 < off <= NEAR * look.unit:
                continue
            values = look.evaluation.values(layer, span.landing)
            home = [
                SetValue(layer=layer.id, channel=c, frame=span.landing, value=v)
                for c, v in HOME.items()
                if c in values and list(values[c]) != v
            ]
            fix = Several(edits=home) if home and not layer.locked and layer.pin is None else None
            frame = min(span.landing, span.end - 1)
            yield Snag(
                self.kind, f"{layer.name} misses its landing by {off:.1f} pixels.", frame, layer.id,
                fix=fix, fixes="Land it exactly",
            )  # fmt: skip


def landed(look: Inspection, layer: Layer, landing: int) -> float | None:
    """The number of pixels of the canvas a layer is from its place where it lands, where it is farthest; None if
    nothing of it is seen.
    """
    evaluation = look.evaluation
    matrix, box = evaluation.matrix(layer, landing), evaluation.box(layer, landing)
    if box is None:
        return None
    left, top, right, bottom = box
    corners = evaluation.rest(layer) @ np.array([[left, right, left, right], [top, top, bottom, bottom], [1] * 4])
    moved = matrix @ corners
    return float(np.linalg.norm(moved[:2] / moved[2] - corners[:2], axis=0).max())
