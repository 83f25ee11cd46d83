"""Uncovered: where frames show the place that the held frame's subject covers.

A place that is seen in one frame of ten is lost among the others by any majority, and a finder of people that is wrong
about it keeps it out of the plate altogether. The subject's own rim tells: a frame that goes on across it, and shows
something else than the held one, shows the scene.
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
class UncoveredSettings:
    """When a frame is believed to show the scene."""

    weaker: float = 0.3
    """How much weaker a frame's seam along the subject's rim has to be than the held frame's, -1…1."""
    joined: int = 5
    """The window, px at the size of seams, within which places are one."""
    least: float = 0.02
    """The smallest place that counts, as a share of the subject."""
    seam: SeamSettings = field(default_factory=SeamSettings)
    """How seams are measured."""


def uncovered(
    stack: Stack, subject: np.ndarray, noise: np.ndarray, settings: UncoveredSettings = UncoveredSettings()
) -> np.ndarray:
    """Where each frame of a stack shows the scene behind the held frame's subject: bool (n, h, w), of the held one nil.

    stack: frames laid onto the held one.
    subject: what was cut out of that, bool (h, w).
    noise: how much the scene varies by itself, float32 (h, w), levels.
    settings: when a frame is believed.
    """
    h, w = subject.shape
    size = settings.seam.size(w, h)
    held = cv2.resize(stack.frames[0], size, interpolation=cv2.INTER_AREA)
    own = cv2.resize(subject.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST)
    square = np.ones((settings.joined, settings.joined), np.uint8)
    around = cv2.dilate(own, square)
    level = _level(cv2.resize(noise, size, interpolation=cv2.INTER_AREA))

    def shown(frame: np.ndarray, valid: np.ndarray) -> np.ndarray:
        here = cv2.resize(frame, size, interpolation=cv2.INTER_AREA)
        # What rests where it was in the held frame is the subject, whatever its rim says.
        differs = cv2.morphologyEx((apart(here, held) > level).astype(np.uint8), cv2.MORPH_CLOSE, square) > 0
        goes_on = told_by_seam(here, held, own, settings.seam) > settings.weaker
        free = _large((goes_on & differs & (own > 0)).astype(np.uint8), settings.least * own.sum())
        wider = cv2.bitwise_and(cv2.dilate(free, square), around)
        return (cv2.resize(wider, (w, h), interpolation=cv2.INTER_NEAREST) > 0) & valid

    calls = (functools.partial(shown, *one) for one in zip(stack.frames[1:], stack.valid[1:], strict=True))
    return np.stack([np.zeros((h, w), bool), *side_by_side(calls)])


def resting(stack: Stack, noise: np.ndarray) -> np.ndarray:
    """Where each frame of a stack shows what the held one shows: bool (n, h, w).

    noise: how much the scene varies by itself, float32 (h, w), levels. Beside a subject that has gone by then, that is
    the scene, whoever may be found there.
    """
    level = _level(noise)

    def same(frame: np.ndarray, valid: np.ndarray) -> np.ndarray:
        return (cv2.GaussianBlur(apart(frame, stack.frames[0]), (0, 0), 1) < level) & valid

    calls = (functools.partial(same, *one) for one in zip(stack.frames, stack.valid, strict=True))
    return np.stack(list(side_by_side(calls)))


def _level(noise: np.ndarray) -> np.ndarray:
    """From how many levels on two frames show something else, by how much the scene varies."""
    return np.asarray(1.3 * np.maximum(2.6 * noise, 7.0), np.float32)


def _large(area: np.ndarray, least: float) -> np.ndarray:
    """The parts of an area, uint8 (h, w), that have so many pixels: thin ones that hang on to them are kept."""
    _, labels, stats, _ = cv2.connectedComponentsWithStats(area)
    large = stats[:, cv2.CC_STAT_AREA] > least
    large[0] = False
    return large[labels].astype(np.uint8)
