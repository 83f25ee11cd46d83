"""The cling line: a line from one click to the next that hugs the edges between them."""

import cv2
import numpy as np

from ...common.errors import Refusal

REACH = 420
"""How far from its beginning, in pixels of the size it is worked at, a line can follow edges."""
LARGEST = 1400
"""The longest side at which edges are looked for; larger pictures are halved until they fit."""


class Cling:
    """Lines from one point of a picture, uint8 RGB (h, w, 3), along its edges.

    Live-wire segmentation (Mortensen and Barrett, "Intelligent scissors for image composition", 1995), within a
    window around the point. Raises Refusal if the point lies outside of the picture.
    """

    def __init__(self, picture: np.ndarray, x: float, y: float) -> None:
        h, w = picture.shape[:2]
        if not (0 <= x <= w and 0 <= y <= h):
            raise Refusal("The line has to begin on the picture.")
        self._by = 1
        while max(h, w) / self._by > LARGEST:
            self._by *= 2
        reach = REACH * self._by
        self._left, self._top = max(0, int(x) - reach), max(0, int(y) - reach)
        part = picture[self._top : int(y) + reach, self._left : int(x) + reach]
        size = max(8, part.shape[1] // self._by), max(8, part.shape[0] // self._by)
        part = cv2.resize(part, size, interpolation=cv2.INTER_AREA)
        self._size = size
        self._scissors = cv2.segmentation.IntelligentScissorsMB()
        self._scissors.setEdgeFeatureCannyParameters(24, 70)
        self._scissors.setGradientMagnitudeMaxLimit(160)
        self._scissors.applyImage(np.ascontiguousarray(part[..., ::-1]))
        self._scissors.buildMap(self._inside(x, y))
        self._start = (x, y)

    def _inside(self, x: float, y: float) -> tuple[int, int]:
        column, row = (x - self._left) / self._by, (y - self._top) / self._by
        return (int(np.clip(column, 1, self._size[0] - 2)), int(np.clip(row, 1, self._size[1] - 2)))

    def to(self, x: float, y: float) -> np.ndarray:
        """The line to another point: float64 (n, 2), in source pixels, both ends exact."""
        place = (x - self._left) / self._by, (y - self._top) / self._by
        if not (0 <= place[0] <= self._size[0] and 0 <= place[1] <= self._size[1]):
            return np.array([self._start, (x, y)], float)
        contour = self._scissors.getContour(self._inside(x, y))
        if contour is None or len(contour) < 3:
            return np.array([self._start, (x, y)], float)
        line = (contour.reshape(-1, 2).astype(float) + 0.5) * self._by + [self._left, self._top]
        if np.linalg.norm(line[0] - self._start) > np.linalg.norm(line[-1] - self._start):
            line = line[::-1]
        slim = cv2.approxPolyDP(line.astype(np.float32), 0.75 * self._by, False)[:, 0].astype(float)
        slim[0], slim[-1] = self._start, (x, y)
        return slim
