"""Small made-up pictures with a known subject, for tests of cutting."""

import cv2
import numpy as np

from nervykite.core.see.find.marks import MARKS
from nervykite.core.see.find.search import without
from nervykite.core.see.find.strokes import Stroke


def texture(height: int, width: int, colour: tuple[int, int, int], seed: int, rough: float = 18.0) -> np.ndarray:
    """A mottled surface: float32 (height, width, 3), 0…255."""
    rng = np.random.default_rng(seed)
    grains = (rng.standard_normal((height, width, 3)).astype(np.float32) for _ in range(3))
    mottle = sum(cv2.GaussianBlur(g, (0, 0), s) * s for g, s in zip(grains, (1.5, 5, 14), strict=True))
    return np.float32(colour) + mottle / mottle.std() * rough


def blob(height: int, width: int, x: float, y: float, size: float, soft: float = 0.8) -> np.ndarray:
    """The alpha of a body with two limbs at (x, y): float32 (height, width), 0…1."""
    mask = np.zeros((height, width), np.uint8)

    def at(dx: float, dy: float) -> tuple[int, int]:
        return round(x + dx * size), round(y + dy * size)

    cv2.ellipse(mask, at(0, 0), (round(0.45 * size), round(0.75 * size)), 12, 0, 360, 255, -1, cv2.LINE_AA)
    cv2.circle(mask, at(0.12, -0.95), round(0.30 * size), 255, -1, cv2.LINE_AA)
    cv2.line(mask, at(-0.2, 0.4), at(-0.5, 1.3), 255, round(0.25 * size), cv2.LINE_AA)
    cv2.line(mask, at(0.2, 0.4), at(0.5, 1.25), 255, round(0.25 * size), cv2.LINE_AA)
    return cv2.GaussianBlur(mask.astype(np.float32) / 255, (0, 0), soft)


def composed(
    alpha: np.ndarray, subject: np.ndarray, scene: np.ndarray, noise: float = 2.0, seed: int = 0
) -> np.ndarray:
    """The subject over the scene with sensor noise: uint8 (h, w, 3)."""
    rng = np.random.default_rng(seed)
    mixed = subject * alpha[..., None] + scene * (1 - alpha[..., None])
    return np.clip(mixed + rng.normal(0, noise, mixed.shape), 0, 255).astype(np.uint8)


def picture(height: int = 240, width: int = 180) -> tuple[np.ndarray, np.ndarray]:
    """A subject over a two-coloured place, and its alpha."""
    scene = texture(height, width, (120, 150, 90), 1)
    scene[: height // 3] = texture(height, width, (150, 180, 220), 2, 8)[: height // 3]
    alpha = blob(height, width, width * 0.5, height * 0.5, height * 0.22)
    return composed(alpha, texture(height, width, (200, 80, 60), 3), scene), alpha


def red_green(frame: np.ndarray, sigma: float, block: int = 1) -> np.ndarray:
    """The frame with noise that adds to red what it takes from green, the same in blocks of so many pixels."""
    height, width = frame.shape[:2]
    grain = np.random.default_rng(4).normal(0, sigma, (-(-height // block), -(-width // block)))
    shift = np.kron(grain, np.ones((block, block)))[:height, :width, None] * (1, -1, 0)
    return np.clip(frame + shift, 0, 255).astype(np.uint8)


BY_COLOUR = [[(90.0, 95.0), (90.0, 150.0)]], [[(15.0, 20.0), (15.0, 225.0)], [(165.0, 20.0), (165.0, 225.0)]]
"""Keep and drop strokes on the picture of `by_colour`, 6 wide."""


def by_colour(height: int = 240, width: int = 180) -> tuple[np.ndarray, np.ndarray]:
    """A subject that differs from its place by little but colour, with strong red-green noise; and its alpha."""
    alpha = blob(height, width, 90, 120, 52)
    cloth, place = texture(height, width, (150, 110, 120), 3, 6), texture(height, width, (122, 124, 122), 1, 6)
    return red_green(composed(alpha, cloth, place), 45), alpha


def passing(
    frames: int = 24, height: int = 160, width: int = 120, pan: float = 0.0, flicker: float = 0.0
) -> tuple[list[np.ndarray], list[np.ndarray], list[np.ndarray]]:
    """A subject that crosses a scene: frames, alphas, and the scene alone as each frame sees it.

    The camera moves by `pan` pixels a frame; brightness changes from frame to frame by up to `flicker`.
    """
    rng = np.random.default_rng(5)
    wide = texture(height, width + round(abs(pan) * frames) + 4, (130, 140, 120), 4, 26)
    cv2.line(wide, (0, height // 3), (wide.shape[1], height // 3 + 9), (60, 60, 70), 3)
    cloth = texture(height, width, (190, 90, 70), 6)
    pictures, alphas, scenes = [], [], []
    for n in range(frames):
        shift = np.float32([[1, 0, -pan * n], [0, 1, 0]])
        scene = cv2.warpAffine(wide, shift, (width, height), borderMode=cv2.BORDER_REFLECT)
        alpha = blob(height, width, width * (-0.1 + 1.2 * n / (frames - 1)), height * 0.55, height * 0.2, 0.9)
        gain = 1 + flicker * rng.uniform(-1, 1)
        pictures.append(composed(alpha, cloth * gain, scene * gain, 2.0, n))
        alphas.append(alpha)
        scenes.append(np.clip(scene, 0, 255).astype(np.uint8))
    return pictures, alphas, scenes


def overlap(one: np.ndarray, other: np.ndarray) -> float:
    """Intersection over union at one half."""
    a, b = one > 0.5, other > 0.5
    return float((a & b).sum() / max(1, (a | b).sum()))


def walking(frames: int = 20, height: int = 300, width: int = 240, step: float = 3.5, pan: float = 0.0):
    """A subject whose clothes go along with it, swinging a little: frames and alphas; the camera pans by `pan`."""
    wide = texture(height, width + round(abs(pan) * frames) + 4, (120, 140, 125), 4, 14)
    cloth = texture(height, width, (190, 95, 70), 6, 18)
    alpha = blob(height, width, width * 0.3, height * 0.5, height * 0.2, 0.9)
    pictures, alphas = [], []
    for n in range(frames):
        turn = cv2.getRotationMatrix2D((width * 0.3, height * 0.5), 6 * np.sin(n / 4), 1)
        turn[0, 2] += step * n
        body = cv2.warpAffine(cloth, turn, (width, height), borderMode=cv2.BORDER_REFLECT)
        own = cv2.warpAffine(alpha, turn, (width, height))
        scene = cv2.warpAffine(wide, np.float32([[1, 0, -pan * n], [0, 1, 0]]), (width, height))
        pictures.append(composed(own, body, scene, 2.0, n))
        alphas.append(own)
    return pictures, alphas


def as_found(voices, ours, others) -> np.ndarray:
    """Takes no look from near, so that only the search speaks."""
    return voices.before


BY_RULES = without(MARKS, "judge")
"""So that only the rules speak."""


def stroke(*points: tuple[float, float], width: float = 6) -> Stroke:
    return Stroke(np.array(points, float), width)


KEEP = [
    stroke((90, 90), (90, 150)), stroke((92, 66), (96, 76)),
    stroke((75, 165), (66, 185)), stroke((106, 165), (114, 182)),
]  # fmt: skip
DROP = [stroke((15, 20), (15, 225)), stroke((165, 20), (165, 225)), stroke((30, 15), (150, 15))]
