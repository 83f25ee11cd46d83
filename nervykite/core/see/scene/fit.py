"""Fits of points of one picture to another: a similarity, an affine map or a homography, by weighted least squares."""

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

Model = Literal["place", "similarity", "turn", "affine", "homography"]
MODELS: tuple[Model, ...] = ("place", "similarity", "turn", "affine", "homography")
"""From the stiffest to the softest. A turn is that of a camera that stays where it is and turns and zooms."""


@dataclass(frozen=True)
class Lens:
    """A camera's middle, in pixels, and its focal length: how far, in pixels, the picture would lie behind the lens."""

    middle: tuple[float, float]
    focal: float


@dataclass(frozen=True)
class Robust:
    """The settings by which outliers are told: `rounds` of weighing by Tukey's biweight at `reach` times the spread of
    the residuals, which is taken to be at least `least` pixels.
    """

    rounds: int = 6
    reach: float = 4.0
    least: float = 0.06


def fitted(
    points: np.ndarray, there: np.ndarray, model: Model, weights: np.ndarray | None = None,
    robust: Robust | None = None, lens: Lens | None = None,
) -> tuple[np.ndarray, np.ndarray, np.ndarray] | None:  # fmt: skip
    """The map (3, 3) that takes points nearest to where they are, the weight of each 0…1 (n,), and how far each is
    off (n,), in pixels.

    points, there: float (n, 2), of maps that are not far from the identity
    weights: how much each counts, (n,)
    lens: that of the camera, for a turn
    Outliers are weighed down round by round (Beaton and Tukey 1974); the map is linear about what was found the round
    before (Gauss and Newton). None if there are too few points, or they lie on a line.
    """
    s = robust or Robust()
    if len(points) < 6:
        return None
    middle = points.mean(0) if lens is None else np.array(lens.middle)
    size = max(1.0, float(np.abs(points - middle).max()))
    into = np.array([[1 / size, 0, -middle[0] / size], [0, 1 / size, -middle[1] / size], [0, 0, 1]])
    p, q = ((x - middle) / size for x in (points, there))
    focal = None if lens is None else lens.focal / size
    given = np.ones(len(p)) if weights is None else np.asarray(weights, float)
    own = np.ones(len(p))
    found = np.eye(3)
    for _ in range(s.rounds):
        seen = _through(found, p)
        step = _step(seen, q - seen, given * own, model, focal)
        if step is None or not np.isfinite(step).all():
            return None
        found = step @ found
        off = np.linalg.norm(q - _through(found, p), axis=1)
        counted = off[given > 0]
        spread = max(s.least / size, 1.4826 * float(np.median(counted)))
        own = np.clip(1 - (off / (s.reach * spread)) ** 2, 0, None) ** 2
        if (given * own > 0).sum() < 6:
            return None
    found = np.linalg.inv(into) @ found @ into
    return found / found[2, 2], own * (given > 0), off * size


def _through(matrix: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Points (n, 2) through a map (3, 3)."""
    x = points @ matrix[:, :2].T + matrix[:, 2]
    return x[:, :2] / x[:, 2:]


def _step(
    p: np.ndarray, by: np.ndarray, weights: np.ndarray, model: Model, focal: float | None = None
) -> np.ndarray | None:
    """The map near the identity that moves points (n, 2), about the lens's middle for a turn, by so much, as nearly as
    it can.
    """
    x, y = p.T
    none, one = np.zeros_like(x), np.ones_like(x)
    if model == "place":
        across, down = [one, none], [none, one]
    elif model == "similarity":
        across, down = [one, none, x, -y], [none, one, y, x]
    elif model == "turn":
        if focal is None:
            raise ValueError("a turn goes by a lens")
        f = focal
        across, down = [f + x * x / f, x * y / f, x, -y], [x * y / f, f + y * y / f, y, x]
    else:
        across, down = [one, none, x, y, none, none], [none, one, none, none, x, y]
        if model == "homography":
            across, down = [*across, -x * x, -x * y], [*down, -x * y, -y * y]
    rows = np.concatenate([np.stack(across, 1), np.stack(down, 1)])
    root = np.sqrt(np.concatenate([weights, weights]))
    a, b = rows * root[:, None], by.T.ravel() * root
    normal = a.T @ a
    if np.linalg.cond(normal) > 1e10:
        return None
    v = np.linalg.solve(normal, a.T @ b)
    if model == "place":
        return np.array([[1, 0, v[0]], [0, 1, v[1]], [0, 0, 1]])
    if model == "turn":
        return _turn(v, focal or 1.0)
    if model == "similarity":
        return np.array([[1 + v[2], -v[3], v[0]], [v[3], 1 + v[2], v[1]], [0, 0, 1]])
    g, h = (v[6], v[7]) if model == "homography" else (0.0, 0.0)
    return np.array([[1 + v[2], v[3], v[0]], [v[4], 1 + v[5], v[1]], [g, h, 1]])


def _turn(v: np.ndarray, f: float) -> np.ndarray:
    """The map of a camera of a focal length that turns across and down, zooms, and turns about its own axis."""
    across, down, zoom, roll = v
    turned, _ = cv2.Rodrigues(np.array([-down, across, roll]))
    lens = np.diag([f, f, 1.0])
    made = np.diag([1 + zoom, 1 + zoom, 1.0]) @ lens @ turned @ np.linalg.inv(lens)
    return np.asarray(made / made[2, 2], float)


def through(matrix: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Points (n, 2) through a map (3, 3): float64 (n, 2)."""
    return _through(np.asarray(matrix, float), np.asarray(points, float))


def corners_of(size: tuple[int, int]) -> np.ndarray:
    """The corners of a picture (w, h): float64 (4, 2)."""
    w, h = size
    return np.array([[0, 0], [w, 0], [w, h], [0, h]], float)


def from_corners(corners: np.ndarray, there: np.ndarray) -> np.ndarray:
    """The map (3, 3) that takes four points (4, 2) to four others."""
    rows, sides = [], []
    for (x, y), (u, v) in zip(corners, there, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        sides += [u, v]
    return np.append(np.linalg.solve(np.array(rows), np.array(sides)), 1.0).reshape(3, 3)


def nearest(matrix: np.ndarray, size: tuple[int, int], model: Model, lens: Lens | None = None) -> np.ndarray:
    """The map of a model that does most nearly over a picture (w, h) what another one does: (3, 3)."""
    if model == "homography":
        return matrix / matrix[2, 2]
    w, h = size
    grid = np.stack(np.meshgrid(np.linspace(0, w, 7), np.linspace(0, h, 7)), -1).reshape(-1, 2)
    middle = np.zeros(2) if lens is None else np.array(lens.middle)
    about = np.array([[1, 0, -middle[0]], [0, 1, -middle[1]], [0, 0, 1]])
    inner = about @ matrix @ np.linalg.inv(about)
    found = np.eye(3)
    for _ in range(6):
        seen = through(found, grid - middle)
        by = through(inner, grid - middle) - seen
        step = _step(seen, by, np.ones(len(grid)), model, None if lens is None else lens.focal)
        assert step is not None  # a grid lies on no line
        found = step @ found
    found = np.linalg.inv(about) @ found @ about
    return np.asarray(found / found[2, 2])
