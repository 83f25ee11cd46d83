"""A group: layers that are moved, turned, faded and blended together."""

from typing import ClassVar, Literal

from ...piece.model import Document, Framing
from ...piece.model.source import On, Source


class GroupSource(Source):
    """The layers that name its layer as their group. It has the canvas for its own pixels."""

    kind: Literal["group"] = "group"
    title: ClassVar[str] = "Group"
    hint: ClassVar[str] = "Layers that are moved, faded and blended together"
    on: ClassVar[tuple[On, ...]] = ("sky",)
    gathers: ClassVar[bool] = True

    def size(self, document: Document) -> tuple[int, int]:
        return document.project.width, document.project.height

    def lies(self, document: Document) -> Framing | None:
        return Framing()
