"""Strokes drawn by hand: what they cover, and how far that goes."""

from dataclasses import dataclass

import cv2
import numpy as np

from ...common.errors import Refusal


@dataclass(frozen=True)
class Stroke:
    """A line drawn by hand: points (n, 2) in source pixels, and its width."""

    points: np.ndarray
    width: float

    def from_corner(self, left: float, top: float) -> "Stroke":
        """The same in a part of the picture that begins there."""
        return Stroke(np.asarray(self.points, float).reshape(-1, 2) - (left, top), self.width)


def draw(strokes: list[Stroke], height: int, width: int, scale: float = 1.0) -> np.ndarray:
    """The pixels that strokes cover in a frame of the given size, `scale` times the source's: bool (height, width)."""
    mask = np.zeros((height, width), np.uint8)
    for stroke in strokes:
        points = np.round((np.asarray(stroke.points, float).reshape(-1, 2) * scale - 0.5) * 16).astype(np.int32)
        radius = stroke.width * scale / 2
        if radius > 0.75:
            cv2.polylines(mask, [points], False, 1, max(1, round(2 * radius)), cv2.LINE_8, 4)
        else:
            cv2.polylines(mask, [points], False, 1, 1, cv2.LINE_8, 4)
        for end in (points[0], points[-1]):  # a line of one point draws nothing by itself
            cv2.circle(mask, tuple(int(v) for v in end), max(8, round(radius * 16)), 1, -1, cv2.LINE_8, 4)
    return mask > 0


def check(keep: list[Stroke], drop: list[Stroke], height: int, width: int) -> tuple[np.ndarray, np.ndarray]:
    """Area that keep and drop strokes cover in a frame: bool (height, width). Raises Refusal if that is of no use."""
    inside, outside = draw(keep, height, width), draw(drop, height, width)
    if not keep and not drop:
        raise Refusal("There are no marks yet. Draw a keep stroke over the subject and a drop stroke beside it.")
    if not (inside.any() or outside.any()):
        raise Refusal("All marks lie outside the frame. Draw them over the picture.")
    if not inside.any():
        raise Refusal("No keep stroke lies on the picture. Draw one over the subject.")
    return inside, outside


def extent(inside: np.ndarray) -> float:
    """The extent of an area bool (h, w), not empty, from corner to corner, px."""
    ys, xs = np.nonzero(inside)
    return float(np.hypot(np.ptp(ys) + 4, np.ptp(xs) + 4))


def marked_parts(u: np.ndarray, inside: np.ndarray) -> np.ndarray:
    """The parts of an answer (h, w) that a keep stroke touches; what nobody marked is not the subject."""
    count, labels = cv2.connectedComponents((u > 0.5).astype(np.uint8), connectivity=8)
    kept = np.zeros(count, bool)
    kept[np.unique(labels[inside])] = True
    kept[0] = False
    return np.where(kept[labels], u, 0).astype(np.float32)


def rim_of(inside: np.ndarray) -> np.ndarray:
    """The frame's edge, bool (h, w), but for where the keep strokes, bool (h, w), come near it."""
    rim = np.zeros(inside.shape, bool)
    k = max(1, min(inside.shape) // 60)
    rim[:k] = rim[-k:] = rim[:, :k] = rim[:, -k:] = True
    return rim & (cv2.dilate(inside.astype(np.uint8), np.ones((9, 9))) == 0)
