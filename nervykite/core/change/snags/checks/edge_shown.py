"""The edge of what was filmed, where it comes into the picture."""

from collections.abc import Iterable
from typing import ClassVar, Literal

import numpy as np

from ....kinds.sources.cover import bounded
from ....piece.model import Framing
from ....see.footage.framing_matrix import by_hand
from ...edits import ChangeGround, Edit, SteadyGround
from ..snag import Check, Inspection, Snag

LOOKS = 24
"""At how many times of an item the picture is looked at."""


class EdgeShown(Check):
    """Footage that drifts, is pushed or steadied until it does not cover the canvas any more."""

    kind: Literal["edge shown"] = "edge shown"
    title: ClassVar[str] = "The frame's edge"
    hint: ClassVar[str] = "The edge of what was filmed is seen"

    def found(self, look: Inspection) -> Iterable[Snag]:
        document, project = look.document, look.document.project
        canvas = project.width, project.height
        for item in look.ground:
            if item.source.footage(document) is None or item.framing.mode == "fit":
                continue
            size, start = item.source.size(document), look.timeline.starts[item.id]
            times = np.unique(np.linspace(start, look.timeline.end_of(item.id) - 1, LOOKS).round())
            framings = [by_hand(look.evaluation.framing_at(item, float(t)), size, canvas) for t in times]
            lies = {n: np.array([getattr(f, n) for f in framings]) for n in ("across", "down", "scale", "turn")}
            needed = bounded(lies, size, canvas)
            bad = np.flatnonzero(needed > 1 + 1e-4)
            if not len(bad):
                continue
            fix: Edit | None = None
            if item.steady is not None and not item.steady.fills:
                fix = SteadyGround(item=item.id, steady=item.steady.model_copy(update={"fills": True}))
            elif not item.stirs and np.isfinite(needed).all():
                own = framings[0]
                fix = ChangeGround(item=item.id, framing=_larger(own, float(needed.max()) + 1e-6))
            name = document.called(item)
            yield Snag(
                self.kind, f"The edge of {name} comes into the picture.", int(times[bad[0]]), item=item.id, fix=fix,
                fixes="Fill the picture",
            )  # fmt: skip


def _larger(framing: Framing, by: float) -> Framing:
    """A framing so many times as large about the middle of the canvas."""
    return framing.model_copy(
        update={"scale": framing.scale * by, "across": framing.across * by, "down": framing.down * by}
    )
