"""A colour in the ground."""

from dataclasses import replace
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ..model import Document
from ..model.base import Colour
from ..model.source import On
from .lasting import LastingSource
from .picture import Grid, Material, Patch, Picture

if TYPE_CHECKING:
    from ..footage.planes import Planes


class ColourSource(LastingSource):
    """One colour for so many project frames."""

    kind: Literal["colour"] = "colour"
    title: ClassVar[str] = "Colour"
    hint: ClassVar[str] = "A plain colour"
    on: ClassVar[tuple[On, ...]] = ("ground",)

    colour: Annotated[Colour, Field(title="Colour")] = "#1E2530"

    def size(self, document: Document) -> tuple[int, int]:
        return document.project.width, document.project.height

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        return Plain(self.colour, self.size(document))

    def called(self, document: Document) -> str:
        return f"Colour {self.colour.upper()}"


class Plain(Picture):
    """A picture of one colour."""

    def __init__(self, colour: str, size: tuple[int, int]) -> None:
        self.colour, self.size = colour, size
        self.digest = f"plain {colour.lower()}"

    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        width, height = grid.size
        rim = 2 + (margin + 1) // 2 * 2
        rgba = np.zeros((height + 2 * rim, width + 2 * rim, 4), np.float32)
        rgba[rim:-rim, rim:-rim] = (*(int(self.colour[i : i + 2], 16) / 255 for i in (1, 3, 5)), 1)
        return Patch(-rim, -rim, rgba=rgba)

    def opaque(self, material: Material, grid: Grid) -> "Planes":
        return material.over_background(None, replace(grid, background=self.colour))
