"""Backdrops that repeat or go over from colour to colour: gradients, dots, stripes, checks, a grid."""

import math
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...craft.finishing.setting_fields import degrees, hue, percent, px
from ...piece.model.base import Colour
from .backdrop import Backdrop, Colours, Runs, Two, field
from .worked import Plane

Pace = Annotated[float, px("Moves, a second", 2000, -2000, usual=400, keyable=False)]


class GradientBackdrop(Runs, Backdrop):
    """From colour to colour: along a line, outwards, around."""

    kind: Literal["gradient-backdrop"] = "gradient-backdrop"
    title: ClassVar[str] = "Gradient"
    hint: ClassVar[str] = "From colour to colour"
    rank: ClassVar[int] = 22

    angle: Annotated[float, degrees("Angle")] = 90.0
    way: Annotated[Literal["linear", "radial", "conic"], Field(title="Goes")] = "linear"
    first: Annotated[Colour, hue("First")] = "#0B7A82"
    middle: Annotated[Colour, hue("Middle", when={"three": [True]})] = "#E0A11B"
    three: Annotated[bool, Field(title="Three colours")] = True
    last: Annotated[Colour, hue("Last")] = "#D63F22"
    long: Annotated[float, percent("Length", 0.05, 4)] = 1.0
    speed: Annotated[float, degrees("Turns, a second", -720, 720, keyable=False, when={"way": ["linear", "conic"]})] = (
        0.0
    )

    @property
    def colours(self) -> Colours:
        return (self.first, self.middle, self.last) if self.three else (self.first, self.last)

    def share(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        from ...craft.finishing.compiled.fields_kernels import gradient

        out, turn = plane.empty(), self.speed * seconds
        matrix = plane.matrix
        if self.way == "linear" and turn:
            c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
            matrix = np.array([[c, s], [-s, c]], np.float32) @ matrix
        way = ("linear", "radial", "conic").index(self.way)
        long = self.long * (canvas[1] if self.way == "linear" else math.hypot(*canvas))
        gradient(np.ascontiguousarray(matrix, np.float32), way, np.float32(long), np.float32(-turn / 360), out)
        return out


class DotsBackdrop(Two, Runs, Backdrop):
    """Dots in rows, which may grow from one side to the other."""

    kind: Literal["dots"] = "dots"
    title: ClassVar[str] = "Dots"
    hint: ClassVar[str] = "Dots in rows, as printed"
    rank: ClassVar[int] = 23

    angle: Annotated[float, degrees("Angle")] = 30.0
    first: Annotated[Colour, hue("Behind", when={"filled": [True]})] = "#F4EEDF"
    filled: Annotated[bool, Field(title="Filled behind")] = True
    last: Annotated[Colour, hue("Dots")] = "#D63F22"
    apart: Annotated[float, px("Apart", 600, 4, usual=160)] = 48.0
    thick: Annotated[float, percent("Size of a dot", 0.05, 1.6)] = 0.62
    grows: Annotated[float, percent("Grows downwards", -1, 1)] = 0.6
    speed: Pace = 0.0

    def share(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        shift = self.speed * seconds % self.apart
        return field("dots", plane, self.apart, self.thick, self.grows, float(canvas[1]), shift, 0.0)


class StripesBackdrop(Two, Runs, Backdrop):
    """Stripes, straight or in waves."""

    kind: Literal["stripes"] = "stripes"
    title: ClassVar[str] = "Stripes"
    hint: ClassVar[str] = "Stripes, straight or in waves"
    rank: ClassVar[int] = 24

    angle: Annotated[float, degrees("Angle")] = -30.0
    first: Annotated[Colour, hue("Between")] = "#0B7A82"
    last: Annotated[Colour, hue("Stripes")] = "#0E949E"
    wide: Annotated[float, px("Apart", 2000, 4, usual=300)] = 90.0
    thick: Annotated[float, percent("Width of a stripe", 0.02, 0.98)] = 0.5
    swing: Annotated[float, px("Waves, high", 600, usual=120)] = 0.0
    wave: Annotated[float, px("Waves, long", 4000, 20, usual=800)] = 320.0
    speed: Pace = 60.0

    def share(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        shift = self.speed * seconds % self.wide
        return field("stripes", plane, self.wide, self.thick, self.swing, self.wave, shift)


class ChecksBackdrop(Two, Runs, Backdrop):
    """Squares of two colours."""

    kind: Literal["checks"] = "checks"
    title: ClassVar[str] = "Checks"
    hint: ClassVar[str] = "Squares of two colours"
    rank: ClassVar[int] = 25

    angle: Annotated[float, degrees("Angle")] = 45.0
    first: Annotated[Colour, hue("First")] = "#1E2530"
    last: Annotated[Colour, hue("Second")] = "#F7EBD4"
    wide: Annotated[float, px("Side", 1000, 4, usual=240)] = 80.0
    speed: Pace = 0.0

    def share(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        return field("checks", plane, self.wide, self.speed * seconds % (2 * self.wide), 0.0)


class GridBackdrop(Two, Runs, Backdrop):
    """Lines across each other, as on drafting paper."""

    kind: Literal["grid"] = "grid"
    title: ClassVar[str] = "Grid"
    hint: ClassVar[str] = "Lines across each other"
    rank: ClassVar[int] = 26

    first: Annotated[Colour, hue("Behind", when={"filled": [True]})] = "#22408C"
    filled: Annotated[bool, Field(title="Filled behind")] = True
    last: Annotated[Colour, hue("Lines")] = "#9DB7FF"
    wide: Annotated[float, px("Apart", 1000, 4, usual=240)] = 72.0
    thick: Annotated[float, px("Line", 80, 0.5, 0.5, usual=12)] = 2.5
    speed: Pace = 0.0

    def share(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        shift = self.speed * seconds % self.wide
        return field("grid", plane, self.wide, self.thick, shift, shift)
