"""Backdrops that burst from a point: rays, speed lines."""

import math
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...craft.finishing.setting_fields import Seed, degrees, hue, percent, px
from ...piece.model.base import Colour
from .backdrop import Backdrop, Boils, Every, Runs, Two, field
from .worked import Plane


class RaysBackdrop(Two, Runs, Backdrop):
    """Rays out of a point, straight or twisted, that may turn."""

    kind: Literal["rays"] = "rays"
    title: ClassVar[str] = "Rays"
    hint: ClassVar[str] = "Rays out of a point"
    rank: ClassVar[int] = 20

    first: Annotated[Colour, hue("Between")] = "#D63F22"
    last: Annotated[Colour, hue("Rays")] = "#E0A11B"
    count: Annotated[int, Field(ge=2, le=120, title="How many", json_schema_extra={"step": 1})] = 14
    thick: Annotated[float, percent("Width of a ray", 0.02, 0.98)] = 0.5
    twist: Annotated[float, percent("Twist", -3, 3)] = 0.0
    clear: Annotated[float, px("Clear within", 2000, usual=400)] = 0.0
    speed: Annotated[float, degrees("Turns, a second", -720, 720, keyable=False)] = 12.0

    def share(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        turn = math.radians(-self.speed * seconds) % (2 * math.pi)
        return field("rays", plane, float(self.count), self.thick, self.twist, turn, self.clear)


class SpeedLinesBackdrop(Two, Boils, Backdrop):
    """Streaks that run in towards a point, others every few frames."""

    kind: Literal["speed-lines"] = "speed-lines"
    title: ClassVar[str] = "Speed lines"
    hint: ClassVar[str] = "Streaks that run in towards a point"
    rank: ClassVar[int] = 21

    first: Annotated[Colour, hue("Behind", when={"filled": [True]})] = "#F4EEDF"
    filled: Annotated[bool, Field(title="Filled behind")] = True
    last: Annotated[Colour, hue("Lines")] = "#16181D"
    count: Annotated[int, Field(ge=8, le=400, title="How many", json_schema_extra={"step": 1})] = 90
    clear: Annotated[float, px("Clear within", 2000, 10, usual=800)] = 300.0
    uneven: Annotated[float, percent("Uneven", 0, 0.95)] = 0.35
    thick: Annotated[float, percent("Thick", 0.05, 2)] = 0.7
    every: Every = 3
    seed: Seed = 1

    def share(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        count, seed = float(self.count), self.chance(seconds)
        return field("speed_lines", plane, count, self.clear, self.uneven, self.thick, seed)
