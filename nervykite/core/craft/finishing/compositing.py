"""Colours as numbers, and pictures in one colour."""

import cv2
import numpy as np

from ...common.colour import rgb_of

LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
"""How bright red, green and blue are (ITU-R BT.709-6, item 3)."""


def flat(alpha: np.ndarray, colour: str) -> np.ndarray:
    """One colour as opaque as an alpha, float32 (h, w), 0…1: premultiplied R'G'B'A, float32 (h, w, 4)."""
    from .compiled.colour_kernels import flat

    out = np.empty((*alpha.shape, 4), np.float32)
    red, green, blue = (np.float32(v) for v in rgb_of(colour))
    flat(np.ascontiguousarray(alpha, np.float32).ravel(), red, green, blue, out.reshape(-1, 4))
    return out


def over(above: np.ndarray, below: np.ndarray) -> np.ndarray:
    """One premultiplied picture over another one, float32 (h, w, 4)."""
    from .compiled.colour_kernels import over

    out = np.empty(above.shape, np.float32)
    one, other = (np.ascontiguousarray(x, np.float32).reshape(-1, 4) for x in (above, below))
    over(one, other, out.reshape(-1, 4))
    return out


def lay_on(below: np.ndarray, alpha: np.ndarray, colour: str) -> None:
    """Puts one colour, as opaque as an alpha, float32 (h, w), over a premultiplied picture, (h, w, 4), in place."""
    from .compiled.colour_kernels import lay_on

    red, green, blue = (np.float32(v) for v in rgb_of(colour))
    lay_on(np.ascontiguousarray(alpha, np.float32).ravel(), red, green, blue, below.reshape(-1, 4))


def luma_of(rgb: np.ndarray) -> np.ndarray:
    """The luma of a picture, of its first three channels: float32 (h, w)."""
    weights = np.zeros((1, rgb.shape[2]), np.float32)
    weights[0, :3] = LUMA
    return cv2.transform(np.ascontiguousarray(rgb, np.float32), weights)


def within(alpha: np.ndarray, colours: np.ndarray) -> np.ndarray:
    """Straight colours, float32 (h, w, 3), as opaque as an alpha: premultiplied R'G'B'A, float32 (h, w, 4)."""
    from .compiled.colour_kernels import cover

    out = np.empty((*alpha.shape, 4), np.float32)
    flat_alpha = np.ascontiguousarray(alpha, np.float32).ravel()
    cover(flat_alpha, np.ascontiguousarray(colours, np.float32).reshape(-1, 3), out.reshape(-1, 4))
    return out
