"""Registration of frames: homographies between frames of a camera that pans, tilts, zooms, shakes."""

import functools
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from ...common.aside import side_by_side
from .direct_alignment import by_edges


@dataclass(frozen=True)
class AlignSettings:
    """The settings by which frames are laid onto each other."""

    corners: int = 320
    """Corners of a frame by which others are laid onto it, at most."""
    still: float = 0.35
    """Pixels of movement below which a corner counts as standing."""
    soft: float = 1.5
    """How much noise is smoothed away, px."""
    around: int = 16
    """The distance around a pixel over which contrast is made the same: the frame's side in so many parts."""
    faint: float = 4.0
    """The contrast, in levels, from which on it is made the same."""
    strong: float = 25.0
    """The contrast that it then has, in levels."""
    tries: int = 3
    """How many motions are looked for among corners."""
    cells: int = 10
    """The cells that the frame's shorter side is parted into, to see how far each motion reaches."""
    wide: float = 0.6
    """The share of all cells with corners, 0…1, from which on one motion is enough."""
    clearer: float = 0.08
    """How much better a motion has to tell what a cell shows, in what is left unexplained by either, to count there."""
    outer: float = 2.0
    """The weight of a cell near the frame's edge, where a subject seldom is."""
    rim: int = 2
    """The number of cells side by side that are near the edge."""
    leans: float = 1.25
    """By how much farther a motion has to reach to be taken for the camera's if that leans: such a motion is found in
    two that are mixed up, too."""
    told: float = 8.0
    """The variation of a cell, in levels, from which on it can tell a movement."""
    told_by: int = 2
    """The number of such cells along a side of a frame that is not plain."""
    beside: tuple[int, ...] = (-2, -1, 1, 2)
    """Which frames are asked whether the camera stood before something plain, counted from the one that is looked
    at."""
    moves: float = 1.0
    """How far a corner of the frame has to move, px, if that is to be told from standing."""
    simpler: float = 1.15
    """How much farther off than a homography's a mere turn and zoom's corners may be to prefer that, which is
    steadier."""


ENOUGH = (cv2.TERM_CRITERIA_COUNT + cv2.TERM_CRITERIA_EPS, 15, 0.03)
"""When a corner has been followed: after so many steps, or when they are as short as this, in pixels."""


