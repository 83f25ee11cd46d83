"""Lettering: words in a face, on a line, an arc or a wave."""

import math
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ..errors import Refusal
from ..finishing.settings import degrees, hue, percent, px
from ..footage.framing import covered, even, fit_matrix
from ..lettering.coming import Coming, come
from ..lettering.faces import face_files
from ..lettering.layout import Setting, laid
from ..lettering.paint import Look, painted
from ..model import Document, Framing
from ..model.base import Colour
from ..model.source import Box, On, Source
from .picture import Grid, Material, Patch, Picture, digest

FINEST = 8
"""How many times as fine as the canvas letters are drawn at most: they have no pixels of their own."""


MOST = 60_000_000
"""How many pixels letters are painted on at most."""
COMING = {"way": ["rise", "drop", "from left", "from right", "pop", "spin", "unfold", "typed", "scrambled", "drawn"]}
ARC, WAVE = {"shape": ["arc"]}, {"shape": ["wave"]}
FILLED, GRADIENT = {"filled": ["colour", "gradient"]}, {"filled": ["gradient"]}


class LetteringSource(Source):
    """Words about the middle of the canvas. Lengths are project pixels."""

    kind: Literal["lettering"] = "lettering"
    title: ClassVar[str] = "Lettering"
    hint: ClassVar[str] = "Words, in a face, on an arc"
    on: ClassVar[tuple[On, ...]] = ("sky",)

    groups: ClassVar[dict[str, tuple[str, ...]]] = {
        "Size and spacing": ("axes", "high", "wide", "tracking", "leading", "align", "case"),
        "Look": (
            "filled", "colour", "second", "angle", "line", "line_colour", "second_line", "second_line_colour",
            "third_line", "third_line_colour", "sharp",
        ),
        "Depth": ("depth", "towards", "side", "side_far"),
        "Letters come and go": ("way", "entered", "gone", "by", "order", "stagger", "ease", "seed"),
    }  # fmt: skip

    words: Annotated[str, Field(max_length=600, title="Words", json_schema_extra={"format": "text"})] = "Name"
    face: Annotated[str, Field(pattern="^[a-z0-9-]{2,64}$", title="Face", json_schema_extra={"format": "face"})] = (
        "anton"
    )
    axes: Annotated[
        dict[Annotated[str, Field(pattern="^[A-Za-z0-9]{4}$")], Annotated[float, Field(ge=-10_000, le=10_000)]],
        Field(max_length=16, title="Axes", json_schema_extra={"format": "axes"}),
    ] = {}
    shape: Annotated[Literal["straight", "arc", "wave"], Field(title="Runs")] = "straight"
    bend: Annotated[float, degrees("Bend", -350, 350, when=ARC)] = 60.0
    swing: Annotated[float, percent("Swing", -2, 2, when=WAVE)] = 0.2
    waves: Annotated[
        float, Field(ge=0.1, le=20, title="Waves", json_schema_extra={"step": 0.1, "usual": 4, "when": WAVE})
    ] = 1.0
    high: Annotated[float, px("Size", 4000, 4, usual=400)] = 150.0
    wide: Annotated[float, percent("Width", 0.2, 4)] = 1.0
    tracking: Annotated[float, percent("Tracking", -0.2, 2)] = 0.0
    leading: Annotated[float, percent("Line height", 0.4, 4)] = 1.05
    align: Annotated[Literal["left", "middle", "right", "even"], Field(title="Lines")] = "middle"
    case: Annotated[Literal["as typed", "capitals", "small"], Field(title="Case")] = "as typed"
    filled: Annotated[Literal["colour", "gradient", "hollow"], Field(title="Filled")] = "colour"
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

    way: Annotated[
        Literal[
            "all there", "rise", "drop", "from left", "from right", "pop", "spin", "unfold", "typed", "scrambled",
            "drawn",
        ],
        Field(title="They"),
    ] = "all there"  # fmt: skip
    entered: Annotated[float, percent("Have come", when=COMING)] = 1.0
    gone: Annotated[float, percent("Have gone", when=COMING)] = 0.0
    by: Annotated[Literal["letter", "word", "line"], Field(title="By", json_schema_extra={"when": COMING})] = "letter"
    order: Annotated[
        Literal["forwards", "backwards", "from the middle", "by chance"],
        Field(title="Order", json_schema_extra={"when": COMING}),
    ] = "forwards"
    stagger: Annotated[float, percent("One after another", when=COMING)] = 0.6
    ease: Annotated[
        Literal["even", "soft", "springy"], Field(title="Come to rest", json_schema_extra={"when": COMING})
    ] = "soft"
    seed: Annotated[
        int, Field(ge=0, le=99_999, title="Chance", json_schema_extra={"format": "seed", "when": COMING})
    ] = 1

    def checked(self, document: Document) -> Source:
        face_files(self.face)
        return self

    @property
    def setting(self) -> Setting:
        """How its words are set."""
        return Setting(
            words=self.words, face=self.face, axes=tuple(sorted(self.axes.items())), size=self.high, width=self.wide,
            tracking=self.tracking, leading=self.leading, align=self.align, case=self.case, shape=self.shape,
            bend=self.bend, swing=self.swing, waves=self.waves,
        )  # fmt: skip

    @property
    def coming(self) -> Coming:
        """How far its letters have come."""
        if self.way == "all there":
            return Coming()
        return Coming(self.way, self.entered, self.gone, self.by, self.order, self.stagger, self.ease, self.seed)

    @property
    def look(self) -> Look:
        """What its letters look like."""
        fills = {"colour": (self.colour,), "gradient": (self.colour, self.second), "hollow": None}
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
        return Look(fills[self.filled], self.angle, tuple(there), self.sharp, self.depth, self.towards, sides)

    def size(self, document: Document) -> tuple[int, int]:
        return document.project.width, document.project.height

    def bounds(self, document: Document) -> Box | None:
        box = laid(self.setting).box
        if box is None:
            return None
        width, height = self.size(document)
        left, up, right, down = self.look.reach
        x, y = width / 2, height / 2
        return x + box[0] - left, y + box[1] - up, x + box[2] + right, y + box[3] + down

    def lies(self, document: Document) -> Framing | None:
        return Framing()

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        coming = Coming() if self.coming.at_rest else self.coming
        if not coming.at_rest and come(laid(self.setting), coming, self.high).box is None:
            return None
        return Lettered(self.setting, self.look, coming, self.size(document))

    def missing(self, document: Document) -> tuple[str, ...]:
        return laid(self.setting).missing

    def empty(self, document: Document) -> bool:
        return laid(self.setting).box is None

    def called(self, document: Document) -> str:
        first = next((row.strip() for row in self.words.split("\n") if row.strip()), "")
        return first[:40] or self.title

    def changed(self, before: Source, name: str) -> str:
        if isinstance(before, LetteringSource) and before.words != self.words:
            return f"type {name}"
        return super().changed(before, name)


