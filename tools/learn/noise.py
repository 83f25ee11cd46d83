"""Noise of several sizes."""

import cv2
import numpy as np


def noise(
    rng: np.random.Generator, height: int, width: int, first: int = 1, last: int = 7, fall: float | None = None
) -> np.ndarray:
    """Noise of several octaves, each 2^-fall as strong as the one before: float32 (height, width), mean 0."""
    fall = rng.uniform(0.6, 1.6) if fall is None else fall
    slant = 2 ** rng.uniform(-1, 1)
    total = np.zeros((height, width), np.float32)
    for octave in range(first, last + 1):
        n = 2**octave
        grid = rng.normal(0, 1, (max(2, int(n * slant)), max(2, int(n * width / height / slant) + 1)))
        total += cv2.resize(grid.astype(np.float32), (width, height), interpolation=cv2.INTER_CUBIC) * 2 ** (
            -fall * octave
        )
    return (total - total.mean()) / (total.std() + 1e-6)
