"""The prior of people in a picture: what networks say from far and near, put together, roughly."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np

from ...common.errors import Refusal
from ..matte.networks import PEOPLE, network
from ..scene.scene import working_size
from ..scene.stirring import movers
from .crowd import CrowdSettings, hidden, is_theirs, one_more
from .figures import (
    DrawnFigure,
    Figure,
    FigureSettings,
    Window,
    convincing,
    drawn,
    figures_in,
    silhouette,
    square,
    there,
)

SIDE = 256
"""Rows and columns that a network is shown."""


@dataclass(frozen=True)
class PriorSettings:
    """The settings by which what networks say of people is put together."""

    pixels: int = 330_000
    """Pixels at which people are looked for in one frame: with fewer, hands are lost."""
    crowd: CrowdSettings = field(default_factory=CrowdSettings)
    """How figures are told, and found beside others."""
    outlined: float = 4.0
    """How much a figure's silhouette counts beside what is said of people in general."""
    apart: float = 0.06
    """The distance from a figure, in its reaches, from which on it says nothing of what is likely there."""
    unlike: float = 0.1
    """The part of the likelihood, 0…1, that is left farther away than that."""
    least_apart: float = 0.045
    """The smallest part of the figures' area, 0…1, that is looked at for being somebody else."""
    least_on_it: float = 0.12
    """The smallest part of it, 0…1, if it hangs together with them: a head of somebody half hidden is no animal."""
    in_one: int = 4
    """How many people are looked for in one thing that moves, at most."""
    hints: int = 6
    """The number of things that move that are looked at."""
    agree: float = 0.35
    """The difference by which people have to be likelier in one than beside it, 0…1."""
    look: float = 3.0
    """The say of a look at somebody who moves."""
    motion: float = 1.5
    """The say of the movement itself."""
    beside: int = 21
    """The distance from what moves within which everything may be likely, px."""
    stands: float = 0.2
    """The part of the likelihood that is left of what does not move, 0…1."""


