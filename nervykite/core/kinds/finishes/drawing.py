"""As if drawn: neon, ink, halftone, hatching, pencil, paper."""

import math
from typing import Annotated, ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from ...common.colour import rgb_of
from ...craft.finishing.compositing import flat, luma_of, within
from ...craft.finishing.linear_light import soft, to_code, to_light
from ...craft.finishing.lines import difference, ridges, straight, strength
from ...craft.finishing.noise import cloud, grains
from ...craft.finishing.setting_fields import Hue, Seed, degrees, hue, percent, px
from ...piece.model.base import Colour
from ...piece.model.finish import FinishKind, Looks, Size, Stage
from .tone import stepped


class DrawingFinish(FinishKind):
    """A finish that makes lines, dots or strokes of a picture."""

    looks: ClassVar[Looks] = "drawing"


class NeonEdges(DrawingFinish):
    """The picture's own lines as tubes of light."""

    kind: Literal["neon-edges"] = "neon-edges"
    title: ClassVar[str] = "Neon edges"
    rank: ClassVar[int] = 1

    threshold: Annotated[float, percent("Threshold")] = 0.42
    thickness: Annotated[float, px("Thickness", 20, 0.5, 0.5)] = 2.2
    detail: Annotated[float, px("Detail from", 12, 0.5, 0.5)] = 3.0
    own: Annotated[bool, Field(title="In its own colours")] = False
    colour: Hue = "#5FE8FF"
    glow: Annotated[float, px("Glow", 120, usual=60)] = 16.0
    strength: Annotated[float, percent("Strength", 0, 4)] = 1.0
    base: Annotated[float, percent("Base kept")] = 0.0
    dark: Annotated[float, percent("Base dark")] = 0.85

    def reach(self, size: Size) -> float:
        return 1.6 * self.glow + self.thickness

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        from ...craft.finishing.compiled.lines_kernels import tubes

        scale, alpha = stage.scale, np.clip(rgba[..., 3], 0, 1)
        colours = straight(rgba)
        much, turn = strength(colours, self.detail * scale * 0.5)
        # How much changes over a project pixel, so that lines are the same at every size.
        line = ridges(much * scale, turn)
        level = 0.004 + 0.09 * self.threshold**2
        seen = np.clip(line / level - 0.6, 0, 1) * (alpha > 0.5)
        if not stage.opaque:
            outer = (alpha > 0.5).astype(np.uint8)
            seen = np.maximum(seen, cv2.morphologyEx(outer, cv2.MORPH_GRADIENT, np.ones((2, 2), np.uint8)))
        wide = max(0.35, self.thickness * scale / 2.2)
        tube = np.clip(soft(seen.astype(np.float32), wide, True) * wide * 2.6, 0, 1.6)
        paint = straight_light(colours, self.colour, self.own)
        # Its glow is light on the dark about it: weaker than the tube by far, or lines drown in it.
        far = (
            soft(tube, max(self.glow * scale / 2, 0.2), stage.opaque) * 0.32 + soft(tube, wide * 2, stage.opaque) * 0.18
        )
        out = to_light(rgba)
        tubes(
            out.reshape(-1, 4), paint.reshape(-1, 3), tube.ravel(), np.ascontiguousarray(far, np.float32).ravel(),
            np.float32(self.strength), np.float32(self.base), np.float32(max(self.base, self.dark)),
        )  # fmt: skip
        return to_code(out)


def straight_light(colours: np.ndarray, colour: str, own: bool) -> np.ndarray:
    """The linear colour of light: one, float32 (3,), or the picture's own, (h, w, 3), as strong as it can be."""
    if not own:
        return to_light(flat(np.ones((1, 1), np.float32), colour))[0, 0, :3]
    vivid = colours / np.maximum(colours.max(-1, keepdims=True), 0.05)
    vivid = np.clip(vivid + 0.7 * (vivid - luma_of(vivid)[..., None]), 0, 1).astype(np.float32)
    light = to_light(np.dstack([vivid, np.ones(vivid.shape[:2], np.float32)]))
    return np.ascontiguousarray(light[..., :3])


