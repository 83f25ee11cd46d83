"""Movement at a glance: a frame beside one a little before and one a little after it.

Few strokes need it: without it the edges of what two short ones lead to on the demo are 0.01 worse.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from .align import between, contrast, features
from .stack import evened

STEP = 3
"""How far apart frames are that are compared, in frames."""
SIGHT = 2 * STEP
"""How many frames before and after may be looked at."""


@dataclass(frozen=True)
class StirSettings:
    """The settings of what counts as movement at a glance."""

    level: float = 10.0
    """The difference that is movement, in levels."""
    of_noise: float = 5.0
    """The difference that is movement, in those by which frames differ anyway."""
    apart: float = 0.012
    """How far apart parts may lie that are one mover, in the frame's longer side."""


def stirring(frames: Sequence[np.ndarray], at: int, settings: StirSettings = StirSettings()) -> np.ndarray | None:
    """The movement of frame `at` against its scene: float32 (h, w), 1 where that begins to be movement.

    frames: uint8 RGB (h, w, 3), in order. The frames before and after are laid onto it, whatever camera and exposure
    do; what moves differs from both of them, what it has just left or is about to cover from one only. None if there
    is nothing to compare it with.
    """
    steps = (-1, 1, -2, 2)  # at the end of a shot the two before tell as much
    others = [at + k * STEP for k in steps if 0 <= at + k * STEP < len(frames)][:2]
    others = others or [k for k in (0, len(frames) - 1) if k != at]
    grey = _grey(frames[at])
    h, w = grey.shape
    clear = contrast(frames[at])
    corners = features(clear)
    least: np.ndarray | None = None
    for k in others:
        other = _grey(frames[k])
        way = between(clear, contrast(frames[k]), corners, np.eye(3))
        if way is None:
            continue
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        laid = cv2.warpPerspective(other, way, (w, h), flags=flags)
        seen = cv2.warpPerspective(np.full((h, w), 255, np.uint8), way, (w, h), flags=flags) == 255
        if not seen.any():
            continue
        off = cv2.GaussianBlur(cv2.absdiff(grey, evened(laid, grey, seen)) * seen, (0, 0), 1.2).astype(np.float32)
        off /= max(settings.level, settings.of_noise * float(np.median(off[seen])))
        least = off if least is None else np.minimum(least, off)
    return least


def movers(stirs: np.ndarray, settings: StirSettings = StirSettings()) -> np.ndarray:
    """Where something moves as a whole, by `stirring` (h, w): bool (h, w). What is even inside does not stir itself."""
    side = 2 * round(settings.apart * max(stirs.shape)) + 1
    return cv2.morphologyEx((stirs > 1).astype(np.uint8), cv2.MORPH_CLOSE, np.ones((side, side), np.uint8)) > 0


def _grey(frame: np.ndarray) -> np.ndarray:
    return cv2.cvtColor(frame, cv2.COLOR_RGB2GRAY)
