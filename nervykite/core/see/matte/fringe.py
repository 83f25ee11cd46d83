"""Clean fringe: the subject's own colours where the old background shines through its edge.

Germer, Uelwer, Conrad and Harmeling, "Fast multi-level foreground estimation" (2020): the colours of subject and
surroundings that together, by alpha, give the picture, and that change as little as possible where alpha does not.
"""

import math

import cv2
import numpy as np
from numba import njit, prange

EVEN = np.float32(1e-5)
"""How much colours like to go on as they are where alpha does not change."""
SMALL = 32
"""Up to this size a level is gone over often, as that costs nothing; beyond it FEW times."""
OFTEN, FEW = 20, 4


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _relax(picture, alpha, own, behind, odd):
    """Every second pixel, like the black ones of a chessboard, is made to fit its neighbours, in place.

    picture, own, behind: float32 (h, w, 3), 0…1; alpha: float32 (h, w).
    """
    h, w = alpha.shape
    one, none = np.float32(1), np.float32(0)
    for y in prange(h):
        up, down = max(y - 1, 0), min(y + 1, h - 1)
        for x in range((y + odd) & 1, w, 2):
            left, right = max(x - 1, 0), min(x + 1, w - 1)
            a = alpha[y, x]
            b = one - a
            above = EVEN + abs(a - alpha[up, x])
            below = EVEN + abs(a - alpha[down, x])
            before = EVEN + abs(a - alpha[y, left])
            after = EVEN + abs(a - alpha[y, right])
            all_four = above + below + before + after
            aa, bb, ab = a * a + all_four, b * b + all_four, a * b
            by = one / (aa * bb - ab * ab)
            for c in range(3):
                value = picture[y, x, c]
                f = a * value + above * own[up, x, c] + below * own[down, x, c]
                f += before * own[y, left, c] + after * own[y, right, c]
                g = b * value + above * behind[up, x, c] + below * behind[down, x, c]
                g += before * behind[y, left, c] + after * behind[y, right, c]
                own[y, x, c] = min(one, max(none, by * (bb * f - ab * g)))
                behind[y, x, c] = min(one, max(none, by * (aa * g - ab * f)))


def _mean(picture: np.ndarray, where: np.ndarray) -> np.ndarray:
    """The mean colour where `where` is set, as a picture of one pixel; black if it is set nowhere."""
    mean = picture[where].mean(0) if where.any() else np.zeros(3)
    return mean.reshape(1, 1, 3).astype(np.float32)


def foreground(picture: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """The colours of what alpha covers, everywhere: picture float32 RGB (h, w, 3), alpha float32 (h, w), both 0…1.

    From a single pixel upwards, each level begins with what the one before found. Returns float32 (h, w, 3), 0…1.
    """
    h, w = alpha.shape
    own, behind = _mean(picture, alpha > 0.9), _mean(picture, alpha < 0.1)
    levels = max(1, math.ceil(math.log2(max(w, h))))
    for level in range(levels + 1):
        size = round(w ** (level / levels)), round(h ** (level / levels))
        small, part, own, behind = (
            cv2.resize(v, size, interpolation=cv2.INTER_NEAREST) for v in (picture, alpha, own, behind)
        )
        for _ in range(OFTEN if max(size) <= SMALL else FEW):
            for odd in (0, 1):
                _relax(small, part, own, behind, odd)
    return own


def own_colours(picture: np.ndarray, alpha: np.ndarray, margin: int = 24) -> np.ndarray:
    """The colours that the subject itself has in each pixel.

    picture: uint8 RGB (h, w, 3); alpha: float32 (h, w), 0…1. Far from the edge the picture's own colours stay; only
    the surroundings of the subject are worked on. Returns uint8 (h, w, 3).
    """
    partial = (alpha > 0.002) & (alpha < 0.998)
    if not partial.any():
        return picture.copy()
    rows, columns = np.nonzero(partial.any(1))[0], np.nonzero(partial.any(0))[0]
    box = (
        slice(max(0, rows[0] - margin), rows[-1] + margin + 1),
        slice(max(0, columns[0] - margin), columns[-1] + margin + 1),
    )
    source = picture[box].astype(np.float32) / 255
    own = foreground(source, np.ascontiguousarray(alpha[box], np.float32))
    result = picture.copy()
    mixed = np.where((alpha[box] < 0.998)[..., None], own, source)
    result[box] = np.round(np.clip(mixed, 0, 1) * 255).astype(np.uint8)
    return result
