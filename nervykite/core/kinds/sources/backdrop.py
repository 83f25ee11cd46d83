"""Backdrops: pictures that are worked out, standing or moving, over all of the canvas."""

import math
from abc import abstractmethod
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from ...common.colour import rgb_of
from ...craft.finishing.setting_fields import Turn, percent
from ...piece.model import Document
from ...piece.model.base import Id
from ...piece.model.source import Source
from .worked import Plane, Worked

Colours = tuple[str | None, ...]
"""Colours that go over into each other; None: nothing."""


class Backdrop(Worked):
    """One kind of backdrop, about a place of its own."""

    looks: ClassVar[str] = "backdrop"
    groups: ClassVar[dict[str, tuple[str, ...]]] = {"Place": ("across", "down", "angle", "follows")}

    across: Annotated[float, percent("Middle, across", -1, 2)] = 0.5
    down: Annotated[float, percent("Middle, down", -1, 2)] = 0.5
    angle: Turn = 0.0
    follows: Annotated[
        Id | None, Field(title="Middle follows", json_schema_extra={"format": "layer", "keyable": False})
    ] = None

    @property
    def led_by(self) -> str | None:
        return self.follows

    def led(self, document: Document, place: tuple[float, float]) -> Source:
        width, height = self.size(document)
        # What is set across and down is then how far it lies from what it follows, from the middle on.
        across, down = place[0] / width + self.across - 0.5, place[1] / height + self.down - 0.5
        return self.model_copy(update={"across": across, "down": down, "follows": None})

    def depends(self, document: Document) -> tuple[object, ...]:
        layer = document.layer(self.follows) if self.follows else None
        found: list[object] = []
        while layer is not None and layer not in found:
            found.append(layer)
            layer = document.layer(layer.group) if layer.group else None
        return tuple(found)

    @abstractmethod
    def share(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        """The share of each pixel on the way from the first colour to the last: float32 (h, w), 0…1."""

    @property
    @abstractmethod
    def colours(self) -> Colours:
        """The colours, from the first to the last."""

    def placed(self, canvas: tuple[int, int]) -> np.ndarray:
        turn = math.radians(self.angle)
        c, s = math.cos(turn), math.sin(turn)
        middle = np.array([[1, 0, -self.across * canvas[0]], [0, 1, -self.down * canvas[1]], [0, 0, 1]])
        return np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]]) @ middle

    def painted(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        return coloured(self.share(plane, seconds, canvas), self.colours)


class Two:
    """Part that backdrops of two colours share; if one says that it is not `filled`, the first of them is nothing."""

    first: str
    last: str

    @property
    def colours(self) -> Colours:
        """The colours, from the first to the last."""
        return (self.first if getattr(self, "filled", True) else None), self.last


class Runs:
    """The part that backdrops share that run or turn at a `speed`."""

    speed: float

    @property
    def moves(self) -> bool:
        """True if it changes by itself."""
        return self.speed != 0


class Boils:
    """The part that backdrops share that chance has another way `every` so many frames."""

    every: int
    seed: int

    @property
    def moves(self) -> bool:
        """True if it changes by itself."""
        return self.every > 0

    def beat(self, frame: int) -> int:
        """The frame of its own that stands for one."""
        return frame // self.every if self.every else 0

    def chance(self, seconds: float) -> int:
        """The seed at a time."""
        return self.seed + 7919 * round(1000 * seconds)


Every = Annotated[int, Field(ge=0, le=60, title="Others every", json_schema_extra={"unit": "fr", "keyable": False})]
"""After how many frames chance has it another way; 0: never."""


def field(name: str, plane: Plane, *values: float) -> np.ndarray:
    """The field that one of the kernels of `compiled.fields_kernels` makes of a plane: float32 (h, w). Whole numbers
    stay so.
    """
    from ...craft.finishing.compiled import fields_kernels

    out = plane.empty()
    given = (v if isinstance(v, int) else np.float32(v) for v in values)
    getattr(fields_kernels, name)(plane.matrix, *given, plane.fine, out)
    return out


def coloured(share: np.ndarray, colours: Colours) -> np.ndarray:
    """Colours by how far each pixel is from the first to the last: premultiplied R'G'B'A, float32 (h, w, 4)."""
    from ...craft.finishing.compiled.fields_kernels import coloured

    mixed = np.array([(0.0,) * 4 if c is None else (*rgb_of(c), 1.0) for c in colours], np.float32)
    out = np.empty((*share.shape, 4), np.float32)
    coloured(np.ascontiguousarray(share, np.float32).ravel(), mixed, out.reshape(-1, 4))
    return out
