"""The lie of a picture on the canvas at rest."""

import math

import numpy as np

from ...piece.model.framing import Box, Framing


def fit_matrix(size: tuple[int, int], canvas: tuple[int, int], framing: Framing) -> np.ndarray:
    """A picture's own pixels to canvas pixels: 3×3, scaled alike in x and y. Sizes are (w, h).

    It is centred, unless it lies as by hand; then it may be turned as well.
    """
    width, height = size
    scales = canvas[0] / width, canvas[1] / height
    scale = min(scales) if framing.mode == "fit" else max(scales)
    across = down = turn = 0.0
    if framing.mode == "hand":
        scale *= framing.scale
        across, down, turn = framing.across * canvas[0], framing.down * canvas[1], framing.turn
    flip = -1 if framing.mirrored else 1
    if turn % 360 == 0:
        cos, sin = 1.0, 0.0
    else:
        cos, sin = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    a, b, c, d = flip * scale * cos, -scale * sin, flip * scale * sin, scale * cos
    x, y = canvas[0] / 2 + across, canvas[1] / 2 + down
    matrix = np.array(
        [
            [a, b, x - (a * width + b * height) / 2],
            [c, d, y - (c * width + d * height) / 2],
            [0, 0, 1],
        ]
    )
    # Where a hand has put it back to whole pixels it lies on them, and is not resampled.
    return np.round(matrix, 9) if framing.mode == "hand" else matrix


def scale_of(matrix: np.ndarray) -> float:
    """The size at which a pixel is drawn by such a matrix."""
    return math.hypot(matrix[0, 0], matrix[1, 0])


def by_hand(framing: Framing, size: tuple[int, int], canvas: tuple[int, int]) -> Framing:
    """The framing by hand with which a picture lies as it does. Sizes are (w, h)."""
    if framing.mode == "hand":
        return framing
    matrix = fit_matrix(size, canvas, framing)
    fills = max(canvas[0] / size[0], canvas[1] / size[1])
    return Framing(mode="hand", scale=scale_of(matrix) / fills, mirrored=framing.mirrored)


def own_size(size: tuple[int, int], canvas: tuple[int, int]) -> Framing:
    """The framing in which a picture lies in its own pixels, or whole if it is larger than the canvas."""
    if size[0] > canvas[0] or size[1] > canvas[1]:
        return Framing(mode="fit")
    return Framing(mode="hand", scale=1 / max(canvas[0] / size[0], canvas[1] / size[1]))


def corners(box: Box) -> np.ndarray:
    """The corners of a box as columns (x, y, 1), (3, 4): left and right at the top, then at the bottom."""
    left, top, right, bottom = box
    return np.array([[left, right, left, right], [top, top, bottom, bottom], [1, 1, 1, 1]], float)


def moved_box(matrix: np.ndarray, box: Box) -> Box:
    """The box, upright, around another once a flat matrix has moved that."""
    x, y, _ = matrix @ corners(box)
    return float(x.min()), float(y.min()), float(x.max()), float(y.max())


def covered(matrix: np.ndarray, box: Box) -> tuple[int, int, int, int]:
    """The whole pixels that a box (left, top, right, bottom) covers once a flat matrix has placed it."""
    left, top, right, bottom = moved_box(matrix, box)
    return math.floor(left), math.floor(top), math.ceil(right), math.ceil(bottom)


def even(left: int, top: int, right: int, bottom: int) -> tuple[int, int, int, int]:
    """The box, grown until its corner and its sides are even."""
    left, top = left - left % 2, top - top % 2
    return left, top, right + (right - left) % 2, bottom + (bottom - top) % 2
