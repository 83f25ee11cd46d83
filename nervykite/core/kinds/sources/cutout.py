"""The part that cutouts of a hold share, whether they stand or move."""

from typing import Annotated

from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Document, Hold, Matte
from ...piece.model.base import Id
from ...piece.model.framing import Box
from ...piece.model.kinds import HIDDEN
from ...piece.model.source import Shown, Source
from ...see.matte.bounds import bounds
from .picture import Cutout, Footage, Picture, Stored

FILL_GROW, FILL_SOFTEN = 5.0, 4.0
"""How much wider than the matte, in source pixels, a plate fills the hole: the edge's own mixture has to go as well."""


def hole(document: Document, hold: Hold, frame: int) -> Cutout | None:
    """The plate of a hold where its subject is at a source frame; None if there is none, or nobody to hide."""
    matte: Matte | None = hold.matte_at(frame)
    if hold.plate is None or matte is None or not matte.carved:
        return None
    wide = matte.model_copy(
        update={
            "grow": min(60, matte.grow + FILL_GROW),
            "soften_in": 0.0,
            "soften_out": FILL_SOFTEN,
            "fringe": 0.0,
        }
    )
    shot = document.shots[hold.shot]
    return Cutout.of(Stored(hold.plate, hold.shot, frame, (shot.width, shot.height)), hold.shot, frame, wide)


class CutoutSource(Source):
    """A subject cut out of a held frame. `fill` puts the hold's plate where the subject was lifted from."""

    hold: Annotated[Id, HIDDEN]
    fill: Annotated[bool, Field(title="Fill the hole", json_schema_extra={"keyable": False})] = False

    def held(self, document: Document) -> Hold:
        """The hold. Raises Refusal if it is gone."""
        if self.hold not in document.holds:
            raise Refusal("That hold is no longer there. Choose another.")
        return document.holds[self.hold]

    def checked(self, document: Document) -> Source:
        hold = self.held(document)
        if self.fill and hold.plate is None:
            raise Refusal(f"There is no plate behind {hold.name} yet. Build one in Carve first.")
        return self

    def depends(self, document: Document) -> tuple[object, ...]:
        return (self.held(document),)

    def changed(self, before: Source, name: str) -> str:
        if isinstance(before, CutoutSource) and before.fill != self.fill:
            return f"{'fill' if self.fill else 'leave open'} the hole behind {name}"
        return super().changed(before, name)

    def size(self, document: Document) -> tuple[int, int]:
        shot = document.shots[self.held(document).shot]
        return shot.width, shot.height

    def bounds(self, document: Document) -> Box | None:
        return bounds(self.held(document).matte)

    def moment(self, document: Document) -> tuple[str, int] | None:
        hold = self.held(document)
        return hold.shot, hold.frame

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        hold = self.held(document)
        matte = hold.matte_at(frame)
        if matte is None or not matte.carved:
            return None
        # Over its own frame, at rest, a cutout has the colours as filmed, so that nobody sees it land.
        shown = matte.model_copy(update={"fringe": 0.0}) if landed else matte
        return Cutout.of(Footage(hold.shot, frame, self.size(document)), hold.shot, frame, shown)

    def empty(self, document: Document) -> bool:
        return not self.held(document).matte.carved

    def uncut(self, document: Document, frame: int) -> Picture:
        return Footage(self.held(document).shot, frame, self.size(document))

    def behind(self, document: Document, frame: int) -> Picture | None:
        return hole(document, self.held(document), frame) if self.fill else None

    @property
    def needs(self) -> tuple[str, ...]:
        return (self.hold,)

    def shows(self, document: Document, shown: Shown | None, since: float = 0.0) -> int:
        return self.held(document).frame
