"""Seams: a subject ends at the rim of the place it covers, and a scene goes on across it."""

import functools
from dataclasses import dataclass

import cv2
import numpy as np


@dataclass(frozen=True)
class SeamSettings:
    """The settings by which seams are measured."""

    near: float = 60.0
    """How far a seam speaks, px."""
    side: int = 215
    """Pixels of the shorter side at which places are looked at."""
    coarse: int = 5
    """How many times smaller what seams say is spread."""
    strong: int = 60
    """Levels from which a seam is a seam, whatever it joins."""

    def size(self, width: int, height: int) -> tuple[int, int]:
        """The size, columns and rows, at which pictures of a size are looked at."""
        scale = min(1.0, self.side / min(width, height))
        return max(1, round(width * scale)), max(1, round(height * scale))


def told_by_seam(here: np.ndarray, other: np.ndarray, area: np.ndarray, settings: SeamSettings) -> np.ndarray:
    """The factor by which a picture's seam along the rim of an area is weaker than another picture's.

    here, other: the two pictures, uint8 RGB (h, w, 3).
    area: uint8 (h, w), 0 or 1, in one of which something ends that in the other goes on.
    settings: how far a seam speaks.
    Returns float32 (h, w), -1…1, for each pixel by the rim near it: 1 where `here` goes on across the rim.
    """
    square = np.ones((3, 3), np.uint8)
    core, grown = cv2.erode(area, square), cv2.dilate(area, square)
    around = _mean(here, 1 - grown)
    own, others = (np.minimum(_widest(_mean(p, core), around), settings.strong) for p in (here, other))
    rim = grown - core
    h, w = area.shape
    few = max(1, w // settings.coarse), max(1, h // settings.coarse)  # so wide a blur needs no detail
    apart, both = (
        cv2.GaussianBlur(
            cv2.resize(v * rim, few, interpolation=cv2.INTER_AREA), (0, 0), settings.near / settings.coarse
        )
        for v in (others - own, others + own)
    )
    return cv2.resize(apart / np.maximum(both, 1e-3), (w, h), interpolation=cv2.INTER_LINEAR)


def _widest(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """The difference of two pictures (h, w, 3) in the channel in which they are farthest apart: float32 (h, w)."""
    return functools.reduce(cv2.max, cv2.split(cv2.absdiff(one, other)))


def _mean(picture: np.ndarray, mask: np.ndarray) -> np.ndarray:
    """The mean colour near each pixel of what a mask covers: float32 (h, w, 3)."""
    share = mask.astype(np.float32)
    total = np.maximum(cv2.GaussianBlur(share, (0, 0), 2.0), 1e-3)
    return cv2.GaussianBlur(picture * share[..., None], (0, 0), 2.0) / total[..., None]
