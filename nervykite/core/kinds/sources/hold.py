"""A frozen cutout: the subject of one held frame."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Document
from ...piece.model.framing import Box
from ...piece.model.source import On, Source
from .cutout import CutoutSource, hole
from .moving_cutout import MovingSource
from .picture import Cutout, Footage, Mended, Picture


class HoldSource(CutoutSource):
    """The subject as it was in the held frame, or all of that frame, or the world around the subject."""

    kind: Literal["hold"] = "hold"
    title: ClassVar[str] = "Cutout"
    cut: ClassVar[bool] = True
    on: ClassVar[tuple[On, ...]] = ("sky",)

    whole: Annotated[bool, Field(title="Whole frame", json_schema_extra={"keyable": False})] = False
    world: Annotated[
        bool,
        Field(title="The world around", json_schema_extra={"keyable": False, "when": {"whole": [False]}}),
    ] = False

    def bounds(self, document: Document) -> Box | None:
        return Source.bounds(self, document) if self.whole or self.world else super().bounds(document)

    def empty(self, document: Document) -> bool:
        return not (self.whole or self.world) and super().empty(document)

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        if self.whole:
            return self.uncut(document, frame)
        return self._around(document, frame) if self.world else super().picture(document, frame, landed)

    def _around(self, document: Document, frame: int) -> Picture | None:
        """All but the subject: with a hole where it was, or with the plate there, filled in the frame's light."""
        hold = self.held(document)
        matte = hold.matte_at(frame)
        footage = Footage(hold.shot, frame, self.size(document))
        if matte is None or not matte.carved:
            return footage
        filled = hole(document, hold, frame) if self.fill else None
        if filled is not None:
            return Mended(footage, filled)
        outside = matte.model_copy(update={"invert": not matte.invert, "fringe": 0.0})
        return Cutout.of(footage, hold.shot, frame, outside)

    def behind(self, document: Document, frame: int) -> Picture | None:
        return None if self.world or self.whole else super().behind(document, frame)

    def changed(self, before: Source, name: str) -> str:
        if isinstance(before, HoldSource) and before.whole != self.whole:
            return f"show the whole frame of {name}" if self.whole else f"show the cutout of {name}"
        if isinstance(before, HoldSource) and before.world != self.world:
            return f"show the world around {name}" if self.world else f"show the cutout of {name}"
        return super().changed(before, name)

    def travel(self, document: Document) -> tuple[int, int] | None:
        frame = self.held(document).frame
        return frame, frame + 1

    def moving(self, document: Document) -> MovingSource:
        hold = self.held(document)
        if hold.travel is None:
            raise Refusal(f"{hold.name} can run along once its matte travels. Carry it through a range first.")
        return MovingSource(hold=self.hold, fill=self.fill)
