"""A reel: the frames of a shot made small, and how the camera moves from each to the next.

There are two sizes: a matte goes from frame to frame at the smaller one, where nearly nothing is lost, and settles at
last at the larger one.
"""

import functools
import math
from collections.abc import Sequence

import cv2
import numpy as np

from ...common.aside import side_by_side
from ..scene.align import contrast, features, homography, pairs

PIXELS, ON_THE_WAY = 230_400, 140_000
"""Pixels at which a carried matte settles, its edge being solved in the frame's own; and at which it is on the way."""
CORNERS, FEWEST = 400, 20
"""Corners by which the camera is followed at most; how many beside the subject are enough."""


def working_size(width: int, height: int, pixels: int = PIXELS) -> tuple[int, int]:
    """The size at which carried mattes of frames of the given size settle: of so many pixels at most."""
    scale = min(1.0, math.sqrt(pixels / (width * height)))
    return max(16, round(width * scale)), max(16, round(height * scale))


class Reel:
    """Frames of a shot in order, made small, with the camera's motion between them.

    `pictures` are uint8 RGB (h, w, 3), all of one size. `working` is the size (w, h) on the way, at which are `rgb` and
    `grey`; `larger` has them as they are where mattes settle.
    """

    def __init__(self, pictures: Sequence[np.ndarray]) -> None:
        h, w = pictures[0].shape[:2]
        settling = working_size(w, h)
        large = [cv2.resize(pictures[k], settling, interpolation=cv2.INTER_AREA) for k in range(len(pictures))]
        self.larger = Larger(self, large)
        self.working = working_size(w, h, ON_THE_WAY)
        self.rgb = [cv2.resize(picture, self.working, interpolation=cv2.INTER_AREA) for picture in large]
        self.grey = [cv2.cvtColor(p, cv2.COLOR_RGB2GRAY) for p in self.rgb]
        self._clear = list(side_by_side(functools.partial(contrast, p) for p in self.rgb))
        calls = (functools.partial(self._pairs, k) for k in range(len(self.rgb) - 1))
        self._corners = list(side_by_side(calls))
        self._onward: dict[int, np.ndarray] = {}

    def _pairs(self, k: int) -> tuple[np.ndarray, np.ndarray]:
        """Where corners of frame k are, and where they are in the next."""
        return pairs(self._clear[k], self._clear[k + 1], features(self._clear[k], CORNERS), np.eye(3))

    def step(self, k: int, by: int, here: np.ndarray | None = None, there: np.ndarray | None = None) -> np.ndarray:
        """The movement of the scene from frame k to frame k + by, by being 1 or -1: 3×3, pixels to pixels.

        here, there: the subject in the one and the other frame, float32 (h, w), 0…1, if it is known: the camera is not
        followed by that. What was found once holds from then on.
        """
        first = min(k, k + by)
        if first not in self._onward:
            masks = (here, there) if by > 0 else (there, here)
            self._onward[first] = self._camera(first, masks)
        mapping = self._onward[first]
        return mapping if by > 0 else np.linalg.inv(mapping)

    def _camera(self, k: int, subject: tuple[np.ndarray | None, np.ndarray | None]) -> np.ndarray:
        ends = self._corners[k]
        free = np.ones(len(ends[0]), bool)
        for points, mask in zip(ends, subject, strict=True):
            if mask is not None:
                free &= ~_lies_on(points, mask)
        if free.sum() >= FEWEST:
            ends = ends[0][free], ends[1][free]
        mapping = homography(*ends, self.grey[k].shape)
        if mapping is None:
            return np.eye(3)
        w, h = self.working
        corners = np.array([[[0, 0]], [[w, h]], [[0, h]]], float)
        if np.abs(cv2.perspectiveTransform(corners, mapping) - corners).max() < 0.35:
            return np.eye(3)  # a camera that stands is not to be blurred by resampling
        return mapping / mapping[2, 2]


class Larger:
    """The frames of a reel, uint8 RGB, at the size (w, h) `working` at which mattes settle."""

    def __init__(self, reel: Reel, rgb: list[np.ndarray]) -> None:
        self.rgb, self._reel = rgb, reel
        self.working = rgb[0].shape[1], rgb[0].shape[0]

    def step(self, k: int, by: int) -> np.ndarray:
        """The movement of the scene from frame k to frame k + by, see `Reel.step`: 3×3, pixels of this size."""
        mapping = self._reel.step(k, by)
        if np.array_equal(mapping, np.eye(3)):
            return mapping
        up = np.diag([*self.scale, 1.0])
        return up @ mapping @ np.linalg.inv(up)

    @property
    def scale(self) -> tuple[float, float]:
        """The factor by which frames are wider and higher than on the way."""
        return self.working[0] / self._reel.working[0], self.working[1] / self._reel.working[1]

    def grown(self, values: np.ndarray) -> np.ndarray:
        """The evidence of a frame on the way, at this size."""
        return cv2.resize(values, self.working, interpolation=cv2.INTER_LINEAR)


def _lies_on(points: np.ndarray, mask: np.ndarray) -> np.ndarray:
    """The points (n, 1, 2) that lie on a mask (h, w), 0…1, or right beside it: bool (n,)."""
    grown = cv2.dilate((mask > 0.3).astype(np.uint8), np.ones((9, 9), np.uint8))
    columns, rows = np.round(points.reshape(-1, 2)).astype(int).T
    return grown[rows.clip(0, mask.shape[0] - 1), columns.clip(0, mask.shape[1] - 1)] > 0


def laid(picture: np.ndarray, mapping: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """A picture under a homography; what is beyond it is 0."""
    if np.array_equal(mapping, np.eye(3)):
        return picture
    return cv2.warpPerspective(picture, mapping, size, flags=cv2.INTER_LINEAR)