class Ink(DrawingFinish):
    """Clean dark lines over few flat tones."""

    kind: Literal["ink"] = "ink"
    title: ClassVar[str] = "Ink"
    rank: ClassVar[int] = 2

    line: Annotated[float, px("Line", 16, 0.5, 0.5)] = 3.0
    lines: Annotated[float, percent("How many lines")] = 0.5
    tones: Annotated[int, Field(ge=1, le=10, title="Tones", json_schema_extra={"step": 1})] = 4
    smooth: Annotated[float, px("Flattened over", 30, 0, 0.5)] = 5.0
    own: Annotated[bool, Field(title="Keeps its colours")] = True
    saturation: Annotated[float, percent("Saturation", 0, 3)] = 1.3
    colour: Annotated[Colour, hue("Ink")] = "#14151B"
    paper: Annotated[Colour, hue("Paper")] = "#F6F0E2"
    edge: Annotated[float, px("Line around it", 24, 0, 0.5)] = 3.0

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        scale, alpha = stage.scale, np.clip(rgba[..., 3], 0, 1)
        colours = np.clip(straight(rgba), 0, 1)
        flattened = flat_areas(colours, self.smooth * scale)
        luma = luma_of(flattened)
        level = np.asarray(stepped(luma, self.tones, 0.12) if self.tones > 1 else np.ones_like(luma), np.float32)
        if self.own:
            low = 0.5 / self.tones
            level = np.asarray(0.14 + 0.86 * (low + (1 - low) * level), np.float32)
            vivid = flattened * (level / np.maximum(luma, 0.03))[..., None]
            painted = np.asarray(level[..., None] + self.saturation * (vivid - level[..., None]), np.float32)
        else:
            ink, paper = (np.array(rgb_of(c), np.float32) for c in (self.colour, self.paper))
            painted = np.asarray(ink + (paper - ink) * level[..., None], np.float32)
        left = difference(luma, max(0.4, self.line * scale / 2.6), 12 + 22 * self.lines, 0.5, 9)
        # Ink gathers in what is dark; lines elsewhere are where it is darker than around it.
        fine = difference(luma, max(0.4, self.line * scale / 2.6), 40, 0.02 + 0.45 * self.lines, 14)
        line = np.clip(1.5 * (1 - np.minimum(1, 0.12 * left + 0.88 * fine)), 0, 1)
        if self.edge and not stage.opaque:
            # So far inside a straight edge of a blur of this width 0.115 of it is left, and 0.194 less a width on.
            wide = max(0.4, self.edge * scale / 1.2)
            line = np.maximum(line, np.clip(0.5 + (soft(1 - alpha, wide) - 0.115) * wide / 0.194, 0, 1))
        ink = np.array(rgb_of(self.colour), np.float32)
        mixed = np.clip(painted, 0, 1) * (1 - line[..., None]) + ink * line[..., None]
        return within(rgba[..., 3], mixed)


def flat_areas(colours: np.ndarray, size: float) -> np.ndarray:
    """A picture without its small shading, edges kept: float32 (h, w, 3). Guided by itself (He, Sun and Tang 2013)."""
    if size < 0.5:
        return colours
    out, side = colours, 2 * round(size) + 1
    for _ in range(2):
        grey = luma_of(out)
        mean, square = cv2.blur(grey, (side, side)), cv2.blur(grey * grey, (side, side))
        spread = square - mean * mean
        means = cv2.blur(out, (side, side))
        joint = cv2.blur(out * grey[..., None], (side, side)) - means * mean[..., None]
        slope = joint / (spread + 0.0035)[..., None]
        base = means - slope * mean[..., None]
        mean_slope, mean_base = cv2.blur(slope, (side, side)), cv2.blur(base, (side, side))
        out = np.asarray(mean_slope * grey[..., None] + mean_base, np.float32)
    return out