def likelihood(picture: np.ndarray) -> np.ndarray:
    """The likelihood of people at each pixel of a picture uint8 RGB (h, w, 3): float32 (h, w), 0…1. Raises Refusal."""
    small = cv2.resize(picture, (SIDE, SIDE), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    answer = network(PEOPLE)(small)[0][..., 0]
    grown = cv2.resize(np.clip(answer, 0, 1), (picture.shape[1], picture.shape[0]), interpolation=cv2.INTER_CUBIC)
    return np.clip(grown, 0, 1)


def prior(
    picture: np.ndarray,
    near: np.ndarray | None = None,
    wanted: np.ndarray | None = None,
    stirs: np.ndarray | None = None,
    closely: bool = True,
    settings: PriorSettings = PriorSettings(),
) -> np.ndarray:
    """The prior: what the networks say of several crops, put together: float32 (h, w), 0…1. Raises Refusal.

    The full picture and squares of it disagree, and either may be right; a crop counts by how sure it is of itself.
    Figures that are found are looked at once more from near, with their silhouettes. `near` (h, w), 0…1, says where to
    look as well: an earlier answer, or the hull of strokes. `wanted` (h, w), 1 where strokes keep and -1 where they
    drop: figures that no keep stroke lies on are somebody else, and not meant. `stirs` (h, w), how much something
    moves, see `stirring`: if people do, what does not move has to be a figure to be somebody as well. closely: whether
    somebody small is looked for in many small squares if nobody else is found and nothing says where.
    """
    h, w = picture.shape[:2]
    told = settings.crowd.figures
    heard = _Heard(picture, wanted, settings)
    parts = _parts(h, w)
    for number, part in enumerate(parts):
        heard.ask(part, 0.8 if number else 1.0)
    hinted = None if near is None else _box(near)
    if hinted and wanted is None:
        heard.ask(square(*hinted, 1.4, h, w), 1.5)
    things = [] if stirs is None else _movers(picture, movers(cv2.GaussianBlur(stirs, (0, 0), 1.6)), settings)
    views = [(window, own) for window, own in things if window is not None]
    for window, _ in views:
        heard.ask(window, settings.look)
    near_it = [square(*hinted, 1.6, h, w)] if hinted else []
    figures = figures_in(picture, [*parts, *near_it, *(window for window, _ in views)], told)
    # Somebody small shows only from near; strokes have said where that is.
    if closely and not any(f.sure > told.seen for f in figures) and not views and wanted is None:
        near_by = [f for f in figures_in(picture, _tiles(h, w), told) if f.sure > told.seen]
        figures = near_by or figures
    if not figures and not views:
        guide = _box(heard.likely) or hinted
        if guide is not None:
            figures = figures_in(picture, [square(*guide, 1.6, h, w)], told)
        if not figures:
            for widen in (1.7, 1.3):
                box = _box(heard.likely) or hinted
                if box is not None:
                    heard.ask(square(*box, widen, h, w), 2.5)
            return heard.likely
    moving = np.zeros((h, w), bool)
    for _, own in views:
        moving |= own
    heard.take_all(figures, [own for _, own in things], moving)
    return heard.with_figures(moving if views else None)


class _Heard:
    """Say of several looks at a picture uint8 RGB (h, w, 3) about people in it, put together; wanted: see `prior`."""

    def __init__(self, picture: np.ndarray, wanted: np.ndarray | None, settings: PriorSettings) -> None:
        self._settings = settings
        self._picture, self._wanted = picture, wanted
        shape = picture.shape[:2]
        self._total, self._weight = np.zeros(shape, np.float32), np.full(shape, 1e-4, np.float32)
        self._somebody, self._others, self._says = (np.zeros(shape, np.float32) for _ in range(3))
        self._long = 0.0

    def ask(self, window: Window, trust: float) -> None:
        """Looks at a part of the picture, which has a say by how sure it is of itself."""
        left, top, right, bottom = window
        crop = self._picture[top:bottom, left:right]
        if min(crop.shape[:2]) < 24:
            return
        found = likelihood(crop)
        sure = trust * (0.05 + (2 * found - 1) ** 2) * _window(*found.shape)  # a crop knows least about its own rim
        self._total[top:bottom, left:right] += sure * found
        self._weight[top:bottom, left:right] += sure

    def take_all(self, figures: Sequence[Figure], things: Sequence[np.ndarray], moving: np.ndarray) -> None:
        """Takes in figures that are somebody, and who is hidden among things that move, bool (h, w) each."""
        told = self._settings.crowd.figures
        for figure in figures:
            shown = drawn(self._picture, figure, moving, told)
            if there(figure, shown, moving, told):
                self.take(figure, shown)
        for own in things:
            for _ in range(self._settings.in_one):
                found = one_more(self._picture, own, self.known, self._settings.crowd)
                if found is None:
                    break
                self.take(*found)

    def take(self, figure: Figure, shown: DrawnFigure) -> None:
        """Looks once more at a figure that is somebody, and takes its silhouette, unless somebody else is meant."""
        h, w = self._picture.shape[:2]
        self._long = max(self._long, min(figure.reach, shown.placed.reach))
        self.ask(square(float(figure.hips[0]), float(figure.hips[1]), 2 * figure.reach, 1.2, h, w), 0.8)
        if self._is_meant(shown.alpha):
            self._somebody = np.maximum(self._somebody, shown.alpha)
            self._says = np.maximum(self._says, shown.inside * shown.placed.sure)
        else:
            self._others = np.maximum(self._others, shown.alpha)

    def _is_meant(self, alpha: np.ndarray) -> bool:
        return self._wanted is None or _meant(alpha > 0.5, self._wanted)

    @property
    def known(self) -> np.ndarray:
        """The silhouettes of all who were taken, float32 (h, w), 0…1."""
        return np.maximum(self._somebody, self._others)

    @property
    def likely(self) -> np.ndarray:
        """The likely people by the looks alone, float32 (h, w), 0…1."""
        return np.clip(self._total / self._weight, 0, 1)

    def with_figures(self, moving: np.ndarray | None) -> np.ndarray:
        """The likely people that are meant, by all that is known; moving: what moves, if that looks like people."""
        share = self._settings.outlined * self._says * (0.05 + (2 * self._somebody - 1) ** 2)
        weight = self._weight + share
        likely = np.clip((self._total + share * self._somebody) / weight, 0, 1)
        likely *= 1 - self._others * (1 - self._somebody)
        if moving is not None:
            likely = _with_movement(likely, weight, moving, self._somebody, self._settings)
        known, somebody = self.known, self._somebody
        for alpha in hidden(self._picture, likely, known, self._settings.crowd) if known.any() else ():
            known = np.maximum(known, alpha)
            if self._is_meant(alpha):
                likely, somebody = np.maximum(likely, alpha), np.maximum(somebody, alpha)
            else:
                likely *= 1 - alpha * (1 - somebody)
        return _borne_out(self._picture, likely, known, self._long, self._settings) if somebody.any() else likely


def _movers(picture: np.ndarray, moving: np.ndarray, settings: PriorSettings) -> list[tuple[Window | None, np.ndarray]]:
    """The larger parts of what moves, bool (h, w), and from where each looks most like people, if it does at all."""
    h, w = moving.shape
    count, labels, stats, _ = cv2.connectedComponentsWithStats(moving.astype(np.uint8))
    areas = stats[1:, cv2.CC_STAT_AREA]
    result = []
    for number in 1 + np.argsort(-areas)[: settings.hints]:
        left, top, wide, high, area = stats[number]
        if area < settings.crowd.least_mover * moving.size:
            break
        part = labels == number
        best, where = settings.agree, None
        for widen in settings.crowd.looks:
            window = square(left + wide / 2, top + high / 2, max(wide, high), widen, h, w)
            inside = slice(window[1], window[3]), slice(window[0], window[2])
            if min(window[3] - window[1], window[2] - window[0]) < 24:
                continue
            found, own = likelihood(picture[inside]), part[inside]
            agree = float(found[own].mean() - (found[~own].mean() if not own.all() else 0))
            if agree > best:
                best, where = agree, window
        result.append((where, part))
    return result


def _with_movement(
    likely: np.ndarray, known: np.ndarray, moving: np.ndarray, figures: np.ndarray, settings: PriorSettings
) -> np.ndarray:
    """The likely people (h, w), with what moves, bool (h, w), beside the say `known` of the looks so far.

    What is neither near to that nor one of the figures (h, w), 0…1, is nobody.
    """
    moves = moving.astype(np.float32)
    near = cv2.dilate(moves, np.ones((settings.beside, settings.beside), np.uint8))
    share = settings.motion * near / known
    mixed = (likely + share * cv2.GaussianBlur(moves, (0, 0), 3)) / (1 + share)
    return mixed * np.clip(near + 2 * figures, settings.stands, 1)


def _borne_out(
    picture: np.ndarray, likely: np.ndarray, figures: np.ndarray, long: float, settings: PriorSettings
) -> np.ndarray:
    """The likely people (h, w), but for large parts beside the figures in which no figure is found: animals.

    figures (h, w): the silhouettes of those that were found; long: their greatest reach, px.
    """
    h, w = likely.shape
    told = settings.crowd.figures
    radius = max(2, round(settings.apart * long))
    disc, wide_disc = (
        cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * r + 1, 2 * r + 1)) for r in (radius, 2 * radius)
    )
    drawn, probable = figures > 0.5, likely > 0.5
    beside = probable & (cv2.dilate(drawn.astype(np.uint8), disc) == 0)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(beside.astype(np.uint8))
    wholes = cv2.connectedComponents(probable.astype(np.uint8))[1]
    with_figures = np.unique(wholes[drawn & probable])
    nobody = np.zeros((h, w), np.float32)
    for part in range(1, count):
        left, top, wide, high, area = stats[part]
        share = area / max(1, drawn.sum())
        if share < settings.least_apart:
            continue
        own, side = labels == part, max(wide, high)
        if share < settings.least_on_it and wholes[own][0] in with_figures:
            continue
        windows = [square(left + wide / 2, top + high / 2, s, 1.0, h, w) for s in (1.6 * side, 2.4 * side, 2.6 * long)]
        if not any(_covers(picture, figure, own, probable, told) for figure in figures_in(picture, windows, told)):
            nobody = np.maximum(nobody, cv2.dilate(own.astype(np.float32), wide_disc))
    unlike = cv2.GaussianBlur(nobody, (0, 0), 2) * np.clip(2 - 3 * figures, 0, 1)
    return likely * (1 - (1 - settings.unlike) * unlike)


