"""Differences between pictures, in levels, in one pass."""

import cv2
import numpy as np
from numba import njit, prange


@njit(parallel=True, cache=True, nogil=True)
def _apart(frame, plate, low, high, out):
    h, w, _ = frame.shape
    for y in prange(h):
        for x in range(w):
            most = 0
            slack = 0
            for c in range(3):
                value = np.int32(frame[y, x, c])
                most = max(most, abs(value - np.int32(plate[y, x, c])))
                slack = max(slack, np.int32(low[y, x, c]) - value, value - np.int32(high[y, x, c]))
            out[y, x] = np.float32(0.75) * most + np.float32(0.25) * slack


def reach(picture: np.ndarray, side: int) -> tuple[np.ndarray, np.ndarray]:
    """The least and the greatest value of each channel within a square of `side` pixels around each pixel."""
    square = np.ones((side, side), np.uint8)
    return cv2.erode(picture, square), cv2.dilate(picture, square)


def apart(frame: np.ndarray, plate: np.ndarray, around: tuple[np.ndarray, np.ndarray] | None = None) -> np.ndarray:
    """Difference of uint8 (h, w, 3) pictures, forgiving half a pixel of misalignment: float32 (h, w), 0…255.

    around: the plate's `reach` over 3 pixels, if it is known.
    """
    low, high = reach(plate, 3) if around is None else around
    out = np.empty(frame.shape[:2], np.float32)
    _apart(frame, plate, low, high, out)
    return out


@njit(parallel=True, cache=True, nogil=True)
def _beyond(frame, low, high, out):
    h, w, _ = frame.shape
    for y in prange(h):
        for x in range(w):
            slack = 0
            for c in range(3):
                value = np.int32(frame[y, x, c])
                slack = max(slack, np.int32(low[y, x, c]) - value, value - np.int32(high[y, x, c]))
            out[y, x] = slack


def beyond(frame: np.ndarray, low: np.ndarray, high: np.ndarray) -> np.ndarray:
    """How far a picture uint8 (h, w, 3) lies outside of low…high, in levels: float32 (h, w), 0…255."""
    out = np.empty(frame.shape[:2], np.float32)
    _beyond(frame, low, high, out)
    return out
