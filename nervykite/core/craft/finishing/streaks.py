"""Blurs along a way, by doubling: the mean over 2ᵏ steps is the product of k means of two, each step twice as far as
the one before. Pictures are premultiplied linear light, float32 (h, w, channels).
"""

import math
from collections.abc import Callable

import cv2
import numpy as np


def _doubled(picture: np.ndarray, count: int, matrix_of: Callable[[float], np.ndarray], opaque: bool) -> np.ndarray:
    """The mean over so many doublings of steps; `matrix_of` a share of the way, −½…½, is where that goes, 2×3."""
    border = cv2.BORDER_REPLICATE if opaque else cv2.BORDER_CONSTANT
    size, out = picture.shape[1::-1], picture
    for k in range(count):
        # Half a step back and half a step on, so that the middle stays where it is.
        by = 2.0**k / 2**count / 2
        one, other = (
            cv2.warpAffine(out, matrix_of(sign * by), size, flags=cv2.INTER_LINEAR, borderMode=border)
            for sign in (-1, 1)
        )
        out = cv2.addWeighted(one, 0.5, other, 0.5, 0)
    return out


def _count(far: float, step: float = 1.5) -> int:
    return max(1, min(9, math.ceil(math.log2(max(2.0, far / step)))))


def smeared(picture: np.ndarray, way: tuple[float, float], opaque: bool) -> np.ndarray:
    """The mean over a straight way (x, y), in pixels, half of it to each side."""
    dx, dy = way
    return _doubled(picture, _count(math.hypot(dx, dy)), lambda s: np.array([[1, 0, s * dx], [0, 1, s * dy]]), opaque)


def zoomed(picture: np.ndarray, middle: tuple[float, float], amount: float, opaque: bool) -> np.ndarray:
    """The mean over sizes from 1 − amount/2 to 1 + amount/2, about a place in pixels."""
    x, y = middle
    h, w = picture.shape[:2]
    whole = math.log((1 + amount / 2) / (1 - amount / 2))

    def matrix(share: float) -> np.ndarray:
        by = math.exp(share * whole)
        return np.array([[by, 0, x - by * x - 0.5 + 0.5 * by], [0, by, y - by * y - 0.5 + 0.5 * by]])

    far = amount * max(math.hypot(a - x, b - y) for a in (0, w) for b in (0, h))
    return _doubled(picture, _count(far), matrix, opaque)


def spun(picture: np.ndarray, middle: tuple[float, float], turn: float, opaque: bool) -> np.ndarray:
    """The mean over turns from −turn/2 to turn/2 degrees about a place in pixels."""
    x, y = middle[0] - 0.5, middle[1] - 0.5
    h, w = picture.shape[:2]

    def matrix(share: float) -> np.ndarray:
        a = math.radians(turn * share)
        c, s = math.cos(a), math.sin(a)
        return np.array([[c, -s, x - c * x + s * y], [s, c, y - s * x - c * y]])

    far = math.radians(turn) * max(math.hypot(a - x, b - y) for a in (0, w) for b in (0, h))
    return _doubled(picture, _count(far), matrix, opaque)
