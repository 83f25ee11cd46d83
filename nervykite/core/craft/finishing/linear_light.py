"""Linear light and back, and blurs in it: premultiplied R'G'B'A in and out, edges neither dark nor bright.

The curve is that of IEC 61966-2-1 (sRGB), as a screen shows it; straight colours go through it, and are premultiplied
again.
"""

import math
from collections.abc import Callable

import cv2
import numpy as np

FINE = 4096
_CODES = np.linspace(0, 1, FINE)
TO_LIGHT = np.where(_CODES <= 0.04045, _CODES / 12.92, ((_CODES + 0.055) / 1.055) ** 2.4).astype(np.float32)
"""Linear light of R'G'B', at even distances of that."""
_ROOTS = _CODES**2
TO_CODE = np.where(_ROOTS <= 0.0031308, 12.92 * _ROOTS, 1.055 * _ROOTS ** (1 / 2.4) - 0.055).astype(np.float32)
"""R'G'B' of linear light, at even distances of its square root: finer where eyes are."""


def to_light(rgba: np.ndarray) -> np.ndarray:
    """Linear R, G, B and coverage of R'G'B'A, both premultiplied: float32 (h, w, 4)."""
    from .compiled.light_kernels import curve

    rgba = np.ascontiguousarray(rgba, np.float32)
    out = np.empty_like(rgba)
    curve(rgba.reshape(-1, 4), TO_LIGHT, False, out.reshape(-1, 4))
    return out


def to_code(light: np.ndarray) -> np.ndarray:
    """R'G'B'A of linear R, G, B and coverage, both premultiplied: float32 (h, w, 4)."""
    from .compiled.light_kernels import curve

    light = np.ascontiguousarray(light, np.float32)
    out = np.empty_like(light)
    curve(light.reshape(-1, 4), TO_CODE, True, out.reshape(-1, 4))
    return out


def soft(picture: np.ndarray, sigma: float, opaque: bool = False) -> np.ndarray:
    """A Gaussian blur of any number of channels, float32; wide ones are done on a smaller picture.

    Beyond the edge there is nothing, or, where it is opaque, what is at the edge.
    """
    if sigma < 0.15:
        return picture
    border = cv2.BORDER_REPLICATE if opaque else cv2.BORDER_CONSTANT
    h, w = picture.shape[:2]
    by = 1
    while sigma / by > 5 and min(h, w) // (by * 2) > 8:
        by *= 2
    if by == 1:
        return cv2.GaussianBlur(picture, (0, 0), sigma, borderType=border)
    # As large as a multiple, so that what is taken together lies evenly.
    tall, wide = -(-h // by) * by, -(-w // by) * by
    whole = cv2.copyMakeBorder(picture, 0, tall - h, 0, wide - w, border)
    small = cv2.resize(whole, (wide // by, tall // by), interpolation=cv2.INTER_AREA)
    # Taking together and spreading out blur as well: by squares and by lines.
    rest = math.sqrt(max((sigma / by) ** 2 - 1 / 12 - 1 / 6, 0.04))
    small = cv2.GaussianBlur(small, (0, 0), rest, borderType=border)
    return cv2.resize(small, (wide, tall), interpolation=cv2.INTER_LINEAR)[:h, :w]


def in_light(rgba: np.ndarray, blur: Callable[[np.ndarray], np.ndarray]) -> np.ndarray:
    """A picture put through a blur in linear light."""
    return to_code(blur(to_light(rgba)))
