"""Ghosts: places where a plate shows somebody who lingered, and a frame the scene behind.

Somebody who comes and stays needs it: without it one of six such shots is not found at all.
"""

import functools
from dataclasses import dataclass, field

import cv2
import numpy as np

from ...common.aside import side_by_side
from .difference import apart
from .seam import SeamSettings, told_by_seam
from .stack import Stack


@dataclass(frozen=True)
class GhostSettings:
    """When a frame is believed instead of the plate."""

    weaker: float = 0.1
    """How much weaker a frame's seam has to be than the plate's, -1…1."""
    least: float = 0.002
    """The smallest place that is looked at, as a share of the frame."""
    seam: SeamSettings = field(default_factory=SeamSettings)
    """How seams are measured."""


def ghosts(stack: Stack, plate: np.ndarray, noise: np.ndarray, settings: GhostSettings = GhostSettings()) -> np.ndarray:
    """Where each frame of a stack shows the scene although the plate shows something else: bool (n, h, w).

    plate: uint8 RGB (h, w, 3); noise: float32 (h, w), levels. Where a frame and the plate differ one of them shows a
    subject, and which one the seam tells: a subject ends at the edge of such a place, a scene goes on across it.
    """
    h, w = plate.shape[:2]
    size = settings.seam.size(w, h)
    behind = cv2.resize(plate, size, interpolation=cv2.INTER_AREA)
    level = 1.3 * np.maximum(2.6 * cv2.resize(noise, size, interpolation=cv2.INTER_AREA), 7.0)

    def shown(frame: np.ndarray, valid: np.ndarray) -> np.ndarray:
        seen = cv2.resize(valid.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST) > 0
        here = cv2.resize(frame, size, interpolation=cv2.INTER_AREA)
        differs = ((apart(here, behind) > level) & seen).astype(np.uint8)
        differs = cv2.morphologyEx(differs, cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8))
        differs = cv2.morphologyEx(differs, cv2.MORPH_OPEN, np.ones((5, 5), np.uint8))
        count, labels, stats, _ = cv2.connectedComponentsWithStats(differs)
        large = stats[:, cv2.CC_STAT_AREA] > settings.least * differs.size
        large[0] = False
        if not large.any():
            return np.zeros((h, w), bool)
        weaker = told_by_seam(here, behind, differs, settings.seam) > settings.weaker
        shows = (weaker & large[labels]).astype(np.uint8)
        grown = cv2.dilate(shows, np.ones((5, 5), np.uint8))
        return (cv2.resize(grown, (w, h), interpolation=cv2.INTER_NEAREST) > 0) & valid

    calls = (functools.partial(shown, *one) for one in zip(stack.frames, stack.valid, strict=True))
    return np.stack(list(side_by_side(calls)))
