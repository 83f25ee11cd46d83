"""Footage: a range of a shot's source frames, as filmed."""

from typing import ClassVar, Literal

import numpy as np

from ..model import Document
from ..model.source import On
from ..timeline.clock import conform, lasting
from .picture import Footage, Picture
from .stretch import StretchSource


class ShotSource(StretchSource):
    """The frames of the range, one after the other."""

    kind: Literal["shot"] = "shot"
    title: ClassVar[str] = "Footage"
    on: ClassVar[tuple[On, ...]] = ("ground",)
    still: ClassVar[bool] = False

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        return Footage(self.shot, frame, self.size(document))

    def lasts(self, document: Document) -> int:
        return lasting(document.shots[self.shot], self.first, self.past, document.project.rate)

    def frames(self, document: Document) -> np.ndarray:
        return conform(document.shots[self.shot], self.first, self.past, document.project.rate)

    def footage(self, document: Document) -> str | None:
        return self.shot

    def most(self, document: Document) -> int | None:
        return document.shots[self.shot].frames
