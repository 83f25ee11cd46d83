"""Distances from a matte's edge, finer than a pixel."""

import cv2
import numpy as np


def distance_outside(alpha: np.ndarray) -> np.ndarray:
    """The distance of each pixel's centre outside the line where alpha is one half; 0 inside.

    alpha is float (h, w), 0…1. The exact Euclidean distance to the nearest pixel that is at least half covered
    (Felzenszwalb and Huttenlocher 2012), corrected by how much of it and its neighbour is covered.

    Returns float32 (h, w), pixels; all of it 1e6 if nothing is covered.
    """
    outside = (alpha < 0.5).astype(np.uint8)
    if outside.all():
        return np.full(alpha.shape, 1e6, np.float32)
    far, labels = cv2.distanceTransformWithLabels(outside, cv2.DIST_L2, cv2.DIST_MASK_5, labelType=cv2.DIST_LABEL_PIXEL)
    # The edge may lie in the pixel itself or, where that is full, in its less covered neighbour.
    next_to = cv2.dilate(
        np.where(outside, alpha, 0).astype(np.float32), cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))
    )
    covered = np.zeros(int(labels.max()) + 1, np.float32)
    covered[labels[outside == 0]] = (alpha + next_to)[outside == 0]
    edge = covered[labels] - 0.5
    return np.where(outside, np.maximum(far - edge, 0), 0).astype(np.float32)
