"""Shots: imported files, and the moments that are flagged in them."""

from collections.abc import Sequence
from fractions import Fraction
from itertools import islice
from operator import lt
from typing import Annotated

from pydantic import Field, model_validator

from .base import MOST_FRAMES, FrameNumber, Id, Model, Name, Rate, new_id

MOST_SECONDS = 6 * 3600
"""No shot lasts longer."""


def take_of(frame: int, frames: int, cuts: Sequence[int]) -> range:
    """The frames of footage of so many frames that belong to the same take as one of them."""
    return range(
        max((c for c in cuts if c <= frame), default=0),
        min((c for c in cuts if c > frame), default=frames),
    )


class Moment(Model):
    """A flagged frame of a shot; its tag is a colour by which a person tells it from others."""

    id: Id = Field(default_factory=new_id)
    frame: FrameNumber
    name: Name = "Moment"
    tag: Annotated[Name, Field(max_length=24)] | None = None


class Shot(Model):
    """An imported file, as its frames came out of the decoder.

    `ticks` are the frames' times in units of `tick` seconds (a fraction), counted from the first; its last
    entry is the end of the last frame, so it is one longer than the number of frames. `cuts` are the frames at
    which another take begins, if the file holds more than one.
    """

    id: Id = Field(default_factory=new_id)
    name: Name
    file: str
    width: Annotated[int, Field(ge=1, le=8192)]
    height: Annotated[int, Field(ge=1, le=8192)]
    rate: Rate
    variable: bool
    tick: str
    ticks: Annotated[list[Annotated[int, Field(ge=0, lt=1 << 62)]], Field(min_length=2, max_length=MOST_FRAMES)]
    cuts: list[int] = []
    colour: str = "BT.709"
    depth: int = 8
    rotation: int = 0
    has_sound: bool = False
    sound_file: str | None = None
    proxy_file: str
    note: str | None = None
    moments: list[Moment] = []

    @model_validator(mode="after")
    def _runs(self) -> "Shot":
        try:
            tick = Fraction(self.tick)
        except (ValueError, ZeroDivisionError):
            tick = Fraction(0)
        if tick <= 0:
            raise ValueError("a tick is a fraction of a second, like 1/15360")
        rise = all(map(lt, self.ticks, islice(self.ticks, 1, None)))
        if self.ticks[0] != 0 or not rise or self.ticks[-1] * tick > MOST_SECONDS:
            raise ValueError("the times of frames begin at 0 and rise, within six hours")
        if any(not 0 < c < self.frames for c in self.cuts):
            raise ValueError("takes begin at frames that there are")
        return self

    @property
    def frames(self) -> int:
        """The number of frames there are."""
        return len(self.ticks) - 1

    def take(self, frame: int) -> range:
        """The frames of the same take as one of them, between two cuts."""
        return take_of(frame, self.frames, self.cuts)
