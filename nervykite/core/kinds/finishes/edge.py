"""Around the edge: lines, glow, shadows, a shape behind it, light on its rim."""

import math
from typing import Annotated, ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from ...craft.finishing.compositing import flat, luma_of, over
from ...craft.finishing.extent import box_of, place_of, towards
from ...craft.finishing.linear_light import soft, to_code, to_light
from ...craft.finishing.noise import cloud
from ...craft.finishing.setting_fields import Boils, Hue, Line, Seed, Share, Turn, degrees, hue, percent, px
from ...craft.finishing.signed_distance import away, band, way_along
from ...piece.model.base import Colour
from ...piece.model.finish import FinishKind, Looks, Sides, Size, Stage, Target, When


class EdgeFinish(FinishKind):
    """A finish that goes by an edge, so that it needs one."""

    on: ClassVar[tuple[Target, ...]] = ("cutout",)
    looks: ClassVar[Looks] = "edge"


class Outline(EdgeFinish):
    """Up to three lines along the edge, each beside the one before: even, dashed, dotted, torn or drawn by hand."""

    kind: Literal["outline"] = "outline"
    title: ClassVar[str] = "Outline"
    rank: ClassVar[int] = 1

    place: Annotated[
        Literal["outside", "on", "inside"],
        Field(title="Where", json_schema_extra={"words": {"on": {"title": "On it"}}}),
    ] = "outside"
    offset: Annotated[float, px("Away from it", 200, -200, 0.5, 40)] = 0.0
    width: Line = 6.0
    colour: Hue = "#FFFFFF"
    opacity: Share = 1.0
    second: Annotated[float, px("Second line", 80, step=0.5, usual=30)] = 0.0
    second_colour: Annotated[Colour, hue("Second colour", needs="second")] = "#D63F22"
    second_opacity: Annotated[float, percent("Second opacity", needs="second")] = 1.0
    third: Annotated[float, px("Third line", 80, step=0.5, usual=30, needs="second")] = 0.0
    third_colour: Annotated[Colour, hue("Third colour", needs="third")] = "#1E2530"
    third_opacity: Annotated[float, percent("Third opacity", needs="third")] = 1.0
    style: Annotated[Literal["solid", "dashed", "dotted"], Field(title="Drawn")] = "solid"
    dash: Annotated[float, px("Dash", 400, 1, usual=80, when={"style": ["dashed"]})] = 24.0
    rough: Annotated[float, percent("Torn")] = 0.0
    wobble: Annotated[float, percent("Wobble")] = 0.0
    boils: Boils = 0
    seed: Seed = 1

    def _lines(self) -> list[tuple[float, str, float]]:
        lines = [
            (self.width, self.colour, self.opacity),
            (self.second, self.second_colour, self.second_opacity),
            (self.third, self.third_colour, self.third_opacity),
        ]
        return [line for line in lines if line[0] > 0]

    def _sways(self) -> float:
        """The distance by which roughness and wobble carry a line away from its place at most, in project pixels."""
        return self.rough * 14 + self.wobble * 10

    def reach(self, size: Size) -> float:
        total = sum(w for w, _, _ in self._lines())
        outwards = total if self.place == "outside" else total / 2 if self.place == "on" else 0
        return max(0.0, outwards + self.offset + self._sways()) + 1.5

    def moment(self, when: When) -> float | None:
        return float(when.since // self.boils) if self.boils and (self.rough or self.wobble) else None

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        lines, scale = self._lines(), stage.scale
        if not lines or not (rgba[..., 3] >= 0.5).any():
            return rgba
        total = sum(w for w, _, _ in lines) * scale
        start = self.offset * scale - (total / 2 if self.place == "on" else 0)
        far = away(rgba[..., 3])
        if self._sways():
            far = far + self._swayed(far.shape, stage)
        if self.place == "inside":
            far = -far
        cut = self._cut(rgba[..., 3], total, scale)
        drawn = np.zeros_like(rgba)
        # Outer lines go on below inner ones, and the innermost below the figure's soft edge: nothing shows between.
        under = self.place == "outside" and self.offset <= 0
        low, cut = (-1e6, cut * (far > -8)) if under else (start, cut)
        end = start + total
        for wide, paint, opaque in reversed(lines):
            line = band(far, low, end) * min(1.0, wide * scale) * opaque * cut
            drawn = over(flat(line.astype(np.float32), paint), drawn)
            end -= wide * scale
        if under:
            return over(rgba, drawn)
        if self.place == "inside":
            drawn = drawn * np.minimum(rgba[..., 3:], 1)
        return over(drawn, rgba)

    def _swayed(self, shape: tuple[int, int], stage: Stage) -> np.ndarray:
        """The distance by which each pixel lies farther out for a line that is torn, or drawn by hand."""
        seed, scale = self.seed + 7717 * int(stage.moment or 0), stage.scale
        left, top = stage.left, stage.top
        torn = cloud(shape, 34 * scale, seed, left, top, 4) + 0.35 * cloud(shape, 5 * scale, seed + 1, left, top, 2)
        drawn = cloud(shape, 60 * scale, seed + 2, left, top, 2)
        return (self.rough * 14 * (torn - 0.675) * 1.6 + self.wobble * 10 * (2 * drawn - 1)) * np.float32(scale)

    def _cut(self, alpha: np.ndarray, total: float, scale: float) -> np.ndarray | float:
        """Where dashes and dots are, 0…1."""
        if self.style == "solid":
            return 1.0
        way = way_along(alpha)
        dots = self.style == "dotted"
        wanted = max(2.0, 2 * total if dots else 2 * self.dash * scale)
        step = way.length / np.maximum(1, np.round(way.length / wanted))  # a whole number of them
        place = way.along % step
        on = step / 2 if not dots else total
        middle = np.abs(place - step / 2)
        return np.clip(on / 2 - middle + 0.5, 0, 1).astype(np.float32)


class Glow(EdgeFinish):
    """Light around the edge, or from it inwards; it adds to what lies below."""

    kind: Literal["glow"] = "glow"
    title: ClassVar[str] = "Glow"
    rank: ClassVar[int] = 2

    place: Annotated[Literal["outer", "inner"], Field(title="Where")] = "outer"
    colour: Hue = "#7FE3FF"
    size: Annotated[float, px("Size", 300, usual=120)] = 40.0
    strength: Annotated[float, percent("Strength", most=4)] = 1.2

    def reach(self, size: Size) -> float:
        return 1.6 * self.size + 2 if self.place == "outer" else 0.0

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        from ...craft.finishing.compiled.light_kernels import glow

        sigma = self.size * stage.scale / 2
        alpha = np.clip(rgba[..., 3], 0, 1)
        inner = self.place == "inner"
        source = 1 - alpha if inner else alpha
        # A narrow one and a wide one: bright at the edge, with a long tail.
        spread = 0.6 * soft(source, sigma * 0.35, inner) + 0.4 * soft(source, sigma, inner)
        if not inner:
            spread = faded(spread)
        much = np.clip(spread * self.strength, 0, 4) * (alpha if inner else 1 - alpha)
        light, one = to_light(rgba), to_light(flat(np.ones((1, 1), np.float32), self.colour))[0, 0, :3]
        glow(light.reshape(-1, 4), np.ascontiguousarray(much, np.float32).ravel(), one, alpha.ravel())
        return to_code(light)


def faded(spread: np.ndarray) -> np.ndarray:
    """Something that ends at the picture's edge, though its tail would go on."""
    edge = np.concatenate([spread[0], spread[-1], spread[:, 0], spread[:, -1]])
    least = float(edge.max()) if edge.size else 0.0
    return np.maximum(spread - least, 0) / max(1 - least, 1e-3)


class DropShadow(EdgeFinish):
    """Its silhouette, dark and soft, below it to one side."""

    kind: Literal["drop-shadow"] = "drop-shadow"
    title: ClassVar[str] = "Drop shadow"
    rank: ClassVar[int] = 3

    angle: Turn = 60.0
    distance: Annotated[float, px("Distance", 400, usual=100)] = 18.0
    softness: Annotated[float, px("Softness", 200, usual=80)] = 16.0
    spread: Annotated[float, px("Spread", 80, usual=30)] = 0.0
    colour: Hue = "#000000"
    opacity: Share = 0.55

    def reach(self, size: Size) -> Sides:
        return towards(self.distance, self.angle, 1.5 * self.softness + self.spread + 2)

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        alpha = grown(np.clip(rgba[..., 3], 0, 1), self.spread * stage.scale)
        turn, far = math.radians(self.angle), self.distance * stage.scale
        shape = moved(alpha, np.array([[1, 0, far * math.cos(turn)], [0, 1, far * math.sin(turn)]]))
        shape = soft(shape, self.softness * stage.scale / 2)
        return over(rgba, flat(shape * np.float32(self.opacity), self.colour))


class CastShadow(EdgeFinish):
    """Its shadow on the ground, from its feet on: flat, leaning, softer the farther it falls."""

    kind: Literal["cast-shadow"] = "cast-shadow"
    title: ClassVar[str] = "Cast shadow"
    rank: ClassVar[int] = 4

    lean: Annotated[float, degrees("Leans", -75, 75)] = 55.0
    length: Annotated[float, percent("Length", 0.05, 2)] = 0.35
    towards: Annotated[
        Literal["back", "front"],
        Field(
            title="Falls", json_schema_extra={"words": {"back": {"title": "Behind"}, "front": {"title": "In front"}}}
        ),
    ] = "back"
    foot: Annotated[float, percent("Foot, from below", 0, 0.9)] = 0.0
    softness: Annotated[float, px("Softness, far off", 200, usual=80)] = 20.0
    colour: Hue = "#101418"
    opacity: Share = 0.65

    def reach(self, size: Size) -> Sides:
        soft_, fallen = 1.5 * self.softness + 2, size[1] * (1 - self.foot) * self.length
        aside = fallen * math.tan(math.radians(self.lean))
        # What lies below the foot falls the other way.
        less = size[1] * self.foot * self.length
        other = less * math.tan(math.radians(self.lean))
        along = max(0.0, fallen - size[1] * (1 - self.foot))
        down = fallen - size[1] * self.foot if self.towards == "front" else 0.0
        return max(-aside, other, 0) + soft_, along + soft_, max(aside, -other, 0) + soft_, max(down, less, 0) + soft_

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        alpha = np.clip(rgba[..., 3], 0, 1)
        _, top, _, bottom = box_of(rgba, stage)
        foot = bottom - self.foot * (bottom - top)
        tall = max(1.0, foot - top)
        down = -1.0 if self.towards == "back" else 1.0
        lean = math.tan(math.radians(self.lean)) * self.length
        # A height h above the foot falls h·length along the ground, and to the side as it leans.
        matrix = np.array([[1, -lean, lean * foot], [0, -down * self.length, foot * (1 + down * self.length)]])
        shape = moved(alpha, matrix)
        far = np.clip(np.abs(np.arange(alpha.shape[0]) + 0.5 - foot) / (tall * self.length), 0, 1)[:, None]
        near, away_ = soft(shape, 1 + 0.08 * self.softness * stage.scale), soft(shape, self.softness * stage.scale / 2)
        mix = np.sqrt(far).astype(np.float32)
        fallen = (near * (1 - mix) + away_ * mix) * (1 - 0.55 * far).astype(np.float32) * np.float32(self.opacity)
        return over(rgba, flat(fallen.astype(np.float32), self.colour))


class BackingShape(EdgeFinish):
    """Its silhouette filled behind it: grown, shifted, scaled and sheared, with a line of its own."""

    kind: Literal["backing-shape"] = "backing-shape"
    title: ClassVar[str] = "Backing shape"
    rank: ClassVar[int] = 5

    colour: Hue = "#E0A11B"
    opacity: Share = 1.0
    grow: Annotated[float, px("Grows", 120, usual=60)] = 14.0
    across: Annotated[float, px("Across", 400, -400, usual=100)] = -22.0
    down: Annotated[float, px("Down", 400, -400, usual=100)] = 14.0
    size: Annotated[float, percent("Size", 0.5, 2)] = 1.0
    shear: Annotated[float, degrees("Shear", -60, 60)] = 0.0
    line: Annotated[float, px("Line", 60, step=0.5, usual=20)] = 0.0
    line_colour: Annotated[Colour, hue("Line colour", needs="line")] = "#FFFFFF"

    def reach(self, size: Size) -> float:
        wide, tall = size[0] / 2, size[1] / 2
        larger = max(0.0, self.size - 1) * max(wide, tall) + self.size * tall * abs(math.tan(math.radians(self.shear)))
        return self.grow + max(abs(self.across), abs(self.down)) + self.line + larger + 2

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        scale, alpha = stage.scale, np.clip(rgba[..., 3], 0, 1)
        x, y = place_of(rgba, stage, 0.5, 0.5)
        lean = -math.tan(math.radians(self.shear))
        linear = np.array([[self.size, self.size * lean], [0, self.size]])
        shift = np.array([x, y]) - linear @ [x, y] + np.array([self.across, self.down]) * scale
        far = away(moved(alpha, np.column_stack([linear, shift])))
        shape = flat((band(far, -1e6, self.grow * scale) * self.opacity).astype(np.float32), self.colour)
        if self.line:
            line = band(far, self.grow * scale, (self.grow + self.line) * scale) * min(1.0, self.line * scale)
            shape = over(flat((line * self.opacity).astype(np.float32), self.line_colour), shape)
        return over(rgba, shape)


class RimLight(EdgeFinish):
    """Light from behind, on the edge that is turned to it, following the picture's own shading."""

    kind: Literal["rim-light"] = "rim-light"
    title: ClassVar[str] = "Rim light"
    rank: ClassVar[int] = 6

    angle: Turn = -60.0
    width: Annotated[float, px("Width", 120, usual=40)] = 10.0
    colour: Hue = "#FFD9A0"
    strength: Annotated[float, percent("Strength", most=3)] = 1.0
    around: Annotated[float, percent("All around")] = 0.0

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        alpha, wide = np.clip(rgba[..., 3], 0, 1), max(0.5, self.width * stage.scale)
        turn = math.radians(self.angle)
        # What a silhouette moved away from the light does not cover faces it.
        away_from = moved(alpha, np.array([[1, 0, -wide * math.cos(turn)], [0, 1, -wide * math.sin(turn)]]))
        facing = soft(np.clip(alpha - away_from, 0, 1), wide / 4) ** 1.4
        edge = np.clip(1 - soft(alpha, wide / 2), 0, 1) * 2
        lit = alpha * np.clip((1 - self.around) * facing + self.around * edge, 0, 1)
        light = to_light(rgba)
        own = luma_of(light)[..., None]
        add = to_light(flat(lit.astype(np.float32), self.colour))[..., :3] * (0.35 + 1.3 * np.sqrt(np.maximum(own, 0)))
        light[..., :3] = np.minimum(light[..., :3] + add * np.float32(self.strength), alpha[..., None])
        return to_code(light)


def grown(alpha: np.ndarray, by: float) -> np.ndarray:
    """An alpha, float32 (h, w), so many pixels larger all around."""
    return band(away(alpha), -1e6, by).astype(np.float32) if by > 0 else alpha


def moved(alpha: np.ndarray, matrix: np.ndarray) -> np.ndarray:
    """An alpha, or any picture, float32, moved by a matrix, 2×3, of places counted from the corners of pixels."""
    given = matrix.copy()
    given[:, 2] += 0.5 * (matrix[:, 0] + matrix[:, 1]) - 0.5
    return cv2.warpAffine(alpha, given, alpha.shape[1::-1], flags=cv2.INTER_LINEAR)
