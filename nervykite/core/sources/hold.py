"""A frozen cutout: the subject of one held frame."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..errors import Refusal
from ..model import Document
from ..model.source import Box, On, Source
from .cutout import CutoutSource
from .moving import MovingSource
from .picture import Picture


class HoldSource(CutoutSource):
    """The subject as it was in the held frame, or all of that frame."""

    kind: Literal["hold"] = "hold"
    title: ClassVar[str] = "Cutout"
    on: ClassVar[tuple[On, ...]] = ("sky",)

    whole: Annotated[bool, Field(title="Whole frame", json_schema_extra={"keyable": False})] = False

    def bounds(self, document: Document) -> Box | None:
        return Source.bounds(self, document) if self.whole else super().bounds(document)

    def empty(self, document: Document) -> bool:
        return not self.whole and super().empty(document)

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        return self.uncut(document, frame) if self.whole else super().picture(document, frame, landed)

    def changed(self, before: Source, name: str) -> str:
        if isinstance(before, HoldSource) and before.whole != self.whole:
            return f"show the whole frame of {name}" if self.whole else f"show the cutout of {name}"
        return super().changed(before, name)

    def travel(self, document: Document) -> tuple[int, int] | None:
        frame = self.held(document).frame
        return frame, frame + 1

    def moving(self, document: Document) -> MovingSource:
        hold = self.held(document)
        if hold.travel is None:
            raise Refusal(f"{hold.name} can run along once its matte travels. Carry it through a range first.")
        return MovingSource(hold=self.hold, fill=self.fill)
