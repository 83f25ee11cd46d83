"""How the camera of a take went, and what is pinned to that."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from .base import FrameNumber, Id, Model, Name, new_id

DOUBTFUL = 0.35
"""A confidence below which a frame of a track is to be looked at."""
Matrix = Annotated[list[float], Field(min_length=9, max_length=9)]
"""A map (3, 3), rows first."""


class Track(Model):
    """The way of a camera over the frames of a shot from `first` on, seen from frame `ref`.

    `matrices` take each frame's pixels, counted from the middle of the first one, to those of frame `ref`; `confidence`
    says how much each is to be trusted, 0…1; `model` what they are made of.
    """

    id: Id = Field(default_factory=new_id)
    name: Name = "Camera"
    shot: Id
    ref: FrameNumber
    first: FrameNumber = 0
    model: Literal["similarity", "affine", "homography"] = "homography"
    matrices: Annotated[list[Matrix], Field(min_length=1, max_length=20_000)]
    confidence: Annotated[list[Annotated[float, Field(ge=0, le=1)]], Field(max_length=20_000)]

    @model_validator(mode="after")
    def _is_whole(self) -> "Track":
        if len(self.confidence) != len(self.matrices):
            raise ValueError("a track has a confidence for each of its frames")
        if not self.first <= self.ref < self.first + len(self.matrices):
            raise ValueError("the frame that a track is seen from is one of its own")
        return self

    @property
    def doubtful(self) -> list[int]:
        """The frames that are to be looked at."""
        return [self.first + n for n, c in enumerate(self.confidence) if c < DOUBTFUL]

    @property
    def past(self) -> int:
        """The first frame after those that it knows."""
        return self.first + len(self.matrices)


class Pin(Model):
    """What fixes a layer to a track: it lies on the scene as it does at `frame` of the shot.

    It goes along with that in its *place* alone, with its size and *turn* too, or in *full* perspective.
    """

    track: Id
    frame: FrameNumber
    how: Literal["place", "turn", "full"] = "full"
