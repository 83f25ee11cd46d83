"""A standstill: a frame of a shot that is held."""

from collections.abc import Mapping
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import Document
from ...piece.model.base import FrameNumber, Id
from ...piece.model.kinds import HIDDEN
from ...piece.model.mixing import Part
from ...piece.model.source import Heard, Hush, On
from .lasting import LastingSource
from .picture import Footage, Picture


class StandstillSource(LastingSource):
    """One frame of a shot, for so many project frames, and what becomes of what is heard meanwhile."""

    kind: Literal["standstill"] = "standstill"
    title: ClassVar[str] = "Standstill"
    hint: ClassVar[str] = "Everything stops at a frame, and goes on from there afterwards"
    on: ClassVar[tuple[On, ...]] = ("ground",)
    stands: ClassVar[bool] = True

    shot: Annotated[Id, HIDDEN]
    frame: Annotated[FrameNumber, HIDDEN]
    heard: Annotated[
        Literal["silent", "runs on", "echo", "muffled"],
        Field(
            title="Sound",
            json_schema_extra={
                "words": {
                    "silent": {"title": "Silent", "hint": "Nothing is heard while everything stands"},
                    "runs on": {"title": "Runs on", "hint": "The shot's sound goes on under it"},
                    "echo": {"title": "Rings out", "hint": "It stops dead, and what was heard last rings out"},
                    "muffled": {"title": "Muffled", "hint": "It goes on as if behind a wall"},
                },
                "keyable": False,
            },
        ),
    ] = "silent"
    bed: Annotated[
        Literal["runs on", "silent", "echo", "muffled"],
        Field(
            title="Music",
            json_schema_extra={
                "words": {
                    "runs on": {"title": "Runs on", "hint": "The music does not mind"},
                    "silent": {"title": "Silent", "hint": "It stops, and is there again when all goes on"},
                    "echo": {"title": "Rings out", "hint": "It stops dead, and what was heard last rings out"},
                    "muffled": {"title": "Muffled", "hint": "It goes on as if behind a wall"},
                },
                "keyable": False,
            },
        ),
    ] = "runs on"

    def tag(self) -> str:
        return str(self.lasting)

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
        return Heard(self.shot, self.frame) if self.heard in ("runs on", "muffled") else None

    @property
    def hushes(self) -> Mapping[Part, Hush]:
        found: dict[Part, Hush] = {}
        if self.heard == "echo" or self.heard == "muffled":
            found["footage"] = self.heard
        if self.bed != "runs on":
            found["bed"] = self.bed
        return found

    def called(self, document: Document) -> str:
        return f"Standstill of {document.shots[self.shot].name}"
