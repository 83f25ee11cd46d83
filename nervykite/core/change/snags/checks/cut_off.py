"""A soft matte that the frame's edge cuts off."""

from collections.abc import Iterable
from typing import ClassVar, Literal

import numpy as np

from ..snag import Check, Inspection, Snag

SOFT = 0.02
"""The share of a side along which a matte is soft, from which on it is told."""


class CutOff(Check):
    """Where a subject leaves the frame its matte has to be as solid as within: softness there is a dark rim once it is
    moved.
    """

    kind: Literal["cut off"] = "cut off"
    title: ClassVar[str] = "Mattes soft at the frame's edge"
    hint: ClassVar[str] = "A soft matte touches the edge of what was filmed"

    def found(self, look: Inspection) -> Iterable[Snag]:
        told: set[str] = set()
        for layer in look.shown:
            hold = next((h for h in layer.source.needs if h in look.document.holds), None)
            span = look.timeline.spans[layer.id]
            if hold is None or hold in told or span is None:
                continue
            alpha = look.alpha(hold)
            if alpha is None:
                continue
            told.add(hold)
            sides = {"top": alpha[0], "bottom": alpha[-1], "left": alpha[:, 0], "right": alpha[:, -1]}
            soft = {n: float(((v > 0.05) & (v < 0.95)).mean()) for n, v in sides.items()}
            side = max(soft, key=lambda n: soft[n])
            if soft[side] > SOFT and np.isfinite(soft[side]):
                yield Snag(
                    self.kind, f"The matte of {layer.name} is soft where the {side} edge of its frame cuts it off.",
                    span.start, layer.id, step="carve",
                )  # fmt: skip
