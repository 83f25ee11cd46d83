"""As a lens has it: blurs of every sort, grain, colour at the edges, squares."""

import math
from typing import Annotated, ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from ...craft.finishing.compositing import luma_of
from ...craft.finishing.extent import box_of, place_of
from ...craft.finishing.linear_light import in_light, soft, to_code, to_light
from ...craft.finishing.noise import grains
from ...craft.finishing.setting_fields import Boils, Seed, Turn, degrees, percent, px
from ...craft.finishing.streaks import smeared, spun, zoomed
from ...piece.model.finish import FinishKind, Looks, Size, Stage, When

Place = Annotated[float, Field(ge=-1, le=2, json_schema_extra={"unit": "%"})]


class LensFinish(FinishKind):
    """A finish that blurs, sharpens or bends light."""

    looks: ClassVar[Looks] = "lens"


class SoftBlur(LensFinish):
    """A Gaussian blur in linear light. The radius is how far a point spreads (two standard deviations)."""

    kind: Literal["soft-blur"] = "soft-blur"
    title: ClassVar[str] = "Soft blur"
    rank: ClassVar[int] = 1

    radius: Annotated[float, px("Radius", 200, usual=60)] = 14.0

    def reach(self, size: Size) -> float:
        return 1.6 * self.radius

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        sigma = self.radius * stage.scale / 2
        return rgba if sigma < 0.15 else in_light(rgba, lambda light: soft(light, sigma, stage.opaque))


class DirectionalBlur(LensFinish):
    """As if it went by: spread evenly along a line."""

    kind: Literal["directional-blur"] = "directional-blur"
    title: ClassVar[str] = "Directional blur"
    rank: ClassVar[int] = 2

    distance: Annotated[float, px("Distance", 400, usual=120)] = 40.0
    angle: Turn = 0.0

    def reach(self, size: Size) -> float:
        return self.distance / 2 + 1

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        far, turn = self.distance * stage.scale, math.radians(self.angle)
        if far < 0.3:
            return rgba
        way = far * math.cos(turn), far * math.sin(turn)
        return in_light(rgba, lambda light: smeared(light, way, stage.opaque))


def farthest(size: Size, across: float, down: float) -> float:
    """The distance of the farthest corner from a place given as shares of a size."""
    return math.hypot(size[0] * max(across, 1 - across), size[1] * max(down, 1 - down))


class ZoomBlur(LensFinish):
    """As if the camera rushed in: spread towards a point."""

    kind: Literal["zoom-blur"] = "zoom-blur"
    title: ClassVar[str] = "Zoom blur"
    rank: ClassVar[int] = 3

    amount: Annotated[float, percent("Amount", 0, 1)] = 0.18
    across: Annotated[Place, Field(title="Middle, across")] = 0.5
    down: Annotated[Place, Field(title="Middle, down")] = 0.5

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if self.amount < 1e-3:
            return rgba
        middle = place_of(rgba, stage, self.across, self.down)
        return in_light(rgba, lambda light: zoomed(light, middle, self.amount, stage.opaque))

    def reach(self, size: Size) -> float:
        return self.amount / 2 * farthest(size, self.across, self.down) + 1


class SpinBlur(LensFinish):
    """As if it turned: spread around a point."""

    kind: Literal["spin-blur"] = "spin-blur"
    title: ClassVar[str] = "Spin blur"
    rank: ClassVar[int] = 4

    turn: Annotated[float, degrees("Turn", 0, 180)] = 14.0
    across: Annotated[Place, Field(title="Middle, across")] = 0.5
    down: Annotated[Place, Field(title="Middle, down")] = 0.5

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if self.turn < 0.05:
            return rgba
        middle = place_of(rgba, stage, self.across, self.down)
        return in_light(rgba, lambda light: spun(light, middle, self.turn, stage.opaque))

    def reach(self, size: Size) -> float:
        return 2 * math.sin(math.radians(self.turn / 4)) * farthest(size, self.across, self.down) + 1


class DepthBlur(LensFinish):
    """Sharp along a line, softer the farther from it."""

    kind: Literal["depth-blur"] = "depth-blur"
    title: ClassVar[str] = "Depth blur"
    rank: ClassVar[int] = 5

    radius: Annotated[float, px("Radius, far off", 200, usual=60)] = 26.0
    angle: Turn = 0.0
    place: Annotated[float, percent("Sharp at", -0.5, 1.5)] = 0.6
    sharp: Annotated[float, percent("Stays sharp for", 0, 1)] = 0.15

    def reach(self, size: Size) -> float:
        return 1.6 * self.radius

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if self.radius * stage.scale < 0.3:
            return rgba
        from ...craft.finishing.compiled.light_kernels import between

        height, width = rgba.shape[:2]
        turn, (w, h) = math.radians(self.angle), stage.canvas
        y, x = np.mgrid[:height, :width].astype(np.float32)
        up = -(x + stage.left - w / 2) * math.sin(turn) + (y + stage.top - self.place * h) * math.cos(turn)
        far = np.clip((np.abs(up) / max(1, h) - self.sharp / 2) * 2, 0, 1)
        light = to_light(rgba)
        # Between blurs, each twice as wide as the one before, it is mixed.
        sigma = self.radius * stage.scale / 2
        near, middle, last = (np.ascontiguousarray(soft(light, sigma * s, stage.opaque)) for s in (0.25, 0.5, 1.0))
        out = np.empty_like(light)
        between(light, near, middle, last, np.ascontiguousarray(far, np.float32), out)
        return to_code(out)


