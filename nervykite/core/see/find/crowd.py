"""People close together: the detector sees one of them, and the next with that one painted over.

People before each other need it: without it the people of the demo lose 0.03 of overlap.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np

from .figures import DrawnFigure, Figure, FigureSettings, Window, convincing, drawn, figures_in, square, there


@dataclass(frozen=True)
class CrowdSettings:
    """The settings by which somebody close to others is looked for."""

    figures: FigureSettings = field(default_factory=FigureSettings)
    """How figures are told."""
    known: float = 0.3
    """How likely somebody's the pixels are that are painted over."""
    open: float = 0.35
    """The likelihood of people, 0…1, from which on somebody hidden is looked for."""
    least_hidden: float = 0.2
    """The smallest area of somebody hidden, in parts of the area of those who are known."""
    least_mover: float = 0.0008
    """The smallest mover that is looked at, in parts of the frame."""
    rest: float = 0.25
    """The part of a mover, 0…1, that has to be nobody's yet."""
    halo: float = 0.012
    """The distance around somebody within which what moves is theirs, in the picture's longer side."""
    looks: tuple[float, ...] = (1.2, 1.6, 2.2)
    """How much wider than a thing is what one looks at, to see whether it is somebody."""
    paint: int = 40
    """The width of the brush that paints over those who are known: the picture's side in so many parts."""
    coarse: int = 4
    """The factor by which the picture is made smaller to find out what is around them."""


def one_more(
    picture: np.ndarray, part: np.ndarray, known: np.ndarray, settings: CrowdSettings = CrowdSettings()
) -> tuple[Figure, DrawnFigure] | None:
    """A figure in a part of what moves, bool (h, w), beside those that are known, float32 (h, w), 0…1; None if none is.

    picture: uint8 RGB (h, w, 3). Raises Refusal.
    """
    h, w = part.shape
    halo = 2 * round(settings.halo * max(h, w)) + 1
    left = part & (cv2.dilate(known, np.ones((halo, halo), np.uint8)) < settings.known)
    if left.sum() < max(settings.least_mover * part.size, settings.rest * part.sum()):
        return None
    x, y, wide, high = cv2.boundingRect(left.astype(np.uint8))
    rest = without(picture, known, settings)
    for figure in figures_in(rest, _windows((x, y, wide, high), h, w, settings), settings.figures):
        if not (x <= figure.hips[0] <= x + wide and y <= figure.hips[1] <= y + high):
            continue
        shown = drawn(rest, figure, part, settings.figures)
        theirs = (shown.alpha > 0.5) & (known < 0.5)
        if there(figure, shown, part, settings.figures) and (theirs & left).sum() > 0.5 * theirs.sum() > 0:
            return figure, shown
    return None


def hidden(
    picture: np.ndarray, likely: np.ndarray, known: np.ndarray, settings: CrowdSettings = CrowdSettings()
) -> Iterator[np.ndarray]:
    """The silhouettes, float32 (h, w), 0…1, of people who are likely (h, w) beside those who are known, (h, w), 0…1.

    picture: uint8 RGB (h, w, 3). Raises Refusal.
    """
    h, w = likely.shape
    least = settings.least_hidden * (known > 0.5).sum()
    open_yet = ((likely > settings.open) & (known < settings.known)).astype(np.uint8)
    labels, stats = cv2.connectedComponentsWithStats(open_yet)[1:3]
    for part in 1 + np.argsort(-stats[1:, cv2.CC_STAT_AREA]):
        own = labels == part
        if stats[part, cv2.CC_STAT_AREA] < least:
            return
        if known[own].mean() > 0.5:  # it was somebody's who was found since
            continue
        rest = without(picture, known, settings)
        beside = _windows(stats[part, : cv2.CC_STAT_AREA].tolist(), h, w, settings)
        for figure in figures_in(rest, beside, settings.figures):
            alpha, inside, placed = drawn(rest, figure, settings=settings.figures)
            if convincing(figure, placed, settings.figures) and is_theirs(alpha > 0.5, own, likely > settings.open):
                alpha = alpha * np.minimum(inside, 1)
                known = np.maximum(known, alpha)
                yield alpha
                break


def _windows(box: Sequence[int], h: int, w: int, settings: CrowdSettings) -> list[Window]:
    """From where one looks at a box (left, top, width, height) of a picture, to see whether somebody is there."""
    left, top, wide, high = box
    return [square(left + wide / 2, top + high / 2, max(wide, high), s, h, w) for s in settings.looks]


def is_theirs(area: np.ndarray, part: np.ndarray, probable: np.ndarray) -> bool:
    """True if most of a part, bool (h, w), lies in somebody's area, and most of that is probably people."""
    return bool(area.any() and area[part].mean() > 0.5 and probable[area].mean() > 0.6)


def without(picture: np.ndarray, figures: np.ndarray, settings: CrowdSettings = CrowdSettings()) -> np.ndarray:
    """A picture uint8 RGB (h, w, 3) in which figures, float32 (h, w), 0…1, are painted over with what is around."""
    if not figures.any():
        return picture
    over = cv2.dilate((figures > settings.known).astype(np.uint8), np.ones((7, 7), np.uint8))
    h, w = over.shape
    size = max(1, w // settings.coarse), max(1, h // settings.coarse)
    rest = cv2.resize(1 - over.astype(np.float32), size, interpolation=cv2.INTER_AREA)
    seen = cv2.resize(cv2.copyTo(picture, 1 - over).astype(np.float32), size, interpolation=cv2.INTER_AREA)
    colours, weight = (cv2.GaussianBlur(v, (0, 0), max(h, w) / settings.paint / settings.coarse) for v in (seen, rest))
    painted = cv2.resize(colours / np.maximum(weight, 1e-3)[..., None], (w, h), interpolation=cv2.INTER_LINEAR)
    return np.where(over[..., None] > 0, painted.clip(0, 255).astype(np.uint8), picture)
