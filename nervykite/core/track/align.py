"""How one frame of a shot lies on another: homographies between frames of a camera that pans, tilts, zooms, shakes."""

import functools

import cv2
import numpy as np

from ..aside import side_by_side

STILL = 0.35
"""Pixels of movement below which a corner counts as standing."""

ENOUGH = (cv2.TERM_CRITERIA_COUNT + cv2.TERM_CRITERIA_EPS, 15, 0.03)
"""When a corner has been followed: after so many steps, or when they are as short as this, in pixels."""
SIMPLER = 1.15
"""How much farther off than a homography's a mere turn and zoom's corners may be to prefer that, which is steadier."""


def features(grey: np.ndarray, count: int = 500, subject: np.ndarray | None = None) -> np.ndarray:
    """Corners worth following (Shi and Tomasi 1994), spread over the frame: float32 (n, 1, 2).

    None of them lies on `subject`, bool (h, w), or right beside it.
    """
    allowed = None
    if subject is not None and 0 < subject.mean() < 0.9:
        allowed = 1 - cv2.dilate(subject.astype(np.uint8), np.ones((9, 9), np.uint8))
    found = cv2.goodFeaturesToTrack(grey, count, 0.004, max(4, min(grey.shape) // 45), mask=allowed, blockSize=5)
    return np.empty((0, 1, 2), np.float32) if found is None else found


def between(first: np.ndarray, other: np.ndarray, points: np.ndarray, guess: np.ndarray) -> np.ndarray | None:
    """The homography (3, 3) from the pixels of `first` to those of `other`, both uint8 grey (h, w).

    points: corners of `first`; guess: a homography near the answer. Corners are followed there and back
    (Lucas and Kanade, pyramids after Bouguet 2001), the rest is settled by MAGSAC++ (Barath et al. 2020), so that
    what moves on its own does not count as long as the scene holds more corners. None if too little is left.
    """
    return homography(*pairs(first, other, points, guess), first.shape)


def pairs(first: np.ndarray, other: np.ndarray, points: np.ndarray, guess: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Those corners of `first` that are found again in `other`, see `between`, and where: float32 (n, 1, 2) each."""
    if not len(points):
        return points, points
    start = cv2.perspectiveTransform(points, guess).astype(np.float32)
    there, seen = _followed(first, other, points, start)
    back, seen_back = _followed(other, first, there, points)
    good = (seen.ravel() > 0) & (seen_back.ravel() > 0) & (np.linalg.norm(back - points, axis=2).ravel() < 0.7)
    return points[good], there[good]


def homography(points: np.ndarray, there: np.ndarray, shape: tuple[int, ...]) -> np.ndarray | None:
    """How `points` of a frame of a shape (h, w) came to lie `there`, float32 (n, 1, 2): (3, 3); see `between`."""
    if len(points) < 12:
        return None
    mapping, kept = cv2.findHomography(points, there, cv2.USAC_MAGSAC, 1.0, maxIters=2000, confidence=0.999)
    if mapping is None or kept.sum() < max(10, 0.2 * len(points)) or not _plausible(mapping, shape):
        return None
    inliers = kept.ravel() > 0
    simpler = turn_and_zoom(points[inliers], there[inliers])
    off, off_simpler = (
        np.sqrt(np.mean((cv2.perspectiveTransform(points[inliers], m) - there[inliers]) ** 2))
        for m in (mapping, simpler)
    )
    return simpler if off_simpler < SIMPLER * off + 0.02 else mapping


def turn_and_zoom(points: np.ndarray, there: np.ndarray) -> np.ndarray:
    """The turn, zoom and shift (3, 3) that takes points (n, 1, 2) nearest to others, by least squares."""
    x, y = points.reshape(-1, 2).astype(float).T
    none, one = np.zeros_like(x), np.ones_like(x)
    rows = np.concatenate([np.stack([x, -y, one, none], 1), np.stack([y, x, none, one], 1)])
    a, b, right, down = np.linalg.lstsq(rows, there.reshape(-1, 2).T.ravel().astype(float))[0]
    return np.array([[a, -b, right], [b, a, down], [0, 0, 1]])


def _followed(first: np.ndarray, other: np.ndarray, points: np.ndarray, start: np.ndarray, levels: int = 3):
    """Where `points` of one frame are in another, beginning at `start`, and which were found."""
    guessed = cv2.OPTFLOW_USE_INITIAL_FLOW
    there, seen, _ = cv2.calcOpticalFlowPyrLK(
        first, other, points, start.copy(), winSize=(17, 17), maxLevel=levels, criteria=ENOUGH, flags=guessed
    )
    return there, seen


def _plausible(mapping: np.ndarray, shape: tuple[int, ...]) -> bool:
    h, w = shape
    corners = np.array([[[0, 0]], [[w, 0]], [[w, h]], [[0, h]]], np.float64)
    moved = cv2.perspectiveTransform(corners, mapping)[:, 0]
    area = abs(cv2.contourArea(moved.astype(np.float32))) / (w * h)
    return bool(0.4 < area < 2.5 and np.isfinite(moved).all())


def onto(greys: list[np.ndarray], at: int, subject: np.ndarray | None = None) -> list[np.ndarray | None]:
    """For each frame the homography (3, 3) from its pixels to those of frame `at`; None where the camera got lost.

    greys: uint8 (h, w), in order. Each frame is followed directly from frame `at`, beginning with its neighbour's
    answer, so that errors do not add up; when too little of frame `at` is left in sight, from the neighbour. `subject`,
    bool (h, w), is left out of frame `at`.
    """
    points = features(greys[at], 320, subject)

    def along(order: range) -> list[np.ndarray | None]:
        found: list[np.ndarray | None] = []
        known = np.eye(3)  # from frame `at` to the frame before
        for number in order:
            direct = between(greys[at], greys[number], points, known)
            if direct is None:
                before = greys[number - order.step]
                hop = between(before, greys[number], features(before, 300), np.eye(3))
                if hop is None:
                    break
                direct = hop @ known
            known = direct / direct[2, 2]
            found.append(np.linalg.inv(known))
        return found + [None] * (len(order) - len(found))

    ways = range(at + 1, len(greys)), range(at - 1, -1, -1)
    onward, back = side_by_side(functools.partial(along, order) for order in ways)
    return [*reversed(back), np.eye(3), *onward]


def stands_still(greys: list[np.ndarray], at: int, subject: np.ndarray | None = None) -> bool:
    """Whether the camera stood: in most frames corners of frame `at`, here and there, are where they were.

    Asked of the corners themselves, because a homography makes a small movement out of noise. greys: uint8 (h, w);
    `subject`, bool (h, w), is left out of frame `at`.
    """
    points = features(greys[at], 300, subject)
    if len(points) < 12:
        return False
    h, w = greys[at].shape
    verdicts = []
    for number in np.unique(np.linspace(0, len(greys) - 1, 9).round().astype(int)):
        if number == at:
            continue
        moved, seen = _followed(greys[at], greys[number], points, points, levels=2)
        near = (np.linalg.norm(moved - points, axis=2).ravel() < STILL) & (seen.ravel() > 0)
        cells = {(int(4 * x / w), int(4 * y / h)) for x, y in points[near].reshape(-1, 2)}
        verdicts.append(near.mean() > 0.1 and len(cells) >= 4)
    return float(np.mean(verdicts)) > 0.7 if verdicts else True
