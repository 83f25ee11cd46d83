"""A matte: ordered pieces, and what happens to their sum."""

from typing import Annotated, Literal

from pydantic import Field

from .base import FrameNumber, FramePast, Id, Model, Name, Number, new_id

Combine = Literal["add", "cut away", "overlap"]
ShapeKind = Literal["pen", "oval", "box", "lasso", "cling"]
FoundKind = Literal["marks", "mover", "person", "difference", "picture", "carried"]
Soft = Annotated[float, Field(ge=0, le=120)]
Growth = Annotated[float, Field(ge=-60, le=60)]


class Node(Model):
    """A point of a pen path, in source pixels, with the tangents that arrive and leave, relative to it."""

    x: Number
    y: Number
    arrive: tuple[Number, Number] = (0.0, 0.0)
    leave: tuple[Number, Number] = (0.0, 0.0)
    smooth: bool = False


class Raster(Model):
    """Stored alpha: a grey picture of the frame's size by the hash of its file, and the box that it fills (px)."""

    file: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
    box: tuple[int, int, int, int]


class Mark(Model):
    """A rough stroke in source pixels, and how wide it is."""

    points: Annotated[list[tuple[Number, Number]], Field(min_length=1, max_length=4000)]
    width: Annotated[float, Field(gt=0, le=2000)]


class Part(Model):
    """The part that all pieces share: how they join what came before, and what happens to their edge (px)."""

    id: Id = Field(default_factory=new_id)
    name: Name = "Piece"
    combine: Combine = "add"
    invert: bool = False
    opacity: Annotated[float, Field(ge=0, le=1)] = 1.0
    visible: bool = True
    grow: Growth = 0.0
    soften_in: Soft = 0.0
    soften_out: Soft = 0.0


class Shape(Part):
    """A closed path, whatever it was drawn with: it can be edited point by point afterwards."""

    kind: ShapeKind = "pen"
    nodes: Annotated[list[Node], Field(min_length=2, max_length=4000)]


MOST_MARKS = 400
"""How many marks a piece has at most, of each side."""


class Found(Part):
    """Alpha that was found in the picture: by marks, by a pick, carried from another frame, or read from a file.

    `base` is what a pick found before marks corrected it; `doubt` shows where the edge is a guess.
    """

    kind: FoundKind
    raster: Raster
    base: Raster | None = None
    doubt: Raster | None = None
    keep: Annotated[list[Mark], Field(max_length=MOST_MARKS)] = []
    drop: Annotated[list[Mark], Field(max_length=MOST_MARKS)] = []


Piece = Annotated[Shape | Found, Field(discriminator="kind")]


class Matte(Model):
    """Pieces in order; then fine edge, invert, smooth, grow, soften the whole (px); and the colours at its edge.

    `fringe` is how much of the old background is taken out of the edge's colours, 0…1.
    """

    pieces: list[Piece] = []
    invert: bool = False
    grow: Growth = 0.0
    soften_in: Soft = 0.0
    soften_out: Soft = 0.0
    smooth: Annotated[float, Field(ge=0, le=40)] = 0.0
    fine_edge: Annotated[float, Field(ge=0, le=40)] = 0.0
    fringe: Annotated[float, Field(ge=0, le=1)] = 0.0

    @property
    def carved(self) -> bool:
        """True if there is anything to see of it."""
        return self.invert or any(p.visible for p in self.pieces)


DOUBTFUL = 0.75
"""From here on a carried matte is shown as doubtful."""


class Stop(Model):
    """A travelling matte at one frame: fixed by hand, or carried there; a locked one is never carried over.

    `doubt` is how unsure carrying was, 0…1; a stale one was carried before a frame beside it was corrected.
    """

    frame: FrameNumber
    pieces: list[Piece]
    carried: bool = True
    locked: bool = False
    doubt: Annotated[float, Field(ge=0, le=1)] = 0.0
    stale: bool = False

    @property
    def state(self) -> Literal["locked", "fixed", "stale", "doubtful", "carried"]:
        """The state that a person should know it is in, in a word."""
        if self.locked:
            return "locked"
        if not self.carried:
            return "fixed"
        if self.stale:
            return "stale"
        return "doubtful" if self.doubt >= DOUBTFUL else "carried"


class Travel(Model):
    """The range of source frames, half-open, through which a matte travels, and where it is known by now."""

    first: FrameNumber
    past: FramePast
    stops: list[Stop] = []

    def at(self, frame: int) -> Stop | None:
        """The stop at a frame."""
        return next((s for s in self.stops if s.frame == frame), None)

    def corrected(self, frame: int) -> "Travel":
        """After the matte of a frame was corrected: what was carried between it and the nearest fixed ones is stale."""
        fixed = [s.frame for s in self.stops if s.locked or not s.carried]
        low = max((f for f in fixed if f < frame), default=self.first - 1)
        high = min((f for f in fixed if f > frame), default=self.past)

        def after(stop: Stop) -> Stop:
            beside = low < stop.frame < high and stop.frame != frame
            return stop.model_copy(update={"stale": True}) if beside and stop.carried and not stop.locked else stop

        return self.model_copy(update={"stops": [after(s) for s in self.stops]})
