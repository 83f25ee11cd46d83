"""Footage that is drawn larger than it was filmed."""

from collections.abc import Iterable
from typing import ClassVar, Literal

from ....piece.model import Framing
from ....see.footage.framing_matrix import fit_matrix, scale_of
from ...edits import ChangeGround
from ..snag import Check, Inspection, Snag

LARGER = 1.6
"""So many times as large as it was filmed footage looks soft to everybody."""


class Enlarged(Check):
    """A piece of footage covers more of the canvas than it has pixels for."""

    kind: Literal["enlarged"] = "enlarged"
    title: ClassVar[str] = "Drawn large"
    hint: ClassVar[str] = "Footage is drawn larger than it was filmed"

    def found(self, look: Inspection) -> Iterable[Snag]:
        document = look.document
        canvas = document.project.width, document.project.height
        for item in look.ground:
            if item.source.footage(document) is None or item.source.stands:
                continue
            size = item.source.size(document)
            scale = scale_of(fit_matrix(size, canvas, item.framing))
            if scale <= LARGER:
                continue
            whole = scale_of(fit_matrix(size, canvas, Framing(mode="fit")))
            fits = item.framing.mode != "fit" and whole < scale / 1.2
            yield Snag(
                self.kind,
                f"{document.called(item)} is drawn at {100 * scale:.0f} % of the size in which it was filmed, "
                "and looks soft.",
                look.timeline.starts[item.id], item=item.id, step="catch",
                fix=ChangeGround(item=item.id, framing=Framing(mode="fit")) if fits else None,
                fixes="Show all of it" if fits else "",
            )  # fmt: skip
