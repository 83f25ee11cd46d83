"""Layers in the sky, and the keys that move them."""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from .base import Id, Model, Name, Number, new_id

Channel = Literal["position", "scale", "rotation", "opacity"]
Tie = Literal["start", "landing", "end"]
Arrangement = Literal["trail", "ahead", "along"]
Offset = Annotated[int, Field(ge=-1_000_000, le=1_000_000)]
LIMITS = {"scale": (0.0, 50.0), "opacity": (0.0, 1.0)}


class Easing(Model):
    """How a key goes over to the next: CSS `cubic-bezier(x1, y1, x2, y2)`, or staying put until then."""

    kind: Literal["bezier", "stay"] = "bezier"
    x1: Annotated[float, Field(ge=0, le=1)] = 0.0
    y1: Annotated[float, Field(ge=-5, le=5)] = 0.0
    x2: Annotated[float, Field(ge=0, le=1)] = 1.0
    y2: Annotated[float, Field(ge=-5, le=5)] = 1.0


class Key(Model):
    """A value at a frame counted from the layer's start, landing or end.

    Values: position x, y in project pixels from the place of rest; scale 1 = as filmed; rotation in degrees
    clockwise; opacity 0…1.
    """

    id: Id = Field(default_factory=new_id)
    channel: Channel
    tie: Tie
    offset: Offset
    value: Annotated[list[Number], Field(min_length=1, max_length=2)]
    easing: Easing = Easing()

    @model_validator(mode="after")
    def _fits_channel(self) -> "Key":
        wanted = 2 if self.channel == "position" else 1
        if len(self.value) != wanted:
            raise ValueError(f"a {self.channel} key has {wanted} number{'s' if wanted > 1 else ''}")
        low, high = LIMITS.get(self.channel, (-1e6, 1e6))
        if not low <= self.value[0] <= high:
            raise ValueError(f"{self.channel} goes from {low:g} to {high:g}")
        return self


class Finish(Model):
    """One step of restyling: which, and its settings (checked against the finish's own model)."""

    id: Id = Field(default_factory=new_id)
    kind: Annotated[str, Field(pattern=r"^[a-z][a-z-]{0,40}$")]
    settings: dict[str, Any] = {}
    visible: bool = True


class Pose(Model):
    """Where a cutout is in a channel that has no keys; as it stands here, at rest on its own place."""

    position: tuple[Number, Number] = (0.0, 0.0)
    scale: Annotated[float, Field(ge=0, le=50)] = 1.0
    rotation: Number = 0.0
    opacity: Annotated[float, Field(ge=0, le=1)] = 1.0

    def value(self, channel: Channel) -> list[float]:
        """A channel's value, as a key would have it."""
        value = getattr(self, channel)
        return list(value) if channel == "position" else [value]


class Layer(Model):
    """A cutout in the sky.

    `over` is the ground item whose footage shows the held frame. `until` is the free end of its span: the
    first frame after a trail (None: the end of the ground), or the first frame of one that waits ahead
    (None: the beginning); one that runs along needs a travelling matte and lasts as long as that. `fill` puts the
    hold's plate where the subject was lifted from. `anchor` is in source pixels of the hold (None: the middle of the
    matte).
    """

    id: Id = Field(default_factory=new_id)
    name: Name
    hold: Id
    over: Id
    arrangement: Arrangement = "trail"
    until: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    anchor: tuple[Number, Number] | None = None
    visible: bool = True
    locked: bool = False
    pose: Pose = Pose()
    keys: list[Key] = []
    finishes: list[Finish] = []
    fill: bool = False