def _covers(picture: np.ndarray, figure: Figure, part: np.ndarray, probable: np.ndarray, told: FigureSettings) -> bool:
    """True if somebody is there, and most of the part bool (h, w) is theirs, and most of them is probably people."""
    shown = drawn(picture, figure, settings=told)
    return convincing(figure, shown.placed, told) and is_theirs(shown.alpha > 0.5, part, probable)


def _meant(area: np.ndarray, wanted: np.ndarray) -> bool:
    """True if strokes, 1 or -1 (h, w), mean the figure that covers an area (h, w)."""
    kept, dropped = (area & (wanted > 0)).sum(), (area & (wanted < 0)).sum()
    return bool(kept > 0.08 * (wanted > 0).sum() and kept > dropped)


def _parts(h: int, w: int) -> list[Window]:
    """The whole picture, and squares along it."""
    side = min(h, w)
    parts: list[Window] = [(0, 0, w, h)]
    if max(h, w) > 1.25 * side:
        for k in range(3):
            shift = round((max(h, w) - side) * k / 2)
            left, top = (0, shift) if h >= w else (shift, 0)
            parts.append((left, top, left + side, top + side))
    return parts


def _tiles(h: int, w: int) -> list[Window]:
    """Small squares all over the picture, half of each in the next."""
    side = max(48, round(0.55 * min(h, w)))
    lefts, tops = (np.linspace(0, n - side, max(2, round(2 * n / side))).round().astype(int) for n in (w, h))
    return [(int(x), int(y), int(x) + side, int(y) + side) for y in tops for x in lefts]


