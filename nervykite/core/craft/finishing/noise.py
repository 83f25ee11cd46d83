"""Seeded noise on the canvas: the same place, size and seed always give the same."""

import math

import cv2
import numpy as np


def cloud(
    shape: tuple[int, int], size: float, seed: int, left: float = 0, top: float = 0, octaves: int = 1
) -> np.ndarray:
    """Smooth value noise (Perlin's quintic fade, 2002): float32 (h, w), 0…1.

    size: of its features, in pixels; left, top: where the picture's corner lies; octaves: how many finer ones on top.
    """
    from .compiled.noise_kernels import value_noise

    size = max(float(size), 0.5)
    # Where even its finest features are wide, a coarser grid says all of it.
    step = min(16, int(size / 2 ** (octaves - 1) / 5))
    if step < 2:
        out = np.empty(shape, np.float32)
        value_noise(out, float(left), float(top), 1.0, size, int(seed), int(octaves))
        return out
    first_x, first_y = math.floor(left / step) - 1, math.floor(top / step) - 1
    rows, columns = (
        math.ceil((at + n) / step) + 2 - first for at, n, first in ((top, shape[0], first_y), (left, shape[1], first_x))
    )
    coarse = np.empty((rows, columns), np.float32)
    value_noise(coarse, float(first_x * step), float(first_y * step), float(step), size, int(seed), int(octaves))
    wide = cv2.resize(coarse, (columns * step, rows * step), interpolation=cv2.INTER_LINEAR)
    x, y = round(left - first_x * step), round(top - first_y * step)
    return np.ascontiguousarray(wide[y : y + shape[0], x : x + shape[1]])


def grains(shape: tuple[int, int], size: float, seed: int, left: float = 0, top: float = 0) -> np.ndarray:
    """Noise without any neighbourhood, about 0 with a standard deviation of one half: float32 (h, w)."""
    from .compiled.noise_kernels import grain

    out = np.empty(shape, np.float32)
    grain(out, float(left), float(top), max(float(size), 0.25), int(seed))
    return out
