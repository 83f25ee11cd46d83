"""Framing by hand: how a ground item rests on the canvas."""

from typing import Annotated, Literal

from pydantic import Field

from ...piece.model import Document, Framing
from ...piece.model.base import Id, Number
from ...see.footage.framing_matrix import by_hand
from .base import Edit, item_of, with_item


class FrameByHand(Edit):
    """Moves an item on the canvas by so many project pixels, makes it larger, turns it by degrees clockwise.

    It turns and grows about its own middle.
    """

    kind: Literal["frame by hand"] = "frame by hand"
    item: Id
    across: Number = 0.0
    down: Number = 0.0
    scale: Annotated[float, Field(gt=0, le=1000)] = 1.0
    turn: Annotated[float, Field(ge=-3600, le=3600)] = 0.0

    def title(self, document: Document) -> str:
        return f"frame {document.called(item_of(document, self.item))}"

    def apply(self, document: Document) -> Document:
        item = item_of(document, self.item)
        canvas = document.project.width, document.project.height
        framing = by_hand(item.framing, item.source.size(document), canvas)
        made = Framing(
            mode="hand",
            across=min(10.0, max(-10.0, framing.across + self.across / canvas[0])),
            down=min(10.0, max(-10.0, framing.down + self.down / canvas[1])),
            scale=min(50.0, max(0.01, framing.scale * self.scale)),
            turn=(framing.turn + self.turn + 180) % 360 - 180,
            mirrored=framing.mirrored,
        )
        return with_item(document, item.id, framing=made)
