"""Edits of the ground: shots and plates, one after the other."""

from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import Field

from ..errors import Refusal
from ..model import Document, Finish, Framing, GroundItem, Project, Shot
from ..model.base import FrameNumber, FramePast, Id
from ..sources.plate import PlateSource
from ..sources.shot import ShotSource
from ..timeline.ripple import without_item
from .base import Edit, dressed, hold_of, item_of, shot_of, with_item, with_project, without_unused_holds


class AddShot(Edit):
    """Takes an imported shot into the project, and puts it at the end of the ground.

    The first shot of an empty project also sets the canvas: its size (halved until it fits) and rate.
    """

    kind: Literal["add shot"] = "add shot"
    shot: Shot

    def title(self, document: Document) -> str:
        return f"import {self.shot.name}"

    def apply(self, document: Document) -> Document:
        shots = {**document.shots, self.shot.id: self.shot}
        item = GroundItem(source=ShotSource(shot=self.shot.id, first=0, past=self.shot.frames))
        project: Project = document.project
        changes: dict[str, Any] = {"ground": [*project.ground, item]}
        if not document.shots:
            by = 1
            while max(self.shot.width, self.shot.height) / by > 2560:
                by *= 2
            changes["width"], changes["height"] = (
                max(16, side // by // 2 * 2) for side in (self.shot.width, self.shot.height)
            )
            changes["rate"] = self.shot.rate if self.shot.rate <= 30 or by > 1 else _halved(self.shot.rate)
        return with_project(document, **changes).model_copy(update={"shots": shots})


def _halved(rate: Fraction) -> Fraction:
    """A rate for the piece: high-speed shots come down to what such videos are shown at."""
    while rate > 31:
        rate /= 2
    return rate


class AddGround(Edit):
    """Puts a shot of the shelf at the end of the ground once more."""

    kind: Literal["add ground"] = "add ground"
    shot: Id

    def title(self, document: Document) -> str:
        return f"add {shot_of(document, self.shot).name}"

    def apply(self, document: Document) -> Document:
        shot = shot_of(document, self.shot)
        item = GroundItem(source=ShotSource(shot=shot.id, first=0, past=shot.frames))
        return with_project(document, ground=[*document.project.ground, item])


class ChangeGround(Edit):
    """Trims, reframes or dresses a piece of the ground. `first` and `past` are frames of what it shows, half-open."""

    kind: Literal["change ground"] = "change ground"
    item: Id
    first: FrameNumber | None = None
    past: FramePast | None = None
    framing: Framing | None = None
    finishes: Annotated[list[Finish], Field(max_length=40)] | None = None

    def title(self, document: Document) -> str:
        name = item_of(document, self.item).source.called(document)
        return f"{'dress' if self.finishes is not None else 'trim' if self.framing is None else 'frame'} {name}"

    def apply(self, document: Document) -> Document:
        item = item_of(document, self.item)
        changes: dict[str, Any] = {}
        if self.first is not None or self.past is not None:
            changes["source"] = item.source.trimmed(document, self.first, self.past)
        if self.framing is not None:
            changes["framing"] = self.framing
        if self.finishes is not None:
            changes |= dressed(item, self.finishes)
        changed = with_item(document, item.id, **changes)
        return with_project(changed, loop=None) if "source" in changes else changed


class RemoveGround(Edit):
    """Takes a piece of footage out of the ground, with the layers that hang on it."""

    kind: Literal["remove ground"] = "remove ground"
    item: Id

    def title(self, document: Document) -> str:
        return f"remove {item_of(document, self.item).source.called(document)}"

    def apply(self, document: Document) -> Document:
        item = item_of(document, self.item)
        ground = [x for x in document.project.ground if x.id != item.id]
        layers = without_item(document, item.id)
        return without_unused_holds(with_project(document, ground=ground, layers=layers, loop=None))


class AddPlate(Edit):
    """Puts a hold's clean plate into the ground, at its end, for so many frames."""

    kind: Literal["add plate"] = "add plate"
    hold: Id
    frames: Annotated[int, Field(ge=1, le=100_000)] = 30

    def title(self, document: Document) -> str:
        return f"add plate of {hold_of(document, self.hold).name}"

    def apply(self, document: Document) -> Document:
        hold = hold_of(document, self.hold)
        if hold.plate is None:
            raise Refusal(f"{hold.name} has no plate yet. Build one first.")
        shot = shot_of(document, hold.shot)
        past = hold.frame + max(1, round(self.frames * shot.rate / document.project.rate))
        item = GroundItem(source=PlateSource(shot=hold.shot, first=hold.frame, past=past, plate=hold.plate))
        return with_project(document, ground=[*document.project.ground, item])