class Bokeh(LensFinish):
    """Out of focus: points of light become discs."""

    kind: Literal["bokeh"] = "bokeh"
    title: ClassVar[str] = "Bokeh"
    rank: ClassVar[int] = 6

    radius: Annotated[float, px("Radius", 80, usual=40)] = 14.0
    sparkle: Annotated[float, percent("Sparkle", 0, 1)] = 0.5
    blades: Annotated[int, Field(ge=0, le=9, title="Blades", json_schema_extra={"step": 1})] = 0

    def reach(self, size: Size) -> float:
        return self.radius + 2

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        radius = self.radius * stage.scale
        if radius < 0.5:
            return rgba
        light = to_light(rgba)
        # Highlights count for more, as they do on film that is not at its end there.
        bright = luma_of(light)
        boost = 1 + self.sparkle * 12 * np.clip(bright - 0.55, 0, 1)[..., None] ** 2
        weighted = cv2.merge([*cv2.split(light[..., :3] * boost), light[..., 3], boost[..., 0] * light[..., 3]])
        spread = self._spread(weighted, radius, cv2.BORDER_REPLICATE if stage.opaque else cv2.BORDER_CONSTANT)
        cover = spread[..., 3:4]
        out = np.empty_like(light)
        mean = spread[..., 4:5] / np.maximum(cover, 1e-4)
        out[..., :3] = spread[..., :3] / np.maximum(1 + (mean - 1) * (1 - 0.6 * self.sparkle), 1)
        out[..., 3] = spread[..., 3]
        return to_code(np.minimum(out, 1))

    def _spread(self, picture: np.ndarray, radius: float, border: int) -> np.ndarray:
        """A picture of any number of channels whose points are discs."""
        if radius < HALVED_FROM:
            return cv2.filter2D(picture, -1, disc(radius, self.blades), borderType=border)
        # So large a disc is as round on a picture of half the size, at an eighth of the work.
        h, w = picture.shape[:2]
        whole = cv2.copyMakeBorder(picture, 0, h % 2, 0, w % 2, border)
        small = cv2.resize(whole, ((w + 1) // 2, (h + 1) // 2), interpolation=cv2.INTER_AREA)
        small = cv2.filter2D(small, -1, disc(radius / 2, self.blades), borderType=border)
        return cv2.resize(small, whole.shape[1::-1], interpolation=cv2.INTER_LINEAR)[:h, :w]


HALVED_FROM = 9.0
"""From which radius on, in pixels, discs are drawn at half the size."""


def disc(radius: float, blades: int = 0) -> np.ndarray:
    """A disc, or what so many blades leave of one, as a kernel: float32 (k, k), its sum 1."""
    side = math.ceil(radius + 0.5)
    y, x = np.mgrid[-side : side + 1, -side : side + 1].astype(np.float32)
    far, turn = np.hypot(x, y), np.arctan2(y, x)
    edge = np.full_like(far, radius)
    if blades >= 5:
        part = 2 * math.pi / blades
        edge = radius * math.cos(part / 2) / np.cos((turn % part) - part / 2)
    kernel = np.clip(edge - far + 0.5, 0, 1)
    return (kernel / kernel.sum()).astype(np.float32)


class Sharpen(LensFinish):
    """Edges clearer, without a halo that is wider than them."""

    kind: Literal["sharpen"] = "sharpen"
    title: ClassVar[str] = "Sharpen"
    rank: ClassVar[int] = 7

    amount: Annotated[float, percent("Amount", 0, 3)] = 0.8
    radius: Annotated[float, px("Radius", 20, 0.3, 0.1)] = 1.6

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        alpha = np.clip(rgba[..., 3:], 0, 1)
        # Against what is covered around it alone, so that the edge does not count as dark.
        sigma = max(0.3, self.radius * stage.scale)
        around = cv2.GaussianBlur(rgba, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE)
        mean = around[..., :3] / np.maximum(around[..., 3:], 1e-3) * alpha
        out = rgba.copy()
        out[..., :3] = np.clip(rgba[..., :3] + self.amount * (rgba[..., :3] - mean), 0, alpha)
        return out


class ChromaticShift(LensFinish):
    """Red and blue beside green."""

    kind: Literal["chromatic-shift"] = "chromatic-shift"
    title: ClassVar[str] = "Chromatic shift"
    rank: ClassVar[int] = 8

    distance: Annotated[float, px("Distance", 60, usual=24)] = 6.0
    angle: Turn = 0.0
    outwards: Annotated[bool, Field(title="From the middle outwards")] = False

    def reach(self, size: Size) -> float:
        # Outwards the longer side counts; along the shorter one it goes no farther.
        return self.distance + 1

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        far, turn = self.distance * stage.scale, math.radians(self.angle)
        border = cv2.BORDER_REPLICATE if stage.opaque else cv2.BORDER_CONSTANT
        size = rgba.shape[1::-1]

        def shifted(sign: float) -> np.ndarray:
            if self.outwards:
                left, top, right, bottom = box_of(rgba, stage)
                x, y = (left + right) / 2, (top + bottom) / 2
                by = 1 + sign * far / max((right - left) / 2, (bottom - top) / 2, 1.0)
                matrix = np.array([[by, 0, x - by * x], [0, by, y - by * y]])
            else:
                matrix = np.array([[1, 0, sign * far * math.cos(turn)], [0, 1, sign * far * math.sin(turn)]])
            return cv2.warpAffine(rgba, matrix, size, flags=cv2.INTER_LINEAR, borderMode=border)

        red, blue = shifted(-1), shifted(1)
        out = np.empty_like(rgba)
        out[..., 0], out[..., 1], out[..., 2] = red[..., 0], rgba[..., 1], blue[..., 2]
        # Beyond its own edge red and blue are light, and hide nothing.
        out[..., 3] = rgba[..., 3]
        return out


class Grain(LensFinish):
    """As on film: strongest in the middle tones, another on each frame."""

    kind: Literal["grain"] = "grain"
    title: ClassVar[str] = "Grain"
    rank: ClassVar[int] = 9

    amount: Annotated[float, percent("Amount", 0, 1)] = 0.25
    size: Annotated[float, px("Size", 12, 0.5, 0.5)] = 2.0
    colour: Annotated[float, percent("In colour", 0, 1)] = 0.2
    boils: Boils = 1
    seed: Seed = 1

    def moment(self, when: When) -> float | None:
        return float(when.since // self.boils) if self.boils and self.amount else None

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if not self.amount:
            return rgba
        shape, size = rgba.shape[:2], max(1.0, self.size * stage.scale)
        alpha = np.clip(rgba[..., 3], 0, 1)
        seed = self.seed + 104_729 * int(stage.moment or 0)
        bright = np.clip(luma_of(rgba) / np.maximum(alpha, 1e-3), 0, 1)
        much = self.amount * 0.28 * (0.25 + 3 * bright * (1 - bright)) * alpha
        soften = 0.35 * size
        grey = soft(grains(shape, size, seed, stage.left, stage.top), soften, True)
        out = rgba.copy()
        for n in range(3):
            own = soft(grains(shape, size, seed + 31 * n + 7, stage.left, stage.top), soften, True)
            out[..., n] += much * ((1 - self.colour) * grey + self.colour * own)
        out[..., :3] = np.clip(out[..., :3], 0, np.maximum(rgba[..., :3], alpha[..., None]))
        return out


class Pixelate(LensFinish):
    """Large squares."""

    kind: Literal["pixelate"] = "pixelate"
    title: ClassVar[str] = "Pixelate"
    rank: ClassVar[int] = 10

    size: Annotated[float, px("Squares", 200, 1, usual=60)] = 18.0

    def reach(self, size: Size) -> float:
        return self.size

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        side = self.size * stage.scale
        if side < 1.5:
            return rgba
        h, w = rgba.shape[:2]
        # Squares keep to the canvas, so that they stay where they are.
        x, y = (np.arange(n) + 0.5 + off for n, off in ((w, stage.left), (h, stage.top)))
        across, down = (np.floor(p / side).astype(np.int64) for p in (x, y))
        across, down = across - across[0], down - down[0]
        light = to_light(rgba)
        rows = np.add.reduceat(light, np.flatnonzero(np.diff(down, prepend=-1)), axis=0)
        cells = np.add.reduceat(rows, np.flatnonzero(np.diff(across, prepend=-1)), axis=1)
        count = np.bincount(down)[:, None] * np.bincount(across)[None]
        cells = to_code((cells / count[..., None]).astype(np.float32))
        if not stage.opaque:
            # All of a square, or nothing.
            solid = (cells[..., 3:] >= 0.5).astype(np.float32)
            cells = cells / np.maximum(cells[..., 3:], 1e-4) * solid
        return np.ascontiguousarray(cells[down][:, across], np.float32)
