"""Its shape: flipped, tilted in perspective, bent; bars over it at any angle."""

import math
from typing import Annotated, ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from ...craft.finishing.compositing import flat, over
from ...craft.finishing.extent import box_of
from ...craft.finishing.setting_fields import Hue, Turn, degrees, percent
from ...piece.model.finish import FinishKind, Looks, Size, Stage


class GeometryFinish(FinishKind):
    """A finish that bends the picture."""

    looks: ClassVar[Looks] = "geometry"


class Flip(GeometryFinish):
    """Seen in a mirror, beside it or below."""

    kind: Literal["flip"] = "flip"
    title: ClassVar[str] = "Flip"
    rank: ClassVar[int] = 1

    across: Annotated[bool, Field(title="Left for right")] = True
    down: Annotated[bool, Field(title="Head for foot")] = False

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        left, top, right, bottom = box_of(rgba, stage)
        out = np.zeros_like(rgba)
        part = rgba[top:bottom, left:right]
        out[top:bottom, left:right] = part[:: -1 if self.down else 1, :: -1 if self.across else 1]
        return out


class Tilt(GeometryFinish):
    """Turned in space about its middle, seen in perspective."""

    kind: Literal["tilt"] = "tilt"
    title: ClassVar[str] = "Tilt"
    rank: ClassVar[int] = 2

    sideways: Annotated[float, degrees("Sideways", -80, 80)] = 25.0
    back: Annotated[float, degrees("Back", -80, 80)] = 0.0
    depth: Annotated[float, percent("Depth", 0, 2)] = 0.8

    def reach(self, size: Size) -> float:
        wide, tall = size[0] / 2, size[1] / 2
        turned = self._matrix(size) @ [[-wide, wide, wide, -wide], [-tall, -tall, tall, tall], [1, 1, 1, 1]]
        x, y = np.abs(turned[:2] / np.maximum(turned[2], 0.05))
        return max(0.0, float(x.max()) - wide, float(y.max()) - tall) + 2

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if not self.sideways and not self.back:
            return rgba
        left, top, right, bottom = box_of(rgba, stage)
        x, y = (left + right) / 2, (top + bottom) / 2
        to, back = np.array([[1, 0, -x], [0, 1, -y], [0, 0, 1.0]]), np.array([[1, 0, x], [0, 1, y], [0, 0, 1.0]])
        half = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1]])
        matrix = np.linalg.inv(half) @ back @ self._matrix((right - left, bottom - top)) @ to @ half
        border = cv2.BORDER_REPLICATE if stage.opaque else cv2.BORDER_CONSTANT
        return cv2.warpPerspective(rgba, matrix, rgba.shape[1::-1], flags=cv2.INTER_LINEAR, borderMode=border)

    def _matrix(self, size: Size) -> np.ndarray:
        """The plane z = 0 turned about its middle, then seen from a point in front of that: 3×3."""
        eye = 1.5 * max(*size, 2) / max(self.depth, 0.02)
        a, b = math.radians(self.sideways), math.radians(self.back)
        turn = np.array([[math.cos(a), 0, math.sin(a)], [0, 1, 0], [-math.sin(a), 0, math.cos(a)]])
        turn = np.array([[1, 0, 0], [0, math.cos(b), -math.sin(b)], [0, math.sin(b), math.cos(b)]]) @ turn
        seen = np.array([[turn[0, 0], turn[0, 1], 0], [turn[1, 0], turn[1, 1], 0], [0, 0, 1.0]])
        seen[2, :2] = turn[2, :2] / eye
        return seen


class Bend(GeometryFinish):
    """Bent like a reed, or in waves."""

    kind: Literal["bend"] = "bend"
    title: ClassVar[str] = "Bend"
    rank: ClassVar[int] = 3

    amount: Annotated[float, Field(ge=-1, le=1, title="Bend", json_schema_extra={"unit": "%"})] = 0.3
    waves: Annotated[float, percent("Waves")] = 0.0
    length: Annotated[float, percent("How long", 0.05, 2)] = 0.3
    phase: Annotated[float, degrees("Where they are")] = 0.0
    upright: Annotated[bool, Field(title="From the foot")] = True

    def reach(self, size: Size) -> float:
        along = size[1] if self.upright else size[0]
        return (0.45 * abs(self.amount) + 0.06 * self.waves) * along + 1

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        left, top, right, bottom = box_of(rgba, stage)
        h, w = rgba.shape[:2]
        y, x = np.mgrid[:h, :w].astype(np.float32)
        tall, wide = max(1, bottom - top), max(1, right - left)
        if self.upright:
            up = np.clip((bottom - y) / tall, 0, 1.5)
            push = self.amount * 0.45 * tall * up * up
            push = push + self.waves * 0.06 * tall * np.sin(2 * math.pi * up / self.length + math.radians(self.phase))
            x = x - push
        else:
            along = (x - left) / wide
            push = self.amount * 0.45 * wide * (1 - (2 * along - 1) ** 2)
            push = push + self.waves * 0.06 * wide * np.sin(
                2 * math.pi * along / self.length + math.radians(self.phase)
            )
            y = y + push
        border = cv2.BORDER_REFLECT if stage.opaque else cv2.BORDER_CONSTANT
        return cv2.remap(rgba, x.astype(np.float32), y.astype(np.float32), cv2.INTER_LINEAR, borderMode=border)


class Letterbox(GeometryFinish):
    """Bars along two sides, at any angle."""

    kind: Literal["letterbox"] = "letterbox"
    title: ClassVar[str] = "Letterbox"
    rank: ClassVar[int] = 4

    size: Annotated[float, percent("Each so wide", 0, 0.5)] = 0.14
    angle: Turn = 0.0
    colour: Hue = "#000000"
    opacity: Annotated[float, percent("Opacity")] = 1.0

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if not self.size:
            return rgba
        w, h = stage.canvas
        high, wide = rgba.shape[:2]
        y, x = np.mgrid[:high, :wide].astype(np.float32)
        turn = math.radians(self.angle)
        c, s = math.cos(turn), math.sin(turn)
        # How far from the middle line, against half of what the canvas spans that way.
        off = np.abs(-(x + stage.left + 0.5 - w / 2) * s + (y + stage.top + 0.5 - h / 2) * c)
        half = (abs(w * s) + abs(h * c)) / 2
        bars = np.clip(off - half * (1 - 2 * self.size) + 0.5, 0, 1) * self.opacity
        bars = bars * np.clip(rgba[..., 3], 0, 1) if not stage.opaque else bars
        return over(flat(bars.astype(np.float32), self.colour), rgba)
