"""A layer that has no place: the footage that it hung over was trimmed away."""

from collections.abc import Iterable
from typing import ClassVar, Literal

from ...edits import BringBack
from ...edits.waiting import waits_for
from ..snag import Check, Inspection, Snag


class Waiting(Check):
    """Layers that wait are not sent."""

    kind: Literal["waiting"] = "waiting"
    title: ClassVar[str] = "Layers that wait"
    hint: ClassVar[str] = "Their footage was trimmed away"

    def found(self, look: Inspection) -> Iterable[Snag]:
        for layer in look.shown:
            why = waits_for(look.timeline, layer)
            if why is not None:
                fix = None if layer.locked else BringBack(layer=layer.id)
                yield Snag(
                    self.kind, f"{layer.name} is not seen. {why}.", None, layer.id, fix=fix, fixes="Bring it back"
                )
