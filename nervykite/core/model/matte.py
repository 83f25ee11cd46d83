"""A matte: ordered pieces, and what happens to their sum."""

from typing import Annotated, Literal

from pydantic import Field

from .base import Id, Model, Name, Number, new_id

Combine = Literal["add", "cut away", "overlap"]


class Node(Model):
    """A point of a pen path, in source pixels, with the tangents that arrive and leave, relative to it."""

    x: Number
    y: Number
    arrive: tuple[Number, Number] = (0.0, 0.0)
    leave: tuple[Number, Number] = (0.0, 0.0)
    smooth: bool = False


class Piece(Model):
    """One part of a matte: a closed pen path and how it joins what came before it."""

    id: Id = Field(default_factory=new_id)
    kind: Literal["pen"] = "pen"
    name: Name = "Pen"
    combine: Combine = "add"
    nodes: Annotated[list[Node], Field(min_length=2, max_length=4000)]
    invert: bool = False
    opacity: Annotated[float, Field(ge=0, le=1)] = 1.0
    visible: bool = True


class Matte(Model):
    """Pieces in order; then invert, smooth, grow (px), soften (px) the whole."""

    pieces: list[Piece] = []
    invert: bool = False
    grow: Annotated[float, Field(ge=-60, le=60)] = 0.0
    soften: Annotated[float, Field(ge=0, le=120)] = 0.0
