"""Colours as numbers, and pictures in one colour."""

import numpy as np

from ..colour import rgb_of

LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
"""How bright red, green and blue are (ITU-R BT.709-6, item 3)."""


def flat(alpha: np.ndarray, colour: str) -> np.ndarray:
    """One colour as opaque as an alpha, float32 (h, w), 0…1: premultiplied R'G'B'A, float32 (h, w, 4)."""
    out = np.empty((*alpha.shape, 4), np.float32)
    for n, part in enumerate((*rgb_of(colour), 1.0)):
        np.multiply(alpha, np.float32(part), out=out[..., n])
    return out


def over(above: np.ndarray, below: np.ndarray) -> np.ndarray:
    """One premultiplied picture over another one, float32 (h, w, 4)."""
    return above + below * (1 - np.minimum(above[..., 3:], 1))
