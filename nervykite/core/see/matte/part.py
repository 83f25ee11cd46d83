"""The part of a picture that is looked at, and how large."""

import math

import cv2
import numpy as np


def around(mask: np.ndarray, margin: int) -> tuple[slice, slice]:
    """The rows and columns of the box around what a mask (h, w) covers, `margin` pixels larger, within the frame."""
    rows, columns = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    h, w = mask.shape
    return (
        slice(max(0, int(rows[0]) - margin), min(h, int(rows[-1]) + margin + 1)),
        slice(max(0, int(columns[0]) - margin), min(w, int(columns[-1]) + margin + 1)),
    )


def smaller(picture: np.ndarray, pixels: int) -> tuple[np.ndarray, float]:
    """A picture (h, w, 3) of at most so many pixels, and its scale."""
    h, w = picture.shape[:2]
    scale = min(1.0, math.sqrt(pixels / (h * w)))
    if scale == 1.0:
        return picture, 1.0
    size = (max(8, round(w * scale)), max(8, round(h * scale)))
    return cv2.resize(picture, size, interpolation=cv2.INTER_AREA), scale
