"""Position, scale and rotation to a matrix, and back."""

import math
from collections.abc import Sequence

import numpy as np


def placed(position: Sequence[float], scale: float, turn: float, anchor: tuple[float, float]) -> np.ndarray:
    """Canvas pixels at rest to canvas pixels, 3×3: scaled and turned about the anchor, then moved.

    The turn is in degrees, clockwise.
    """
    x, y = position
    if scale == 1 and turn == 0:
        return np.array([[1, 0, x], [0, 1, y], [0, 0, 1.0]])
    ax, ay = anchor
    c, s = math.cos(math.radians(turn)) * scale, math.sin(math.radians(turn)) * scale
    return np.array([[c, -s, ax + x - c * ax + s * ay], [s, c, ay + y - s * ax - c * ay], [0, 0, 1]])


def moved_by(matrix: np.ndarray, position: Sequence[float], anchor: tuple[float, float]) -> tuple[float, float]:
    """The position, given that of a layer with this anchor, once such a matrix moves the layer as well."""
    x, y, _ = matrix @ [anchor[0] + position[0], anchor[1] + position[1], 1]
    return float(x) - anchor[0], float(y) - anchor[1]
