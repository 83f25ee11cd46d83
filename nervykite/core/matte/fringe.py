"""Clean fringe: the subject's own colours where the old background shines through its edge."""

import numpy as np
from pymatting import estimate_foreground_ml


def own_colours(picture: np.ndarray, alpha: np.ndarray, margin: int = 24) -> np.ndarray:
    """The colours that the subject itself has in each pixel (Germer et al. 2020, multi-level).

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
    own = estimate_foreground_ml(
        source, np.ascontiguousarray(alpha[box], np.float32), n_small_iterations=20, n_big_iterations=4
    )
    result = picture.copy()
    mixed = np.where((alpha[box] < 0.998)[..., None], own, source)
    result[box] = np.round(np.clip(mixed, 0, 1) * 255).astype(np.uint8)
    return result
