"""Seeded noise on the canvas: the same place, size and seed always give the same."""

import math

import cv2
import numpy as np
from numba import njit


@njit(cache=True, nogil=True, inline="always")
def _hash(x, y, seed):
    """A number 0…1 of two whole numbers and a seed: the finaliser of MurmurHash3 (Appleby 2011)."""
    # Numba does its sums in 64 bits; the hash is one of 32.
    low = np.uint64(0xFFFFFFFF)
    h = np.uint64(x) * np.uint64(0x9E3779B1) ^ np.uint64(y) * np.uint64(0x85EBCA77)
    h = (h ^ np.uint64(seed) * np.uint64(0xC2B2AE3D)) & low
    h = (h ^ (h >> np.uint64(16))) * np.uint64(0x85EBCA6B) & low
    h = (h ^ (h >> np.uint64(13))) * np.uint64(0xC2B2AE35) & low
    h = h ^ (h >> np.uint64(16))
    return np.float32(h) * np.float32(1 / 4294967296.0)


@njit(cache=True, nogil=True, fastmath=True)
def _value_noise(out, left, top, step, size, seed, octaves):
    height, width = out.shape
    for r in range(height):
        for c in range(width):
            total = np.float32(0)
            weight = np.float32(1)
            most = np.float32(0)
            cell = size
            for o in range(octaves):
                x, y = (left + (c + 0.5) * step) / cell, (top + (r + 0.5) * step) / cell
                ix, iy = int(np.floor(x)), int(np.floor(y))
                fx, fy = np.float32(x - ix), np.float32(y - iy)
                fx = fx * fx * fx * (fx * (fx * 6 - 15) + 10)
                fy = fy * fy * fy * (fy * (fy * 6 - 15) + 10)
                s = seed + 7919 * o
                a, b = _hash(ix, iy, s), _hash(ix + 1, iy, s)
                d, e = _hash(ix, iy + 1, s), _hash(ix + 1, iy + 1, s)
                total += weight * ((a + (b - a) * fx) * (1 - fy) + (d + (e - d) * fx) * fy)
                most += weight
                weight *= np.float32(0.5)
                cell *= 0.5
            out[r, c] = total / most


def cloud(
    shape: tuple[int, int], size: float, seed: int, left: float = 0, top: float = 0, octaves: int = 1
) -> np.ndarray:
    """Smooth value noise (Perlin's quintic fade, 2002): float32 (h, w), 0…1.

    size: of its features, in pixels; left, top: where the picture's corner lies; octaves: how many finer ones on top.
    """
    size = max(float(size), 0.5)
    # Where even its finest features are wide, a coarser grid says all of it.
    step = min(16, int(size / 2 ** (octaves - 1) / 5))
    if step < 2:
        out = np.empty(shape, np.float32)
        _value_noise(out, float(left), float(top), 1.0, size, int(seed), int(octaves))
        return out
    first_x, first_y = math.floor(left / step) - 1, math.floor(top / step) - 1
    rows, columns = (
        math.ceil((at + n) / step) + 2 - first for at, n, first in ((top, shape[0], first_y), (left, shape[1], first_x))
    )
    coarse = np.empty((rows, columns), np.float32)
    _value_noise(coarse, float(first_x * step), float(first_y * step), float(step), size, int(seed), int(octaves))
    wide = cv2.resize(coarse, (columns * step, rows * step), interpolation=cv2.INTER_LINEAR)
    x, y = round(left - first_x * step), round(top - first_y * step)
    return np.ascontiguousarray(wide[y : y + shape[0], x : x + shape[1]])


@njit(cache=True, nogil=True, fastmath=True)
def _grains(out, left, top, size, seed):
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            x, y = int(np.floor((left + c + 0.5) / size)), int(np.floor((top + r + 0.5) / size))
            # Close to a bell: the mean of four.
            total = np.float32(0)
            for n in range(4):
                total += _hash(x, y, seed + 101 * n)
            out[r, c] = (total * np.float32(0.25) - np.float32(0.5)) * np.float32(3.464)


def grains(shape: tuple[int, int], size: float, seed: int, left: float = 0, top: float = 0) -> np.ndarray:
    """Noise without any neighbourhood, about 0 with a standard deviation of one half: float32 (h, w)."""
    out = np.empty(shape, np.float32)
    _grains(out, float(left), float(top), max(float(size), 0.25), int(seed))
    return out
