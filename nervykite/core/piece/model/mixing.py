"""Mixing: a shot's own sound, the three groups of a piece, and the piece as a whole."""

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator

from .base import Model

Decibels = Annotated[float, Field(ge=-60, le=24)]
Part = Literal["footage", "bed", "hits"]
"""What a piece's sound is mixed of: the footage's own, with voices; music and air; and hits."""
PARTS: tuple[Part, ...] = ("footage", "bed", "hits")


class LinePoint(Model):
    """A corner of a line of loudness: at a place of the sound's own, so many decibels; straight between two."""

    at: Annotated[float, Field(ge=0, le=1_000_000)]
    gain: Decibels


Line = Annotated[list[LinePoint], Field(max_length=500)]


def in_order(line: list[LinePoint]) -> None:
    """Raises ValueError if two corners lie on each other, or a later one before an earlier one."""
    if any(b.at <= a.at for a, b in pairwise(line)):
        raise ValueError("the corners of a line of loudness follow one another")


class Loudness(Model):
    """The loudness of a ground item: as a whole, along a `line` over source frames, and at its ends, in frames."""

    gain: Decibels = 0.0
    muted: bool = False
    fade_in: Annotated[int, Field(ge=0, le=10_000)] = 0
    fade_out: Annotated[int, Field(ge=0, le=10_000)] = 0
    line: Line = []

    @model_validator(mode="after")
    def _in_order(self) -> "Loudness":
        in_order(self.line)
        return self


class Fader(Model):
    """The fader of a part of the mix."""

    gain: Decibels = 0.0
    muted: bool = False


class Duck(Model):
    """By how many decibels the bed steps back under voices and hits, and within how many seconds it goes and comes."""

    depth: Annotated[float, Field(ge=0, le=40)] = 8.0
    attack: Annotated[float, Field(ge=0.01, le=5)] = 0.15
    release: Annotated[float, Field(ge=0.01, le=5)] = 0.6
    voice: bool = True
    hits: bool = True


class Mix(Model):
    """The mix of a piece: its parts, and to how many LUFS (None: as it comes) and below how many dBTP."""

    footage: Fader = Fader()
    bed: Fader = Fader()
    hits: Fader = Fader()
    duck: Duck = Duck()
    loudness: Annotated[float, Field(ge=-40, le=-5)] | None = -14.0
    peak: Annotated[float, Field(ge=-12, le=0)] = -1.0

    def fader(self, part: Part) -> Fader:
        """The fader of a part."""
        return {"footage": self.footage, "bed": self.bed, "hits": self.hits}[part]
