"""A plain colour."""

from dataclasses import replace
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...common.colour import rgb_of
from ...piece.model import Document
from ...piece.model.base import Colour
from ...piece.model.source import On
from ...see.footage.framing_matrix import covered, even, fit_matrix
from ...see.footage.place import place
from .lasting import LastingSource
from .picture import Grid, Material, Patch, Picture

if TYPE_CHECKING:
    from ...see.footage.planes import Planes


class ColourSource(LastingSource):
    """One colour over the canvas; in the ground for so many project frames."""

    kind: Literal["colour"] = "colour"
    title: ClassVar[str] = "Colour"
    hint: ClassVar[str] = "A plain colour"
    on: ClassVar[tuple[On, ...]] = ("sky", "ground")

    colour: Annotated[Colour, Field(title="Colour")] = "#1E2530"

    def size(self, document: Document) -> tuple[int, int]:
        return document.project.width, document.project.height

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        return Plain(self.colour, self.size(document))

    def tag(self) -> str:
        return "Colour"

    @property
    def shade(self) -> str | None:
        return self.colour

    def called(self, document: Document) -> str:
        return f"Colour {self.colour.upper()}"


class Plain(Picture):
    """A picture of one colour."""

    def __init__(self, colour: str, size: tuple[int, int]) -> None:
        self.colour, self.size = colour, size
        self.digest = f"plain {colour.lower()}"

    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        matrix = fit_matrix(self.size, grid.size, grid.framing)
        left, top, right, bottom = covered(matrix, (0, 0, *self.size))
        pad = margin + 2
        box = even(left - pad, top - pad, right + pad, bottom + pad)
        alpha = place(np.ones(self.size[::-1], np.float32), matrix, box, 0)
        rgb = np.array(rgb_of(self.colour), np.float32)
        return Patch(box[0], box[1], rgba=np.dstack([alpha[..., None] * rgb, alpha]))

    def opaque(self, material: Material, grid: Grid) -> "Planes":
        if grid.framing.mode == "hand":
            return super().opaque(material, grid)
        return material.over_background(None, replace(grid, background=self.colour))
