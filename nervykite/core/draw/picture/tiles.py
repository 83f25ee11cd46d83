"""Tiles of a target that a sprite covers wholly, in part, or not at all: what is hidden is not drawn, what covers all
is copied, and what is empty is passed over.

A sprite is counted once, in cells (summed-area table: Crow 1984); a target tile then asks four numbers of it.
"""

import math
from typing import NamedTuple

import numpy as np
from numba import njit

CELL = 8
"""Side of what is counted in a sprite, in pixels."""
TILE = 16
"""Side of what a target is divided into, in pixels."""
EMPTY, PARTLY, WHOLLY = 0, 1, 2
"""What a sprite does to a tile."""


class Cells(NamedTuple):
    """Of a sprite's plane (h, w), summed from its corner: int32 (h / CELL + 1, w / CELL + 1), rounded up."""

    lacking: np.ndarray
    """Pixels that do not cover all."""
    showing: np.ndarray
    """Pixels in which there is anything."""


def cells_of(packed: np.ndarray, full: int) -> Cells:
    """Counts a plane as `draw.pack` makes it, uint64 (h, w); `full` is the alpha of what covers all."""
    h, w = packed.shape
    lacking = np.ones((-(-h // CELL) * CELL, -(-w // CELL) * CELL), np.int32)
    showing = np.zeros_like(lacking)
    lacking[:h, :w] = packed >> np.uint64(32) != full
    showing[:h, :w] = packed != 0
    return Cells(_summed(lacking), _summed(showing))


def _summed(pixels: np.ndarray) -> np.ndarray:
    h, w = pixels.shape
    cells = pixels.reshape(h // CELL, CELL, w // CELL, CELL).sum((1, 3), dtype=np.int32)
    return np.pad(cells.cumsum(0, dtype=np.int32).cumsum(1, dtype=np.int32), ((1, 0), (1, 0)))


def tiles_of(shape: tuple[int, int]) -> tuple[int, int]:
    """The number of tiles a target (h, w) has, down and across."""
    return -(-shape[0] // TILE), -(-shape[1] // TILE)


@njit(cache=True, nogil=True)
def classify(tiles, lacking, showing, height, width, m):
    """Says of each tile of a target, uint8 (rows, columns) of zeros, what a sprite's plane (height, width) does to it.

    m (2×3) takes target pixels to the plane's. A tile counts as covered wholly only if all that any of its pixels is
    interpolated from covers all.
    """
    rows, columns = tiles.shape
    reach_x = (abs(m[0, 0]) + abs(m[0, 1])) * (TILE - 1) / 2
    reach_y = (abs(m[1, 0]) + abs(m[1, 1])) * (TILE - 1) / 2
    last_row, last_column = lacking.shape[0] - 1, lacking.shape[1] - 1
    for r in range(rows):
        for c in range(columns):
            x = m[0, 0] * (c + 0.5) * TILE + m[0, 1] * (r + 0.5) * TILE + m[0, 2] - 0.5
            y = m[1, 0] * (c + 0.5) * TILE + m[1, 1] * (r + 0.5) * TILE + m[1, 2] - 0.5
            # Places are rounded, and two pixels are read each way: a hundredth, and one more.
            left, past_x = math.floor(x - reach_x - 0.01), math.floor(x + reach_x + 0.01) + 2
            top, past_y = math.floor(y - reach_y - 0.01), math.floor(y + reach_y + 0.01) + 2
            if past_x <= 0 or past_y <= 0 or left >= width or top >= height:
                continue
            outside = left < 0 or top < 0 or past_x > width or past_y > height
            a, b = max(0, left // CELL), max(0, top // CELL)
            c1, r1 = min(last_column, (past_x - 1) // CELL + 1), min(last_row, (past_y - 1) // CELL + 1)
            if showing[r1, c1] - showing[b, c1] - showing[r1, a] + showing[b, a] == 0:
                continue
            lacks = lacking[r1, c1] - lacking[b, c1] - lacking[r1, a] + lacking[b, a]
            tiles[r, c] = PARTLY if outside or lacks else WHOLLY
