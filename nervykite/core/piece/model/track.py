"""The track of a take's camera, or of a patch of its picture; what is pinned to that, and what is steadied by it."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from .base import FrameNumber, Id, Model, Name, new_id
from .framing import Box

DOUBTFUL = 0.35
"""A confidence below which a frame of a track is to be looked at."""
Matrix = Annotated[list[float], Field(min_length=9, max_length=9)]
"""A map (3, 3), rows first."""
Place = tuple[Annotated[float, Field(ge=-1e5, le=1e5)], Annotated[float, Field(ge=-1e5, le=1e5)]]
"""Across and down, in pixels of a shot."""


class Fix(Model):
    """A frame of a track put right by hand: what was followed belongs so far, in the shot's pixels, from where it was
    found.
    """

    frame: FrameNumber
    by: Place


class Track(Model):
    """The way of a camera, or of a patch, over the frames of a shot from `first` on, seen from frame `ref`.

    `matrices` take each frame's pixels, counted from the middle of the first one, to those of frame `ref`; `confidence`
    says how much each is to be trusted, 0…1; `model` what they are made of. `touched` is the place in frame `ref` that
    was chosen to be stuck to; `patch` the box there that was followed, if it was not the camera. `fixes` come on top.
    """

    id: Id = Field(default_factory=new_id)
    name: Name = "Camera"
    shot: Id
    ref: FrameNumber
    first: FrameNumber = 0
    model: Literal["similarity", "turn", "affine", "homography"] = "homography"
    matrices: Annotated[list[Matrix], Field(min_length=1, max_length=20_000)]
    confidence: Annotated[list[Annotated[float, Field(ge=0, le=1)]], Field(max_length=20_000)]
    touched: Place | None = None
    patch: Box | None = None
    fixes: Annotated[list[Fix], Field(max_length=2000)] = []

    @model_validator(mode="after")
    def _is_whole(self) -> "Track":
        if len(self.confidence) != len(self.matrices):
            raise ValueError("a track has a confidence for each of its frames")
        if not self.first <= self.ref < self.first + len(self.matrices):
            raise ValueError("the frame that a track is seen from is one of its own")
        return self

    @property
    def doubtful(self) -> list[int]:
        """The frames that are to be looked at: none that was put right by hand."""
        right = {f.frame for f in self.fixes}
        return [self.first + n for n, c in enumerate(self.confidence) if c < DOUBTFUL and self.first + n not in right]

    @property
    def past(self) -> int:
        """The first frame after those that it knows."""
        return self.first + len(self.matrices)


class Pin(Model):
    """The pin that fixes a layer to a track: it lies on the scene as it does at `frame` of the shot.

    It goes along with that in its *place* alone, with its size and *turn* too, or in *full* perspective; or it stays
    where it is and has the camera's *shake*.
    """

    track: Id
    frame: FrameNumber
    how: Literal["place", "turn", "full", "shake"] = "full"


class Steady(Model):
    """The steadying of a shot by its track: it stands *still* as in the frame that is seen from, or goes *smooth*ly.

    `calm`: seconds over which a smooth way is evened out; `strength`: how much of what it would take is taken, 0…1;
    `fills`: whether it is made larger, so that the frame's edge does not show.
    """

    track: Id
    how: Literal["still", "smooth"] = "smooth"
    calm: Annotated[float, Field(ge=0.1, le=4)] = 0.5
    strength: Annotated[float, Field(ge=0, le=1)] = 1.0
    fills: bool = True
