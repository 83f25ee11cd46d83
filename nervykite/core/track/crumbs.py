"""Crumbs: bits of the place that hang on a matte apart from the subject."""

import cv2
import numpy as np

CRUMB = 0.003
"""The part of a subject below which a piece apart from it is not its own, unless the fixed frame has such pieces."""


def least_piece(matte: np.ndarray) -> float:
    """The size, in pixels, from which on a piece apart from the rest is a subject's own: as in its matte (h, w)."""
    areas = cv2.connectedComponentsWithStats((matte > 0.5).astype(np.uint8))[2][1:, cv2.CC_STAT_AREA]
    return float(min(CRUMB * areas.sum(), areas.min())) if len(areas) else 0.0


def without_crumbs(outline: np.ndarray, least: float) -> np.ndarray:
    """An outline (h, w), 0…1, without pieces of fewer pixels than `least`, which are bits of the place behind."""
    labels, stats = cv2.connectedComponentsWithStats((outline > 0.5).astype(np.uint8))[1:3]
    areas = stats[:, cv2.CC_STAT_AREA]
    kept = areas >= min(least, areas[1:].max(initial=0))  # somebody far away by now may be as small as a crumb
    return outline if kept.all() else np.where(kept[labels], outline, 0).astype(np.float32)
