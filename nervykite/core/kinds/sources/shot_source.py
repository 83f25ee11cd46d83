"""Footage: a range of a shot's source frames, as filmed, at any speed."""

from fractions import Fraction
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Document
from ...piece.model.base import Id
from ...piece.model.source import Heard, On, Source
from ...piece.timeline import clock
from .cutout import hole
from .picture import Footage, Mended, Picture
from .played import PlayedSource


class ShotSource(PlayedSource):
    """The frames of the range with their sound, as filmed, or `emptied` of the subject of a hold of theirs.

    What is put in its place, where the hold's matte travels, is the hold's plate in that frame's light.
    """

    kind: Literal["shot"] = "shot"
    title: ClassVar[str] = "Footage"
    on: ClassVar[tuple[On, ...]] = ("ground",)
    still: ClassVar[bool] = False
    filmed: ClassVar[bool] = True

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
    emptied: Annotated[Id | None, Field(title="Emptied of", json_schema_extra={"format": "hold", "keyable": False})] = (
        None
    )

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        filmed = Footage(self.shot, frame, self.size(document))
        hold = document.holds.get(self.emptied or "")
        mend = None if hold is None else hole(document, hold, frame)
        return filmed if mend is None else Mended(filmed, mend)

    def depends(self, document: Document) -> tuple[object, ...]:
        return (document.holds.get(self.emptied),) if self.emptied else ()

    @property
    def needs(self) -> tuple[str, ...]:
        return (self.emptied,) if self.emptied else ()

    def checked(self, document: Document) -> Source:
        if self.emptied is None:
            return self
        hold = document.holds.get(self.emptied)
        if hold is None or hold.shot != self.shot:
            raise Refusal("Footage can be emptied of the subject of its own holds only. Choose one of them.")
        if hold.plate is None:
            raise Refusal(f"There is no plate behind {hold.name} yet. Build one in Carve first.")
        if not hold.matte.carved:
            raise Refusal(f"{hold.name} is not carved yet: there is nobody to take out.")
        return self

    def beyond_end(self, document: Document, by: int) -> int:
        shot, rate = document.shots[self.shot], self.rate(document)
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
        if isinstance(before, ShotSource) and before.heard != self.heard:
            return f"change the sound of {name}"
        if isinstance(before, ShotSource) and before.emptied != self.emptied:
            return f"empty {name} of its subject" if self.emptied else f"show the subject of {name} again"
        return super().changed(before, name)
