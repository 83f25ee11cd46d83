"""Edits of the project as a whole."""

from typing import Literal

from ...common.errors import Refusal
from ...piece.model import Document
from ...piece.model.base import Colour, FrameNumber, FramePast, Name, Rate
from ...piece.model.project import Side
from ...piece.timeline.timeline import Timeline
from .base import Edit, with_project


class RenameProject(Edit):
    """Gives the project another name."""

    kind: Literal["rename project"] = "rename project"
    name: Name

    def title(self, document: Document) -> str:
        return f"rename project to {self.name}"

    def apply(self, document: Document) -> Document:
        return with_project(document, name=self.name)


class SetCanvas(Edit):
    """Changes the canvas: size, rate, background."""

    kind: Literal["set canvas"] = "set canvas"
    width: Side
    height: Side
    rate: Rate
    background: Colour = "#000000"

    def title(self, document: Document) -> str:
        return "change canvas"

    def apply(self, document: Document) -> Document:
        loop = document.project.loop if self.rate == document.project.rate else None
        return with_project(
            document, width=self.width, height=self.height, rate=self.rate, background=self.background, loop=loop
        )


class SetLoop(Edit):
    """Sets or clears the range that plays round and round, half-open."""

    kind: Literal["set loop"] = "set loop"
    loop: tuple[FrameNumber, FramePast] | None

    def title(self, document: Document) -> str:
        return "set loop" if self.loop else "clear loop"

    def apply(self, document: Document) -> Document:
        if self.loop is not None:
            start, end = self.loop
            if not 0 <= start < end <= Timeline(document).length:
                raise Refusal("The loop has to lie within the ground and be at least one frame long.")
        return with_project(document, loop=self.loop)
