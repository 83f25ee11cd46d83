"""Filled with something else: a colour, a gradient."""

import math
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...common.colour import rgb_of
from ...craft.finishing.compositing import flat, luma_of, over
from ...craft.finishing.extent import box_of
from ...craft.finishing.setting_fields import Hue, Shelved, Turn, hue, percent, px, shelved
from ...craft.finishing.tiling import tiled
from ...piece.model.base import Colour
from ...piece.model.finish import FinishKind, Looks, Stage


class FillFinish(FinishKind):
    """A finish that takes the place of the picture within its edge."""

    looks: ClassVar[Looks] = "fill"


class FlatColour(FillFinish):
    """One colour."""

    kind: Literal["flat-colour"] = "flat-colour"
    title: ClassVar[str] = "Flat colour"
    rank: ClassVar[int] = 1

    colour: Hue = "#D63F22"
    amount: Annotated[float, percent("Amount")] = 1.0
    shading: Annotated[float, percent("Keeps shading")] = 0.0

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if not self.amount:
            return rgba
        fill = flat(np.clip(rgba[..., 3], 0, 1), self.colour)
        return filled(rgba, fill, self.amount, self.shading)


def filled(rgba: np.ndarray, fill: np.ndarray, amount: float, shading: float) -> np.ndarray:
    """A picture with as much of a fill, which may keep its shading: twice as bright as the middle grey, or half."""
    if shading:
        alpha = np.maximum(rgba[..., 3], 1e-4)
        luma = luma_of(rgba) / alpha
        by = (1 - shading + shading * np.clip(luma, 0, 1) * 2)[..., None]
        fill = fill.copy()
        fill[..., :3] = np.minimum(fill[..., :3] * by, np.clip(rgba[..., 3:], 0, 1))
    out = rgba + np.float32(amount) * (fill - rgba)
    out[..., 3] = rgba[..., 3]
    return out


class Gradient(FillFinish):
    """From colour to colour, along a line or outwards; up to five of them."""

    kind: Literal["gradient"] = "gradient"
    title: ClassVar[str] = "Gradient"
    rank: ClassVar[int] = 2

    shape: Annotated[Literal["linear", "radial"], Field(title="Goes")] = "linear"
    angle: Turn = 90.0
    first: Annotated[Colour, hue("First")] = "#E0A11B"
    last: Annotated[Colour, hue("Last")] = "#6A4A9C"
    between: Annotated[int, Field(ge=0, le=3, title="Colours between", json_schema_extra={"step": 1})] = 0
    second: Annotated[Colour, hue("Second", needs="between")] = "#D63F22"
    third: Annotated[Colour, hue("Third", needs="between", least=2)] = "#C4473A"
    fourth: Annotated[Colour, hue("Fourth", needs="between", least=3)] = "#0B7A82"
    spread: Annotated[float, percent("Spread", 0.05, 3)] = 1.0
    shift: Annotated[float, percent("Shift", -1, 1)] = 0.0
    amount: Annotated[float, percent("Amount")] = 1.0
    shading: Annotated[float, percent("Keeps shading")] = 0.0

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if not self.amount:
            return rgba
        alpha = np.clip(rgba[..., 3], 0, 1)
        left, top, right, bottom = box_of(rgba, stage)
        y, x = np.mgrid[: alpha.shape[0], : alpha.shape[1]].astype(np.float32)
        wide, tall = (right - left) / 2, (bottom - top) / 2
        x, y = x + 0.5 - left - wide, y + 0.5 - top - tall
        if self.shape == "radial":
            place = np.hypot(x, y) / max(1.0, math.hypot(wide, tall))
        else:
            c, s = math.cos(math.radians(self.angle)), math.sin(math.radians(self.angle))
            place = 0.5 + (x * c + y * s) / max(1.0, 2 * (abs(wide * c) + abs(tall * s)))
        place = (place - 0.5) / self.spread + 0.5 - self.shift
        inner = [self.second, self.third, self.fourth][: self.between]
        colours = [rgb_of(c) for c in (self.first, *inner, self.last)]
        stops = np.linspace(0, 1, len(colours))
        fill = np.empty_like(rgba)
        for n in range(3):
            fill[..., n] = np.interp(place, stops, [c[n] for c in colours]) * alpha
        fill[..., 3] = alpha
        return filled(rgba, fill, self.amount, self.shading)


class Pattern(FillFinish):
    """A picture of the shelf, again and again."""

    kind: Literal["pattern"] = "pattern"
    title: ClassVar[str] = "Picture pattern"
    hint: ClassVar[str] = "A picture of the shelf, again and again"
    rank: ClassVar[int] = 3

    picture: Annotated[Shelved, shelved("Picture", "picture")] = None
    wide: Annotated[float, px("Width", 4000, 4, usual=600)] = 120.0
    angle: Turn = 0.0
    across: Annotated[float, px("Across", 4000, -4000, usual=400)] = 0.0
    down: Annotated[float, px("Down", 4000, -4000, usual=400)] = 0.0
    shifted: Annotated[float, percent("Rows shifted")] = 0.0
    backing: Annotated[bool, Field(title="Colour behind it")] = False
    colour: Annotated[Colour, hue(when={"backing": [True]})] = "#F4F1EA"
    amount: Annotated[float, percent("Amount")] = 1.0
    shading: Annotated[float, percent("Keeps shading")] = 0.0

    @property
    def files(self) -> tuple[str, ...]:
        return (self.picture,) if self.picture else ()

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        tile = stage.supplies.shelved(self.picture) if stage.supplies is not None and self.picture else None
        if tile is None or not self.amount:
            return rgba
        left, top, right, bottom = box_of(rgba, stage)
        middle = (left + right) / 2 + self.across * stage.scale, (top + bottom) / 2 + self.down * stage.scale
        wide = max(2.0, self.wide * stage.scale)
        drawn = tiled(tile, rgba.shape[:2], wide, self.angle, middle, self.shifted)
        alpha = np.clip(rgba[..., 3:], 0, 1)
        below = flat(alpha[..., 0], self.colour) if self.backing else rgba
        return filled(rgba, over(drawn * alpha, below), self.amount, self.shading)
