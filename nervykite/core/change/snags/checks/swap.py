"""Two bodies, or none, where a cutout and the live subject take turns."""

from collections.abc import Iterable
from typing import ClassVar, Literal

import numpy as np

from ....piece.model import Layer
from ...edits import Edit, Several
from ...edits.keyframing import SetValue
from ..snag import Check, Inspection, Snag
from .off_landing import HOME, NEAR, landed

SEEN = 0.9
"""The opacity below which a figure is not taken for the one that it takes turns with."""


class Swap(Check):
    """A copy that waits, or comes to a cut, gives way to the live subject; one that leaves from a cut follows it. In
    that moment it lies in the same place, and is all there.
    """

    kind: Literal["swap"] = "swap"
    title: ClassVar[str] = "Two bodies or none on a swap"
    hint: ClassVar[str] = "A copy is faded out, or somewhere else, where it and the live subject take turns"

    def found(self, look: Inspection) -> Iterable[Snag]:
        for layer in look.shown:
            span = look.timeline.spans[layer.id]
            if (
                span is None
                or not layer.arrangement.swaps
                or layer.group
                or layer.framing is not None
                or layer.behaviours
            ):
                continue
            off = landed(look, layer, span.landing)
            values = look.evaluation.values(layer, span.landing)
            frame = min(span.landing, span.end - 1)
            if values["opacity"][0] < SEEN:
                fix = _home(layer, span.landing, {"opacity": [1]}, values)
                says = f"{layer.name} is faded out where the live one takes turns with it: nobody is there."
                yield Snag(self.kind, says, frame, layer.id, fix=fix, fixes="Let it be seen")
            elif off is not None and off > NEAR * look.unit:
                fix = _home(layer, span.landing, HOME, values)
                says = f"{layer.name} is {off:.0f} pixels from where the live one takes turns with it: it jumps."
                yield Snag(self.kind, says, frame, layer.id, fix=fix, fixes="Land it exactly")


def _home(layer: Layer, at: int, wanted: dict[str, list[float]], values: dict[str, list[float]]) -> Edit | None:
    """The values that bring an owner to what it has to be at a frame; None if none do."""
    if layer.locked or layer.pin is not None:
        return None
    edits = [
        SetValue(layer=layer.id, channel=c, frame=at, value=v)
        for c, v in wanted.items()
        if c in values and not np.allclose(values[c], v)
    ]
    return Several(edits=edits) if edits else None