def features(grey: np.ndarray, count: int = 500, subject: np.ndarray | None = None) -> np.ndarray:
    """Corners worth following (Shi and Tomasi 1994), spread over the frame: float32 (n, 1, 2).

    None of them lies on `subject`, bool (h, w), or right beside it.
    """
    allowed = None
    if subject is not None and 0 < subject.mean() < 0.9:
        allowed = 1 - cv2.dilate(subject.astype(np.uint8), np.ones((9, 9), np.uint8))
    found = cv2.goodFeaturesToTrack(grey, count, 0.004, max(4, min(grey.shape) // 45), mask=allowed, blockSize=5)
    return np.empty((0, 1, 2), np.float32) if found is None else found


def contrast(frame: np.ndarray, settings: AlignSettings = AlignSettings()) -> np.ndarray:
    """A frame, uint8 RGB (h, w, 3), in grey and with the same contrast everywhere it has any: uint8 (h, w).

    A place that is blurred or nearly even is otherwise no match for a subject with strong corners.
    """
    grey = cv2.GaussianBlur(cv2.cvtColor(frame, cv2.COLOR_RGB2GRAY).astype(np.float32), (0, 0), settings.soft)
    side = 2 * (min(grey.shape) // settings.around) + 1
    mean = cv2.blur(grey, (side, side))
    spread = np.sqrt(np.maximum(cv2.blur(grey * grey, (side, side)) - mean * mean, 0))
    return np.clip(128 + settings.strong * (grey - mean) / (spread + settings.faint), 0, 255).astype(np.uint8)


def between(
    first: np.ndarray, other: np.ndarray, points: np.ndarray, guess: np.ndarray,
    settings: AlignSettings = AlignSettings(),
) -> np.ndarray | None:  # fmt: skip
    """The homography (3, 3) from the pixels of `first` to those of `other`, both from `contrast`.

    points: corners of `first`; guess: a homography near the answer. Corners are followed there and back
    (Lucas and Kanade, pyramids after Bouguet 2001), the rest is settled by MAGSAC++ (Barath et al. 2020): of the
    motions that many corners share the one that explains most of the picture is the camera's, so that what moves on its
    own does not count, though it may have more corners. Where none reaches far over the picture, the motion of its
    edges is tried as well. None if too little is left.
    """
    found, sure = _motions(*pairs(first, other, points, guess), first.shape, settings)
    if not sure:
        by_all = by_edges(first, other, guess)
        found += [by_all] if by_all is not None and _plausible(by_all, first.shape) else []
    if not found:
        return None
    best, *rivals = found
    for rival in rivals:
        if _explains(first, other, rival, best, settings) > 0:
            best = rival
    return best


def _explains(
    first: np.ndarray, other: np.ndarray, one: np.ndarray, rival: np.ndarray, settings: AlignSettings
) -> float:
    """In how many more cells of `first` a homography tells better what `other` shows than its rival does.

    Faint edges count as much as strong corners: a place that holds few corners is still most of the picture.
    """
    off, off_rival = (_left_over(first, other, m, settings) for m in (one, rival))
    return float((_better(off, off_rival, settings) * _counts(off.shape, settings)).sum())


def _left_over(first: np.ndarray, other: np.ndarray, mapping: np.ndarray, settings: AlignSettings) -> np.ndarray:
    """The residual of `first` from what a homography makes of `other`, in levels: float32 (rows, columns) of cells."""
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    seen = cv2.warpPerspective(other, mapping, first.shape[::-1], flags=flags, borderMode=cv2.BORDER_REPLICATE)
    return _by_cells(cv2.absdiff(first, seen), settings)


def _by_cells(values: np.ndarray, settings: AlignSettings) -> np.ndarray:
    """The mean of values (h, w) in each cell, as exact as their type: float32 (rows, columns)."""
    h, w = values.shape
    side = min(h, w) / settings.cells
    cells = cv2.resize(values, (round(w / side), round(h / side)), interpolation=cv2.INTER_AREA)
    return cells.astype(np.float32)


def _better(off: np.ndarray, off_rival: np.ndarray, settings: AlignSettings) -> np.ndarray:
    """Where one motion clearly leaves less over than its rival does (1), or more (-1): float32 of cells."""
    clear = settings.clearer * (off + off_rival) + 0.5
    return (off < off_rival - clear).astype(np.float32) - (off_rival < off - clear)


def _counts(cells: Sequence[int], settings: AlignSettings) -> np.ndarray:
    """The weights of the cells of a frame: float32 (rows, columns), 1, or more near the frame's edge."""
    counts = np.full(cells, settings.outer, np.float32)
    counts[settings.rim : -settings.rim, settings.rim : -settings.rim] = 1
    return counts


def pairs(first: np.ndarray, other: np.ndarray, points: np.ndarray, guess: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Those corners of `first` that are found again in `other`, see `between`, and where: float32 (n, 1, 2) each."""
    if not len(points):
        return points, points
    start = cv2.perspectiveTransform(points, guess).astype(np.float32)
    there, seen = _followed(first, other, points, start)
    back, seen_back = _followed(other, first, there, points)
    good = (seen.ravel() > 0) & (seen_back.ravel() > 0) & (np.linalg.norm(back - points, axis=2).ravel() < 0.7)
    return points[good], there[good]


def homography(
    points: np.ndarray, there: np.ndarray, shape: tuple[int, ...], settings: AlignSettings = AlignSettings()
) -> np.ndarray | None:
    """The homography by which `points` of a frame of a shape (h, w) came to lie `there`, float32 (n, 1, 2): (3, 3); see
    `between`.

    Of the motions that many of them share it is the one that reaches farthest.
    """
    found, _ = _motions(points, there, shape, settings)
    return found[0] if found else None


def _motions(
    points: np.ndarray, there: np.ndarray, shape: tuple[int, ...], settings: AlignSettings
) -> tuple[list[np.ndarray], bool]:
    """The homographies (3, 3) that many points share, the one that reaches farthest over the frame first.

    And whether one of them reaches so far that no other needs to be tried.
    """
    sure = False
    left = np.arange(len(points))
    side = min(shape) / settings.cells
    counts = _counts([max(1, round(n / side)) for n in shape], settings)
    columns, rows = np.floor(points.reshape(-1, 2) / side).astype(int).T
    cells = np.clip(rows, 0, counts.shape[0] - 1) * counts.shape[1] + np.clip(columns, 0, counts.shape[1] - 1)

    def reached(those: np.ndarray) -> float:
        return float(counts.ravel()[np.unique(cells[those])].sum())

    found: list[tuple[float, np.ndarray]] = []
    for _ in range(settings.tries):
        if len(left) < 12:
            break
        fewest = max(10, 0.2 * len(left))
        largest, reach, best = left[:0], 0.0, None
        for of_one, price in zip(_of_one_motion(points[left], there[left]), (1.0, settings.leans), strict=True):
            if of_one.sum() < fewest:
                continue
            those = left[of_one]
            largest = max(largest, those, key=len)
            mapping, _ = cv2.findHomography(points[those], there[those], 0)
            far = reached(those) / price
            if mapping is not None and far > reach and _plausible(mapping, shape):
                best, reach = _steadier(mapping, points[those], there[those], settings), far
        if best is not None:
            found.append((reach, best))
        left = np.setdiff1d(left, largest)
        sure = reach > settings.wide * reached(np.arange(len(points)))
        if sure or not len(largest):
            break
    return [mapping for _, mapping in sorted(found, key=lambda one: -one[0])], sure


def _of_one_motion(points: np.ndarray, there: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The points (n, 1, 2) that moved as one: by a turn and zoom, and by a homography, that many share: bool (n,)."""
    none = np.zeros(len(points), bool)
    _, turned = cv2.estimateAffinePartial2D(points, there, method=cv2.RANSAC, ransacReprojThreshold=1.0)
    _, leaning = cv2.findHomography(points, there, cv2.USAC_MAGSAC, 1.0, maxIters=2000, confidence=0.999)
    by_turn, by_leaning = (none if kept is None else kept.ravel() > 0 for kept in (turned, leaning))
    return by_turn, by_leaning


def _steadier(mapping: np.ndarray, points: np.ndarray, there: np.ndarray, settings: AlignSettings) -> np.ndarray:
    """A homography, or the mere turn and zoom that does nearly as well for these points (n, 1, 2)."""
    simpler = turn_and_zoom(points, there)
    off, off_simpler = (
        np.sqrt(np.mean((cv2.perspectiveTransform(points, m) - there) ** 2)) for m in (mapping, simpler)
    )
    return simpler if off_simpler < settings.simpler * off + 0.02 else mapping


def turn_and_zoom(points: np.ndarray, there: np.ndarray) -> np.ndarray:
    """The turn, zoom and shift (3, 3) that takes points (n, 1, 2) nearest to others, by least squares."""
    x, y = points.reshape(-1, 2).astype(float).T
    none, one = np.zeros_like(x), np.ones_like(x)
    rows = np.concatenate([np.stack([x, -y, one, none], 1), np.stack([y, x, none, one], 1)])
    a, b, right, down = np.linalg.lstsq(rows, there.reshape(-1, 2).T.ravel().astype(float))[0]
    return np.array([[a, -b, right], [b, a, down], [0, 0, 1]])


def _followed(first: np.ndarray, other: np.ndarray, points: np.ndarray, start: np.ndarray, levels: int = 3):
    """Where `points` of one frame are in another, beginning at `start`, and which were found."""
    guessed = cv2.OPTFLOW_USE_INITIAL_FLOW
    there, seen, _ = cv2.calcOpticalFlowPyrLK(
        first, other, points, start.copy(), winSize=(17, 17), maxLevel=levels, criteria=ENOUGH, flags=guessed
    )
    return there, seen


def _plausible(mapping: np.ndarray, shape: tuple[int, ...]) -> bool:
    h, w = shape
    corners = np.array([[[0, 0]], [[w, 0]], [[w, h]], [[0, h]]], np.float64)
    moved = cv2.perspectiveTransform(corners, mapping)[:, 0]
    area = abs(cv2.contourArea(moved.astype(np.float32))) / (w * h)
    return bool(0.4 < area < 2.5 and np.isfinite(moved).all())


def onto(
    greys: list[np.ndarray], at: int, subject: np.ndarray | None = None, settings: AlignSettings = AlignSettings()
) -> list[np.ndarray | None]:
    """For each frame the homography (3, 3) from its pixels to those of frame `at`; None where the camera got lost.

    greys: frames from `contrast`, in order. Each frame is followed directly from frame `at`, beginning with its
    neighbour's answer, so that errors do not add up; when too little of frame `at` is left in sight, from the
    neighbour. `subject`, bool (h, w), is left out of frame `at`.
    """
    points = features(greys[at], settings.corners, subject)

    def along(order: range) -> list[np.ndarray | None]:
        found: list[np.ndarray | None] = []
        known = np.eye(3)  # from frame `at` to the frame before
        for number in order:
            direct = between(greys[at], greys[number], points, known, settings)
            if direct is None:
                before = greys[number - order.step]
                hop = between(before, greys[number], features(before, 300), np.eye(3), settings)
                if hop is None:
                    break
                direct = hop @ known
            known = direct / direct[2, 2]
            found.append(np.linalg.inv(known))
        return found + [None] * (len(order) - len(found))

    ways = range(at + 1, len(greys)), range(at - 1, -1, -1)
    onward, back = side_by_side(functools.partial(along, order) for order in ways)
    return [*reversed(back), np.eye(3), *onward]


def stands_still(
    greys: list[np.ndarray], at: int, subject: np.ndarray | None = None, settings: AlignSettings = AlignSettings()
) -> bool:
    """True if the camera stood: in most frames corners of frame `at`, here and there, are where they were.

    Asked of the corners themselves, because a homography makes a small movement out of noise. greys: from
    `contrast`; `subject`, bool (h, w), is left out of frame `at`.
    """
    points = features(greys[at], 300, subject)
    if len(points) < 12:
        return False
    h, w = greys[at].shape
    verdicts = []
    for number in np.unique(np.linspace(0, len(greys) - 1, 9).round().astype(int)):
        if number == at:
            continue
        moved, seen = _followed(greys[at], greys[number], points, points, levels=2)
        near = (np.linalg.norm(moved - points, axis=2).ravel() < settings.still) & (seen.ravel() > 0)
        cells = {(int(4 * x / w), int(4 * y / h)) for x, y in points[near].reshape(-1, 2)}
        verdicts.append(near.mean() > 0.1 and len(cells) >= 4)
    return float(np.mean(verdicts)) > 0.7 if verdicts else True


def stood_before_something_plain(
    greys: list[np.ndarray], at: int, subject: np.ndarray | None = None, settings: AlignSettings = AlignSettings()
) -> bool:
    """True if there is hardly anything to tell the camera's movement by, and what there is does not say that it moved.

    Before a plain wall or sky all corners are the subject's, and what follows them sees nothing move. What lies at the
    frame's edge is seldom a subject: if that does not move with them on two sides or more, the camera is taken to have
    stood. greys: from `contrast`; `subject`, bool (h, w), is left out of frame `at`.
    """
    first = greys[at]
    h, w = first.shape
    grey = first.astype(np.float32)
    telling = _by_cells(grey * grey, settings) - np.square(_by_cells(grey, settings)) > settings.told * settings.told
    if subject is not None:
        telling &= _by_cells(subject.astype(np.float32), settings) < 0.1

    def sides(cells: np.ndarray, enough: int) -> int:
        rims = cells[0], cells[-1], cells[:, 0], cells[:, -1]
        return sum(int(rim.sum() >= enough) for rim in rims)

    if sides(telling, settings.told_by) > 2:
        return False
    points = features(first, 320, subject)
    corners = np.array([[[0, 0]], [[w, 0]], [[w, h]], [[0, h]]], np.float64)
    moves = np.zeros(telling.shape, np.float32)
    for other in (greys[at + k] for k in settings.beside if 0 <= at + k < len(greys)):
        way = between(first, other, points, np.eye(3), settings)
        if way is not None and np.abs(cv2.perspectiveTransform(corners, way) - corners).max() > settings.moves:
            moves += _better(
                _left_over(first, other, way, settings), _left_over(first, other, np.eye(3), settings), settings
            )
    return sides(telling & (moves > 0), 1) < 2
