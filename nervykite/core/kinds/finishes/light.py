"""Light that falls on it: from a side, from a leak, in a flash; a vignette, a streak."""

import math
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...common.colour import rgb_of
from ...craft.finishing.compositing import flat, luma_of
from ...craft.finishing.extent import place_of
from ...craft.finishing.linear_light import soft, to_code, to_light
from ...craft.finishing.lines import straight
from ...craft.finishing.noise import cloud
from ...craft.finishing.setting_fields import Hue, Seed, Turn, hue, percent, px
from ...piece.model.base import Colour
from ...piece.model.finish import FinishKind, Looks, Stage, When
from .lens import Place


class LightFinish(FinishKind):
    """A finish that adds light, or takes it away."""

    looks: ClassVar[Looks] = "light"


def lit(rgba: np.ndarray, *lights: tuple[str, np.ndarray]) -> np.ndarray:
    """A picture with coloured lights on it, linear, of each as much as float32 (h, w) says, where it covers."""
    from ...craft.finishing.compiled.light_kernels import shine

    light = to_light(rgba)
    for colour, much in lights:
        one = to_light(flat(np.ones((1, 1), np.float32), colour))[0, 0, :3]
        shine(light.reshape(-1, 4), np.ascontiguousarray(much, np.float32).ravel(), one)
    return to_code(light)


class SideLight(LightFinish):
    """Coloured light that washes over it from one point to another, following its own shading."""

    kind: Literal["side-light"] = "side-light"
    title: ClassVar[str] = "Side light"
    rank: ClassVar[int] = 1

    from_across: Annotated[Place, Field(title="From, across")] = 0.0
    from_down: Annotated[Place, Field(title="From, down")] = 0.2
    to_across: Annotated[Place, Field(title="To, across")] = 0.8
    to_down: Annotated[Place, Field(title="To, down")] = 0.6
    colour: Hue = "#FF7A3D"
    strength: Annotated[float, percent("Strength", 0, 3)] = 0.9
    shading: Annotated[float, percent("Shading")] = 0.7
    dark: Annotated[float, percent("Darkens rest")] = 0.35

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        x0, y0 = place_of(rgba, stage, self.from_across, self.from_down)
        x1, y1 = place_of(rgba, stage, self.to_across, self.to_down)
        dx, dy = x1 - x0, y1 - y0
        long = max(1.0, math.hypot(dx, dy))
        h, w = rgba.shape[:2]
        y, x = np.mgrid[:h, :w].astype(np.float32)
        along = ((x - x0) * dx + (y - y0) * dy) / long**2
        falls = np.clip(1 - along, 0, 1)
        falls = falls * falls * (3 - 2 * falls)
        luma = np.clip(luma_of(straight(rgba)), 0, 1)
        # What rises towards the light catches more of it: the tones, softened, read as height.
        height = soft(luma.astype(np.float32), 4 * stage.scale, True)
        gy, gx = np.gradient(height)
        facing = np.clip(0.5 - (gx * dx + gy * dy) / long * (14 / max(stage.scale, 0.2)) * stage.scale, 0, 1.4)
        much = falls * (1 - self.shading + self.shading * facing * (0.25 + 1.2 * luma)) * self.strength
        out = rgba.copy()
        out[..., :3] *= (1 - self.dark * (1 - falls))[..., None].astype(np.float32)
        return lit(out, (self.colour, much))


class Vignette(LightFinish):
    """Darker towards the corners, or in another colour."""

    kind: Literal["vignette"] = "vignette"
    title: ClassVar[str] = "Vignette"
    rank: ClassVar[int] = 2

    amount: Annotated[float, percent("Amount", 0, 1)] = 0.6
    size: Annotated[float, percent("Clear", 0, 1.5)] = 0.55
    softness: Annotated[float, percent("Softness", 0.05, 2)] = 0.7
    across: Annotated[Place, Field(title="Middle, across")] = 0.5
    down: Annotated[Place, Field(title="Middle, down")] = 0.5
    colour: Hue = "#000000"

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        x0, y0 = place_of(rgba, stage, self.across, self.down)
        h, w = rgba.shape[:2]
        y, x = np.mgrid[:h, :w].astype(np.float32)
        wide, tall = (w / 2, h / 2) if stage.opaque else (stage.canvas[0] / 2, stage.canvas[1] / 2)
        far = np.hypot((x + 0.5 - x0) / max(1, wide), (y + 0.5 - y0) / max(1, tall))
        share = np.clip((far - self.size) / self.softness, 0, 1)
        share = (share * share * (3 - 2 * share) * self.amount)[..., None].astype(np.float32)
        out = rgba.copy()
        colour = np.array(rgb_of(self.colour), np.float32)
        out[..., :3] += share * (colour * np.clip(rgba[..., 3:], 0, 1) - rgba[..., :3])
        return out


