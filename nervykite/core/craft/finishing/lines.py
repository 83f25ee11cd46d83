"""Lines of a picture itself: where tones and colours meet, and how strongly."""

import cv2
import numpy as np

from .linear_light import soft


def straight(rgba: np.ndarray) -> np.ndarray:
    """Straight R'G'B' of a premultiplied picture, beyond its edge the colours of the edge: float32 (h, w, 3).

    What lies beyond is filled in from what is near by pushing sums down and pulling means up (Gortler et al. 1996).
    """
    from .compiled.lines_kernels import clipped, fill

    first: np.ndarray = np.empty(rgba.shape, np.float32)
    clipped(np.ascontiguousarray(rgba, np.float32).reshape(-1, 4), first.reshape(-1, 4))
    levels = [first]
    while min(levels[-1].shape[:2]) > 2 and len(levels) < 6:
        h, w = levels[-1].shape[:2]
        levels.append(cv2.resize(levels[-1], ((w + 1) // 2, (h + 1) // 2), interpolation=cv2.INTER_AREA))
    filled: np.ndarray = levels[-1][..., :3] / np.maximum(levels[-1][..., 3:], 1e-4)
    for level in reversed(levels[:-1]):
        filled = cv2.resize(filled, level.shape[1::-1], interpolation=cv2.INTER_LINEAR)
        fill(level.reshape(-1, 4), filled.reshape(-1, 3))
    return filled


def strength(colours: np.ndarray, sigma: float) -> tuple[np.ndarray, np.ndarray]:
    """The strength and direction of changes of colour: the structure tensor of three channels (Di Zenzo 1986).

    colours: float32 (h, w, 3), smoothed by so many pixels first. Returns how much they change from a pixel to the next,
    float32 (h, w), and the direction across the edge in radians.
    """
    from .compiled.lines_kernels import tensor

    smooth = np.ascontiguousarray(soft(colours, max(sigma, 0.5), True))
    dx, dy = cv2.Scharr(smooth, cv2.CV_32F, 1, 0), cv2.Scharr(smooth, cv2.CV_32F, 0, 1)
    much, turn = np.empty(smooth.shape[:2], np.float32), np.empty(smooth.shape[:2], np.float32)
    tensor(dx, dy, np.float32(1 / 32), much, turn)
    return much, turn


def ridges(much: np.ndarray, turn: np.ndarray) -> np.ndarray:
    """Where change is greatest across its own direction (Canny 1986): float32 (h, w), elsewhere 0."""
    from .compiled.lines_kernels import ridge

    out = np.zeros_like(much)
    ridge(np.ascontiguousarray(much, np.float32), np.ascontiguousarray(turn, np.float32), out)
    return out


def difference(luma: np.ndarray, sigma: float, sharp: float, level: float, steep: float) -> np.ndarray:
    """Ink where a picture is darker than around it: the extended difference of Gaussians (Winnemöller et al. 2012).

    luma: float32 (h, w), 0…1; sigma: half the width of a line, in pixels; sharp: how much finer lines stand out;
    level: below it there is ink; steep: how hard the line's edge is. Returns how much paper is left, 0…1.
    """
    one, two = soft(luma, sigma, True), soft(luma, 1.6 * sigma, True)
    found = (1 + sharp) * one - sharp * two
    return np.where(found >= level, 1.0, np.clip(1 + np.tanh(steep * (found - level)), 0, 1)).astype(np.float32)