class Lettered(Picture):
    """Words painted, as fine as they are wanted."""

    def __init__(self, setting: Setting, look: Look, coming: Coming, canvas: tuple[int, int]) -> None:
        self.setting, self.look, self.coming, self.canvas = setting, look, coming, canvas
        self.size = canvas[0] * FINEST, canvas[1] * FINEST
        self.digest = digest("lettering", setting, look, coming, canvas)

    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        still = laid(self.setting)
        words = come(still, self.coming, self.setting.size)
        if words.box is None:
            return None
        matrix = fit_matrix(self.canvas, grid.size, grid.framing) @ np.array(
            [[1, 0, self.canvas[0] / 2], [0, 1, self.canvas[1] / 2], [0, 0, 1]]
        )
        left, up, right, down = self.look.reach
        around = words.box[0] - left, words.box[1] - up, words.box[2] + right, words.box[3] + down
        pad = margin + 2
        first, upper, last, lower = covered(matrix, around)
        box = even(math.floor(first) - pad, math.floor(upper) - pad, math.ceil(last) + pad, math.ceil(lower) + pad)
        if (box[2] - box[0]) * (box[3] - box[1]) > MOST:
            raise Refusal("Those letters are too large to be drawn there. Make them smaller.")
        return Patch(box[0], box[1], rgba=painted(words, self.look, matrix, box, still.box))
