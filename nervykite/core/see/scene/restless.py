"""Those who linger in one place and were taken for a part of the scene: there the scene never comes to rest."""

from dataclasses import dataclass

import cv2
import numpy as np

from .difference import slope


@dataclass(frozen=True)
class RestlessSettings:
    """Where a scene is restless."""

    area: int = 9
    """Over how large an area that is looked at, px."""
    steep: float = 4.0
    """The slope, in levels a pixel, from which on there is an edge."""
    orderly: int = 20
    """The share of edges that are taken to be the scene's, per cent, the calmest ones."""
    own: float = 0.8
    """The part of their noise, 0…1, that is due to any edge."""


def restless(plate: np.ndarray, noise: np.ndarray, settings: RestlessSettings = RestlessSettings()) -> np.ndarray:
    """By how much more frames disagree about a scene than its own noise and edges explain: float32 (h, w), in levels.

    plate: uint8 RGB (h, w, 3), see `plate_of`; noise: float32 (h, w), in levels, see `noise_of`. The camera's noise is
    the same everywhere, and edges add to it in proportion to how steep they are, since no frame is laid onto another
    quite exactly.
    """
    usual = float(np.median(noise))
    grey = cv2.cvtColor(plate, cv2.COLOR_RGB2GRAY).astype(np.float32)
    steep = cv2.dilate(slope(cv2.GaussianBlur(grey, (0, 0), 1.0)), np.ones((3, 3), np.uint8))
    edges = steep > settings.steep
    by_edges = np.percentile((noise[edges] - usual) / steep[edges], settings.orderly) if edges.any() else 0.0
    own = noise - np.float32(settings.own * max(0.0, float(by_edges))) * steep
    return cv2.blur(own, (settings.area, settings.area)) - np.float32(usual)
