"""A clean plate that stands in the ground."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from ..errors import Refusal
from ..model import Document
from ..model.base import Id
from ..model.source import On, Source
from .picture import Picture, Stored


class PlateSource(Source):
    """One picture, by the hash of its file, for as long as frames first…past of its shot would last."""

    kind: Literal["plate"] = "plate"
    title: ClassVar[str] = "Plate"
    on: ClassVar[tuple[On, ...]] = ("ground",)

    shot: Id
    first: Annotated[int, Field(ge=0)]
    past: Annotated[int, Field(ge=1)]
    plate: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]

    @model_validator(mode="after")
    def _in_order(self) -> "PlateSource":
        if self.past <= self.first:
            raise ValueError("a plate is shown for at least one frame")
        return self

    def size(self, document: Document) -> tuple[int, int]:
        shot = document.shots[self.shot]
        return shot.width, shot.height

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        return Stored(self.plate, self.shot, self.first, self.size(document))

    def lasts(self, document: Document) -> int:
        return max(1, round((self.past - self.first) / document.shots[self.shot].rate * document.project.rate))

    def frames(self, document: Document) -> np.ndarray:
        return np.full(self.lasts(document), self.first, np.int64)

    def sound(self, document: Document) -> tuple[str, int] | None:
        return self.shot, self.first

    def called(self, document: Document) -> str:
        return document.shots[self.shot].name

    @property
    def range(self) -> tuple[int, int] | None:
        return self.first, self.past

    def trimmed(self, document: Document, first: int | None, past: int | None) -> "PlateSource":
        first = self.first if first is None else first
        past = self.past if past is None else past
        if not 0 <= first < past:
            raise Refusal("A plate is shown for at least one frame.")
        return self.model_copy(update={"first": first, "past": past})
