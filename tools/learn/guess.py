"""The guesses that a finder of people might make."""

import cv2
import numpy as np

from .noise import noise


def guess_at(rng: np.random.Generator, alpha: np.ndarray) -> np.ndarray:
    """A guess of a person finder at a subject with the matte `alpha`: coarse, with parts lost or made up, 0…1."""
    coarse = rng.uniform(6, 18)
    size = max(4, int(alpha.shape[1] / coarse)), max(4, int(alpha.shape[0] / coarse))
    small = cv2.resize(alpha, size, interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), rng.uniform(0.4, 1.6))
    doubt = noise(rng, small.shape[0], small.shape[1], 1, 5) * rng.uniform(0, 0.35) * (0.3 + small)
    guess = 1 / (1 + np.exp(-3 * ((small - rng.uniform(0.25, 0.6)) * rng.uniform(2, 6) + doubt)))
    inside = np.argwhere(small > 0.5)
    for lost in (True, False):
        if rng.random() >= 0.4 or not len(inside):
            continue
        row, column = inside[rng.integers(len(inside))] if lost else (rng.integers(n) for n in small.shape)
        spot = np.zeros_like(small)
        axes = [max(1, int(v)) for v in rng.uniform(1, 0.12 * max(small.shape), 2)]
        cv2.ellipse(spot, (int(column), int(row)), axes, rng.uniform(0, 180), 0, 360, 1.0, -1)
        spot = cv2.GaussianBlur(spot, (0, 0), 1)
        guess = guess * (1 - spot) if lost else np.maximum(guess, 0.8 * spot)
    return (guess * rng.uniform(0.8, 1)).astype(np.float32)
