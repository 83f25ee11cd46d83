"""Footage: a range of a shot's source frames, as filmed, at any speed."""

from fractions import Fraction
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ..errors import Refusal
from ..model import Document
from ..model.base import FrameNumber, FramePast
from ..model.kinds import HIDDEN
from ..model.source import Heard, On, Source
from ..timeline import clock
from .picture import Footage, Picture
from .stretch import StretchSource


class ShotSource(StretchSource):
    """The frames of the range, one after the other.

    What was cut in two keeps in `part` the range that it was cut from: it shows those of that range's project frames
    that fall within its own, so that the parts together are frame for frame what the whole was.
    """

    kind: Literal["shot"] = "shot"
    title: ClassVar[str] = "Footage"
    on: ClassVar[tuple[On, ...]] = ("ground",)
    still: ClassVar[bool] = False

    part: Annotated[tuple[FrameNumber, FramePast] | None, HIDDEN] = None
    speed: Annotated[
        int, Field(ge=10, le=800, title="Speed", json_schema_extra={"unit": "%", "step": 10, "keyable": False})
    ] = 100
    heard: Annotated[
        Literal["kept", "pitched", "off"],
        Field(
            title="Sound",
            json_schema_extra={
                "words": {
                    "kept": {"title": "In pitch", "hint": "As fast as the picture, as high as it was"},
                    "pitched": {"title": "With pitch", "hint": "Faster is higher, as with a tape"},
                    "off": {"title": "Off", "hint": "Silent"},
                },
                "keyable": False,
            },
        ),
    ] = "kept"

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        return Footage(self.shot, frame, self.size(document))

    def _rate(self, document: Document) -> Fraction:
        """Project frames for each second of the footage."""
        rate = document.project.rate
        return rate if self.speed == 100 else rate * 100 / self.speed

    def lasts(self, document: Document) -> int:
        shot, rate = document.shots[self.shot], self._rate(document)
        if self.part is None:
            return clock.lasting(shot, self.first, self.past, rate)
        first, past = (clock.before(shot, *self.part, rate, f) for f in (self.first, self.past))
        return max(1, past - first)

    def frames(self, document: Document) -> np.ndarray:
        shot, rate = document.shots[self.shot], self._rate(document)
        if self.part is None:
            return clock.conform(shot, self.first, self.past, rate)
        first = clock.before(shot, *self.part, rate, self.first)
        table = clock.conform(shot, *self.part, rate)
        return table[first : first + self.lasts(document)]

    def beyond_end(self, document: Document, by: int) -> int:
        shot, rate = document.shots[self.shot], self._rate(document)
        since = self.part[0] if self.part else self.first
        table = clock.conform(shot, since, shot.frames, rate)
        end = clock.before(shot, since, shot.frames, rate, self.first) + self.lasts(document)
        return int(table[min(end + by, len(table) - 1)])

    def footage(self, document: Document) -> str | None:
        return self.shot

    def sound(self, document: Document) -> Heard | None:
        if self.heard == "off":
            return None
        return Heard(self.shot, self.first, Fraction(self.speed, 100), self.heard == "pitched")

    def most(self, document: Document) -> int | None:
        return document.shots[self.shot].frames

    def trimmed(self, document: Document, first: int | None, past: int | None) -> "ShotSource":
        made = super().trimmed(document, first, past)
        assert isinstance(made, ShotSource)
        within = made.part is not None and made.part[0] <= made.first and made.past <= made.part[1]
        return made if within else made.model_copy(update={"part": None})

    def split(self, document: Document, at: int) -> tuple[Source, Source]:
        table = self.frames(document)
        if not 0 < at < len(table) or table[at] == table[0]:
            raise Refusal(
                f"{self.called(document)} cannot be cut there: one side would have no frame of its own. Choose another."
            )
        cut, part = int(table[at]), self.part or (self.first, min(self.past, document.shots[self.shot].frames))
        return self.model_copy(update={"past": cut, "part": part}), self.model_copy(update={"first": cut, "part": part})

    def joined(self, other: Source) -> Source | None:
        if not isinstance(other, ShotSource) or self.past != other.first or self.part is None:
            return None
        whole = self.model_copy(update={"past": other.past})
        if other != whole.model_copy(update={"first": other.first}):
            return None
        return whole.model_copy(update={"part": None}) if (whole.first, whole.past) == self.part else whole

    def slipped(self, document: Document, by: int) -> Source:
        shot = document.shots[self.shot]
        past = min(self.past, shot.frames)
        if not (self.first + by >= 0 and past + by <= shot.frames):
            raise Refusal(
                f"{shot.name} has frames 0 to {shot.frames - 1}: it can be slipped by {-self.first} to"
                f" {shot.frames - past} frames there."
            )
        part = None
        if self.part is not None and self.part[0] + by >= 0 and self.part[1] + by <= shot.frames:
            part = self.part[0] + by, self.part[1] + by
        return self.model_copy(update={"first": self.first + by, "past": past + by, "part": part})

    def changed(self, before: Source, name: str) -> str:
        if isinstance(before, ShotSource) and before.speed != self.speed:
            return f"play {name} at {self.speed} %"
        if isinstance(before, ShotSource) and before.heard != self.heard:
            return f"change the sound of {name}"
        return f"exchange {name}" if isinstance(before, ShotSource) and before.shot != self.shot else f"trim {name}"
