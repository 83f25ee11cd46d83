"""A recipe that somebody saved: a part of a piece, with what it is made from left open."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from .base import Colour, Id, Model, Name, Rate, new_id
from .behaviour import Behaviour
from .cue import Cue
from .document import Asset
from .layers import Layer
from .project import Side

Seconds = Annotated[float, Field(ge=-36_000, le=36_000)]


class Wanted(Model):
    """A moment it is made of: in which of its takes, from 0, and `after` how many seconds from the first one there.

    `at` says whether that is a frame worth holding, or the first or the last that the ground shows of the take. `wide`
    and `high` are the size of the frame it was saved with, to which the anchors of its cutouts refer.
    """

    id: Id = Field(default_factory=new_id)
    take: Annotated[int, Field(ge=0, le=11)] = 0
    after: Annotated[float, Field(ge=0, le=36_000)] = 0.0
    at: Literal["best", "first", "last"] = "best"
    wide: Annotated[int, Field(ge=1, le=32_768)]
    high: Annotated[int, Field(ge=1, le=32_768)]


class Standing(Model):
    """Everything stands at a moment, for so many seconds, and what is heard meanwhile."""

    id: Id = Field(default_factory=new_id)
    wanted: Id
    seconds: Annotated[float, Field(gt=0, le=3600)]
    heard: Literal["silent", "runs on", "echo", "muffled"] = "silent"
    bed: Literal["runs on", "silent", "echo", "muffled"] = "runs on"


class Lies(Model):
    """Where a layer with ends of its own lies: so many seconds from where a moment lands."""

    layer: Id
    wanted: Id
    since: Seconds
    until: Seconds


class Shaken(Model):
    """The jolt of the ground as it takes what lands: the piece that a moment is in, or the `next` one after it."""

    wanted: Id
    next: bool = False
    behaviour: Behaviour


class Asked(Model):
    """Words that are asked for when it is made: those of some layers, as they were."""

    layers: Annotated[list[Id], Field(min_length=1, max_length=200)]
    title: Name
    words: Annotated[str, Field(max_length=400)] = ""


class Saved(Model):
    """Layers with all that they wear and do, standstills and sounds, as they lay together, from one of our pieces.

    In `layers` the id of a hold is that of the moment it is made of, and so is that of the piece of the ground which a
    layer hangs over; or that of a standstill. `inks` are the four colours of the piece it was saved from, `clothes`
    says that in their place come those of the clothes. `assets` are the pictures, fonts, sounds and tables it is made
    with, by the hashes of their files.
    """

    id: Id = Field(default_factory=new_id)
    name: Name
    width: Side
    height: Side
    rate: Rate
    takes: Annotated[int, Field(ge=1, le=12)] = 1
    wanted: Annotated[list[Wanted], Field(min_length=1, max_length=60)]
    stands: Annotated[list[Standing], Field(max_length=60)] = []
    layers: Annotated[list[Layer], Field(min_length=1, max_length=200)]
    lies: Annotated[list[Lies], Field(max_length=200)] = []
    shakes: Annotated[list[Shaken], Field(max_length=40)] = []
    cues: Annotated[list[Cue], Field(max_length=200)] = []
    asks: Annotated[list[Asked], Field(max_length=20)] = []
    inks: Annotated[list[Colour], Field(min_length=4, max_length=4)]
    clothes: bool = False
    assets: Annotated[list[Asset], Field(max_length=40)] = []

    @model_validator(mode="after")
    def _holds_together(self) -> "Saved":
        wanted, layers = {w.id for w in self.wanted}, {x.id for x in self.layers}
        if max(w.take for w in self.wanted) >= self.takes:
            raise ValueError("one of its moments is in a take that it does not have")
        named = {s.wanted for s in self.stands} | {x.wanted for x in self.lies} | {x.wanted for x in self.shakes}
        if not named <= wanted:
            raise ValueError("something in it belongs to a moment that it does not have")
        if any(c.tie.layer is None for c in self.cues):
            raise ValueError("a sound of it is tied to none of its layers")
        owned = {x.layer for x in self.lies} | {c.tie.layer for c in self.cues}
        owned |= {id_ for a in self.asks for id_ in a.layers}
        owned |= {x.group for x in self.layers} - {None}
        if not owned <= layers:
            raise ValueError("something in it belongs to a layer that it does not have")
        places = wanted | {s.id for s in self.stands}
        over = {x.over for x in self.layers} | {t.item for x in self.layers for t in (x.starts, x.ends) if t}
        if not over - {None} <= places:
            raise ValueError("a layer of it hangs over what it does not have")
        if any((hold := getattr(x.source, "hold", None)) is not None and hold not in wanted for x in self.layers):
            raise ValueError("a layer of it shows a cutout that it does not ask for")
        return self
