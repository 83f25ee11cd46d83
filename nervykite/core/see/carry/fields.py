"""Fields: for each pixel of a frame where it was in another one, and pictures taken along by them."""

import functools

import cv2
import numpy as np
from numba import njit, prange

Part = tuple[slice, slice]
"""Rows and columns of a part of a frame."""


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _displace(mapping, top, left, out):
    height, width, _ = out.shape
    for row in prange(height):
        y = row + top
        for column in range(width):
            x = column + left
            z = mapping[2, 0] * x + mapping[2, 1] * y + mapping[2, 2]
            out[row, column, 0] = (mapping[0, 0] * x + mapping[0, 1] * y + mapping[0, 2]) / z - x
            out[row, column, 1] = (mapping[1, 0] * x + mapping[1, 1] * y + mapping[1, 2]) / z - y


def displacement(mapping: np.ndarray, part: Part) -> np.ndarray:
    """The displacement by a homography (3, 3) of each pixel of a part (h, w) of a picture: float32 (h, w, 2), in
    pixels.
    """
    rows, columns = part
    out = np.empty((rows.stop - rows.start, columns.stop - columns.start, 2), np.float32)
    _displace(np.asarray(mapping, np.float64), rows.start, columns.start, out)
    return out


@functools.lru_cache(4)
def _places(rows: tuple[int, int], columns: tuple[int, int]) -> np.ndarray:
    y, x = np.mgrid[rows[0] : rows[1], columns[0] : columns[1]].astype(np.float32)
    return np.dstack([x, y])


def taken(values: tuple[np.ndarray, ...], field: np.ndarray, part: Part) -> list[np.ndarray]:
    """A part (h, w) of pictures as a field (h, w, 2) finds it in them; beyond their edge the last pixel goes on."""
    rows, columns = part
    where = _places((rows.start, rows.stop), (columns.start, columns.stop)) + field
    return [cv2.remap(v, where, None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE) for v in values]  # type: ignore[call-overload]


@njit(parallel=True, cache=True, nogil=True)
def _blend(under, over, share, out):
    height, width, channels = under.shape
    for y in prange(height):
        for x in range(width):
            by = share[y, x]
            for c in range(channels):
                value = np.float32(under[y, x, c])
                out[y, x, c] = np.uint8(value + by * (np.float32(over[y, x, c]) - value) + np.float32(0.5))


def blended(under: np.ndarray, over: np.ndarray, share: np.ndarray) -> np.ndarray:
    """Two pictures uint8 (h, w, 3), of the second as much as `share` float32 (h, w), 0…1, says: uint8 (h, w, 3)."""
    out = np.empty_like(under)
    _blend(under, over, share.astype(np.float32, copy=False), out)
    return out
