"""A take in the sky: footage that plays in its own time, whole or within a matte."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Document, Framing, Hold
from ...piece.model.base import FrameNumber, Id
from ...piece.model.framing import Box
from ...piece.model.source import On, Shown, Source
from ...see.matte.bounds import bounds
from .picture import Cutout, Footage, Picture
from .played import PlayedSource


class TakeSource(PlayedSource):
    """The frames of its range from where its span begins, at its own speed; on its last frame it stays, or with
    `repeats` begins anew.

    At `freezes` (a source frame) it stands still for `rests` project frames, or for good with none. With the `hold` of
    a frame of a shot of its size only what that matte leaves is seen: the shape of that frame all along, or as the
    matte travels through the take.
    """

    kind: Literal["take"] = "take"
    title: ClassVar[str] = "Take"
    hint: ClassVar[str] = "Footage in the sky, in its own time"
    on: ClassVar[tuple[On, ...]] = ("sky",)
    still: ClassVar[bool] = False

    freezes: Annotated[
        FrameNumber | None, Field(title="Freezes at", json_schema_extra={"format": "frame", "keyable": False})
    ] = None
    rests: Annotated[
        int,
        Field(
            ge=0,
            le=100_000,
            title="Frozen for",
            json_schema_extra={"unit": "fr", "keyable": False, "needs": "freezes", "zero": "for good"},
        ),
    ] = 0
    repeats: Annotated[bool, Field(title="Again and again", json_schema_extra={"keyable": False, "only": "sky"})] = (
        False
    )
    hold: Annotated[Id | None, Field(title="Cut out by", json_schema_extra={"format": "hold", "keyable": False})] = None
    shape: Annotated[
        Literal["still", "travels"],
        Field(
            title="Matte",
            json_schema_extra={
                "words": {
                    "still": {"title": "Still", "hint": "The shape of the held frame, all along"},
                    "travels": {"title": "Travels", "hint": "As the matte was carried through the take"},
                },
                "keyable": False,
                "needs": "hold",
            },
        ),
    ] = "still"

    def frames(self, document: Document) -> np.ndarray:
        table = super().frames(document)
        if self.freezes is None:
            return table
        shown = np.flatnonzero(table <= self.freezes)
        past = int(shown[-1]) + 1 if len(shown) else 0
        if past == 0 or self.freezes >= self.past:
            return table
        if self.rests == 0:
            return table[:past]
        return np.concatenate([table[:past], np.full(self.rests, table[past - 1], np.int64), table[past:]])

    def stops_after(self, document: Document) -> int | None:
        if self.freezes is None:
            return None
        shown = np.flatnonzero(super().frames(document) <= self.freezes)
        return int(shown[-1]) if len(shown) and self.freezes < self.past else None

    def lasts(self, document: Document) -> int:
        return len(self.frames(document)) if self.freezes is not None else super().lasts(document)

    def shows(self, document: Document, shown: Shown | None, since: float = 0.0) -> int:
        table, at = self.frames(document), max(0, int(since))
        return int(table[at % len(table) if self.repeats else min(at, len(table) - 1)])

    def _held(self, document: Document) -> Hold | None:
        return document.holds.get(self.hold) if self.hold else None

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        filmed, hold = Footage(self.shot, frame, self.size(document)), self._held(document)
        if hold is None or self.empty(document):
            return filmed if self.hold is None else None
        matte = hold.matte if self.shape == "still" else hold.matte_at(frame)
        if matte is None or not matte.carved:
            return None
        own = hold.frame if self.shape == "still" else frame
        return Cutout.of(filmed, hold.shot, own, matte)

    def bounds(self, document: Document) -> Box | None:
        hold = self._held(document)
        return super().bounds(document) if hold is None else bounds(hold.matte)

    def empty(self, document: Document) -> bool:
        hold = self._held(document)
        return hold is not None and not hold.matte.carved

    def uncut(self, document: Document, frame: int) -> Picture:
        return Footage(self.shot, frame, self.size(document))

    def depends(self, document: Document) -> tuple[object, ...]:
        return (self._held(document), document.shots[self.shot].ticks)

    @property
    def needs(self) -> tuple[str, ...]:
        return (self.hold,) if self.hold else ()

    def lies(self, document: Document) -> Framing | None:
        return Framing()

    def checked(self, document: Document) -> Source:
        shot = document.shots.get(self.shot)
        if shot is None:
            raise Refusal("That shot is not part of this project. Import it first.")
        if not self.first < min(self.past, shot.frames):
            raise Refusal(f"{shot.name} has frames 0 to {shot.frames - 1}; keep at least one of them.")
        if self.freezes is not None and not self.first <= self.freezes < self.past:
            raise Refusal(f"It can stand still at a frame that it plays: {self.first} to {self.past - 1}.")
        if self.hold is not None:
            hold = document.holds.get(self.hold)
            if hold is None:
                raise Refusal("That hold is no longer there. Choose another.")
            other = document.shots[hold.shot]
            if (other.width, other.height) != (shot.width, shot.height):
                raise Refusal(f"{hold.name} was cut out of frames of another size. Choose a hold of {shot.name}.")
            if self.shape == "travels" and (hold.shot != self.shot or hold.travel is None):
                raise Refusal(f"{hold.name} has no matte that travels through {shot.name}. Carry it first.")
        return self

    def changed(self, before: Source, name: str) -> str:
        if isinstance(before, TakeSource):
            if before.repeats != self.repeats:
                return f"{'repeat' if self.repeats else 'play once'} {name}"
            if (before.freezes, before.rests) != (self.freezes, self.rests):
                return f"freeze {name}" if self.freezes is not None else f"let {name} run"
            if (before.hold, before.shape) != (self.hold, self.shape):
                return f"cut {name} out" if self.hold else f"show all of {name}"
        return super().changed(before, name)
