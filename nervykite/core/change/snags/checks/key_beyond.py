"""A key that its layer's span never reaches."""

from collections.abc import Iterable
from typing import ClassVar, Literal

from ...edits import RemoveKeys
from ...edits.animating import ChosenKeys
from ..snag import Check, Inspection, Snag


class KeyBeyond(Check):
    """Keys before the first or after the last frame of what they belong to, with nothing beyond them to lead to."""

    kind: Literal["key beyond"] = "key beyond"
    title: ClassVar[str] = "Keys past an end"
    hint: ClassVar[str] = "A key lies outside of its layer's span"

    def found(self, look: Inspection) -> Iterable[Snag]:
        for layer in look.shown:
            span = look.timeline.spans[layer.id]
            if span is None or not layer.keys:
                continue
            ties = look.timeline.ties_of(layer)
            beyond = [k for k in layer.keys if not k.made and not span.start - 1 <= ties.frame(k) <= span.end]
            if not beyond:
                continue
            many = f"{len(beyond)} keys lie" if len(beyond) > 1 else "A key lies"
            yield Snag(
                self.kind, f"{many} outside of when {layer.name} is seen.", max(span.start, 0), layer.id,
                fix=RemoveKeys(of=[ChosenKeys(layer=layer.id, keys=[k.id for k in beyond])]), fixes="Remove them",
            )  # fmt: skip