class LightLeak(LightFinish):
    """Light that came in at the back of the camera."""

    kind: Literal["light-leak"] = "light-leak"
    title: ClassVar[str] = "Light leak"
    rank: ClassVar[int] = 3

    angle: Turn = 200.0
    reach_in: Annotated[float, percent("Reaches in", 0.05, 1.5)] = 0.6
    colour: Hue = "#FF6A2B"
    core: Annotated[Colour, hue("At its edge")] = "#FFE08A"
    strength: Annotated[float, percent("Strength", 0, 3)] = 0.9
    seed: Seed = 1

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        w, h = stage.canvas
        high, wide = rgba.shape[:2]
        y, x = np.mgrid[:high, :wide].astype(np.float32)
        turn = math.radians(self.angle)
        c, s = math.cos(turn), math.sin(turn)
        span = max(1.0, abs(w * c) + abs(h * s))
        # 0 at the edge that it comes in from, 1 at the one across.
        along = 0.5 - ((x + stage.left - w / 2) * c + (y + stage.top - h / 2) * s) / span
        at = stage.left, stage.top
        sway = cloud((high, wide), 0.45 * min(w, h), self.seed, *at, 2) - 0.5
        flame = np.clip(1 - (along + 0.5 * sway) / self.reach_in, 0, 1) ** 1.7
        flame *= 0.6 + 0.8 * cloud((high, wide), 0.25 * min(w, h), self.seed + 4, *at, 2)
        core = np.clip(flame - 0.45, 0, 1) * self.strength
        return lit(rgba, (self.colour, flame * self.strength), (self.core, core))


class FlareStreak(LightFinish):
    """A streak through a bright point, with a glow about it."""

    kind: Literal["flare-streak"] = "flare-streak"
    title: ClassVar[str] = "Flare streak"
    rank: ClassVar[int] = 4

    across: Annotated[Place, Field(title="Point, across")] = 0.7
    down: Annotated[Place, Field(title="Point, down")] = 0.25
    angle: Turn = 0.0
    length: Annotated[float, percent("Length", 0.05, 3)] = 0.9
    width: Annotated[float, px("Width", 60, 0.5, 0.5)] = 5.0
    colour: Hue = "#7FC4FF"
    strength: Annotated[float, percent("Strength", 0, 4)] = 1.2
    flipped: Annotated[bool, Field(title="One side only")] = False

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        x0, y0 = place_of(rgba, stage, self.across, self.down)
        h, w = rgba.shape[:2]
        y, x = np.mgrid[:h, :w].astype(np.float32)
        turn = math.radians(self.angle)
        u = (x - x0) * math.cos(turn) + (y - y0) * math.sin(turn)
        v = -(x - x0) * math.sin(turn) + (y - y0) * math.cos(turn)
        long, wide = max(1.0, self.length * stage.canvas[0] / 2), max(0.5, self.width * stage.scale)
        fall = np.exp(-np.abs(u) / (0.45 * long)) * np.clip(1.4 - np.abs(u) / long, 0, 1)
        if self.flipped:
            fall = np.where(u < 0, fall * np.exp(u / wide), fall)
        thin = wide * (0.25 + 0.75 * fall)
        streak = fall * np.exp(-((v / thin) ** 2)) + 0.3 * fall * np.exp(-np.abs(v) / (3 * wide))
        glow = 1.1 * np.exp(-((np.hypot(u, v) / (3.2 * wide)) ** 1.2))
        core = np.clip(0.8 * streak * streak + glow, 0, 2) * self.strength * 0.7
        return lit(rgba, (self.colour, (streak + 0.5 * glow) * self.strength), ("#FFFFFF", core))


class Flash(LightFinish):
    """White for a moment, or of any colour, then dying away; from its own frame on, or from the first."""

    kind: Literal["flash"] = "flash"
    title: ClassVar[str] = "Flash"
    rank: ClassVar[int] = 5

    at: Annotated[
        Literal["start", "landing", "end"],
        Field(
            title="At", json_schema_extra={"words": {"landing": {"title": "Its frame"}, "end": {"title": "The end"}}}
        ),
    ] = "start"
    holds: Annotated[int, Field(ge=0, le=60, title="Holds", json_schema_extra={"unit": "fr"})] = 1
    dies: Annotated[int, Field(ge=0, le=240, title="Dies away in", json_schema_extra={"unit": "fr"})] = 6
    colour: Hue = "#FFFFFF"
    amount: Annotated[float, percent("Amount")] = 1.0

    def moment(self, when: When) -> float | None:
        since = when.since - {"start": 0.0, "landing": when.landing, "end": when.lasts - 1}[self.at]
        if self.at == "end":
            # It comes up towards the end, and holds there.
            since = -since
        if since < 0:
            return 0.0
        left = 1.0 if since < self.holds else 1 - (since - self.holds + 1) / (self.dies + 1)
        return round(max(0.0, left) ** 1.6, 4)

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        much = (1.0 if stage.moment is None else stage.moment) * self.amount
        if not much:
            return rgba
        out = rgba.copy()
        fill = flat(np.clip(rgba[..., 3], 0, 1), self.colour)
        # At first it burns out what is there, then it is laid over it.
        out[..., :3] = np.minimum(rgba[..., :3] * (1 + 1.5 * much), np.clip(rgba[..., 3:], 0, 1))
        out[..., :3] += np.float32(much) * (fill[..., :3] - out[..., :3])
        return out
