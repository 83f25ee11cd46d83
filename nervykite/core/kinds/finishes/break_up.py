"""Coming apart: grains carried off, stretched pixels, slices, echoes, erased away."""

import math
from typing import Annotated, ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from ...craft.finishing.compositing import over
from ...craft.finishing.extent import box_of, swept, towards
from ...craft.finishing.grains import carried
from ...craft.finishing.noise import cloud
from ...craft.finishing.setting_fields import Seed, Turn, degrees, percent, px
from ...piece.model.finish import Echoed, FinishKind, Looks, Sides, Size, Stage, Target


class BreakUpFinish(FinishKind):
    """A finish that takes a picture apart."""

    looks: ClassVar[Looks] = "break-up"


class Scatter(BreakUpFinish):
    """Crumbled into grains that a field of noise carries off. At strength 0 it is the picture itself, exactly."""

    kind: Literal["scatter"] = "scatter"
    title: ClassVar[str] = "Scatter"
    rank: ClassVar[int] = 1

    strength: Annotated[float, percent("Strength")] = 0.45
    side: Annotated[Literal["one side", "everywhere"], Field(title="Begins")] = "one side"
    angle: Annotated[float, degrees("Carried")] = -35.0
    distance: Annotated[float, px("As far as", 500, usual=300)] = 170.0
    size: Annotated[float, px("Grains", 40, 1, 0.5, 20)] = 4.0
    unrest: Annotated[float, percent("Unrest", 0, 2)] = 0.8
    spin: Annotated[float, percent("Spin", 0, 2)] = 0.6
    fade: Annotated[float, percent("Fades")] = 0.85
    seed: Seed = 1

    def reach(self, size: Size) -> float | Sides:
        unrest = 0.6 * self.unrest * self.distance + 2 * self.size
        return towards(self.distance, self.angle, unrest) if self.strength else 0.0

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if not self.strength:
            return rgba
        # Around what is seen there is nothing to come apart.
        left, top, right, bottom = box_of(rgba, stage)
        scale, whole = stage.scale, rgba
        rgba, at = rgba[top:bottom, left:right], (stage.left + left, stage.top + top)
        shape = rgba.shape[:2]
        ragged = cloud(shape, 70 * scale, self.seed, *at, 3)
        if self.side == "everywhere":
            order = ragged
        else:
            # What lies farthest the way it is carried goes first.
            order = 0.72 * (1 - swept(rgba, stage, self.angle)) + 0.28 * ragged
        return carried(
            rgba, order, strength=self.strength, angle=math.radians(self.angle), distance=self.distance * scale,
            size=max(1.0, self.size * scale), unrest=self.unrest, spin=self.spin, fade=self.fade,
            seed=self.seed, corner=at, swirl=110 * scale, on=(whole.shape[:2], (left, top)),
        )  # fmt: skip


class PixelStretch(BreakUpFinish):
    """From a line on, what is there is drawn out to the side."""

    kind: Literal["pixel-stretch"] = "pixel-stretch"
    title: ClassVar[str] = "Pixel stretch"
    rank: ClassVar[int] = 2

    direction: Annotated[Literal["right", "left", "down", "up"], Field(title="Towards")] = "right"
    place: Annotated[float, percent("From")] = 0.55
    distance: Annotated[float, px("As far as", 1000, usual=400)] = 260.0
    ragged: Annotated[float, percent("Ragged")] = 0.15
    fade: Annotated[float, percent("Fades")] = 0.3
    seed: Seed = 1

    def reach(self, size: Size) -> Sides:
        far = self.distance + 2
        left, up, right, down = (far if self.direction == d else 0.0 for d in ("left", "up", "right", "down"))
        return left, up, right, down

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if not self.distance:
            return rgba
        # Worked on as if it went to the right.
        turned = {
            "right": rgba,
            "left": rgba[:, ::-1],
            "down": rgba.transpose(1, 0, 2),
            "up": rgba[::-1].transpose(1, 0, 2),
        }
        picture = np.ascontiguousarray(turned[self.direction])
        left, _, right, _ = box_of(picture, stage)
        h, w = picture.shape[:2]
        first = stage.top if self.direction in ("right", "left") else stage.left
        noise = cloud((h, 1), 26 * stage.scale, self.seed, 0, first, 3)[:, 0] - 0.5
        place = left + (self.place + 0.5 * self.ragged * noise) * (right - left)
        column = np.clip(place, 0, w - 1).astype(np.int64)
        x = np.arange(w)[None]
        source = np.minimum(x, column[:, None]).astype(np.float32)
        rows = np.broadcast_to(np.arange(h, dtype=np.float32)[:, None], source.shape)
        out = cv2.remap(picture, source, np.ascontiguousarray(rows), cv2.INTER_NEAREST)
        end = place + self.distance * stage.scale * (1 - 0.8 * self.ragged * (noise + 0.5))
        far = (x - place[:, None]) / np.maximum(end - place, 1)[:, None]
        edge = np.clip((end[:, None] - x) + 0.5, 0, 1) * (1 - self.fade * np.clip(far, 0, 1) ** 1.5)
        keep = np.where(x <= column[:, None], 1, edge).astype(np.float32)
        out = (out * keep[..., None]).astype(np.float32)
        # What lay beyond stays below it.
        out = (
            over(out, np.where((x > column[:, None])[..., None], picture, 0).astype(np.float32))
            if stage.opaque
            else out
        )
        back = {"right": out, "left": out[:, ::-1], "down": out.transpose(1, 0, 2), "up": out.transpose(1, 0, 2)[::-1]}
        return np.ascontiguousarray(back[self.direction])


