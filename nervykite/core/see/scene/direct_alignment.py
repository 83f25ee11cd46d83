"""Direct registration of frames, by all of what they show instead of by corners.

A plain wall, sky or a bent ribbon has no corners to follow, but edges whose way across is seen. Every pixel on an edge
says how far that has moved across itself (Horn and Schunck, "Determining optical flow", 1981), and one turn, zoom and
shift is settled by all of them, from coarse to fine, with less and less heed to what moves otherwise (Black and
Anandan, "The robust estimation of multiple motions", 1996). A faint edge counts as much as a strong one, so that it is
the length of edges that decides, not how rich a subject is in detail.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit


@dataclass(frozen=True)
class EdgesSettings:
    """The settings by which the motion of edges is settled."""

    sides: tuple[int, ...] = (80, 160, 320)
    """The longer sides of the pictures that are compared, one after the other, px."""
    clear: float = 2.0
    """How many levels a pixel an edge has to rise to count by half: less is noise."""
    spans: tuple[float, float] = (6.0, 1.5)
    """How far off across itself an edge may lie to count by a quarter, at first and at last, px."""
    steps: int = 8
    """The number of steps taken at each size."""
    small: float = 0.01
    """The length of the last step, px."""
    points: int = 6_000
    """How many pixels are asked at most."""
    agreed: float = 0.3
    """The share of edges that have to agree; of two pictures that show something else about a quarter does."""
    fewest: int = 40
    """With fewer pixels on edges nothing is said."""


FARTHEST = 3.0
"""How long a step is at most, px."""
HELD = np.array([0.002, 0.002, 0.02, 0.02])
"""How strongly each step is held back where hardly anything is seen: shift, zoom and turn."""


def by_edges(
    first: np.ndarray, other: np.ndarray, guess: np.ndarray, settings: EdgesSettings = EdgesSettings()
) -> np.ndarray | None:
    """The homography (3, 3) from the pixels of `first` to those of `other`, uint8 grey (h, w), near a guess.

    It differs from the guess by a turn, zoom and shift. None if there are hardly any edges, or most of them do not
    agree with any such motion.
    """
    mapping, agreed = guess, 0.0
    for side in settings.sides:
        small, other_small, to_small = _at(side, first, other)
        edges = _edges_in(small, settings)
        if len(edges) < settings.fewest:
            return None
        mapping, agreed = _settled(edges, other_small, to_small @ mapping @ np.linalg.inv(to_small), settings)
        mapping = np.linalg.inv(to_small) @ mapping @ to_small
    return mapping if agreed > settings.agreed else None


def _at(side: int, first: np.ndarray, other: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Two pictures (h, w) with so many pixels on their longer side, float32, and the way there, (3, 3)."""
    scale = min(1.0, side / max(first.shape))

    def small(picture: np.ndarray) -> np.ndarray:
        sized = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
        return cv2.GaussianBlur(sized.astype(np.float32), (0, 0), 1.0)

    return small(first), small(other), np.diag([scale, scale, 1.0])


def _edges_in(picture: np.ndarray, settings: EdgesSettings) -> np.ndarray:
    """Pixels on edges, float32 (n, 7).

    Where each is, its direction across, how steep it is, how much it counts, its grey.
    """
    across = [cv2.Sobel(picture, cv2.CV_32F, dx, 1 - dx, ksize=3, scale=1 / 8) for dx in (1, 0)]
    steep = cv2.magnitude(*across)
    counts = steep * steep / (steep * steep + settings.clear * settings.clear)
    rows, columns = np.nonzero(counts > 0.1)
    thin = 1 + len(rows) // settings.points
    rows, columns = rows[::thin], columns[::thin]
    ways = (a[rows, columns] / steep[rows, columns] for a in across)
    values = (v[rows, columns] for v in (np.maximum(steep, settings.clear), counts, picture))
    return np.column_stack([columns, rows, *ways, *values]).astype(np.float32)


def _settled(
    edges: np.ndarray, other: np.ndarray, mapping: np.ndarray, settings: EdgesSettings
) -> tuple[np.ndarray, float]:
    """`by_edges` at one size, for edges (n, 7) and float32 (h, w), and what share of the edges agrees with that."""
    h, w = other.shape
    agreed, whole = 0.0, float(edges[:, 5].sum())
    for span in np.linspace(*settings.spans, settings.steps):
        normal, pull, weight = _pulled(edges, other, mapping, span)
        agreed = weight / whole
        step = np.linalg.solve(normal + np.diag(HELD) * max(weight, 1.0), pull)
        mapping = mapping @ _about(np.array([w / 2, h / 2]), step, max(h, w) / 2)
        if np.abs(step).max() < settings.small:
            break
    return mapping, agreed


@njit(cache=True, nogil=True, fastmath=True)
def _pulled(edges, other, mapping, span):
    """The normal equations (4, 4) and (4,) of a step that edges (n, 7) pull at, and the sum of the weights."""
    h, w = other.shape
    normal, pull = np.zeros((4, 4)), np.zeros(4)
    weights, long = 0.0, max(h, w) / 2
    moves = np.empty(4)
    for k in range(len(edges)):
        x, y, nx, ny, steep, counts, had = edges[k]
        depth = mapping[2, 0] * x + mapping[2, 1] * y + mapping[2, 2]
        u = (mapping[0, 0] * x + mapping[0, 1] * y + mapping[0, 2]) / depth
        v = (mapping[1, 0] * x + mapping[1, 1] * y + mapping[1, 2]) / depth
        if not (0 <= u < w - 1 and 0 <= v < h - 1):
            continue
        column, row = int(u), int(v)
        right, down = u - column, v - row
        above = (1 - right) * other[row, column] + right * other[row, column + 1]
        below = (1 - right) * other[row + 1, column] + right * other[row + 1, column + 1]
        off = (had - (1 - down) * above - down * below) / steep
        weight = counts / (1 + (off / span) ** 2) ** 2
        off = min(max(off, -FARTHEST), FARTHEST)
        px, py = (x - w / 2) / long, (y - h / 2) / long
        moves[0], moves[1], moves[2], moves[3] = nx, ny, nx * px + ny * py, ny * px - nx * py
        for i in range(4):
            pull[i] += weight * moves[i] * off
            for j in range(4):
                normal[i, j] += weight * moves[i] * moves[j]
        weights += weight
    return normal, pull, weights


def _about(middle: np.ndarray, step: np.ndarray, long: float) -> np.ndarray:
    """A shift, and a zoom and a turn in pixels at `long` from the middle, as a matrix (3, 3)."""
    zoom, turn = 1 + step[2] / long, step[3] / long
    linear = np.array([[zoom, -turn], [turn, zoom]])
    return np.vstack([np.column_stack([linear, step[:2] + middle - linear @ middle]), [0, 0, 1]])
