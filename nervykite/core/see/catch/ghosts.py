"""All chosen frames' bodies in one picture, before any matte exists, and how much they cover each other."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import cv2
import numpy as np


@dataclass(frozen=True)
class Ghost:
    """A body by itself: its part of the frame, uint8 (h, w, 3), the alpha there, float32 (h, w), 0…1, its corner."""

    picture: np.ndarray
    alpha: np.ndarray
    left: int
    top: int


def together(under: np.ndarray, bodies: Sequence[Ghost], strength: float = 0.8) -> np.ndarray:
    """Some frames' bodies over another frame, uint8 (h, w, 3), the later over the earlier: uint8 (h, w, 3).

    strength: how much of what lies below they hide, 0…1.
    """
    out = under.copy()
    for one in bodies:
        h, w = one.alpha.shape
        part = out[one.top : one.top + h, one.left : one.left + w]
        below = part.astype(np.float32)
        part[:] = np.round(below + strength * one.alpha[..., None] * (one.picture - below))
    return out


def ghost(body: np.ndarray, picture: np.ndarray) -> Ghost:
    """The body of a frame, uint8 RGB (h, w, 3), of which a small picture says where it is, uint8 (h', w'), 0…255."""
    alpha = outlined(body, picture)
    rows, columns = np.flatnonzero(alpha.max(1) > 0), np.flatnonzero(alpha.max(0) > 0)
    if not len(rows):
        return Ghost(picture[:0, :0], alpha[:0, :0], 0, 0)
    box = np.s_[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    return Ghost(picture[box].copy(), alpha[box].copy(), int(columns[0]), int(rows[0]))


def outlined(body: np.ndarray, picture: np.ndarray) -> np.ndarray:
    """A small picture of a body made as large as its frame, uint8 RGB (h, w, 3): float32 (h, w), 0…1.

    Its edge is drawn to the picture's own edges by a guided filter (He, Sun & Tang 2013) at half the size.
    """
    h, w = picture.shape[:2]
    half = max(1, w // 2), max(1, h // 2)
    guide = cv2.resize(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY), half, interpolation=cv2.INTER_AREA)
    guide = guide.astype(np.float32) / 255
    rough = cv2.resize(body, half, interpolation=cv2.INTER_LINEAR).astype(np.float32) / 255
    size = (2 * max(1, round(max(half) / 120)) + 1,) * 2

    def mean(values: np.ndarray) -> np.ndarray:
        return cv2.blur(values, size)

    middle, level = mean(guide), mean(rough)
    slope = (mean(guide * rough) - middle * level) / (mean(guide * guide) - middle * middle + 2e-4)
    alpha = mean(slope) * guide + mean(level - slope * middle)
    alpha = np.clip((alpha - 0.2) / 0.6, 0, 1)
    return cv2.resize(alpha, (w, h), interpolation=cv2.INTER_LINEAR)


def overlaps(bodies: Sequence[np.ndarray], least: float = 0.02) -> list[tuple[int, int, float]]:
    """The bodies among some, uint8 (h, w), that cover each other, by their places in the list, and what share of the
    smaller one is covered, 0…1; the most first. What covers less than `least` is left out.
    """
    masks = [body > 127 for body in bodies]
    areas = [int(mask.sum()) for mask in masks]
    found = []
    for one, other in combinations(range(len(masks)), 2):
        smaller = min(areas[one], areas[other])
        share = float((masks[one] & masks[other]).sum() / smaller) if smaller else 0.0
        if share >= least:
            found.append((one, other, share))
    return sorted(found, key=lambda pair: -pair[2])
