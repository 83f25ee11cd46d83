"""A project and its ground."""

from fractions import Fraction
from typing import Annotated, Literal

from pydantic import Field, model_validator

from .base import Colour, Id, Model, Name, Rate, new_id
from .layers import Finish, Layer


class GroundItem(Model):
    """A range of a shot's source frames, first…past (half-open), fitted to the canvas.

    A plate stands as long as that range would and shows the one picture, by the hash of its file.
    """

    id: Id = Field(default_factory=new_id)
    kind: Literal["shot", "plate"] = "shot"
    shot: Id
    first: Annotated[int, Field(ge=0)]
    past: Annotated[int, Field(ge=1)]
    fit: Literal["cover", "contain"] = "cover"
    finishes: list[Finish] = []
    plate: Annotated[str, Field(pattern="^[0-9a-f]{64}$")] | None = None

    @model_validator(mode="after")
    def _in_order(self) -> "GroundItem":
        if self.past <= self.first:
            raise ValueError("a piece of footage is at least one frame long")
        if (self.plate is None) != (self.kind == "shot"):
            raise ValueError("a plate, and nothing else, needs a picture")
        return self


Side = Annotated[int, Field(ge=16, le=4096, multiple_of=2)]


class Project(Model):
    """A piece of work: canvas, rate, ground in order, layers from the farthest to the nearest."""

    id: Id = Field(default_factory=new_id)
    name: Name
    width: Side = 1080
    height: Side = 1920
    rate: Rate = Fraction(30)
    background: Colour = "#000000"
    ground: list[GroundItem] = []
    layers: list[Layer] = []
    loop: tuple[int, int] | None = None
