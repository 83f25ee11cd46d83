"""A moving cutout: the subject of every frame through which its matte travels."""

from typing import ClassVar, Literal

from ...piece.model import Document
from ...piece.model.source import On, Shown, Source
from .cutout import CutoutSource


class MovingSource(CutoutSource):
    """The subject as it is in the frame that the footage shows."""

    kind: Literal["moving"] = "moving"
    title: ClassVar[str] = "Moving cutout"
    on: ClassVar[tuple[On, ...]] = ("sky",)
    still: ClassVar[bool] = False

    def travel(self, document: Document) -> tuple[int, int] | None:
        hold = self.held(document)
        own = hold.frame
        return (hold.travel.first, hold.travel.past) if hold.travel else (own, own + 1)

    def shows(self, document: Document, shown: Shown | None, since: float = 0.0) -> int:
        return self.held(document).frame if shown is None else shown.frame

    def standing(self, document: Document) -> Source:
        return Source.family["hold"](hold=self.hold, fill=self.fill)
