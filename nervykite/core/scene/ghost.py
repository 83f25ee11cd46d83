"""Ghosts: places where a plate shows somebody who lingered, and a frame the scene behind.

Somebody who comes and stays needs it: without it one of six such shots is not found at all.
"""

import functools
from dataclasses import dataclass

import cv2
import numpy as np

from ..aside import side_by_side
from .difference import apart
from .stack import Stack


@dataclass(frozen=True)
class GhostSettings:
    """When a frame is believed instead of the plate."""

    seam: float = 0.1
    """How much weaker a frame's seam has to be than the plate's, -1…1."""
    near: float = 60.0
    """How far a seam speaks, px."""
    side: int = 215
    """Pixels of the shorter side at which places are looked at."""
    coarse: int = 5
    """How many times smaller what seams say is spread."""
    least: float = 0.002
    """The smallest part of the frame that is looked at."""
    strong: int = 60
    """Levels from which a seam is a seam, whatever it joins."""


def ghosts(stack: Stack, plate: np.ndarray, noise: np.ndarray, settings: GhostSettings = GhostSettings()) -> np.ndarray:
    """Where each frame of a stack shows the scene although the plate shows something else: bool (n, h, w).

    plate: uint8 RGB (h, w, 3); noise: float32 (h, w), levels. Where a frame and the plate differ one of them shows a
    subject, and which one the seam tells: a subject ends at the edge of such a place, a scene goes on across it.
    """
    h, w = plate.shape[:2]
    scale = min(1.0, settings.side / min(h, w))
    size = max(1, round(w * scale)), max(1, round(h * scale))
    behind = _small(plate, size)
    level = 1.3 * np.maximum(2.6 * cv2.resize(noise, size, interpolation=cv2.INTER_AREA), 7.0)

    def shown(frame: np.ndarray, valid: np.ndarray) -> np.ndarray:
        seen = cv2.resize(valid.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST) > 0
        here = _small(frame, size)
        differs = ((apart(here, behind) > level) & seen).astype(np.uint8)
        differs = cv2.morphologyEx(differs, cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8))
        differs = cv2.morphologyEx(differs, cv2.MORPH_OPEN, np.ones((5, 5), np.uint8))
        count, labels, stats, _ = cv2.connectedComponentsWithStats(differs)
        large = stats[:, cv2.CC_STAT_AREA] > settings.least * differs.size
        large[0] = False
        if not large.any():
            return np.zeros((h, w), bool)
        shows = ((_told_by_seam(here, behind, differs, settings) > settings.seam) & large[labels]).astype(np.uint8)
        grown = cv2.dilate(shows, np.ones((5, 5), np.uint8))
        return (cv2.resize(grown, (w, h), interpolation=cv2.INTER_NEAREST) > 0) & valid

    calls = (functools.partial(shown, *one) for one in zip(stack.frames, stack.valid, strict=True))
    return np.stack(list(side_by_side(calls)))


def _small(picture: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    return cv2.resize(picture, size, interpolation=cv2.INTER_AREA)


def _told_by_seam(here: np.ndarray, behind: np.ndarray, differs: np.ndarray, settings: GhostSettings) -> np.ndarray:
    """How much weaker the frame's seam near each pixel is than the plate's: float32 (h, w), -1…1."""
    square = np.ones((3, 3), np.uint8)
    core, grown = cv2.erode(differs, square), cv2.dilate(differs, square)
    around = _mean(here, 1 - grown)
    own, other = (np.minimum(_widest(_mean(p, core), around), settings.strong) for p in (here, behind))
    rim = grown - core
    h, w = differs.shape
    few = max(1, w // settings.coarse), max(1, h // settings.coarse)  # so wide a blur needs no detail
    apart, both = (
        cv2.GaussianBlur(
            cv2.resize(v * rim, few, interpolation=cv2.INTER_AREA), (0, 0), settings.near / settings.coarse
        )
        for v in (other - own, other + own)
    )
    return cv2.resize(apart / np.maximum(both, 1e-3), (w, h), interpolation=cv2.INTER_LINEAR)


def _widest(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """How far two pictures (h, w, 3) are apart in the channel in which they are farthest: float32 (h, w)."""
    return functools.reduce(cv2.max, cv2.split(cv2.absdiff(one, other)))


def _mean(picture: np.ndarray, mask: np.ndarray) -> np.ndarray:
    """The mean colour near each pixel of what a mask covers: float32 (h, w, 3)."""
    share = mask.astype(np.float32)
    total = np.maximum(cv2.GaussianBlur(share, (0, 0), 2.0), 1e-3)
    return cv2.GaussianBlur(picture * share[..., None], (0, 0), 2.0) / total[..., None]