class Halftone(DrawingFinish):
    """Dots, lines or crosses, larger where it is darker; one ink or the four of print."""

    kind: Literal["halftone"] = "halftone"
    title: ClassVar[str] = "Halftone"
    rank: ClassVar[int] = 3

    shape: Annotated[Literal["dots", "lines", "crosses"], Field(title="Made of")] = "dots"
    inks: Annotated[
        Literal["one", "four"],
        Field(title="Inks", json_schema_extra={"words": {"four": {"hint": "Cyan, magenta, yellow and black"}}}),
    ] = "one"
    size: Annotated[float, px("Size", 80, 2, 0.5, 30)] = 8.0
    angle: Annotated[float, degrees("Angle", -180, 180)] = 45.0
    contrast: Annotated[float, percent("Contrast", 0, 2)] = 0.6
    colour: Annotated[Colour, hue("Ink")] = "#1B1D24"
    paper: Annotated[Colour, hue("Paper")] = "#F4EEDF"
    clear: Annotated[bool, Field(title="No paper")] = False
    amount: Annotated[float, percent("Amount")] = 1.0

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if not self.amount:
            return rgba
        alpha, cell = np.clip(rgba[..., 3], 0, 1), max(1.5, self.size * stage.scale)
        # What a dot stands for is the mean over it.
        colours = np.clip(soft(straight(rgba), cell / 3, True), 0, 1)
        paper = np.array(rgb_of(self.paper), np.float32)
        if self.inks == "one":
            dark = self._hard(1 - luma_of(colours))
            ink = self._screen(dark, cell, self.angle, stage)
            if self.clear:
                made = flat((ink * alpha).astype(np.float32), self.colour)
                return (rgba + np.float32(self.amount) * (made - rgba)).astype(np.float32)
            mixed = paper + (np.array(rgb_of(self.colour), np.float32) - paper) * ink[..., None]
        else:
            key = 1 - colours.max(-1)
            share = (1 - colours - key[..., None]) / np.maximum(1 - key, 1e-3)[..., None]
            mixed = np.broadcast_to(paper, colours.shape).astype(np.float32)
            inks = (((0.0, 0.62, 0.86), 15), ((0.87, 0.05, 0.48), 75), ((1.0, 0.9, 0.05), 0))
            for n, (ink_colour, turn) in enumerate(inks):
                dots = self._screen(self._hard(share[..., n]), cell, turn + self.angle - 45, stage)
                mixed = mixed * (1 - dots[..., None] * (1 - np.array(ink_colour, np.float32)))
            dots = self._screen(self._hard(key), cell, self.angle, stage)
            mixed = mixed * (1 - dots[..., None] * 0.9)
        out = rgba.copy()
        out[..., :3] += np.float32(self.amount) * (mixed * alpha[..., None] - rgba[..., :3])
        return out

    def _hard(self, share: np.ndarray) -> np.ndarray:
        return np.clip(0.5 + (share - 0.5) * (1 + self.contrast), 0, 1)

    def _screen(self, dark: np.ndarray, cell: float, angle: float, stage: Stage) -> np.ndarray:
        """Ink, 0…1, as much of it as a share says."""
        h, w = dark.shape
        turn = math.radians(angle)
        x = (np.arange(w, dtype=np.float32) + stage.left + 0.5)[None]
        y = (np.arange(h, dtype=np.float32) + stage.top + 0.5)[:, None]
        u = (x * math.cos(turn) + y * math.sin(turn)) / cell
        v = (-x * math.sin(turn) + y * math.cos(turn)) / cell
        fu, fv = u - np.floor(u) - 0.5, v - np.floor(v) - 0.5
        if self.shape == "lines":
            return np.clip((dark / 2 - np.abs(fv)) * cell + 0.5, 0, 1)
        if self.shape == "crosses":
            arm = 0.5 * (1 - np.sqrt(np.clip(1 - dark, 0, 1)))
            return np.clip((arm - np.minimum(np.abs(fu), np.abs(fv))) * cell + 0.5, 0, 1)
        # Round dots up to where they touch, then round holes between them.
        far = np.hypot(fu, fv)
        hole = np.hypot(np.abs(fu) - 0.5, np.abs(fv) - 0.5)
        dots = np.clip((np.sqrt(dark / math.pi) - far) * cell + 0.5, 0, 1)
        holes = np.clip((hole - np.sqrt((1 - dark) / math.pi)) * cell + 0.5, 0, 1)
        return np.where(dark < 0.5, dots, holes)


