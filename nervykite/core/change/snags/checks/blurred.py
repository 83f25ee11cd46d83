"""A held frame that is blurred by motion while a crisp one is beside it."""

from collections.abc import Iterable
from typing import ClassVar, Literal

from ..snag import Check, Inspection, Snag

BESIDE = 0.07
"""Seconds to either side in which another frame shows much the same."""
CRISPER = 1.35
"""How many times as much of its contrast has to be fine for a frame to be called crisper."""


class Blurred(Check):
    """The subject of a held frame is much less crisp than it is a frame or two away."""

    kind: Literal["blurred"] = "blurred"
    title: ClassVar[str] = "Held in a blur"
    hint: ClassVar[str] = "A frame beside the held one is crisper"

    def found(self, look: Inspection) -> Iterable[Snag]:
        document, told = look.document, set()
        for layer in look.shown:
            id_ = next((h for h in layer.source.needs if h in document.holds), None)
            span = look.timeline.spans[layer.id]
            if id_ is None or id_ in told or span is None:
                continue
            told.add(id_)
            hold = document.holds[id_]
            shot, detail = document.shots[hold.shot], look.detail(hold.shot)
            if detail is None:
                continue
            far, take = max(1, round(BESIDE * float(shot.rate))), shot.take(hold.frame)
            frames = range(max(take.start, hold.frame - far), min(take.stop, hold.frame + far + 1))
            best = max(frames, key=lambda f: detail[f])
            # Where nothing was seen of a subject nothing can be said.
            if 0 < detail[hold.frame] * CRISPER < detail[best]:
                way = f"{abs(best - hold.frame)} {'on' if best > hold.frame else 'back'}"
                says = f"{layer.name} is held in a blur; frame {best}, {way}, is crisper."
                yield Snag(self.kind, says, min(max(span.landing, span.start), span.end - 1), layer.id, step="catch")
