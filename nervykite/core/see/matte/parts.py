"""Connected parts of a matte: which are bits of the place, and which are less sure to be the subject's."""

from dataclasses import dataclass

import cv2
import numpy as np


@dataclass(frozen=True)
class PartSettings:
    """The settings by which parts of what was found are told not to be the subject's."""

    speck: float = 0.0005
    """A part is none of the subject's below this share of the largest part's area, 0…1, wherever it lies."""
    small: float = 0.004
    """A part is none of the subject's below this share of the largest part's area, 0…1, if it lies apart."""
    apart: float = 0.009
    """A small part lies apart from this distance to all larger ones on, in diagonals of the largest part, 0…1."""
    weaker: float = 0.5
    """A part is in doubt below this share of the largest part's mean evidence, 0…1."""


def without_small_parts(alpha: np.ndarray, settings: PartSettings = PartSettings()) -> np.ndarray:
    """An alpha float32 (h, w), 0…1, without specks and small parts that lie apart, and without their soft edges."""
    labels, areas, long = _parts(alpha)
    if len(areas) < 3:
        return alpha
    size = areas / areas[1:].max()
    large = size >= settings.small
    large[0] = False
    far = cv2.distanceTransform((~large[labels]).astype(np.uint8), cv2.DIST_L2, 5)
    nearest = np.full(len(areas), np.inf, np.float32)
    np.minimum.at(nearest, labels.ravel(), far.ravel())
    kept = large | ((size >= settings.speck) & (nearest <= settings.apart * long))
    kept[0] = False
    dropped = ~kept[labels] & (labels > 0)
    if not dropped.any():
        return alpha
    to_kept, to_dropped = (
        cv2.distanceTransform((~area).astype(np.uint8), cv2.DIST_L2, 5) for area in (kept[labels], dropped)
    )
    return np.where(to_dropped < to_kept, 0, alpha).astype(np.float32)


def uneven(alpha: np.ndarray, says: np.ndarray, settings: PartSettings = PartSettings()) -> bool:
    """True if parts of an alpha, float32 (h, w), 0…1, have much less evidence than the largest one.

    says: what speaks for each pixel, float32 (h, w), about -1…1.
    """
    labels, areas, _ = _parts(alpha)
    if len(areas) < 3:
        return False
    mean = np.bincount(labels.ravel(), says.ravel(), minlength=len(areas)) / np.maximum(1, areas)
    largest = 1 + int(areas[1:].argmax())
    return bool((mean[1:] < settings.weaker * mean[largest]).any())


def _parts(alpha: np.ndarray) -> tuple[np.ndarray, np.ndarray, float]:
    """The parts of an alpha by label (h, w), their areas in pixels, and the diagonal of the largest one."""
    _, labels, stats, _ = cv2.connectedComponentsWithStats((alpha > 0.5).astype(np.uint8))
    if len(stats) < 2:
        return labels, stats[:, cv2.CC_STAT_AREA], 0.0
    largest = stats[1 + int(stats[1:, cv2.CC_STAT_AREA].argmax())]
    return labels, stats[:, cv2.CC_STAT_AREA], float(np.hypot(*largest[[cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]]))
