"""Footage of which a few frames are left out between two pieces that otherwise go on."""

from collections.abc import Iterable
from itertools import pairwise
from typing import ClassVar, Literal

from ....kinds.sources.played import PlayedSource
from ..snag import Check, Inspection, Snag

SECONDS = 0.25
"""What is left out of more than so many seconds is meant."""


class Skips(Check):
    """One piece of a shot ends shortly before the next one of it begins: it jumps a little where it should go on."""

    kind: Literal["skips"] = "skips"
    title: ClassVar[str] = "Skipped frames"
    hint: ClassVar[str] = "A take jumps over a few frames where it goes on"

    def found(self, look: Inspection) -> Iterable[Snag]:
        document = look.document
        running = [g for g in look.ground if not g.source.stands]
        for one, other in pairwise(running):
            before, after = one.source, other.source
            shot = before.footage(document)
            if not (isinstance(before, PlayedSource) and isinstance(after, PlayedSource)):
                continue
            if shot is None or shot != after.footage(document) or other.fade:
                continue
            left_out = range(before.past, after.first)
            if 0 < len(left_out) <= SECONDS * float(document.shots[shot].rate):
                last = left_out[-1]
                frames = f"frame {last}" if len(left_out) == 1 else f"frames {left_out[0]} to {last}"
                yield Snag(
                    self.kind, f"{before.called(document)} jumps over its {frames}.", look.timeline.starts[other.id],
                    item=other.id, step="catch",
                )  # fmt: skip
