"""The camera's motion: how each frame of a take lies on the next, from what most of the picture agrees on."""

from dataclasses import dataclass

import cv2
import numpy as np


@dataclass(frozen=True)
class CameraMotionSettings:
    """The settings of the camera's motion; lengths are pixels of the small frames.

    corners: how many points are followed; apart: how far from each other they are; off: how far a point may land beside
    where the camera puts it; agree: the least share of the points that have to agree; still: a step that moves nothing
    farther than this is noise, as a camera that stands is not to drift away.
    """

    corners: int = 200
    apart: int = 7
    off: float = 1.0
    agree: float = 0.25
    still: float = 0.12


def step(
    before: np.ndarray, after: np.ndarray, apart: np.ndarray | None = None, settings: CameraMotionSettings | None = None
) -> np.ndarray:
    """The map from one frame to the next: float64 (3, 3), a similarity; the identity if nothing says otherwise.

    before, after: uint8 grey (h, w); apart: uint8 (h, w), 0 where something in the first frame is known to go its own
    way. Corners (Shi & Tomasi 1994) are followed through pyramids (Bouguet 2000), and the
    similarity is the one that most of them agree on (RANSAC, Fischler & Bolles 1981).
    """
    settings = settings or CameraMotionSettings()
    found = _agreed(before, after, None, apart, settings)
    if found is None:
        return np.eye(3)
    h, w = before.shape
    ends = np.array([[0, w, 0, w], [0, 0, h, h], [1, 1, 1, 1.0]])
    return np.eye(3) if np.abs((found @ ends)[:2] - ends[:2]).max() < settings.still else found


def refined(
    one: np.ndarray, other: np.ndarray, guess: np.ndarray, settings: CameraMotionSettings | None = None
) -> np.ndarray:
    """The same for frames that lie farther apart, from a guess (3, 3), which is the answer if none is better."""
    found = _agreed(one, other, guess, None, settings or CameraMotionSettings())
    return guess if found is None else found


def _agreed(
    before: np.ndarray,
    after: np.ndarray,
    guess: np.ndarray | None,
    apart: np.ndarray | None,
    settings: CameraMotionSettings,
) -> np.ndarray | None:
    corners = cv2.goodFeaturesToTrack(before, settings.corners, 0.01, settings.apart, mask=apart)
    if corners is None or len(corners) < 8:
        return None
    begin, flags, levels = np.empty(0, np.float32), 0, 3
    if guess is not None:
        begin = cv2.transform(corners, guess[:2]).astype(np.float32)
        flags, levels = cv2.OPTFLOW_USE_INITIAL_FLOW, 1
    there, found, _ = cv2.calcOpticalFlowPyrLK(
        before, after, corners, begin, winSize=(15, 15), maxLevel=levels, flags=flags
    )
    kept = found.ravel() > 0
    if kept.sum() < 8:
        return None
    matrix, inside = cv2.estimateAffinePartial2D(
        corners[kept], there[kept], method=cv2.RANSAC, ransacReprojThreshold=settings.off, confidence=0.99
    )
    if matrix is None or inside.sum() < settings.agree * kept.sum():
        return None
    return np.vstack([matrix, [0, 0, 1]])
