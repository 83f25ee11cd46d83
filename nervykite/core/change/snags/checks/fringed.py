"""An old background that clings to a cutout's edge."""

from collections.abc import Iterable
from typing import ClassVar, Literal

import numpy as np

from ...edits import FRINGE, ChangeMatte
from ..snag import Check, Inspection, Snag


class Fringe(Check):
    """The edge of a cutout has the colour of what was behind it, unless that is taken out; away from home it shows."""

    kind: Literal["fringe"] = "fringe"
    title: ClassVar[str] = "Old backgrounds at edges"
    hint: ClassVar[str] = "What was behind a subject clings to its edge"

    def found(self, look: Inspection) -> Iterable[Snag]:
        evaluation, told = look.evaluation, set()
        for layer in look.shown:
            hold = next((look.document.holds[h] for h in layer.source.needs if h in look.document.holds), None)
            span = look.timeline.spans[layer.id]
            if hold is None or span is None or hold.id in told or not hold.matte.carved or hold.matte.fringe > 0:
                continue
            away = (
                any(not np.array_equal(evaluation.matrix(layer, t), np.eye(3)) for t in (span.start, span.end - 1))
                or span.end - span.start > 1
            )
            if not away:
                continue
            told.add(hold.id)
            matte = hold.matte.model_copy(update={"fringe": FRINGE})
            yield Snag(
                self.kind, f"What was behind {layer.name} is left in its edge.", span.start, layer.id, step="carve",
                fix=ChangeMatte(hold=hold.id, matte=matte), fixes="Clean the edge",
            )  # fmt: skip
