"""A subject that was found, and its edge: traced from near, then solved."""

import numpy as np

from .fine import fine_edge
from .tracer import PIXELS, traced

TRUST = 0.2
"""How strongly a matte is drawn to what was traced, if that was looked at in full size. It is less sharp than a larger
picture is."""


def with_edge(picture: np.ndarray, outline: np.ndarray, reach: float, trace: bool = True) -> np.ndarray:
    """A matte from an outline that was found: float32 (h, w), 0…1.

    picture: uint8 RGB (h, w, 3); outline: float32 (h, w), its edge where it is one half, a few pixels off; reach: how
    far the fine edge may go, px; if that is 0 the bare outline is returned. trace: whether it is traced from near
    before.
    """
    if reach <= 0:
        return (outline > 0.5).astype(np.float32)
    seen = traced(picture, outline) if trace else None
    if seen is None:
        return fine_edge(picture, outline, reach)
    return fine_edge(picture, seen, reach, seen, TRUST * min(1.0, PIXELS / outline.size))
