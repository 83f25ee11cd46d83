"""The part that stretches of the ground share that are measured in frames of a shot."""

from typing import Annotated

from pydantic import model_validator

from ...common.errors import Refusal
from ...piece.model import Document
from ...piece.model.base import FrameNumber, FramePast, Id
from ...piece.model.kinds import HIDDEN
from ...piece.model.source import Heard, Source


class StretchSource(Source):
    """Source frames first…past (half-open) of a shot: they are seen, or say how long something else is.

    Its sound is the shot's, from the first of them on.
    """

    shot: Annotated[Id, HIDDEN]
    first: Annotated[FrameNumber, HIDDEN]
    past: Annotated[FramePast, HIDDEN]

    @model_validator(mode="after")
    def _in_order(self) -> "StretchSource":
        if self.past <= self.first:
            raise ValueError("a piece of the ground is at least one frame long")
        return self

    def size(self, document: Document) -> tuple[int, int]:
        shot = document.shots[self.shot]
        return shot.width, shot.height

    def sound(self, document: Document) -> Heard | None:
        return Heard(self.shot, self.first)

    def called(self, document: Document) -> str:
        return document.shots[self.shot].name

    @property
    def range(self) -> tuple[int, int] | None:
        return self.first, self.past

    def most(self, document: Document) -> int | None:
        """The frame up to which it can be trimmed, half-open; None if that is open."""
        return None

    def trimmed(self, document: Document, first: int | None, past: int | None) -> "StretchSource":
        first = self.first if first is None else first
        past = self.past if past is None else past
        most = self.most(document)
        if not 0 <= first < past or (most is not None and past > most):
            has = "" if most is None else f"{self.called(document)} has frames 0 to {most - 1}; "
            sentence = f"{has}keep at least one of them." if has else "Keep at least one frame of it."
            raise Refusal(sentence)
        return self.model_copy(update={"first": first, "past": past})