class Slices(BreakUpFinish):
    """Cut into bands that are pushed apart."""

    kind: Literal["slices"] = "slices"
    title: ClassVar[str] = "Slices"
    rank: ClassVar[int] = 3

    count: Annotated[int, Field(ge=2, le=60, title="Bands", json_schema_extra={"step": 1})] = 9
    distance: Annotated[float, px("Pushed", 400, usual=150)] = 46.0
    angle: Turn = 0.0
    uneven: Annotated[float, percent("Uneven")] = 0.7
    seed: Seed = 1

    def reach(self, size: Size) -> float:
        return self.distance + 1

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        far = self.distance * stage.scale
        if far < 0.1:
            return rgba
        rng = np.random.default_rng(self.seed)
        widths = 1 + self.uneven * rng.uniform(-0.75, 0.75, self.count)
        edges = np.cumsum(widths)[:-1] / widths.sum()
        sides = np.where(np.arange(self.count) % 2, 1, -1) * (1 - self.uneven * rng.uniform(0, 0.8, self.count))
        across = swept(rgba, stage, self.angle + 90)
        band = np.searchsorted(edges, across)
        push = (sides[band] * far).astype(np.float32)
        h, w = rgba.shape[:2]
        y, x = np.mgrid[:h, :w].astype(np.float32)
        c, s = math.cos(math.radians(self.angle)), math.sin(math.radians(self.angle))
        border = cv2.BORDER_REFLECT if stage.opaque else cv2.BORDER_CONSTANT
        return cv2.remap(
            rgba,
            (x - push * c).astype(np.float32),
            (y - push * s).astype(np.float32),
            cv2.INTER_LINEAR,
            borderMode=border,
        )


class Echo(BreakUpFinish):
    """Fading copies of where it was a moment ago. They are drawn beneath it, each as it was then."""

    kind: Literal["echo"] = "echo"
    title: ClassVar[str] = "Echo"
    hint: ClassVar[str] = "Fading copies of where it was a moment ago"
    on: ClassVar[tuple[Target, ...]] = ("cutout",)
    rank: ClassVar[int] = 4

    copies: Annotated[int, Field(ge=1, le=16, title="Copies", json_schema_extra={"step": 1})] = 5
    every: Annotated[float, Field(ge=0.25, le=60, title="Apart", json_schema_extra={"unit": "fr", "usual": 12})] = 2.0
    opacity: Annotated[float, percent("Opacity")] = 0.6
    fade: Annotated[float, percent("Each fainter by")] = 0.25
    blend: Annotated[
        Literal["normal", "screen", "plus-lighter", "multiply", "difference"],
        Field(title="Blend", json_schema_extra={"words": {"plus-lighter": {"title": "Adds light"}}}),
    ] = "normal"

    @property
    def echoes(self) -> tuple[Echoed, ...]:
        shares = (self.opacity * (1 - self.fade) ** n for n in range(self.copies))
        return tuple(Echoed(self.every * (n + 1), share, self.blend) for n, share in enumerate(shares))

    @property
    def pictured(self) -> FinishKind:
        return Repeat(count=self.copies, opacity=self.opacity, fade=self.fade)

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        return rgba


