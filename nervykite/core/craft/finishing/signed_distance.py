"""Where a picture's edge is: signed distances, ways along it, places beside it."""

from typing import NamedTuple

import cv2
import numpy as np

from ...see.matte.distance import distance_outside


def away(alpha: np.ndarray) -> np.ndarray:
    """The signed distance of each pixel outside the line where alpha is one half, below 0 inside: float32 (h, w),
    pixels.
    """
    alpha = np.clip(alpha, 0, 1)
    outer, inner = distance_outside(alpha), distance_outside(1 - alpha)
    # Within a pixel of the line the alpha itself says where it is.
    beside = (outer < 1) & (inner < 1)
    return np.where(beside, np.clip(0.5 - alpha, -1, 1), outer - inner).astype(np.float32)


def band(far: np.ndarray, low: float, high: float) -> np.ndarray:
    """The coverage of each pixel by the band between two distances from an edge: float32 (h, w), 0…1."""
    return np.clip(high - far + 0.5, 0, 1) - np.clip(low - far + 0.5, 0, 1)


class EdgeTangent(NamedTuple):
    """The way along an edge, as each pixel beside it has it."""

    along: np.ndarray
    """How far along its line the nearest pixel of the edge is: float32 (h, w), pixels."""
    length: np.ndarray
    """How long that line is."""


def way_along(alpha: np.ndarray) -> EdgeTangent:
    """The way along the edge of an alpha, float32 (h, w)."""
    solid = (alpha >= 0.5).astype(np.uint8)
    lines, _ = cv2.findContours(solid, cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)
    marks = np.ones(alpha.shape, np.uint8)
    along, length = np.zeros(alpha.shape, np.float32), np.ones(alpha.shape, np.float32)
    for line in lines:
        points = line[:, 0].astype(np.float32)
        smooth = cv2.blur(np.tile(points, (3, 1))[:, None, :], (1, 7))[len(points) : 2 * len(points), 0]
        steps = np.linalg.norm(np.diff(smooth, axis=0, prepend=smooth[-1:]), axis=1)
        x, y = line[:, 0].T
        marks[y, x], along[y, x], length[y, x] = 0, np.cumsum(steps), max(float(steps.sum()), 1)
    if marks.all():
        return EdgeTangent(along, length)
    _, labels = cv2.distanceTransformWithLabels(marks, cv2.DIST_L2, cv2.DIST_MASK_5, labelType=cv2.DIST_LABEL_PIXEL)
    ways, lengths = (np.zeros(int(labels.max()) + 1, np.float32) for _ in range(2))
    there = marks == 0
    ways[labels[there]], lengths[labels[there]] = along[there], length[there]
    return EdgeTangent(ways[labels], lengths[labels])
