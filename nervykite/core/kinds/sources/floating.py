"""Things in the air that drift or fall: dust, snow, confetti, leaves, sand, rain, bubbles."""

import math
from typing import Annotated, ClassVar, Literal

import numpy as np

from ...craft.finishing.setting_fields import hue, percent, px
from ...piece.model.base import Colour
from .air import Air, Chances, Specks, mixed, shades


class DustAir(Air):
    """Dust in the light: pale specks that hang and wander, some far out of focus."""

    kind: Literal["dust"] = "dust"
    title: ClassVar[str] = "Dust"
    hint: ClassVar[str] = "Pale specks that hang in the light"
    rank: ClassVar[int] = 61
    usual: ClassVar[int] = 170
    light: ClassVar[float] = 0.7

    wind: Annotated[float, px("Wind, a second", 3000, -3000, usual=600, keyable=False)] = 14.0
    depth: Annotated[float, percent("Depth")] = 0.9
    colour: Annotated[Colour, hue()] = "#FFF3D6"

    def specks(self, chance: Chances, near: np.ndarray, seconds: float, canvas: tuple[int, int]) -> Specks:
        x, y = self.drifting(chance, near, seconds, canvas, -9.0, sway=22.0)
        size = 2.2 * self.large * near**1.6 * chance(6, 0.6, 1.5)
        soft = size * 0.9 + 1.2
        glint = 0.62 + 0.38 * np.sin(2 * math.pi * (self.pace * seconds * chance(7, 0.15, 0.5) + chance(8)))
        opacity = 0.75 * glint / np.maximum(1, size / 4.5)
        return Specks(x, y, size, size, np.zeros_like(x), soft, shades((self.colour,), chance, 9), opacity)


class SnowAir(Air):
    """Snow: flakes that sway as they fall."""

    kind: Literal["snow"] = "snow"
    title: ClassVar[str] = "Snow"
    hint: ClassVar[str] = "Flakes that sway as they fall"
    rank: ClassVar[int] = 66
    usual: ClassVar[int] = 260

    wind: Annotated[float, px("Wind, a second", 3000, -3000, usual=600, keyable=False)] = 30.0
    colour: Annotated[Colour, hue()] = "#FFFFFF"

    def specks(self, chance: Chances, near: np.ndarray, seconds: float, canvas: tuple[int, int]) -> Specks:
        x, y = self.drifting(chance, near, seconds, canvas, 130.0, sway=26.0)
        size = 4.2 * self.large * near * chance(6, 0.6, 1.4)
        opacity = 0.95 / np.maximum(1, 0.35 * near**1.5)
        soft = self.blurred(near, size) + 0.5 * size
        turn = 2 * math.pi * chance(7)
        return Specks(x, y, size, size * chance(8, 0.8, 1), turn, soft, shades((self.colour,), chance, 9), opacity)


class ConfettiAir(Air):
    """Confetti: slips of paper that tumble, now broad, now edge on."""

    kind: Literal["confetti"] = "confetti"
    title: ClassVar[str] = "Confetti"
    hint: ClassVar[str] = "Slips of paper that tumble down"
    rank: ClassVar[int] = 62
    usual: ClassVar[int] = 130
    form: ClassVar[str] = "SLIP"

    first: Annotated[Colour, hue("First")] = "#D63F22"
    second: Annotated[Colour, hue("Second")] = "#E0A11B"
    third: Annotated[Colour, hue("Third")] = "#0B7A82"
    fourth: Annotated[Colour, hue("Fourth")] = "#FBF8F2"

    def specks(self, chance: Chances, near: np.ndarray, seconds: float, canvas: tuple[int, int]) -> Specks:
        x, y = self.drifting(chance, near, seconds, canvas, 210.0, sway=40.0)
        tumble = 2 * math.pi * (self.pace * seconds * chance(6, 0.5, 1.7) + chance(7))
        long = 10.0 * self.large * near * chance(8, 0.7, 1.25)
        broad = np.abs(np.cos(tumble))
        thin = long * chance(9, 0.4, 0.75) * np.maximum(0.1, broad)
        turn = 2 * math.pi * (chance(10) + self.pace * seconds * chance(11, -0.35, 0.35))
        colour = shades((self.first, self.second, self.third, self.fourth), chance, 12)
        # Paper is brighter when its broad side faces the light, and its back is a little darker.
        colour = colour * np.where(np.cos(tumble) > 0, 0.8 + 0.2 * broad, 0.62 + 0.14 * broad)[:, None]
        return Specks(x, y, long, thin, turn, self.blurred(near, 0.8 * long), colour, np.ones_like(x))


