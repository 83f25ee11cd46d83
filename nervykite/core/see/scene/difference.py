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
                most = max(most, abs(value - np.int32(plate[y, x, c])))  # type: ignore[assignment]
                slack = max(slack, np.int32(low[y, x, c]) - value, value - np.int32(high[y, x, c]))  # type: ignore[assignment]
            out[y, x] = np.float32(0.75) * most + np.float32(0.25) * slack


def slope(values: np.ndarray) -> np.ndarray:
    """The slope of values (h, w), a pixel: float32 (h, w)."""
    return cv2.magnitude(*(cv2.Sobel(values, cv2.CV_32F, *way, ksize=3, scale=1 / 8) for way in ((1, 0), (0, 1))))


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
                slack = max(slack, np.int32(low[y, x, c]) - value, value - np.int32(high[y, x, c]))  # type: ignore[assignment]
            out[y, x] = slack


def beyond(frame: np.ndarray, low: np.ndarray, high: np.ndarray) -> np.ndarray:
    """The excess of a picture uint8 (h, w, 3) beyond low…high, in levels: float32 (h, w), 0…255."""
    out = np.empty(frame.shape[:2], np.float32)
    _beyond(frame, low, high, out)
    return out


def textures_apart(frame: np.ndarray, plate: np.ndarray, noise: np.ndarray) -> np.ndarray:
    """The difference of the textures of two uint8 RGB (h, w, 3) pictures: float32 (h, w), -1 (the same) … 1, 0 if flat.

    The correlation of brightness in small windows, which light and shade leave as it is; noise: float32 (h, w), levels.
    """
    first, second = (_detail(p) for p in (frame, plate))
    rough, other, both = (cv2.blur(v, (9, 9)) for v in (first * first, second * second, first * second))
    floor = (1.0 + noise) ** 2
    alike = both / np.sqrt((rough + floor) * (other + floor))
    says = np.clip((0.5 - alike) / 0.35, -1, 1)
    told_by = np.where(says > 0, np.maximum(rough, other), other)  # that a place is the same its own texture tells
    return (says * np.clip(told_by / (6 * floor) - 1, 0, 1)).astype(np.float32)


def _detail(picture: np.ndarray) -> np.ndarray:
    grey = cv2.GaussianBlur(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY), (0, 0), 0.7).astype(np.float32)
    return grey - cv2.blur(grey, (9, 9))
