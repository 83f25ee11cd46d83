"""The part that all share that plays footage, be it in the ground or in the sky."""

from fractions import Fraction
from typing import Annotated

import numpy as np
from pydantic import Field

from ...piece.model import Document
from ...piece.model.base import FrameNumber, FramePast
from ...piece.model.kinds import HIDDEN
from ...piece.model.source import Source
from ...piece.timeline import clock
from .stretch import StretchSource


class PlayedSource(StretchSource):
    """The frames of the range, one after the other, at any speed.

    What was cut in two keeps in `part` the range that it was cut from: it shows those of that range's project frames
    that fall within its own, so that the parts together are frame for frame what the whole was.
    """

    part: Annotated[tuple[FrameNumber, FramePast] | None, HIDDEN] = None
    speed: Annotated[
        int, Field(ge=10, le=800, title="Speed", json_schema_extra={"unit": "%", "step": 10, "keyable": False})
    ] = 100

    def tag(self) -> str:
        return "" if self.speed == 100 else f"{self.speed:g} %"

    def rate(self, document: Document) -> Fraction:
        """Project frames for each second of the footage."""
        rate = document.project.rate
        return rate if self.speed == 100 else rate * 100 / self.speed

    def lasts(self, document: Document) -> int:
        shot, rate = document.shots[self.shot], self.rate(document)
        if self.part is None:
            return clock.lasting(shot, self.first, self.past, rate)
        first, past = (clock.before(shot, *self.part, rate, f) for f in (self.first, self.past))
        return max(1, past - first)

    def frames(self, document: Document) -> np.ndarray:
        shot, rate = document.shots[self.shot], self.rate(document)
        if self.part is None:
            return clock.conform(shot, self.first, self.past, rate)
        first = clock.before(shot, *self.part, rate, self.first)
        table = clock.conform(shot, *self.part, rate)
        # Played very fast, a part may have no frame of the whole's: it shows the last one before it.
        first = min(first, len(table) - 1)
        return table[first : first + self.lasts(document)]

    def most(self, document: Document) -> int | None:
        return document.shots[self.shot].frames

    def trimmed(self, document: Document, first: int | None, past: int | None) -> "PlayedSource":
        made = super().trimmed(document, first, past)
        assert isinstance(made, PlayedSource)
        within = made.part is not None and made.part[0] <= made.first and made.past <= made.part[1]
        return made if within else made.model_copy(update={"part": None})

    def changed(self, before: Source, name: str) -> str:
        if isinstance(before, PlayedSource) and before.speed != self.speed:
            return f"play {name} at {self.speed} %"
        return f"exchange {name}" if isinstance(before, PlayedSource) and before.shot != self.shot else f"trim {name}"