class Hatching(DrawingFinish):
    """Strokes, more of them across each other where it is darker."""

    kind: Literal["hatching"] = "hatching"
    title: ClassVar[str] = "Hatching"
    rank: ClassVar[int] = 4

    size: Annotated[float, px("Apart", 60, 3, 0.5, 30)] = 9.0
    angle: Annotated[float, degrees("Angle", -180, 180)] = -35.0
    weight: Annotated[float, percent("Weight", 0.2, 2)] = 1.0
    rough: Annotated[float, percent("By hand")] = 0.5
    colour: Annotated[Colour, hue("Ink")] = "#23262E"
    paper: Annotated[Colour, hue("Paper")] = "#F4EEDF"
    seed: Seed = 1

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        apart = max(2.0, self.size * stage.scale)
        dark = 1 - np.clip(soft(luma_of(straight(rgba)), apart / 3, True), 0, 1)
        h, w = dark.shape
        x = (np.arange(w, dtype=np.float32) + stage.left + 0.5)[None]
        y = (np.arange(h, dtype=np.float32) + stage.top + 0.5)[:, None]
        sway = (cloud((h, w), 7 * apart, self.seed, stage.left, stage.top, 2) - 0.5) * self.rough * apart * 2.2
        press = 1 - self.rough * 0.6 * cloud((h, w), 2.5 * apart, self.seed + 5, stage.left, stage.top, 2)
        ink = np.zeros((h, w), np.float32)
        for n, (level, turn) in enumerate(((0.18, 0), (0.4, 90), (0.58, 45), (0.74, 135))):
            a = math.radians(self.angle + turn)
            v = (-x * math.sin(a) + y * math.cos(a) + sway) / apart + 0.37 * n
            off = np.abs(v - np.floor(v) - 0.5) * apart
            much = np.clip((dark - level) / 0.3, 0, 1)
            wide = apart * 0.34 * self.weight * much * press
            ink = np.maximum(ink, np.clip(wide / 2 - off + 0.5, 0, 1) * (much > 0))
        paper, colour = (np.array(rgb_of(c), np.float32) for c in (self.paper, self.colour))
        mixed = paper + (colour - paper) * ink[..., None]
        return within(rgba[..., 3], mixed)


class Pencil(DrawingFinish):
    """Grey lines and shading on the tooth of paper."""

    kind: Literal["pencil"] = "pencil"
    title: ClassVar[str] = "Pencil"
    rank: ClassVar[int] = 5

    line: Annotated[float, px("Line", 12, 0.5, 0.5)] = 2.2
    shading: Annotated[float, percent("Shading", 0, 2)] = 0.8
    tooth: Annotated[float, percent("Tooth")] = 0.6
    colour: Annotated[Colour, hue("Lead")] = "#33353C"
    paper: Annotated[Colour, hue("Paper")] = "#F5F1E6"
    seed: Seed = 1

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        scale = stage.scale
        luma = np.clip(luma_of(straight(rgba)), 0, 1)
        wide = max(0.5, self.line * scale)
        # Divided by itself softened, only lines are left (a dodge).
        dodge = np.clip(luma / np.maximum(soft(luma, 2.2 * wide, True), 0.02), 0, 1)
        line = np.clip((1 - dodge) * 3.2, 0, 1)
        shade = np.clip(1 - soft(luma, wide, True), 0, 1) ** 1.4 * self.shading * 0.8
        shape = luma.shape
        grit = cloud(shape, max(1.0, 2.4 * scale), self.seed, stage.left, stage.top, 2)
        strokes = cloud((shape[0], shape[1]), max(1.5, 3 * scale), self.seed + 3, stage.left, stage.top, 1)
        tooth = 1 - self.tooth * (0.75 * grit + 0.25 * strokes)
        lead = np.clip(np.maximum(line, shade) * (0.35 + 1.1 * tooth), 0, 1)
        lead = np.clip(lead - self.tooth * 0.35 * (grit - 0.35) * (1 - lead), 0, 1)
        paper, colour = (np.array(rgb_of(c), np.float32) for c in (self.paper, self.colour))
        mixed = paper + (colour - paper) * lead[..., None]
        return within(rgba[..., 3], mixed)


