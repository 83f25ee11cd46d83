"""Backdrops: pictures that are worked out, standing or moving, over all of the canvas."""

import math
from abc import abstractmethod
from typing import Annotated, Any, ClassVar

import numpy as np
from pydantic import Field

from ..colour import rgb_of
from ..finishing.settings import Turn, percent
from ..footage.framing import covered, even, fit_matrix
from ..model import Document, Framing
from ..model.source import On, Source
from .picture import Grid, Material, Patch, Picture, digest

FINEST = 4
"""How many times as fine as the canvas they are drawn at most: they have no pixels of their own."""
Colours = tuple[str | None, ...]
"""Colours that go over into each other; None: nothing."""


class Plane:
    """Pixels of a grid as places on the plane of a backdrop: canvas pixels about its middle, turned as it is turned.

    `matrix` (2×3, float32) makes places of columns and rows; `fine` is how many pixels of the grid a canvas pixel is.
    """

    def __init__(self, shape: tuple[int, int], matrix: np.ndarray) -> None:
        self.shape, self.matrix = shape, np.ascontiguousarray(matrix[:2], np.float32)
        self.fine = np.float32(1 / math.sqrt(abs(np.linalg.det(matrix[:2, :2]))))

    def empty(self) -> np.ndarray:
        """Room for a share a pixel, float32 (h, w)."""
        return np.empty(self.shape, np.float32)


class Backdrop(Source):
    """One kind of backdrop. Lengths are project pixels, speeds by the second of the piece."""

    looks: ClassVar[str] = "backdrop"
    on: ClassVar[tuple[On, ...]] = ("sky",)
    groups: ClassVar[dict[str, tuple[str, ...]]] = {"Place": ("across", "down", "angle")}

    across: Annotated[float, percent("Middle, across", -1, 2)] = 0.5
    down: Annotated[float, percent("Middle, down", -1, 2)] = 0.5
    angle: Turn = 0.0

    @abstractmethod
    def share(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        """How far each pixel is from the first colour to the last: float32 (h, w), 0…1."""

    @property
    @abstractmethod
    def colours(self) -> Colours:
        """The colours, from the first to the last."""

    @property
    def moves(self) -> bool:
        """Whether it changes by itself."""
        return False

    def beat(self, frame: int) -> int:
        """The frame of its own that stands for one: those that look the same have the same."""
        return frame if self.moves else 0

    def painted(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        """Its pixels: premultiplied R'G'B'A, float32 (h, w, 4)."""
        return coloured(self.share(plane, seconds, canvas), self.colours)

    def size(self, document: Document) -> tuple[int, int]:
        return document.project.width, document.project.height

    def lies(self, document: Document) -> Framing | None:
        return Framing()

    def shows(self, document: Document, shown: Any, since: float = 0.0) -> int:
        return self.beat(int(since))

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        return Painted(self, frame / float(document.project.rate), self.size(document))

    def called(self, document: Document) -> str:
        return self.title


class Two:
    """What a backdrop of two colours shares; if it says that it is not `filled`, the first of them is nothing."""

    first: str
    last: str

    @property
    def colours(self) -> Colours:
        """The colours, from the first to the last."""
        return (self.first if getattr(self, "filled", True) else None), self.last


class Runs:
    """What a backdrop that runs or turns at a `speed` shares."""

    speed: float

    @property
    def moves(self) -> bool:
        """Whether it changes by itself."""
        return self.speed != 0


class Boils:
    """What a backdrop shares that chance has another way `every` so many frames."""

    every: int
    seed: int

    @property
    def moves(self) -> bool:
        """Whether it changes by itself."""
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
    """What one of the kernels of `finishing.compiled.fields` says of a plane: float32 (h, w). Whole numbers stay so."""
    from ..finishing.compiled import fields

    out = plane.empty()
    given = (v if isinstance(v, int) else np.float32(v) for v in values)
    getattr(fields, name)(plane.matrix, *given, plane.fine, out)
    return out


def coloured(share: np.ndarray, colours: Colours) -> np.ndarray:
    """Colours by how far each pixel is from the first to the last: premultiplied R'G'B'A, float32 (h, w, 4)."""
    from ..finishing.compiled.fields import coloured

    mixed = np.array([(0.0,) * 4 if c is None else (*rgb_of(c), 1.0) for c in colours], np.float32)
    out = np.empty((*share.shape, 4), np.float32)
    coloured(np.ascontiguousarray(share, np.float32).ravel(), mixed, out.reshape(-1, 4))
    return out


class Painted(Picture):
    """A backdrop at a time."""

    def __init__(self, backdrop: Backdrop, seconds: float, canvas: tuple[int, int]) -> None:
        self.backdrop, self.seconds, self.canvas = backdrop, seconds, canvas
        self.size = canvas[0] * FINEST, canvas[1] * FINEST
        self.digest = digest("backdrop", backdrop, seconds, canvas)

    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        matrix = fit_matrix(self.canvas, grid.size, grid.framing)
        left, top, right, bottom = covered(matrix, (0, 0, *self.canvas))
        box = even(left, top, right, bottom)
        shape = box[3] - box[1], box[2] - box[0]
        rgba = self.backdrop.painted(plane_of(self.backdrop, matrix, box, self.canvas), self.seconds, self.canvas)
        pad = 2 * math.ceil((margin + 2) / 2)
        out = np.zeros((shape[0] + 2 * pad, shape[1] + 2 * pad, 4), np.float32)
        out[pad:-pad, pad:-pad] = rgba
        return Patch(box[0] - pad, box[1] - pad, rgba=out)


def plane_of(backdrop: Backdrop, matrix: np.ndarray, box: tuple[int, int, int, int], canvas: tuple[int, int]) -> Plane:
    """The pixels of a box of a grid, on the plane of a backdrop; `matrix` makes grid pixels of canvas pixels, 3×3."""
    turn = math.radians(backdrop.angle)
    c, s = math.cos(turn), math.sin(turn)
    middle = np.array([[1, 0, -backdrop.across * canvas[0]], [0, 1, -backdrop.down * canvas[1]], [0, 0, 1]])
    turned = np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])
    pixel = np.array([[1, 0, box[0] + 0.5], [0, 1, box[1] + 0.5], [0, 0, 1]])
    return Plane((box[3] - box[1], box[2] - box[0]), turned @ middle @ np.linalg.inv(matrix) @ pixel)
