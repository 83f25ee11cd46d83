"""Tones and colours: brighter, harder, warmer; in two inks or three; flattened, turned around, taken away."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...common.colour import rgb_of
from ...craft.finishing.setting_fields import hue, percent
from ...craft.finishing.tones import STEPS, mapped, ramp_of, through, through_points
from ...piece.model.base import Colour
from ...piece.model.finish import FinishKind, Looks, Stage

Both = Annotated[float, Field(ge=-1, le=1, json_schema_extra={"unit": "%"})]
Point = tuple[Annotated[float, Field(ge=0, le=1)], Annotated[float, Field(ge=0, le=1)]]
STRAIGHT: tuple[Point, ...] = ((0.0, 0.0), (1.0, 1.0))


class ToneFinish(FinishKind):
    """A finish that changes each pixel by itself."""

    looks: ClassVar[Looks] = "tone"


class Tone(ToneFinish):
    """Exposure, contrast, highlights and shadows, a curve, saturation, warmth, tint."""

    kind: Literal["tone"] = "tone"
    title: ClassVar[str] = "Tone"
    rank: ClassVar[int] = 1

    exposure: Annotated[float, Field(ge=-6, le=6, title="Exposure", json_schema_extra={"unit": "EV", "step": 0.1})] = (
        0.0
    )
    contrast: Annotated[Both, Field(title="Contrast")] = 0.0
    highlights: Annotated[Both, Field(title="Highlights")] = 0.0
    shadows: Annotated[Both, Field(title="Shadows")] = 0.0
    saturation: Annotated[float, percent("Saturation", 0, 3)] = 1.0
    warmth: Annotated[Both, Field(title="Warmth")] = 0.0
    tint: Annotated[Both, Field(title="Tint")] = 0.0
    curve: Annotated[
        tuple[Point, ...], Field(min_length=2, max_length=16, title="Curve", json_schema_extra={"format": "curve"})
    ] = STRAIGHT

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if self == Tone():
            return rgba
        # Warmth and tint are gains in light, as of a lamp of another colour, about as bright as before.
        gains = 2.0**self.exposure * np.array(
            [1 + 0.28 * self.warmth + 0.1 * self.tint, 1 - 0.14 * self.tint, 1 - 0.32 * self.warmth + 0.1 * self.tint]
        )
        light = np.where(STEPS <= 0.04045, STEPS / 12.92, ((STEPS + 0.055) / 1.055) ** 2.4)
        curves = [self._shaped(_coded(_rolled(light * gain))) for gain in gains]
        luma = STEPS + 0.9 * self.highlights * STEPS**2 * (1 - STEPS) + 0.9 * self.shadows * STEPS * (1 - STEPS) ** 2
        return through(rgba, curves, luma, self.saturation)

    def _shaped(self, code: np.ndarray) -> np.ndarray:
        if self.contrast > 0:
            k = 1 + 1.6 * self.contrast
            code = code**k / np.maximum(code**k + (1 - code) ** k, 1e-9)
        elif self.contrast < 0:
            code = 0.5 + (code - 0.5) * (1 + 0.9 * self.contrast)
        if self.curve == STRAIGHT:
            return code
        return np.interp(code, STEPS, through_points(self.curve))


def _rolled(light: np.ndarray) -> np.ndarray:
    """Light that goes beyond white, bent over so that it does not end in a hard edge."""
    knee = 0.82
    if light[-1] <= 1:
        return light
    over = np.maximum(light - knee, 0) / (1 - knee)
    most = over[-1]
    # x(1 + x/w²)/(1 + x) reaches 1 where x is w (Reinhard et al. 2002, eq. 4).
    bent = over * (1 + over / most**2) / (1 + over)
    return np.where(light > knee, knee + (1 - knee) * bent, light)


def _coded(light: np.ndarray) -> np.ndarray:
    light = np.clip(light, 0, 1)
    return np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)


class Duotone(ToneFinish):
    """Dark parts in one ink, light ones in another."""

    kind: Literal["duotone"] = "duotone"
    title: ClassVar[str] = "Duotone"
    rank: ClassVar[int] = 2

    dark: Annotated[Colour, hue("Dark")] = "#2B1B5A"
    light: Annotated[Colour, hue("Light")] = "#F6D8A8"
    contrast: Annotated[Both, Field(title="Contrast")] = 0.2
    amount: Annotated[float, percent("Amount")] = 1.0

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if not self.amount:
            return rgba
        ramp = ramp_of([rgb_of(self.dark), rgb_of(self.light)], [0, 1])
        return mapped(rgba, _along(ramp, self.contrast), self.amount)


class Tritone(ToneFinish):
    """Three inks: dark, middle and light parts."""

    kind: Literal["tritone"] = "tritone"
    title: ClassVar[str] = "Tritone"
    rank: ClassVar[int] = 3

    dark: Annotated[Colour, hue("Dark")] = "#1A1430"
    middle: Annotated[Colour, hue("Middle")] = "#C4473A"
    light: Annotated[Colour, hue("Light")] = "#FBE9C8"
    place: Annotated[float, percent("Middle at", 0.05, 0.95)] = 0.45
    contrast: Annotated[Both, Field(title="Contrast")] = 0.1
    amount: Annotated[float, percent("Amount")] = 1.0

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if not self.amount:
            return rgba
        ramp = ramp_of([rgb_of(self.dark), rgb_of(self.middle), rgb_of(self.light)], [0, self.place, 1])
        return mapped(rgba, _along(ramp, self.contrast), self.amount)


def _along(ramp: np.ndarray, contrast: float) -> np.ndarray:
    """A ramp gone along faster in the middle, or slower."""
    k = 1 + 1.6 * contrast if contrast >= 0 else 1 / (1 - 1.6 * contrast)
    place = STEPS**k / np.maximum(STEPS**k + (1 - STEPS) ** k, 1e-9)
    return np.stack([np.interp(place, STEPS, row) for row in ramp])


class Posterise(ToneFinish):
    """Few tones, as if each were printed by itself."""

    kind: Literal["posterise"] = "posterise"
    title: ClassVar[str] = "Posterise"
    rank: ClassVar[int] = 4

    levels: Annotated[int, Field(ge=2, le=16, title="Tones", json_schema_extra={"step": 1})] = 4
    softness: Annotated[float, percent("Softness")] = 0.1
    saturation: Annotated[float, percent("Saturation", 0, 3)] = 1.15

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        curve = stepped(STEPS, self.levels, self.softness)
        return through(rgba, [curve] * 3, None, self.saturation)


def stepped(values: np.ndarray, levels: int, softness: float) -> np.ndarray:
    """Values 0…1 in so many equal steps; softness, 0…1, is how much of each goes over into the next."""
    place = np.clip(values, 0, 1) * levels - 1e-6
    step = np.floor(np.maximum(place, 0))
    part = place - step
    rise = np.clip((part - 1) / max(softness, 1e-3) + 1, 0, 1) if softness else np.zeros_like(part)
    rise = rise * rise * (3 - 2 * rise)
    return np.clip((step + rise) / (levels - 1), 0, 1)


class Threshold(ToneFinish):
    """Two colours and nothing between."""

    kind: Literal["threshold"] = "threshold"
    title: ClassVar[str] = "Threshold"
    rank: ClassVar[int] = 5

    level: Annotated[float, percent("Level")] = 0.45
    softness: Annotated[float, percent("Softness")] = 0.04
    dark: Annotated[Colour, hue("Dark")] = "#16181D"
    light: Annotated[Colour, hue("Light")] = "#F4F1EA"

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        half = max(self.softness / 2, 0.002)
        ramp = ramp_of([rgb_of(self.dark), rgb_of(self.light)], [self.level - half, self.level + half])
        return mapped(rgba, ramp)


class Invert(ToneFinish):
    """Light for dark, and every colour for its opposite."""

    kind: Literal["invert"] = "invert"
    title: ClassVar[str] = "Invert"
    rank: ClassVar[int] = 6

    amount: Annotated[float, percent("Amount")] = 1.0

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if not self.amount:
            return rgba
        out = rgba.copy()
        out[..., :3] = rgba[..., :3] + self.amount * (np.clip(rgba[..., 3:], 0, 1) - 2 * rgba[..., :3])
        return out


class BlackAndWhite(ToneFinish):
    """Without colour: how much of it red, green and blue become."""

    kind: Literal["black-and-white"] = "black-and-white"
    title: ClassVar[str] = "Black and white"
    rank: ClassVar[int] = 7

    red: Annotated[float, percent("Red", -1, 2)] = 0.35
    green: Annotated[float, percent("Green", -1, 2)] = 0.5
    blue: Annotated[float, percent("Blue", -1, 2)] = 0.15
    amount: Annotated[float, percent("Amount")] = 1.0

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if not self.amount:
            return rgba
        return mapped(rgba, np.stack([STEPS] * 3), self.amount, (self.red, self.green, self.blue))