class Paper(DrawingFinish):
    """Printed: grain and fibres, a fold, plates that do not quite meet."""

    kind: Literal["paper"] = "paper"
    title: ClassVar[str] = "Paper"
    rank: ClassVar[int] = 6

    grain: Annotated[float, percent("Grain")] = 0.4
    fibres: Annotated[float, percent("Fibres")] = 0.3
    fold: Annotated[float, percent("Fold")] = 0.0
    misprint: Annotated[float, px("Misprint", 30, 0, 0.5)] = 2.5
    fade: Annotated[float, percent("Faded")] = 0.2
    seed: Seed = 1

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        scale, shape = stage.scale, rgba.shape[:2]
        colours = np.clip(straight(rgba), 0, 1)
        if self.misprint:
            far = self.misprint * scale
            ways = ((far, 0.35 * far), (-0.6 * far, 0.8 * far), (0.2 * far, -far))
            moved = [
                cv2.warpAffine(
                    np.ascontiguousarray(colours[..., n]), np.array([[1, 0, dx], [0, 1, dy]]), shape[::-1],
                    flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE,
                )
                for n, (dx, dy) in enumerate(ways)
            ]  # fmt: skip
            colours = np.dstack(moved)
        at = stage.left, stage.top
        tooth = cloud(shape, 2.2 * scale, self.seed, *at, 3) - 0.5 + 0.25 * grains(shape, max(1, scale), self.seed, *at)
        stretched = cloud((shape[0], -(-shape[1] // 6) + 1), 3 * scale, self.seed + 9, stage.left // 6, stage.top, 2)
        fibre = cv2.resize(stretched, (shape[1], shape[0]), interpolation=cv2.INTER_LINEAR) - 0.5
        by = 1 + 0.55 * self.grain * tooth + 0.35 * self.fibres * fibre
        if self.fold:
            by = by * (1 - self.fold * self._creases(shape, stage))
        out = colours * by[..., None]
        out = out + self.fade * (np.array([0.93, 0.88, 0.78], np.float32) * 0.35 + out * 0.6 - out)
        return within(rgba[..., 3], out)

    def _creases(self, shape: tuple[int, int], stage: Stage) -> np.ndarray:
        """Two creases across each other, a third of the canvas in."""
        w, h = stage.canvas
        x = np.arange(shape[1], dtype=np.float32)[None] + stage.left
        y = np.arange(shape[0], dtype=np.float32)[:, None] + stage.top
        sway = (cloud(shape, 60 * stage.scale, self.seed + 2, stage.left, stage.top, 2) - 0.5) * 6 * stage.scale
        wide = 2.5 * stage.scale
        one, two = np.abs(x - 0.52 * w + sway), np.abs(y - 0.38 * h + sway)
        dark = np.maximum(np.exp(-((one / wide) ** 2)), np.exp(-((two / wide) ** 2)))
        bright = np.exp(-(((x - 0.52 * w + sway) / wide - 2.4) ** 2)) + np.exp(
            -(((y - 0.38 * h + sway) / wide - 2.4) ** 2)
        )
        return 0.5 * dark - 0.3 * bright
