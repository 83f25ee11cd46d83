"""Whole motion: how what a mask covers moves from one frame to the next, as one piece."""

import cv2
import numpy as np

from ..matte.part import around

CORNERS = 90
"""Corners by which it is followed at most."""
MARGIN = 44
"""How far around the subject, in working pixels, its motion is looked for."""


def whole_motion(
    before: np.ndarray, now: np.ndarray, body: np.ndarray, least: float = 0.0, within: float = 4.0
) -> np.ndarray | None:
    """The motion of what `body` covers, turned and scaled but not bent: affine (2, 3), pixels to pixels.

    before, now: uint8 grey (h, w); body: uint8 (h, w), 0 or 1. None if too little of it can be followed. Corners are
    followed there and back (Lucas and Kanade 1981; Kalal et al. 2010), and most of them agree `within` so many pixels
    (RANSAC). Corners that go less than `least` pixels do not count.
    """
    if not body.any():
        return None
    part = around(body > 0, MARGIN)
    before, now, body = (np.ascontiguousarray(v[part]) for v in (before, now, body))
    points = cv2.goodFeaturesToTrack(before, CORNERS, 0.005, 4, mask=body, blockSize=5)
    if points is None or len(points) < 8:
        return None
    there, seen, _ = cv2.calcOpticalFlowPyrLK(before, now, points, None, winSize=(21, 21), maxLevel=4)  # type: ignore[call-overload]
    back, again, _ = cv2.calcOpticalFlowPyrLK(now, before, there, None, winSize=(21, 21), maxLevel=4)  # type: ignore[call-overload]
    good = (seen.ravel() > 0) & (again.ravel() > 0) & (np.linalg.norm(back - points, axis=2).ravel() < 1.0)
    good &= np.linalg.norm(there - points, axis=2).ravel() >= least
    if good.sum() < 6:
        return None
    whole, kept = cv2.estimateAffinePartial2D(points[good], there[good], ransacReprojThreshold=within)
    if whole is None or kept.sum() < 5:
        return None
    return moved_to(whole, (part[1].start, part[0].start))


def moved_to(whole: np.ndarray, corner: tuple[int, int]) -> np.ndarray:
    """An affine motion (2, 3) within a part of a picture, of which `corner` (x, y) is the first pixel, in the whole."""
    result = whole.copy()
    result[:, 2] += np.asarray(corner) - whole[:, :2] @ np.asarray(corner)
    return result
