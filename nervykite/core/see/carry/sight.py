"""Sight: what a subject looks like beside what is around it, learned from one frame and told in others."""

from typing import NamedTuple

import cv2
import numpy as np

from ..find.looks import Features, line_of, looks_of
from ..matte.part import around
from ..scene.rigid_motion import MARGIN
from .fields import Part

AROUND = 9
"""How far beside the subject, in working pixels, what is around it begins."""


class Sighting(NamedTuple):
    """The looks of a part of a frame, and whose looks each pixel has: float32 (h, w), -1…1."""

    looks: Features
    similar: np.ndarray


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

    def part(self, part: Part, size: tuple[int, int]) -> Part:
        """A part of a frame of a size (h, w), made as large as the part that was learned from: as near as that."""
        rows, columns = (_grown(own, least, most) for own, least, most in zip(part, self._size, size, strict=True))
        return rows, columns

    def says(self, picture: np.ndarray) -> Sighting | None:
        """The sighting of a part of a frame, uint8 RGB (h, w, 3); None if nothing can be said."""
        looks = None if self._line is None else looks_of(picture)
        if self._line is None or looks is None:
            return None
        return Sighting(looks, self._line.says(looks, picture.shape[:2]))


def _grown(own: slice, least: int, most: int) -> slice:
    """A range at least so long around another one, within 0…most."""
    wanted = min(most, max(least, own.stop - own.start))
    start = min(max(0, (own.start + own.stop - wanted) // 2), most - wanted)
    return slice(start, start + wanted)
