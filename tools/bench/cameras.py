"""Shots whose camera is known: a large made-up picture seen through windows, with somebody who moves through it."""

from dataclasses import dataclass

import cv2
import numpy as np


@dataclass(frozen=True)
class Shot:
    """Frames, uint8 grey (h, w), what takes each to frame `ref`, (3, 3), and where the subject is in that."""

    frames: list[np.ndarray]
    to_ref: list[np.ndarray]
    ref: int
    subject: np.ndarray


def ground(rng: np.random.Generator, side: int) -> np.ndarray:
    """A picture as of sand, grass and stones: float32 (side, side), 0…255."""
    out = np.zeros((side, side), np.float32)
    for octave in range(7):
        cells = max(2, side >> (8 - octave))
        noise = rng.normal(size=(cells, cells)).astype(np.float32)
        out += cv2.resize(noise, (side, side), interpolation=cv2.INTER_CUBIC) * 0.75**octave
    out = 120 + 26 * out
    for _ in range(160):
        at, size = rng.integers(0, side, 2), int(rng.integers(6, 60))
        cv2.circle(out, tuple(int(v) for v in at), size, float(rng.uniform(30, 220)), -1, cv2.LINE_AA)
    return cv2.GaussianBlur(np.clip(out, 0, 255), (0, 0), 0.8)


def moved(kind: str, t: float, rng_phase: float, size: tuple[int, int]) -> np.ndarray:
    """The lie of a camera of a kind at a time, 0…1: its frame into the large picture, about its middle: (3, 3)."""
    w, h = size
    if kind == "pan":
        x, y, turn, zoom, lean = 0.9 * w * t, 0.06 * h * np.sin(5 * t), 0.02 * np.sin(4 * t), 1.0, 0.0
    elif kind == "out and back":
        x, y, turn, zoom, lean = 1.1 * w * np.sin(np.pi * t), 0.0, 0.03 * np.sin(np.pi * t), 1.0, 0.0
    elif kind == "hand":
        x = 0.035 * w * (np.sin(9 * t + rng_phase) + 0.5 * np.sin(23 * t))
        y = 0.02 * h * (np.sin(11 * t) + 0.4 * np.sin(31 * t + rng_phase))
        turn, zoom, lean = 0.012 * np.sin(13 * t + rng_phase), 1 + 0.01 * np.sin(7 * t), 0.0
    elif kind == "zoom":
        x, y, turn, zoom, lean = 0.05 * w * t, 0.0, 0.04 * t, 1 - 0.35 * t, 0.0
    else:  # tilt: as seen from the side more and more
        x, y, turn, zoom, lean = 0.25 * w * t, 0.1 * h * t, 0.05 * t, 1.0, 0.25 * t
    cos, sin = zoom * np.cos(turn), zoom * np.sin(turn)
    centre = np.array([[1, 0, -w / 2], [0, 1, -h / 2], [0, 0, 1.0]])
    own = np.array([[cos, -sin, x], [sin, cos, y], [lean / w, 0.4 * lean / h, 1]])
    return own @ centre


def shot(kind: str, frames: int = 60, size: tuple[int, int] = (540, 960), seed: int = 0, noise: float = 2.0,
         dim: float = 1.0, large: float = 0.36, ref: int | None = None) -> Shot:  # fmt: skip
    """A shot by a camera of a kind.

    noise: grain in levels; dim: contrast over full; large: how much of the frame somebody covers who walks through it.
    """
    rng = np.random.default_rng(seed)
    w, h = size
    world = ground(rng, 4 * max(size) // 2)
    somebody = ground(np.random.default_rng(seed + 99), 2 * max(size))
    middle = np.array([[1, 0, world.shape[1] / 2 - 0.3 * w], [0, 1, world.shape[0] / 2], [0, 0, 1.0]])
    ref = frames // 2 if ref is None else ref
    phase = float(rng.uniform(0, 6))
    into = [middle @ moved(kind, n / max(1, frames - 1), phase, size) for n in range(frames)]
    made, subject = [], np.zeros((h, w), bool)
    radius = np.sqrt(large * w * h / np.pi)
    yy, xx = np.mgrid[:h, :w]
    for n, matrix in enumerate(into):
        flags = cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
        seen = cv2.warpPerspective(world, matrix, size, flags=flags, borderMode=cv2.BORDER_REFLECT)
        t = n / max(1, frames - 1)
        x, y = w * (0.15 + 0.7 * t), h * (0.55 + 0.03 * np.sin(20 * t))
        where = ((xx - x) / (0.62 * radius)) ** 2 + ((yy - y) / (1.6 * radius)) ** 2 < 1
        own = np.array([[1, 0, 900 - 1.15 * x], [0, 1, 700 - y], [0, 0, 1.0]])
        body = cv2.warpPerspective(somebody, own, size, flags=flags, borderMode=cv2.BORDER_REFLECT)
        soft = cv2.GaussianBlur(where.astype(np.float32), (0, 0), 1.0) if large else np.zeros((h, w), np.float32)
        frame = 128 + dim * ((1 - soft) * seen + soft * body - 128) + rng.normal(0, noise, (h, w))
        made.append(np.clip(frame, 0, 255).round().astype(np.uint8))
        if n == ref and large:
            subject = where
    return Shot(made, [np.linalg.inv(into[ref]) @ m for m in into], ref, subject)


def errors(found: list[np.ndarray], true: list[np.ndarray], size: tuple[int, int]) -> np.ndarray:
    """For each frame how far found maps take its pixels from where they belong, in pixels, root mean square: (n,)."""
    w, h = size
    grid = np.stack(np.meshgrid(np.linspace(0, w, 9), np.linspace(0, h, 9)), -1).reshape(-1, 1, 2)
    off = [
        cv2.perspectiveTransform(grid, a) - cv2.perspectiveTransform(grid, b) for a, b in zip(found, true, strict=True)
    ]
    return np.array([float(np.sqrt((o**2).sum(-1).mean())) for o in off])
