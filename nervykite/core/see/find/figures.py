"""Figures: where people stand, run and leap in a picture, and the rough silhouette of each.

A detector finds hips and reach of a figure (BlazePose, Bazarevsky et al. 2020), a second network draws its silhouette
in a square around it, turned so that the figure stands upright. Both see 256 × 256 pixels at most, so a small figure
has to be looked for in a part of the picture.
"""

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import cv2
import numpy as np

from ..matte.networks import CAREFUL, DETECTOR, SILHOUETTE, likely, network

SIDE, CROP = 224, 256


@dataclass(frozen=True)
class FigureSettings:
    """When a figure is somebody, and how it is drawn."""

    least: float = 0.35
    """How sure the detector has to be of a figure."""
    seen: float = 0.75
    """The detector's certainty, 0…1, from which on somebody is there."""
    drawn: float = 0.7
    """The certainty of what draws the silhouette, 0…1, from which on somebody is there."""
    agrees: float = 0.1
    """The distance within which both place somebody if they agree, in the figure's reach."""
    agreed: float = 0.82
    """The certainty of what draws, 0…1, that is enough if both agree, whatever the detector says."""
    margin: float = 1.25
    """How much wider than the figure's reach the square around it is."""
    second: float = 0.4
    """The say of the second, larger network that draws, 0…1."""
    sure: float = 8.0
    """The logit from which on either is as sure as can be."""
    most: int = 5
    """How many figures are drawn in one picture."""
    same_mover: float = 0.6
    """The share of a figure that moves, if it is what moves."""


Window = tuple[int, int, int, int]
"""Left, top, right, bottom of a part of a picture, in pixels."""


@dataclass(frozen=True)
class Figure:
    """Somebody: the middle of the hips, and the end of the reach above the head, (2,) in pixels; how sure, 0…1."""

    hips: np.ndarray
    top: np.ndarray
    sure: float

    @cached_property
    def reach(self) -> float:
        """From the hips to the end of the reach, in pixels."""
        return float(np.linalg.norm(self.top - self.hips))


class DrawnFigure(NamedTuple):
    """A figure as a network draws it.

    alpha: how likely each pixel is the figure's, float32 (h, w), 0…1; inside: how far this says anything about the
    pixel, float32 (h, w), 0…1; placed: the figure as the network places it, which is what to go by in the next frame.
    """

    alpha: np.ndarray
    inside: np.ndarray
    placed: Figure


class Posed(NamedTuple):
    """A figure's pose as a network sees it.

    joints: the places of 33 points of the body in the picture, (33, 2), in the order of BlazePose; shown: how likely
    each is in sight, (33,), 0…1; placed: the figure as the network places it; logits: its silhouette in the square that
    was looked at, (256, 256); crop: that square, uint8; onto: from the square's pixels to the picture's, 2×3.
    """

    joints: np.ndarray
    shown: np.ndarray
    placed: Figure
    logits: np.ndarray
    crop: np.ndarray
    onto: np.ndarray


def _anchors() -> np.ndarray:
    """The middles of the detector's cells, 0…1: (2254, 2)."""
    cells = []
    for count, repeats in ((28, 2), (14, 2), (7, 6)):
        middle = (np.arange(count) + 0.5) / count
        y, x = np.meshgrid(middle, middle, indexing="ij")
        cells.append(np.repeat(np.stack([x.ravel(), y.ravel()], 1), repeats, 0))
    return np.concatenate(cells)


ANCHORS = _anchors()


def figures_in(picture: np.ndarray, windows: list[Window], settings: FigureSettings = FigureSettings()) -> list[Figure]:
    """The figures that are seen in parts of a picture uint8 RGB (h, w, 3), the surest first. Raises Refusal."""
    found = [f for window in windows for f in _seen(picture, window, settings)]
    result: list[Figure] = []
    for figure in sorted(found, key=lambda f: -f.sure):
        apart = all(
            np.linalg.norm(figure.hips - other.hips) > 0.3 * min(figure.reach, other.reach)
            or not 0.5 < figure.reach / other.reach < 2
            for other in result
        )
        if apart:
            result.append(figure)
        if len(result) == settings.most:
            break
    return result


def _seen(picture: np.ndarray, window: Window, settings: FigureSettings) -> list[Figure]:
    left, top, right, bottom = window
    part = picture[top:bottom, left:right]
    h, w = part.shape[:2]
    if min(h, w) < 16:
        return []
    long = max(h, w)
    above, before = (long - h) // 2, (long - w) // 2
    whole = cv2.copyMakeBorder(part, above, long - h - above, before, long - w - before, cv2.BORDER_CONSTANT)
    by = cv2.INTER_AREA if long > SIDE else cv2.INTER_CUBIC
    boxes, scores = network(DETECTOR)(cv2.resize(whole, (SIDE, SIDE), interpolation=by) / 127.5 - 1)
    sure = likely(scores[:, 0])
    result = []
    for k in np.flatnonzero(sure > settings.least):
        points = boxes[k, 4:].reshape(4, 2) / SIDE + ANCHORS[k]
        hips, reach = (points[n] * long + [left - before, top - above] for n in (0, 1))
        if np.linalg.norm(reach - hips) > 8:
            result.append(Figure(hips, reach, float(sure[k])))
    return result


