"""The camera's part in a scene: light is mixed, what moves or is out of focus is blurred, noise comes in."""

import cv2
import numpy as np

from .noise import noise

LINEAR = 0.4
"""The share of scenes whose light was mixed before it was made a picture, as in a camera."""


def power(rng: np.random.Generator) -> float:
    """The power to which colours 0…1 are mixed: 2.2 for light, 1 for pictures that are put over each other."""
    return 2.2 if rng.random() < LINEAR else 1.0


def moved(rng: np.random.Generator, subject: np.ndarray) -> np.ndarray:
    """A subject, premultiplied float32 (h, w, 4), that moves, or part of it, or that is out of focus, or sharp."""
    h, w = subject.shape[:2]
    kind = rng.random()
    if kind > 0.6:
        return subject
    if kind > 0.35:
        return cv2.GaussianBlur(subject, (0, 0), rng.uniform(0.3, 0.004 * h))
    long, angle = rng.uniform(0.003, 0.04) * h, rng.uniform(0, np.pi)
    side = (int(2 * long) | 1) + 2
    half = long / 2 * np.array([np.cos(angle), np.sin(angle)])
    start, end = (np.round(((side - 1) / 2 + sign * half) * 16).astype(int).tolist() for sign in (-1, 1))
    line = cv2.line(np.zeros((side, side), np.float32), start, end, 1.0, 1, cv2.LINE_AA, 4)
    blurred = cv2.filter2D(subject, -1, line / line.sum())
    if rng.random() < 0.4:
        return blurred
    share = np.clip(0.5 + noise(rng, h, w, 1, 3, 1.0), 0, 1)[..., None]
    return subject * (1 - share) + blurred * share


def filmed(rng: np.random.Generator, clear: np.ndarray) -> np.ndarray:
    """A clear picture, float32 RGB, as a camera would have it: a little soft, noisy and compressed: uint8 RGB."""
    picture = np.asarray(cv2.GaussianBlur(clear, (0, 0), rng.uniform(0.3, 0.9)))
    picture = picture + rng.normal(0, rng.uniform(0.5, 6), picture.shape)
    quality = [cv2.IMWRITE_JPEG_QUALITY, int(rng.integers(72, 97))]
    _, packed = cv2.imencode(".jpg", np.clip(picture, 0, 255).astype(np.uint8)[..., ::-1], quality)
    return np.ascontiguousarray(np.asarray(cv2.imdecode(packed, cv2.IMREAD_COLOR))[..., ::-1])
