"""Where footage cuts: frames at which another take begins, so that those before show another place."""

from collections.abc import Sequence
from itertools import pairwise

import cv2
import numpy as np

SIDE, FINE = 32, 40
"""How many pixels a side a glance at a frame has, and how many of its steps are one standard deviation."""
UNLIKE, STANDS_OUT, BESIDE = 0.35, 2.0, 3
"""How much two frames differ, in standard deviations, if there is a cut between them; how many times as much as those
beside them; and how many on either side are asked."""
FLASH = 3
"""How many frames a flash between two takes lasts at most."""


def glance(grey: np.ndarray) -> np.ndarray:
    """The glance that tells takes apart in a frame, uint8 (h, w): int8 (SIDE, SIDE), whatever its brightness and
    contrast.
    """
    small = cv2.resize(grey, (SIDE, SIDE), interpolation=cv2.INTER_AREA).astype(np.float32)
    small = np.asarray(cv2.GaussianBlur(small, (0, 0), 0.7))
    small -= small.mean()
    return np.clip(np.round(FINE * small / (small.std() + 4)), -127, 127).astype(np.int8)


def cuts_of(glances: Sequence[np.ndarray]) -> list[int]:
    """The frames at which another take begins, in order, by a `glance` at each frame.

    A step from one frame to the next is a cut if it is large and stands out from those beside it, which movement does
    not, however fast. A flash is two such steps, and a cut only if what comes after it differs from what was before.
    """
    steps = np.array([_apart(one, other) for one, other in pairwise(glances)])
    found: list[int] = []
    large = np.flatnonzero(steps > UNLIKE).tolist()
    for first in large:
        if found and first < found[-1]:
            continue
        for last in (k for k in large if first <= k <= first + FLASH):
            beside = np.concatenate([steps[max(0, first - BESIDE) : first], steps[last + 1 : last + 1 + BESIDE]])
            least = min(steps[first], steps[last])
            over = _apart(glances[first], glances[last + 1])
            if over > UNLIKE and least > STANDS_OUT * beside.max(initial=0):
                found.append(last + 1)
                break
    return found


def _apart(one: np.ndarray, other: np.ndarray) -> float:
    """The difference of two glances, in standard deviations."""
    return float(np.abs(one.astype(np.int16) - other).mean()) / FINE
