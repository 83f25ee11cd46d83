"""Footage: a range of a shot's source frames, as filmed."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from ..errors import Refusal
from ..model import Document
from ..model.base import Id
from ..model.source import On, Source
from ..timeline.clock import conform, lasting
from .picture import Footage, Picture


class ShotSource(Source):
    """Source frames first…past (half-open) of a shot."""

    kind: Literal["shot"] = "shot"
    title: ClassVar[str] = "Footage"
    on: ClassVar[tuple[On, ...]] = ("ground",)
    still: ClassVar[bool] = False

    shot: Id
    first: Annotated[int, Field(ge=0)]
    past: Annotated[int, Field(ge=1)]

    @model_validator(mode="after")
    def _in_order(self) -> "ShotSource":
        if self.past <= self.first:
            raise ValueError("a piece of footage is at least one frame long")
        return self

    def size(self, document: Document) -> tuple[int, int]:
        shot = document.shots[self.shot]
        return shot.width, shot.height

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        return Footage(self.shot, frame, self.size(document))

    def lasts(self, document: Document) -> int:
        return lasting(document.shots[self.shot], self.first, self.past, document.project.rate)

    def frames(self, document: Document) -> np.ndarray:
        return conform(document.shots[self.shot], self.first, self.past, document.project.rate)

    def footage(self, document: Document) -> str | None:
        return self.shot

    def sound(self, document: Document) -> tuple[str, int] | None:
        return self.shot, self.first

    def called(self, document: Document) -> str:
        return document.shots[self.shot].name

    @property
    def range(self) -> tuple[int, int] | None:
        return self.first, self.past

    def trimmed(self, document: Document, first: int | None, past: int | None) -> "ShotSource":
        shot = document.shots[self.shot]
        first = self.first if first is None else first
        past = self.past if past is None else past
        if not 0 <= first < past <= shot.frames:
            raise Refusal(f"{shot.name} has frames 0 to {shot.frames - 1}; keep at least one of them.")
        return self.model_copy(update={"first": first, "past": past})
