"""Position, scale, shear and rotation to a matrix, and back."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Placement:
    """Placement of something: from its place in pixels, factors along its own axes, degrees clockwise and of lean."""

    position: tuple[float, float] = (0.0, 0.0)
    width: float = 1.0
    height: float = 1.0
    turn: float = 0.0
    shear: float = 0.0

    def matrix(self, anchor: tuple[float, float]) -> np.ndarray:
        """Canvas pixels at rest to canvas pixels, 3×3: scaled, leant and turned about the anchor, then moved.

        The order is that of the CSS transforms translate, rotate, skewX, scale.
        """
        x, y = self.position
        if self.width == self.height == 1 and self.turn == 0 and self.shear == 0:
            return np.array([[1, 0, x], [0, 1, y], [0, 0, 1.0]])
        cos, sin = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        lean = math.tan(math.radians(self.shear)) if self.shear else 0.0
        a, b = cos * self.width, (cos * lean - sin) * self.height
        c, d = sin * self.width, (sin * lean + cos) * self.height
        ax, ay = anchor
        return np.array([[a, b, ax + x - a * ax - b * ay], [c, d, ay + y - c * ax - d * ay], [0, 0, 1]])

    @classmethod
    def of(cls, matrix: np.ndarray, anchor: tuple[float, float]) -> "Placement":
        """The placement that such a matrix is, flat, 3×3, that does not fold everything into a line."""
        (a, b, _), (c, d, _) = matrix[:2].tolist()
        width = math.hypot(a, c) or 1e-9
        cos, sin = a / width, c / width
        height = cos * d - sin * b
        lean = cos * b + sin * d
        x, y, _ = matrix @ [*anchor, 1]
        return cls(
            (float(x) - anchor[0], float(y) - anchor[1]),
            width,
            height,
            math.degrees(math.atan2(sin, cos)),
            math.degrees(math.atan(lean / (height or 1e-9))),
        )


def moved_by(matrix: np.ndarray, position: Sequence[float], anchor: tuple[float, float]) -> tuple[float, float]:
    """The position, given that of a layer with this anchor, once such a matrix moves the layer as well."""
    x, y, _ = matrix @ [anchor[0] + position[0], anchor[1] + position[1], 1]
    return float(x) - anchor[0], float(y) - anchor[1]


def flat_at(matrix: np.ndarray, point: Sequence[float]) -> np.ndarray:
    """The flat part of a map (3, 3) around a point, without its perspective: (3, 3)."""
    x, y, w = matrix @ [*point, 1]
    to = np.array([x / w, y / w])
    turned = (matrix[:2, :2] - np.outer(to, matrix[2, :2])) / w
    flat = np.eye(3)
    flat[:2, :2], flat[:2, 2] = turned, to - turned @ np.array(point)
    return flat
