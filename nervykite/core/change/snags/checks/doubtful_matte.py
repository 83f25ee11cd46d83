"""Carried mattes that are not sure, where they are seen."""

from collections.abc import Iterable
from typing import ClassVar, Literal

from ..snag import Check, Inspection, Snag


class DoubtfulMatte(Check):
    """A matte was carried there with doubt, or before a frame beside it was corrected."""

    kind: Literal["doubtful matte"] = "doubtful matte"
    title: ClassVar[str] = "Doubtful mattes"
    hint: ClassVar[str] = "Carried mattes that are to be looked at"

    def found(self, look: Inspection) -> Iterable[Snag]:
        for layer in look.shown:
            hold = next((look.document.holds[h] for h in layer.source.needs if h in look.document.holds), None)
            span = look.timeline.spans[layer.id]
            if hold is None or hold.travel is None or span is None or layer.source.still:
                continue
            bad = [s for s in hold.travel.stops if s.state in ("doubtful", "stale")]
            if bad:
                many = f"{len(bad)} frames" if len(bad) > 1 else "a frame"
                yield Snag(
                    self.kind, f"The matte of {layer.name} is doubtful at {many}, first at {bad[0].frame}.", span.start,
                    layer.id, step="carve",
                )  # fmt: skip
