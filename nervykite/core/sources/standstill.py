"""A standstill: a frame of a shot that is held."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..model import Document
from ..model.base import FrameNumber, Id
from ..model.kinds import HIDDEN
from ..model.source import Heard, On
from .lasting import LastingSource
from .picture import Footage, Picture


class StandstillSource(LastingSource):
    """One frame of a shot, for so many project frames; silent, or with the shot's sound running on under it."""

    kind: Literal["standstill"] = "standstill"
    title: ClassVar[str] = "Standstill"
    hint: ClassVar[str] = "Everything stops at a frame, and goes on from there afterwards"
    on: ClassVar[tuple[On, ...]] = ("ground",)
    stands: ClassVar[bool] = True

    shot: Annotated[Id, HIDDEN]
    frame: Annotated[FrameNumber, HIDDEN]
    heard: Annotated[
        Literal["silent", "runs on"],
        Field(
            title="Sound",
            json_schema_extra={
                "words": {
                    "silent": {"title": "Silent", "hint": "Nothing is heard while everything stands"},
                    "runs on": {"title": "Runs on", "hint": "The shot's sound goes on under it"},
                },
                "keyable": False,
            },
        ),
    ] = "silent"

    def shown(self) -> int:
        return self.frame

    def size(self, document: Document) -> tuple[int, int]:
        shot = document.shots[self.shot]
        return shot.width, shot.height

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        return Footage(self.shot, frame, self.size(document))

    def footage(self, document: Document) -> str | None:
        return self.shot

    def sound(self, document: Document) -> Heard | None:
        return Heard(self.shot, self.frame) if self.heard == "runs on" else None

    def called(self, document: Document) -> str:
        return f"Standstill of {document.shots[self.shot].name}"
