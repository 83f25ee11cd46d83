"""Edits of moments: flagged frames of a shot."""

from typing import Literal

from ..errors import Refusal
from ..model import Document, Shot
from ..model.base import FrameNumber, Id, Name
from ..model.document import Moment
from ..model.naming import free_name
from .base import Edit, shot_of


class AddMoment(Edit):
    """Flags a frame of a shot."""

    kind: Literal["add moment"] = "add moment"
    shot: Id
    frame: FrameNumber
    name: Name | None = None

    def title(self, document: Document) -> str:
        return f"flag frame {self.frame}"

    def apply(self, document: Document) -> Document:
        shot = shot_of(document, self.shot)
        if self.frame >= shot.frames:
            raise Refusal(f"{shot.name} has no frame {self.frame}; its last one is {shot.frames - 1}.")
        if any(m.frame == self.frame for m in shot.moments):
            raise Refusal(f"Frame {self.frame} of {shot.name} is flagged already.")
        name = free_name(self.name or "Moment 1", {m.name for m in shot.moments})
        moments = sorted([*shot.moments, Moment(frame=self.frame, name=name)], key=lambda m: m.frame)
        return _with_moments(document, shot, moments)


class ChangeMoment(Edit):
    """Renames or nudges a moment."""

    kind: Literal["change moment"] = "change moment"
    shot: Id
    moment: Id
    frame: FrameNumber | None = None
    name: Name | None = None

    def title(self, document: Document) -> str:
        return "rename moment" if self.frame is None else f"move moment to frame {self.frame}"

    def apply(self, document: Document) -> Document:
        shot = shot_of(document, self.shot)
        moment = next((m for m in shot.moments if m.id == self.moment), None)
        if moment is None:
            raise Refusal("That moment is no longer there. Choose another.")
        frame = moment.frame if self.frame is None else self.frame
        if frame >= shot.frames:
            raise Refusal(f"{shot.name} has no frame {frame}; its last one is {shot.frames - 1}.")
        if any(m.frame == frame and m.id != moment.id for m in shot.moments):
            raise Refusal(f"Frame {frame} of {shot.name} is flagged already.")
        changed = moment.model_copy(update={"frame": frame, "name": self.name or moment.name})
        moments = [changed if m.id == moment.id else m for m in shot.moments]
        return _with_moments(document, shot, sorted(moments, key=lambda m: m.frame))


class RemoveMoment(Edit):
    """Takes a flag away; holds taken there stay."""

    kind: Literal["remove moment"] = "remove moment"
    shot: Id
    moment: Id

    def title(self, document: Document) -> str:
        return "remove moment"

    def apply(self, document: Document) -> Document:
        shot = shot_of(document, self.shot)
        return _with_moments(document, shot, [m for m in shot.moments if m.id != self.moment])


def _with_moments(document: Document, shot: Shot, moments: list[Moment]) -> Document:
    changed = shot.model_copy(update={"moments": moments})
    return document.model_copy(update={"shots": {**document.shots, shot.id: changed}})
