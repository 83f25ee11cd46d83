"""A frozen cutout: the subject of one held frame."""

from typing import ClassVar, Literal

from ..errors import Refusal
from ..model import Document
from ..model.source import On
from .cutout import CutoutSource
from .moving import MovingSource


class HoldSource(CutoutSource):
    """The subject as it was in the held frame."""

    kind: Literal["hold"] = "hold"
    title: ClassVar[str] = "Cutout"
    on: ClassVar[tuple[On, ...]] = ("sky",)

    def travel(self, document: Document) -> tuple[int, int] | None:
        frame = self.held(document).frame
        return frame, frame + 1

    def moving(self, document: Document) -> MovingSource:
        hold = self.held(document)
        if hold.travel is None:
            raise Refusal(f"{hold.name} can run along once its matte travels. Carry it through a range first.")
        return MovingSource(hold=self.hold, fill=self.fill)
