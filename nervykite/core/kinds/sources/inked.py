"""The part shared by words and shapes, which are drawn by outlines: filling, the lines around them, depth."""

import math
from abc import abstractmethod
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...common.errors import Refusal
from ...craft.finishing.setting_fields import Shelved, degrees, hue, px
from ...craft.lettering.layout import Laid
from ...craft.lettering.paint import LetterStyle, painted
from ...piece.model import Document, Framing
from ...piece.model.base import Colour
from ...piece.model.framing import Box
from ...piece.model.source import On, Source
from ...see.footage.framing_matrix import covered, even, fit_matrix
from .picture import Grid, Material, Patch, Picture, digest

FINEST = 8
"""How many times as fine as the canvas outlines are drawn at most: they have no pixels of their own."""
MOST = 60_000_000
"""How many pixels they are painted on at most."""
FILLED, GRADIENT, PICTURE = ({"filled": ways} for ways in (["colour", "gradient"], ["gradient"], ["picture"]))


class Inked(Source):
    """Outlines about the middle of the canvas. Lengths are project pixels."""

    on: ClassVar[tuple[On, ...]] = ("sky",)
    groups: ClassVar[dict[str, tuple[str, ...]]] = {
        "Look": (
            "filled", "picture_file", "colour", "second", "angle", "line", "line_colour", "second_line",
            "second_line_colour", "third_line", "third_line_colour", "sharp",
        ),
        "Depth": ("depth", "towards", "side", "side_far"),
    }  # fmt: skip

    filled: Annotated[Literal["colour", "gradient", "picture", "hollow"], Field(title="Filled")] = "colour"
    picture_file: Annotated[
        Shelved,
        Field(title="Picture", json_schema_extra={"format": "shelved", "of": "picture", "when": PICTURE}),
    ] = None
    colour: Annotated[Colour, hue("Colour", when=FILLED)] = "#FFFFFF"
    second: Annotated[Colour, hue("Second colour", when=GRADIENT)] = "#E0A11B"
    angle: Annotated[float, degrees("Angle", -360, 360, when=GRADIENT)] = 90.0
    line: Annotated[float, px("Line", 80, 0, step=0.5, usual=30)] = 6.0
    line_colour: Annotated[Colour, hue("Line colour", needs="line")] = "#1E2530"
    second_line: Annotated[float, px("Second line", 80, 0, step=0.5, usual=30, needs="line")] = 0.0
    second_line_colour: Annotated[Colour, hue("Its colour", needs="second_line")] = "#D63F22"
    third_line: Annotated[float, px("Third line", 80, 0, step=0.5, usual=30, needs="second_line")] = 0.0
    third_line_colour: Annotated[Colour, hue("Its colour", needs="third_line")] = "#FFFFFF"
    sharp: Annotated[bool, Field(title="Sharp corners")] = False
    depth: Annotated[float, px("Depth", 400, 0, usual=80)] = 0.0
    towards: Annotated[float, degrees("Towards", -360, 360, needs="depth")] = 60.0
    side: Annotated[Colour, hue("Sides", needs="depth")] = "#7A2413"
    side_far: Annotated[Colour, hue("Sides, far", needs="depth")] = "#3A120B"

    def checked(self, document: Document) -> Source:
        if self.filling and not any(a.kind == "picture" and a.file == self.filling for a in document.assets.values()):
            raise Refusal("That picture is not on this project's shelf. Import it first.")
        return self

    @property
    def files(self) -> tuple[str, ...]:
        return (self.filling,) if self.filling else ()

    @property
    def filling(self) -> str | None:
        """The picture of the shelf that they are filled with; None if it is something else."""
        return self.picture_file if self.filled == "picture" else None

    @abstractmethod
    def outlines(self) -> Laid:
        """Its outlines where they lie at rest, from the middle of the canvas."""

    def now(self) -> Laid:
        """The same as they are on their way, or as far as they are drawn."""
        return self.outlines()

    def settled(self) -> "Inked":
        """Itself, the same for all times at which it looks the same."""
        return self

    @property
    def look(self) -> LetterStyle:
        """The style they are drawn in."""
        plain = (self.colour,)
        fills = {"colour": plain, "gradient": (self.colour, self.second), "picture": plain, "hollow": None}
        lines = (
            (self.line, self.line_colour),
            (self.second_line, self.second_line_colour),
            (self.third_line, self.third_line_colour),
        )
        there: list[tuple[float, str]] = []
        for wide, paint in lines:
            if not wide:
                break
            there.append((wide, paint))
        sides = (self.side,) if self.side == self.side_far else (self.side, self.side_far)
        return LetterStyle(fills[self.filled], self.angle, tuple(there), self.sharp, self.depth, self.towards, sides)

    def size(self, document: Document) -> tuple[int, int]:
        return document.project.width, document.project.height

    def bounds(self, document: Document) -> Box | None:
        box = self.outlines().box
        if box is None:
            return None
        width, height = self.size(document)
        left, up, right, down = self.look.reach
        x, y = width / 2, height / 2
        return x + box[0] - left, y + box[1] - up, x + box[2] + right, y + box[3] + down

    def lies(self, document: Document) -> Framing | None:
        return Framing()

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        if self.now().box is None:
            return None
        return Inking(self.settled(), self.size(document))

    def empty(self, document: Document) -> bool:
        return self.outlines().box is None


class Inking(Picture):
    """Outlines painted, as fine as they are wanted."""

    def __init__(self, inked: Inked, canvas: tuple[int, int]) -> None:
        self.inked, self.canvas = inked, canvas
        self.size = canvas[0] * FINEST, canvas[1] * FINEST
        self.digest = digest("inked", inked, canvas)

    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        found, look = self.inked.now(), self.inked.look
        if found.box is None:
            return None
        matrix = fit_matrix(self.canvas, grid.size, grid.framing) @ np.array(
            [[1, 0, self.canvas[0] / 2], [0, 1, self.canvas[1] / 2], [0, 0, 1]]
        )
        left, up, right, down = look.reach
        around = found.box[0] - left, found.box[1] - up, found.box[2] + right, found.box[3] + down
        pad = margin + 2
        first, upper, last, lower = covered(matrix, around)
        box = even(math.floor(first) - pad, math.floor(upper) - pad, math.ceil(last) + pad, math.ceil(lower) + pad)
        if (box[2] - box[0]) * (box[3] - box[1]) > MOST:
            raise Refusal(f"{self.inked.title} as large as that cannot be drawn. Make it smaller.")
        filling = material.shelved(self.inked.filling) if self.inked.filling else None
        rgba = painted(found, look, matrix, box, self.inked.outlines().box, filling)
        return Patch(box[0], box[1], rgba=rgba)