class LeavesAir(Air):
    """Leaves that rock from side to side as they fall."""

    kind: Literal["leaves"] = "leaves"
    title: ClassVar[str] = "Leaves"
    hint: ClassVar[str] = "Leaves that rock as they fall"
    rank: ClassVar[int] = 63
    usual: ClassVar[int] = 46
    form: ClassVar[str] = "LEAF"

    wind: Annotated[float, px("Wind, a second", 3000, -3000, usual=600, keyable=False)] = 70.0
    first: Annotated[Colour, hue("First")] = "#B5542A"
    second: Annotated[Colour, hue("Second")] = "#D9A23A"
    third: Annotated[Colour, hue("Third")] = "#7C7A35"

    def specks(self, chance: Chances, near: np.ndarray, seconds: float, canvas: tuple[int, int]) -> Specks:
        x, y = self.drifting(chance, near, seconds, canvas, 120.0, sway=70.0)
        rock = np.sin(2 * math.pi * (self.pace * seconds / chance(2, 1.6, 3.8) + chance(3) + 0.25))
        long = 17.0 * self.large * near * chance(8, 0.7, 1.3)
        flip = np.cos(2 * math.pi * (self.pace * seconds * chance(6, 0.15, 0.5) + chance(7)))
        thin = long * 0.44 * np.maximum(0.14, np.abs(flip))
        turn = 0.8 * rock + 2 * math.pi * (chance(10) + self.pace * seconds * chance(11, -0.08, 0.08))
        colour = shades((self.first, self.second, self.third), chance, 12) * (0.8 + 0.2 * flip)[:, None]
        return Specks(x, y, long, thin, turn, self.blurred(near, 0.6 * long), colour, np.ones_like(x))


class SandAir(Air):
    """Sand that the wind drives: fine grains, low streaks."""

    kind: Literal["sand"] = "sand"
    title: ClassVar[str] = "Sand"
    hint: ClassVar[str] = "Grains that the wind drives along"
    rank: ClassVar[int] = 64
    usual: ClassVar[int] = 520

    wind: Annotated[float, px("Wind, a second", 3000, -3000, usual=900, keyable=False)] = 620.0
    colour: Annotated[Colour, hue()] = "#E8CFA0"

    def specks(self, chance: Chances, near: np.ndarray, seconds: float, canvas: tuple[int, int]) -> Specks:
        x, y = self.drifting(chance, near, seconds, canvas, 26.0, sway=10.0)
        size = 1.25 * self.large * near * chance(6, 0.6, 1.5)
        speed = near * chance(1, 0.75, 1.25)
        # As long as it goes in a hundredth of a second.
        long = size + np.abs(self.wind) * speed * 0.005
        turn = np.full_like(x, math.atan2(26.0 * self.pace, self.wind or 1.0))
        opacity = chance(7, 0.35, 0.9) / np.maximum(1, 0.5 * near)
        colour = shades((self.colour,), chance, 9) * chance(10, 0.8, 1.05)[:, None]
        return Specks(x, y, long, size, turn, 0.7 * size + 0.6, np.minimum(colour, 1), opacity)


class RainAir(Air):
    """Rain: streaks that the wind slants."""

    kind: Literal["rain"] = "rain"
    title: ClassVar[str] = "Rain"
    hint: ClassVar[str] = "Streaks that the wind slants"
    rank: ClassVar[int] = 67
    usual: ClassVar[int] = 420
    reach: ClassVar[float] = 90.0
    form: ClassVar[str] = "STREAK"
    light: ClassVar[float] = 0.3

    wind: Annotated[float, px("Wind, a second", 3000, -3000, usual=900, keyable=False)] = 180.0
    colour: Annotated[Colour, hue()] = "#DCE7EE"

    def specks(self, chance: Chances, near: np.ndarray, seconds: float, canvas: tuple[int, int]) -> Specks:
        x, y = self.drifting(chance, near, seconds, canvas, 1500.0)
        speed = near * chance(1, 0.75, 1.25)
        fall, aside = 1500.0 * self.pace * speed, self.wind * speed
        long = 0.5 * np.hypot(fall, aside) * 0.042 * np.sqrt(self.large)
        thin = 1.8 * self.large * near
        turn = np.arctan2(fall, aside + 1e-6)
        opacity = chance(7, 0.4, 0.95)
        return Specks(x, y, long, thin, turn, np.zeros_like(x), shades((self.colour,), chance, 9), opacity)


class BubblesAir(Air):
    """Bubbles that rise and wobble."""

    kind: Literal["bubbles"] = "bubbles"
    title: ClassVar[str] = "Bubbles"
    hint: ClassVar[str] = "Bubbles that rise and wobble"
    rank: ClassVar[int] = 69
    usual: ClassVar[int] = 44
    form: ClassVar[str] = "BUBBLE"
    light: ClassVar[float] = 0.6

    colour: Annotated[Colour, hue()] = "#F2FBFF"
    second: Annotated[Colour, hue("Second")] = "#BFE6E2"

    def specks(self, chance: Chances, near: np.ndarray, seconds: float, canvas: tuple[int, int]) -> Specks:
        x, y = self.drifting(chance, near, seconds, canvas, -95.0, sway=26.0)
        size = 15.0 * self.large * near * chance(6, 0.5, 1.4)
        wobble = 0.06 * np.sin(2 * math.pi * (self.pace * seconds * chance(7, 0.7, 1.4) + chance(8)))
        colour = mixed(self.colour, self.second, chance(9))
        return Specks(
            x, y, size * (1 + wobble), size * (1 - wobble), np.zeros_like(x), np.zeros_like(x), colour,
            np.full_like(x, 0.85),
        )  # fmt: skip
