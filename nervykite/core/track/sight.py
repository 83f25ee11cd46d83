"""Sight: what a subject looks like beside what is around it, learned from one frame and told in others."""

import cv2
import numpy as np

from ..matte.looks import line_of, looks_of
from ..matte.solve import around
from .fields import Part
from .whole import MARGIN

AROUND = 9
"""How far beside the subject, in working pixels, what is around it begins."""


class Sight:
    """Learned from a frame, uint8 RGB (h, w, 3), and the subject's matte there, float32 (h, w), 0…1.

    A line through looks is learned where the truth is known, and asked about every other frame, so that nothing adds
    up on the way (as the target models of Robinson and others, "Learning fast and robust target models for video object
    segmentation", 2020). It says nothing if no network can be run here.
    """

    def __init__(self, rgb: np.ndarray, matte: np.ndarray) -> None:
        self._line, self._size = None, (0, 0)
        if not (matte > 0.5).any():
            return
        box = around(matte > 0.02, MARGIN)
        self._size = box[0].stop - box[0].start, box[1].stop - box[1].start
        looks = looks_of(np.ascontiguousarray(rgb[box]))
        if looks is not None:
            others = cv2.dilate(matte[box], np.ones((AROUND, AROUND), np.uint8)) < 0.05
            self._line = line_of(looks, matte[box] > 0.9, others)

    def says(self, rgb: np.ndarray, part: Part) -> np.ndarray | None:
        """Whose looks each pixel of a part of a frame has: float32 (h, w), -1…1; None if nothing can be said.

        It is looked at from as near as the frame that it was learned from.
        """
        if self._line is None:
            return None
        box = tuple(_grown(own, least, most) for own, least, most in zip(part, self._size, rgb.shape, strict=False))
        looks = looks_of(np.ascontiguousarray(rgb[box]))
        if looks is None:
            return None
        said = self._line.says(looks, (box[0].stop - box[0].start, box[1].stop - box[1].start))
        rows, columns = (
            slice(own.start - whole.start, own.stop - whole.start) for own, whole in zip(part, box, strict=True)
        )
        return said[rows, columns]


def _grown(own: slice, least: int, most: int) -> slice:
    """A range at least so long around another one, within 0…most."""
    wanted = min(most, max(least, own.stop - own.start))
    start = min(max(0, (own.start + own.stop - wanted) // 2), most - wanted)
    return slice(start, start + wanted)
