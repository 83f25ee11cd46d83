"""A clean plate that stands in the ground."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...piece.model import Document
from ...piece.model.kinds import HIDDEN
from ...piece.model.source import On
from .picture import Picture, Stored
from .stretch import StretchSource


class PlateSource(StretchSource):
    """One picture, by the hash of its file, for as long as the frames of its range would last."""

    kind: Literal["plate"] = "plate"
    title: ClassVar[str] = "Plate"
    on: ClassVar[tuple[On, ...]] = ("ground",)

    plate: Annotated[str, Field(pattern="^[0-9a-f]{64}$"), HIDDEN]

    def tag(self) -> str:
        return "Plate"

    @property
    def stored(self) -> tuple[str, ...]:
        return (self.plate,)

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        return Stored(self.plate, self.shot, self.first, self.size(document))

    def lasts(self, document: Document) -> int:
        return max(1, round((self.past - self.first) / document.shots[self.shot].rate * document.project.rate))

    def frames(self, document: Document) -> np.ndarray:
        return np.full(self.lasts(document), self.first, np.int64)
