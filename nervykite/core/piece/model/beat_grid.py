"""The beats of a sound."""

from itertools import pairwise
from typing import Annotated

from pydantic import Field, model_validator

from .base import Model

Second = Annotated[float, Field(ge=0, le=100_000)]
Seconds = Annotated[list[Second], Field(max_length=20_000)]


class Counted(Model):
    """When a sound's beats fall, in its own seconds; every `bar` of them, counted from number `first`, begins a bar.

    `accents` are where something begins that is stronger than what is around it.
    """

    beats: Seconds
    first: Annotated[int, Field(ge=0, le=11)] = 0
    bar: Annotated[int, Field(ge=1, le=12)] = 4
    accents: Seconds = []

    @model_validator(mode="after")
    def _in_order(self) -> "Counted":
        if any(b <= a for times in (self.beats, self.accents) for a, b in pairwise(times)):
            raise ValueError("beats follow one another")
        return self

    @property
    def bpm(self) -> float:
        """The number of there are in a minute, where they lie as they mostly do; 0 without any."""
        gaps = sorted(b - a for a, b in pairwise(self.beats))
        return 60 / gaps[len(gaps) // 2] if gaps else 0.0
