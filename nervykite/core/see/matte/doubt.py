"""Where a matte's edge is a guess."""

import cv2
import numpy as np

from .colours import SPACES, lab

DOUBTFUL = 0.002
"""The share of a subject's area that has to be doubtful before anybody is told."""


def doubt(picture: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """The doubt about where the edge is, by the picture: float32 (h, w), 0…1, only near the edge.

    picture: uint8 RGB (h, w, 3); alpha: float32 (h, w), 0…1. At each place of the outline the colours a little
    inside and a little outside are compared, by their distance in L*a*b* over how much either side varies; where the
    two sides can hardly be told apart, any edge is a guess.
    """
    h, w = alpha.shape
    by = min(1.0, 480 / max(h, w))
    size = max(8, round(w * by)), max(8, round(h * by))
    small = cv2.resize(alpha, size, interpolation=cv2.INTER_AREA)
    colours = lab(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), SPACES[0])
    inside = (small > 0.5).astype(np.uint8)
    if inside.min() == inside.max():
        return np.zeros((h, w), np.float32)

    def side(mask: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        core = cv2.erode(mask, np.ones((3, 3), np.uint8)).astype(np.float32)
        share = np.maximum(cv2.GaussianBlur(core, (0, 0), 3.0), 1e-3)
        mean = cv2.GaussianBlur(colours * core[..., None], (0, 0), 3.0) / share[..., None]
        square = cv2.GaussianBlur((colours**2) * core[..., None], (0, 0), 3.0) / share[..., None]
        return mean, np.maximum(square - mean**2, 0).sum(-1)

    (near, spread), (far, other) = side(inside), side(1 - inside)
    apart = np.sqrt(((near - far) ** 2).sum(-1))
    told = apart / (4.0 + np.sqrt(spread + other))
    edge = cv2.morphologyEx(inside, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)).astype(np.float32)
    unsure = np.clip(1.4 - 2.2 * told, 0, 1) * edge
    # A few doubtful pixels in a good edge are texture: a stretch of it is what a person should look at.
    stretch = cv2.GaussianBlur(unsure, (0, 0), 4) / np.maximum(cv2.GaussianBlur(edge, (0, 0), 4), 1e-3)
    shown = np.where(cv2.dilate(edge, np.ones((3, 3), np.uint8)) > 0, np.clip(2.2 * stretch - 0.7, 0, 1), 0)
    return cv2.resize(shown.astype(np.float32), (w, h), interpolation=cv2.INTER_LINEAR)
