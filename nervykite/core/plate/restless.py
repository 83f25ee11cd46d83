"""Who lingers in one place and was taken for a part of the scene: there the scene never comes to rest."""

import cv2
import numpy as np

AREA = 9
"""Over how large an area that is looked at, px."""
STEEP, ORDERLY, OWN = 4.0, 20, 0.8
"""From how many levels a pixel on there is an edge; the share of edges that are taken to be the scene's, per cent, the
calmest ones; and how much of the noise that those have is due to any edge."""


def restless(plate: np.ndarray, noise: np.ndarray) -> np.ndarray:
    """By how much more frames disagree about a scene than its own noise and edges explain: float32 (h, w), in levels.

    plate: uint8 RGB (h, w, 3), see `plate_of`; noise: float32 (h, w), in levels, see `noise_of`. The camera's noise is
    the same everywhere, and edges add to it in proportion to how steep they are, since no frame is laid onto another
    quite exactly.
    """
    usual = float(np.median(noise))
    steep = cv2.dilate(_steepness(plate), np.ones((3, 3), np.uint8))
    edges = steep > STEEP
    by_edges = np.percentile((noise[edges] - usual) / steep[edges], ORDERLY) if edges.any() else 0.0
    return cv2.blur(noise - np.float32(OWN * max(0.0, float(by_edges))) * steep, (AREA, AREA)) - np.float32(usual)


def _steepness(picture: np.ndarray) -> np.ndarray:
    """By how many levels a pixel uint8 RGB (h, w, 3) gets lighter or darker: float32 (h, w)."""
    grey = cv2.GaussianBlur(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY).astype(np.float32), (0, 0), 1.0)
    return cv2.magnitude(*(cv2.Sobel(grey, cv2.CV_32F, dx, 1 - dx, ksize=3, scale=1 / 8) for dx in (1, 0)))