def silhouette(
    picture: np.ndarray, figure: Figure, careful: bool = False, settings: FigureSettings = FigureSettings()
) -> DrawnFigure:
    """A figure's rough silhouette in a picture uint8 RGB (h, w, 3). Raises Refusal.

    careful: whether a second network draws it as well, which takes three times as long: neither is the better one
    everywhere, and where they are wrong they differ.
    """
    h, w = picture.shape[:2]
    seen = posed(picture, figure, settings)
    logits = seen.logits
    if careful:
        other = network(CAREFUL)(seen.crop / 255)[2][..., 0]
        sure, second = settings.sure, settings.second
        logits = (1 - second) * logits.clip(-sure, sure) + second * other.clip(-sure, sure)
    alpha = cv2.warpAffine(likely(logits).astype(np.float32), seen.onto, (w, h), flags=cv2.INTER_LINEAR)
    rim = np.minimum(np.linspace(0, 12, CROP), np.linspace(12, 0, CROP)).clip(0, 1)
    inside = cv2.warpAffine(np.outer(rim, rim).astype(np.float32), seen.onto, (w, h), flags=cv2.INTER_LINEAR)
    return DrawnFigure(alpha, inside, seen.placed)


def posed(picture: np.ndarray, figure: Figure, settings: FigureSettings = FigureSettings()) -> Posed:
    """A figure's pose in a picture uint8 RGB (h, w, 3). Raises Refusal."""
    onto = _upright(figure, settings)
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    crop = cv2.warpAffine(picture, onto, (CROP, CROP), flags=flags)
    points, flag, drawn = network(SILHOUETTE)(crop / 255)
    points = points.reshape(39, 5)
    places = points[:, :2] @ onto[:, :2].T + onto[:, 2]
    placed = Figure(places[33], places[34], float(flag.ravel()[0]))
    return Posed(places[:33], likely(points[:33, 3]), placed, drawn[..., 0], crop, onto)


def convincing(figure: Figure, placed: Figure, settings: FigureSettings = FigureSettings()) -> bool:
    """True if somebody is there: both networks are sure, or the second one agrees where the first one saw them."""
    moved = float(np.linalg.norm(placed.hips - figure.hips)) / figure.reach
    if figure.sure > settings.seen:
        return placed.sure > settings.drawn
    return placed.sure > settings.agreed and moved < settings.agrees


def drawn(
    picture: np.ndarray, figure: Figure, moving: np.ndarray | None = None, settings: FigureSettings = FigureSettings()
) -> DrawnFigure:
    """A figure as it is drawn, and around where it is placed, if the first look was off. Raises Refusal.

    moving: bool (h, w), what moves, see `there`.
    """
    shown = silhouette(picture, figure, settings=settings)
    if not there(figure, shown, moving, settings):
        return shown
    placed = shown.placed
    off = np.linalg.norm(placed.hips - figure.hips) + abs(placed.reach - figure.reach)
    moved = off > 0.12 * figure.reach and 0.3 < placed.reach / figure.reach < 3
    alpha, inside, _ = silhouette(picture, placed if moved else figure, careful=True, settings=settings)
    return DrawnFigure(alpha, inside, placed)


def there(
    figure: Figure, shown: DrawnFigure, moving: np.ndarray | None, settings: FigureSettings = FigureSettings()
) -> bool:
    """True if a figure is somebody: the networks are sure, or what they draw is what moves, bool (h, w), if known."""
    if moving is None or convincing(figure, shown.placed, settings):
        return convincing(figure, shown.placed, settings)
    area = shown.alpha > 0.5
    return bool(shown.placed.sure > settings.drawn and (area & moving).sum() > settings.same_mover * area.sum() > 0)


def square(x: float, y: float, long: float, widen: float, h: int, w: int) -> Window:
    """A square around (x, y), `long` times `widen` wide, as far as it lies in the picture."""
    half = long * widen / 2
    return (
        int(np.clip(x - half, 0, w)), int(np.clip(y - half, 0, h)),
        int(np.clip(x + half, 0, w)), int(np.clip(y + half, 0, h)),
    )  # fmt: skip


def _upright(figure: Figure, settings: FigureSettings) -> np.ndarray:
    """From the pixels of the square around a figure to those of the picture: 2×3."""
    up = (figure.top - figure.hips) / figure.reach
    right = np.array([-up[1], up[0]])
    by = 2 * settings.margin * figure.reach / CROP
    turn = np.column_stack([right, -up]) * by
    return np.column_stack([turn, figure.hips - turn @ [CROP / 2, CROP / 2]])
