"""Things in the air that are light: embers, sparks, streaks."""

import math
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...craft.finishing.setting_fields import degrees, hue, percent, px
from ...piece.model.base import Colour
from .air import Air, Chances, Specks, mixed


class EmbersAir(Air):
    """Embers that rise from below, wander, glow and go out."""

    kind: Literal["embers"] = "embers"
    title: ClassVar[str] = "Embers"
    hint: ClassVar[str] = "Glowing bits that rise and go out"
    rank: ClassVar[int] = 60
    usual: ClassVar[int] = 190
    light: ClassVar[float] = 0.5

    wind: Annotated[float, px("Wind, a second", 3000, -3000, usual=600, keyable=False)] = 40.0
    colour: Annotated[Colour, hue("Bright")] = "#FFD27A"
    second: Annotated[Colour, hue("Dim")] = "#F0521E"

    def specks(self, chance: Chances, near: np.ndarray, seconds: float, canvas: tuple[int, int]) -> Specks:
        lasts = chance(2, 1.4, 3.4)
        at = self.pace * seconds / lasts + chance(3)
        age, again = at % 1, np.floor(at).astype(int)
        speed = near * chance(1, 0.7, 1.3, again)
        rise = 360.0 * speed * lasts * (age - 0.22 * age * age)
        wobble = np.sin(2 * math.pi * (1.6 * age + chance(6))) * 34.0 * near * age
        x = chance(4, -0.1, 1.1, again) * canvas[0] + self.wind * speed * age * lasts + wobble
        y = canvas[1] * chance(5, 0.35, 1.06, again) - rise
        size = 3.9 * self.large * near * chance(7, 0.6, 1.4) * (1 - 0.5 * age)
        flicker = 0.78 + 0.22 * np.sin(2 * math.pi * (age * lasts * chance(8, 3, 7) + chance(9)))
        opacity = np.minimum(1, 7 * age) * (1 - age) ** 0.7 * flicker
        stretch = size * (1 + 0.9 * speed)
        turn = np.arctan2(-np.ones_like(x), 0.3 * np.sin(2 * math.pi * (1.6 * age + chance(6) + 0.25)))
        colour = mixed(self.second, self.colour, (1 - age) * flicker * 1.05)
        soft = size * (0.9 + 0.9 * self.depth * np.abs(np.log2(near))) + 0.8
        return Specks(x, y, stretch, size, turn, soft, colour, opacity)


class SparksAir(Air):
    """Sparks that are thrown from one place and fall."""

    kind: Literal["sparks"] = "sparks"
    title: ClassVar[str] = "Sparks"
    hint: ClassVar[str] = "Thrown from one place, falling"
    rank: ClassVar[int] = 65
    usual: ClassVar[int] = 240
    form: ClassVar[str] = "STREAK"
    light: ClassVar[float] = 0.6
    groups: ClassVar[dict[str, tuple[str, ...]]] = {
        **Air.groups,
        "Thrown": ("across", "down", "force", "angle", "open"),
    }

    depth: Annotated[float, percent("Depth")] = 0.3
    colour: Annotated[Colour, hue("Bright")] = "#FFF0C2"
    second: Annotated[Colour, hue("Dim")] = "#FF8A1F"
    across: Annotated[float, percent("From, across", -1, 2)] = 0.5
    down: Annotated[float, percent("From, down", -1, 2)] = 0.62
    force: Annotated[float, px("Force, a second", 4000, 0, usual=1500, keyable=False)] = 1250.0
    angle: Annotated[float, degrees("Towards", -360, 360, keyable=False)] = -90.0
    open: Annotated[float, degrees("Open", 0, 360, keyable=False)] = 150.0
    long: Annotated[float, percent("Length", 0.1, 5, usual=2)] = 1.0

    def specks(self, chance: Chances, near: np.ndarray, seconds: float, canvas: tuple[int, int]) -> Specks:
        lasts = chance(2, 0.45, 1.25)
        at = self.pace * seconds / lasts + chance(3)
        age, again = (at % 1), np.floor(at).astype(int)
        t = age * lasts
        way = np.radians(self.angle + self.open * chance(4, -0.5, 0.5, again))
        speed = self.force * near * chance(5, 0.35, 1.1, again)
        # Thrown, slowed by the air, pulled down: v(t) = v₀·e^(−kt), with its path the integral of that.
        k, fall = 2.4, 800.0
        slowed = (1 - np.exp(-k * t)) / k
        u, v = speed * np.cos(way), speed * np.sin(way)
        x = self.across * canvas[0] + u * slowed + self.wind * t * t
        y = self.down * canvas[1] + v * slowed + 0.5 * fall * t * t
        du, dv = u * np.exp(-k * t) + 2 * self.wind * t, v * np.exp(-k * t) + fall * t
        long = 2 + 0.5 * np.hypot(du, dv) * 0.045 * self.long * np.sqrt(self.large)
        thin = 3.0 * self.large * near**0.5 * (1 - 0.6 * age)
        opacity = np.minimum(1, 14 * age) * (1 - age) ** 0.8
        colour = mixed(self.second, self.colour, 1.2 * (1 - age))
        # Its head is where it is; the rest trails behind.
        turn = np.arctan2(dv, du)
        x, y = x - long * np.cos(turn), y - long * np.sin(turn)
        return Specks(x, y, long, thin, turn, np.zeros_like(x), colour, opacity)


class StreaksAir(Air):
    """Streaks of light that shoot across, in one direction."""

    kind: Literal["streaks"] = "streaks"
    title: ClassVar[str] = "Light streaks"
    hint: ClassVar[str] = "Light that shoots across"
    rank: ClassVar[int] = 68
    usual: ClassVar[int] = 26
    form: ClassVar[str] = "STREAK"
    light: ClassVar[float] = 1.0
    groups: ClassVar[dict[str, tuple[str, ...]]] = {"In the air": ("angle", "pace", "depth", "seed")}

    colour: Annotated[Colour, hue("First")] = "#BFF3F0"
    second: Annotated[Colour, hue("Second")] = "#FFB36B"
    angle: Annotated[float, degrees("Towards", -360, 360)] = -18.0
    long: Annotated[float, percent("Length", 0.1, 5, usual=2)] = 1.0
    wind: Annotated[float, Field(ge=-3000, le=3000, json_schema_extra={"hidden": True})] = 0.0

    def specks(self, chance: Chances, near: np.ndarray, seconds: float, canvas: tuple[int, int]) -> Specks:
        whole = math.hypot(*canvas)
        long = 150.0 * self.long * near * chance(6, 0.5, 1.5)
        lasts = chance(2, 0.7, 1.6) / near
        at = self.pace * seconds / lasts + chance(3)
        age, again = at % 1, np.floor(at).astype(int)
        way = math.radians(self.angle)
        # From beyond one side to beyond the other, each on a line of its own.
        along = (age - 0.5) * (whole + 4 * long) - long
        aside = chance(4, -0.5, 0.5, again) * whole
        x = canvas[0] / 2 + along * math.cos(way) - aside * math.sin(way)
        y = canvas[1] / 2 + along * math.sin(way) + aside * math.cos(way)
        thin = 2.6 * self.large * near
        opacity = chance(7, 0.45, 1.0, again)
        colour = mixed(self.colour, self.second, chance(8, -0.4, 1.4, again))
        turn = np.full_like(x, way)
        return Specks(x, y, long, thin, turn, np.zeros_like(x), colour, opacity)
