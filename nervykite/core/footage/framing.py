"""How a picture lies on the canvas at rest."""

import numpy as np

from ..model import Framing


def fit_matrix(size: tuple[int, int], canvas: tuple[int, int], framing: Framing) -> np.ndarray:
    """A picture's own pixels to canvas pixels: 3×3, scaled alike in x and y, and centred. Sizes are (w, h)."""
    scales = canvas[0] / size[0], canvas[1] / size[1]
    scale = max(scales) if framing.mode == "fill" else min(scales)
    return np.array(
        [
            [scale, 0, (canvas[0] - size[0] * scale) / 2],
            [0, scale, (canvas[1] - size[1] * scale) / 2],
            [0, 0, 1],
        ]
    )
