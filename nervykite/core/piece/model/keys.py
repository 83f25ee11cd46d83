"""Keys, and how they go over to the next."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from .base import Id, Model, Number, new_id
from .ties import Offset, Tie

Channel = Annotated[str, Field(pattern=r"^[a-z0-9_]+(\.[a-z0-9_]+)?$", max_length=80)]
"""What a key gives a value: a number of the pose by its name, the framing's as "framing.scale", or that of a finish or
a behaviour as "its id.the setting"."""


class Bezier(Model):
    """CSS `cubic-bezier(x1, y1, x2, y2)`; as it stands, `linear`."""

    kind: Literal["bezier"] = "bezier"
    x1: Annotated[float, Field(ge=0, le=1)] = 0.0
    y1: Annotated[float, Field(ge=-5, le=5)] = 0.0
    x2: Annotated[float, Field(ge=0, le=1)] = 1.0
    y2: Annotated[float, Field(ge=-5, le=5)] = 1.0


class Stay(Model):
    """Staying put until the next key: CSS `step-end`."""

    kind: Literal["stay"] = "stay"


class Steps(Model):
    """CSS `steps(count, jump-…)`: in equal steps, the first or the last of which may be left out, or none or both."""

    kind: Literal["steps"] = "steps"
    count: Annotated[int, Field(ge=1, le=1000)] = 4
    jump: Literal["start", "end", "none", "both"] = "end"

    @model_validator(mode="after")
    def _has_a_step(self) -> "Steps":
        if self.jump == "none" and self.count < 2:
            raise ValueError("without a jump at either end there are at least two steps")
        return self


class Spring(Model):
    """A weight on a spring, let go at the key and drawn to the next one: N/m, N·s/m, kg."""

    kind: Literal["spring"] = "spring"
    stiffness: Annotated[float, Field(ge=1, le=5000)] = 170.0
    damping: Annotated[float, Field(ge=0, le=500)] = 14.0
    mass: Annotated[float, Field(ge=0.05, le=50)] = 1.0


Easing = Annotated[Bezier | Stay | Steps | Spring, Field(discriminator="kind")]
"""How a key goes over to the next."""

Bend = tuple[Number, Number, Number, Number]
"""The handles of a key on a motion path, in project pixels from the key: x, y as it arrives, and as it leaves."""


class Key(Model):
    """A value at a frame counted from the start, the landing or the end of what it belongs to, or from something else.

    How many numbers a value has, and within which limits, is the channel's to say (`motion/channels.py`). `to` names
    the moment or the ground item from whose frame it counts, where it is tied to one of these. `bend` are the handles
    of a position's path there; without them the path is straight. `made` says that it came with the move on that side,
    and goes with it.
    """

    id: Id = Field(default_factory=new_id)
    channel: Channel
    tie: Tie
    to: Id | None = None
    offset: Offset
    value: Annotated[list[Number], Field(min_length=1, max_length=3)]
    easing: Easing = Bezier()
    bend: Bend | None = None
    made: Literal["in", "out"] | None = None

    @model_validator(mode="after")
    def _names_what_it_is_tied_to(self) -> "Key":
        if (self.tie in ("moment", "cut")) != (self.to is not None):
            raise ValueError("a key that is tied to a moment or a cut, and no other, names it")
        return self
