"""The line around something at a distance, as points of a pen path."""

import cv2
import numpy as np

from .curve import Point


def contour(cover: np.ndarray, away: float = 0.0, most: int = 120) -> list[Point]:
    """The line around the largest thing, clockwise from its lowest place on, so that its middle is at the top.

    cover: how much it covers, float32 (h, w), 0…1
    away: how far outside it the line runs, in pixels; what is narrower than that is bridged
    most: how many points at most
    Returns places in pixels; none if nothing is covered.
    """
    pad = int(np.ceil(abs(away))) + 8
    solid = cv2.copyMakeBorder((cover > 0.5).astype(np.uint8), pad, pad, pad, pad, cv2.BORDER_CONSTANT, value=0)
    if not solid.any():
        return []
    outside = cv2.distanceTransform(1 - solid, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    inside = cv2.distanceTransform(solid, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    # As far out as it says, then a little smoother than the thing itself: letters stand on it.
    far = cv2.GaussianBlur(outside - inside, (0, 0), max(1.0, 0.35 * abs(away)))
    found, _ = cv2.findContours((far <= away).astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not found:
        return []
    line = max(found, key=cv2.contourArea)[:, 0].astype(float) - pad + 0.5
    if len(line) < 8:
        return []
    # OpenCV's outer contours run against the clock on screen.
    if cv2.contourArea(line.astype(np.float32), oriented=True) < 0:
        line = line[::-1]
    middle = (line[:, 0].min() + line[:, 0].max()) / 2
    lowest = int(np.argmax(line[:, 1] - 0.05 * np.abs(line[:, 0] - middle)))
    line = np.roll(line, -lowest, axis=0)
    length = np.r_[0, np.cumsum(np.hypot(*np.diff(line, axis=0).T))]
    at = np.linspace(0, length[-1], min(most, max(8, int(length[-1] / 12))), endpoint=False)
    return [(float(np.interp(d, length, line[:, 0])), float(np.interp(d, length, line[:, 1]))) for d in at]
