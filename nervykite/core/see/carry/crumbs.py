"""Crumbs: bits of the place that hang on a matte apart from the subject."""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np


@dataclass(frozen=True)
class CrumbSettings:
    """The settings by which pieces of what came along are told not to be the subject's."""

    still: float = 6.0
    """The change of the rim of what stays with the scene, in levels from frame to frame, at most."""
    moves: float = 2.5
    """The factor by which the rim of the largest piece changes more than that, if the piece moves on."""
    tells: float = 6.0
    """The factor by which the contrast is greater than that, if it tells."""
    nearly_all: int = 85
    """The part of the rim that has to stay, in percent."""
    crumb: float = 0.003
    """The part of a subject below which a piece apart from it is not its own, unless the fixed frame has such
    pieces."""


def least_piece(matte: np.ndarray, settings: CrumbSettings = CrumbSettings()) -> float:
    """The size, in pixels, from which on a piece apart from the rest is a subject's own: as in its matte (h, w)."""
    areas = cv2.connectedComponentsWithStats((matte > 0.5).astype(np.uint8))[2][1:, cv2.CC_STAT_AREA]
    return float(min(settings.crumb * areas.sum(), areas.min())) if len(areas) else 0.0


def without_crumbs(outline: np.ndarray, least: float) -> np.ndarray:
    """An outline (h, w), 0…1, without pieces of fewer pixels than `least`, which are bits of the place behind."""
    labels, stats = cv2.connectedComponentsWithStats((outline > 0.5).astype(np.uint8))[1:3]
    areas = stats[:, cv2.CC_STAT_AREA]
    kept = areas >= min(least, areas[1:].max(initial=0))  # somebody far away by now may be as small as a crumb
    return outline if kept.all() else np.where(kept[labels], outline, 0).astype(np.float32)


def without_what_stays(
    matte: np.ndarray, now: np.ndarray, last: np.ndarray, explained: Callable[[], np.ndarray],
    settings: CrumbSettings = CrumbSettings(),
) -> np.ndarray:  # fmt: skip
    """A matte (h, w), 0…1, without pieces that stay where they are as the subject moves on.

    Where a subject leaves a place of its own colours, that is easily taken along. now, last: this frame and the one
    before as this one's camera saw it, uint8 grey (h, w); explained: asked if there may be such pieces, where it is
    known why they are where they are, bool (h, w): who has stood there from the beginning, or came to stand before a
    place that was seen, is no part of the place.
    """
    count, labels, stats, _ = cv2.connectedComponentsWithStats((matte > 0.5).astype(np.uint8))
    if count < 3:
        return matte
    largest = 1 + int(stats[1:, cv2.CC_STAT_AREA].argmax())
    brush = np.ones((5, 5), np.uint8)
    changed, contrast = cv2.blur(cv2.absdiff(now, last), (3, 3)), cv2.morphologyEx(now, cv2.MORPH_GRADIENT, brush)

    def rim(piece: int) -> np.ndarray:
        mask = (labels == piece).astype(np.uint8)
        return cv2.dilate(mask, brush) > cv2.erode(mask, brush)

    def stays(piece: int) -> bool:
        around = rim(piece)
        edge = float(contrast[around].mean())
        return np.percentile(changed[around], settings.nearly_all) < min(level, edge / settings.tells - 1)

    level = min(settings.still, float(changed[rim(largest)].mean()) / settings.moves)
    staying = [n for n in range(1, count) if n != largest and stays(n)]
    if not staying:
        return matte
    known = explained()
    left = [n for n in staying if known[labels == n].mean() < 0.5]
    return np.where(cv2.dilate(np.isin(labels, left).astype(np.uint8), brush) > 0, 0, matte).astype(np.float32)
