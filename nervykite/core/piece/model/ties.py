"""The ties of things, so that they move with what they are tied to: never to an absolute frame."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from .base import Id, Model

Tie = Literal["start", "landing", "end", "moment", "cut"]
"""What keys count from: the ends of what they belong to, its landing, a moment of its footage, or the frame at which a
ground item begins."""
Offset = Annotated[int, Field(ge=-1_000_000, le=1_000_000)]
"""Frames from there."""


class Tied(Model):
    """A free end of a span: so many frames from the layer's landing, a ground item's start or end, or the piece's."""

    to: Literal["landing", "item start", "item end", "piece start", "piece end"]
    item: Id | None = None
    offset: Offset = 0

    @model_validator(mode="after")
    def _has_what_it_needs(self) -> "Tied":
        if self.to.startswith("item") != (self.item is not None):
            raise ValueError("a tie to a ground item, and no other, names the item")
        return self
