"""Keys, and how they go over to the next."""

from typing import Annotated, Literal

from pydantic import Field

from .base import Id, Model, Number, new_id
from .ties import Offset, Tie

Channel = Annotated[str, Field(pattern=r"^[a-z0-9_]+(\.[a-z0-9_]+)?$", max_length=80)]
"""What a key gives a value: a number of the pose by its name, or a finish's as "its id.the setting"."""


class Easing(Model):
    """How a key goes over to the next: CSS `cubic-bezier(x1, y1, x2, y2)`, or staying put until then."""

    kind: Literal["bezier", "stay"] = "bezier"
    x1: Annotated[float, Field(ge=0, le=1)] = 0.0
    y1: Annotated[float, Field(ge=-5, le=5)] = 0.0
    x2: Annotated[float, Field(ge=0, le=1)] = 1.0
    y2: Annotated[float, Field(ge=-5, le=5)] = 1.0


class Key(Model):
    """A value at a frame counted from the start, the landing or the end of what it belongs to.

    How many numbers a value has, and within which limits, is the channel's to say (`motion/channels.py`).
    """

    id: Id = Field(default_factory=new_id)
    channel: Channel
    tie: Tie
    offset: Offset
    value: Annotated[list[Number], Field(min_length=1, max_length=2)]
    easing: Easing = Easing()