class Repeat(BreakUpFinish):
    """Copies beside it, each a little farther off, smaller or larger, turned, fainter."""

    kind: Literal["repeat"] = "repeat"
    title: ClassVar[str] = "Repeat"
    rank: ClassVar[int] = 5

    count: Annotated[int, Field(ge=1, le=16, title="Copies", json_schema_extra={"step": 1})] = 5
    distance: Annotated[float, px("Apart", 200, usual=80)] = 26.0
    angle: Turn = 180.0
    size: Annotated[float, percent("Each so large", 0.7, 1.3)] = 1.0
    turn: Annotated[float, degrees("Each turned", -45, 45, 0.5)] = 0.0
    opacity: Annotated[float, percent("Opacity")] = 0.6
    fade: Annotated[float, percent("Each fainter by")] = 0.25

    def reach(self, size: Size) -> Sides:
        half = math.hypot(*size) / 2
        grown = max(0.0, self.size**self.count - 1) * half
        turned = (
            2 * math.sin(math.radians(min(180, abs(self.turn) * self.count)) / 2) * half * max(1, self.size**self.count)
        )
        return towards(self.distance * self.count, self.angle, grown + turned + 1)

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        left, top, right, bottom = box_of(rgba, stage)
        x, y = (left + right) / 2, (top + bottom) / 2
        way = math.radians(self.angle)
        out = np.zeros_like(rgba)
        border = cv2.BORDER_REFLECT if stage.opaque else cv2.BORDER_CONSTANT
        for n in range(self.count, 0, -1):
            by, turn = self.size**n, math.radians(self.turn * n)
            c, s = by * math.cos(turn), by * math.sin(turn)
            far = self.distance * stage.scale * n
            dx, dy = far * math.cos(way), far * math.sin(way)
            matrix = np.array([[c, -s, x + dx - c * x + s * y], [s, c, y + dy - s * x - c * y]])
            copy = cv2.warpAffine(rgba, matrix, rgba.shape[1::-1], flags=cv2.INTER_LINEAR, borderMode=border)
            out = over(copy * np.float32(self.opacity * (1 - self.fade) ** (n - 1)), out)
        return over(rgba, out)


class EraseOn(BreakUpFinish):
    """Comes on bit by bit: along a line, around like a clock, out of noise, from foot to head."""

    kind: Literal["erase-on"] = "erase-on"
    title: ClassVar[str] = "Erase on"
    rank: ClassVar[int] = 6

    way: Annotated[
        Literal["line", "clock", "noise", "rising"],
        Field(title="By", json_schema_extra={"words": {"rising": {"title": "Foot to head"}}}),
    ] = "line"
    amount: Annotated[float, percent("There is", 0, 1)] = 0.6
    angle: Turn = 0.0
    softness: Annotated[float, percent("Softness")] = 0.06
    ragged: Annotated[float, percent("Ragged")] = 0.2
    seed: Seed = 1

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if self.amount >= 1:
            return rgba
        shape = rgba.shape[:2]
        noise = cloud(shape, 46 * stage.scale, self.seed, stage.left, stage.top, 4)
        if self.way == "noise":
            order = np.clip(0.5 + (noise - 0.5) * 1.5, 0, 1)
        else:
            if self.way == "clock":
                left, top, right, bottom = box_of(rgba, stage)
                y, x = np.mgrid[: shape[0], : shape[1]].astype(np.float32)
                turn = np.arctan2(y + 0.5 - (top + bottom) / 2, x + 0.5 - (left + right) / 2)
                order = ((turn - math.radians(self.angle - 90)) / (2 * math.pi)) % 1
            else:
                order = swept(rgba, stage, -90 if self.way == "rising" else self.angle)
            order = order * (1 - 0.35 * self.ragged) + 0.35 * self.ragged * noise
        width = max(self.softness, 0.004)
        edge = self.amount * (1 + width)
        keep = np.clip((edge - order) / width, 0, 1)
        return rgba * (keep * keep * (3 - 2 * keep))[..., None].astype(np.float32)
