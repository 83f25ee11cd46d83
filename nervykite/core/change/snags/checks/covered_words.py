"""Words where phone apps put their buttons."""

from collections.abc import Iterable
from typing import ClassVar, Literal

import numpy as np

from ....see.footage.framing_matrix import corners
from ..snag import Check, Inspection, Snag

AREAS = ((0.0, 0.0, 1.0, 0.075), (0.84, 0.42, 1.0, 0.8), (0.0, 0.8, 1.0, 1.0))
"""What apps cover of a tall video, as shares of it: the top bar, buttons at the right, words at the bottom."""
TALL = 1.4
"""From which height over width on a video is shown so."""
MUCH = 0.08
"""How much of the words has to be covered to be told."""


class CoveredWords(Check):
    """Words are looked at in the middle of when they are seen."""

    kind: Literal["covered words"] = "covered words"
    title: ClassVar[str] = "Words under buttons"
    hint: ClassVar[str] = "Phone apps cover what is written there"

    def found(self, look: Inspection) -> Iterable[Snag]:
        project, evaluation = look.document.project, look.evaluation
        if project.height / project.width < TALL:
            return
        for layer in look.shown:
            span = look.timeline.spans[layer.id]
            if span is None or getattr(layer.source, "kind", "") != "lettering":
                continue
            time = (span.start + span.end) // 2
            box = evaluation.box(layer, time)
            if box is None or evaluation.keyed(layer).opacity(time) <= 0.01:
                continue
            there = (
                evaluation.within(layer, time) @ evaluation.matrix(layer, time) @ evaluation.rest(layer) @ corners(box)
            )
            x, y = there[:2] / np.maximum(there[2], 1e-6)
            left, right = x.min() / project.width, x.max() / project.width
            top, bottom = y.min() / project.height, y.max() / project.height
            whole = max(1e-9, (right - left) * (bottom - top))
            hidden = sum(
                max(0.0, min(right, r) - max(left, a)) * max(0.0, min(bottom, b) - max(top, t)) for a, t, r, b in AREAS
            )
            if hidden / whole > MUCH:
                yield Snag(
                    self.kind, f"{layer.name} lies where phone apps put their bars and buttons.", int(time), layer.id
                )
