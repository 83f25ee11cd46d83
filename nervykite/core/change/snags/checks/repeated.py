"""Frames that are shown twice, because the piece is faster than what was filmed."""

from collections.abc import Iterable
from fractions import Fraction
from typing import ClassVar, Literal

from ...edits import SetCanvas
from ..snag import Check, Inspection, Snag

ALIKE = Fraction(1, 50)
"""How much of it rates may differ by and be called the same."""


class Repeated(Check):
    """A shot of fewer frames a second than the piece stutters a little in it."""

    kind: Literal["repeated"] = "repeated"
    title: ClassVar[str] = "Repeated frames"
    hint: ClassVar[str] = "Footage has fewer frames a second than the piece"

    def found(self, look: Inspection) -> Iterable[Snag]:
        document, rate = look.document, look.document.project.rate
        shots = {g.source.footage(document) for g in look.ground} - {None}
        rates = {document.shots[s].rate for s in shots if s}
        for item in look.ground:
            shot = item.source.footage(document)
            if shot is None or item.source.stands:
                continue
            own = document.shots[shot].rate
            if own * (1 + ALIKE) >= rate:
                continue
            project = document.project
            fix = None
            if len(rates) == 1:
                fix = SetCanvas(width=project.width, height=project.height, rate=own, background=project.background)
            yield Snag(
                self.kind,
                f"{document.called(item)} has {float(own):g} frames a second, the piece "
                f"{float(rate):g}: some are shown twice.",
                look.timeline.starts[item.id], item=item.id, step="catch", fix=fix,
                fixes=f"Make the piece {float(own):g}",
            )  # fmt: skip