def person_hint(
    picture: np.ndarray,
    keep: np.ndarray | None = None,
    drop: np.ndarray | None = None,
    settings: PriorSettings = PriorSettings(),
) -> np.ndarray | None:
    """The prior for a picture uint8 RGB (h, w, 3) as a help for marks, of `settings.pixels` at most; None if it is off.

    keep, drop: bool (h, w) of any size, what strokes cover: it is then the prior of whom they mean.
    """
    height, width = picture.shape[:2]
    size = working_size(width, height, settings.pixels)

    def small(mask: np.ndarray) -> np.ndarray:
        return cv2.resize(mask.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.1

    wanted = None if keep is None or drop is None else small(keep).astype(np.int8) - small(drop)
    try:
        shrunk = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
        hull = None if wanted is None else _hull(wanted > 0)
        return prior(shrunk, hull, wanted, settings=settings)
    except Refusal:
        return None


def people(picture: np.ndarray, quick: bool, settings: PriorSettings = PriorSettings()) -> np.ndarray | None:
    """The prior for one of many frames, uint8 RGB (h, w, 3); one glance if it has to be quick. None if it is off.

    Nobody small is looked for: what moves shows that better, and sooner.
    """
    try:
        return glance(picture, settings) if quick else prior(picture, closely=False, settings=settings)
    except Refusal:
        return None


def glance(picture: np.ndarray, settings: PriorSettings = PriorSettings()) -> np.ndarray:
    """A quick prior: people in the whole picture, and the silhouettes of figures that show in it. Raises Refusal."""
    h, w = picture.shape[:2]
    result, told = likelihood(picture), settings.crowd.figures
    for figure in figures_in(picture, [(0, 0, w, h)], told)[:2]:
        alpha, inside, placed = silhouette(picture, figure, settings=told)
        if convincing(figure, placed, told):
            result = np.maximum(result * (1 - 0.5 * inside), alpha)
    return result


def _hull(mask: np.ndarray) -> np.ndarray | None:
    """The convex hull of what a mask (h, w) covers: float32 (h, w), 0 or 1; None if that is nothing."""
    points = cv2.findNonZero(mask.astype(np.uint8))
    if points is None:
        return None
    return cv2.fillConvexPoly(np.zeros(mask.shape, np.float32), cv2.convexHull(points), 1.0)


def _window(h: int, w: int) -> np.ndarray:
    y, x = (np.minimum(np.linspace(0.15, 2.5, n), np.linspace(2.5, 0.15, n)).clip(0, 1) for n in (h, w))
    return (y[:, None] * x[None, :]).astype(np.float32)


def _box(guide: np.ndarray) -> tuple[float, float, float] | None:
    """The middle and the longer side of the largest area of a likelihood (h, w)."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats((guide > 0.5).astype(np.uint8))
    if count < 2:
        return None
    mass = np.bincount(labels.ravel(), guide.ravel(), minlength=count)
    mass[0] = 0
    x, y, w, h, _ = stats[int(np.argmax(mass))]
    return float(x + w / 2), float(y + h / 2), float(max(w, h, 32))
