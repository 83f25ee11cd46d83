"""A layer that is there and never shows."""

from collections.abc import Iterable
from typing import ClassVar, Literal

import numpy as np

from ...edits import RemoveLayer
from ..snag import Check, Inspection, Snag

LOOKS = 16
"""At how many times of its span a layer is looked at."""


class NeverSeen(Check):
    """Nothing was cut out for it, or it is clear or beside the canvas all along."""

    kind: Literal["never seen"] = "never seen"
    title: ClassVar[str] = "Layers that never show"
    hint: ClassVar[str] = "Clear, empty or beside the picture all along"

    def found(self, look: Inspection) -> Iterable[Snag]:
        evaluation, project = look.evaluation, look.document.project
        for layer in look.shown:
            span = look.timeline.spans[layer.id]
            if span is None or layer.source.washes or layer.source.gathers:
                continue
            hold = next((look.document.holds[h] for h in layer.source.needs if h in look.document.holds), None)
            if hold is not None and not hold.matte.carved and hold.travel is None:
                yield Snag(self.kind, f"Nothing is cut out for {layer.name} yet.", span.start, layer.id, step="carve")
                continue
            if any(m.id == layer.source.led_by for m in look.document.project.layers):
                continue
            for time in np.unique(np.linspace(span.start, span.end - 1, LOOKS).round()):
                if evaluation.keyed(layer).opacity(float(time)) <= 0.004:
                    continue
                box = evaluation.box(layer, float(time))
                if box is None:
                    break
                left, top, right, bottom = box
                corners = np.array([[left, right, left, right], [top, top, bottom, bottom], [1, 1, 1, 1]], float)
                there = (
                    evaluation.within(layer, time) @ evaluation.matrix(layer, time) @ evaluation.rest(layer) @ corners
                )
                x, y = there[:2] / np.maximum(there[2], 1e-6)
                if x.max() > 0 and x.min() < project.width and y.max() > 0 and y.min() < project.height:
                    break
            else:
                fix = None if layer.locked else RemoveLayer(layer=layer.id)
                yield Snag(
                    self.kind, f"{layer.name} never shows: it is clear or beside the picture all along.", span.start,
                    layer.id, fix=fix, fixes="Remove it",
                )  # fmt: skip
