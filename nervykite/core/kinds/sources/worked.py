"""The part shared by what is worked out over all of the canvas, standing or moving: backdrops, things in the air."""

import math
from abc import abstractmethod
from typing import Any, ClassVar

import numpy as np

from ...piece.model import Document, Framing
from ...piece.model.source import On, Source
from ...see.footage.framing_matrix import covered, even, fit_matrix
from .picture import Grid, Material, Patch, Picture, digest

FINEST = 4
"""How many times as fine as the canvas it is drawn at most: it has no pixels of its own."""


class Plane:
    """Pixels of a grid as places on a plane: canvas pixels from some place of it, turned or not.

    `matrix` (2×3, float32) makes places of columns and rows; `fine` is how many pixels of the grid a canvas pixel is.
    """

    def __init__(self, shape: tuple[int, int], matrix: np.ndarray) -> None:
        self.shape, self.matrix = shape, np.ascontiguousarray(matrix[:2], np.float32)
        self.fine = np.float32(1 / math.sqrt(abs(np.linalg.det(matrix[:2, :2]))))

    def empty(self) -> np.ndarray:
        """Room for a share a pixel, float32 (h, w)."""
        return np.empty(self.shape, np.float32)


class Worked(Source):
    """A picture that is worked out. Lengths are project pixels, speeds by the second of the piece."""

    on: ClassVar[tuple[On, ...]] = ("sky",)

    @property
    def moves(self) -> bool:
        """True if it changes by itself."""
        return False

    def beat(self, frame: int) -> int:
        """The frame of its own that stands for one: those that look the same have the same."""
        return frame if self.moves else 0

    def placed(self, canvas: tuple[int, int]) -> np.ndarray:
        """Canvas pixels to places on its plane, 3×3."""
        return np.eye(3)

    @abstractmethod
    def painted(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        """Its pixels: premultiplied R'G'B'A, float32 (h, w, 4). Where colours exceed alpha they are light."""

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


class Painted(Picture):
    """Such a picture at a time."""

    def __init__(self, worked: Worked, seconds: float, canvas: tuple[int, int]) -> None:
        self.worked, self.seconds, self.canvas = worked, seconds, canvas
        self.size = canvas[0] * FINEST, canvas[1] * FINEST
        self.digest = digest("worked", worked, seconds, canvas)

    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        matrix = fit_matrix(self.canvas, grid.size, grid.framing)
        left, top, right, bottom = covered(matrix, (0, 0, *self.canvas))
        box = even(left, top, right, bottom)
        shape = box[3] - box[1], box[2] - box[0]
        rgba = self.worked.painted(plane_of(self.worked, matrix, box, self.canvas), self.seconds, self.canvas)
        pad = 2 * math.ceil((margin + 2) / 2)
        out = np.zeros((shape[0] + 2 * pad, shape[1] + 2 * pad, 4), np.float32)
        out[pad:-pad, pad:-pad] = rgba
        return Patch(box[0] - pad, box[1] - pad, rgba=out)


def plane_of(worked: Worked, matrix: np.ndarray, box: tuple[int, int, int, int], canvas: tuple[int, int]) -> Plane:
    """The pixels of a box of a grid, on a plane; `matrix` makes grid pixels of canvas pixels, 3×3."""
    pixel = np.array([[1, 0, box[0] + 0.5], [0, 1, box[1] + 0.5], [0, 0, 1]])
    return Plane((box[3] - box[1], box[2] - box[0]), worked.placed(canvas) @ np.linalg.inv(matrix) @ pixel)
