"""A stack: frames of a shot, laid onto one of them as the camera went, in one light."""

import functools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np

from ...common.aside import side_by_side
from .align import AlignSettings, between, contrast, features, onto, stands_still, stood_before_something_plain

FOLLOWED = 40
"""How many frames the camera is followed through at most: more than are compared, so that it is not lost."""
SIGHT, FEWEST = 0.25, 4
"""The share of what the held frame shows that another one has to see, to be compared with it, if so many frames do."""

Ways = dict[int, np.ndarray]
"""How frames lie on one of them, by their number in the shot: homographies (3, 3), pixels to pixels."""


@dataclass(frozen=True)
class Stack:
    """Frames of a shot, laid onto one of them.

    frames: uint8 (n, h, w, 3), the held frame first; valid: bool (n, h, w), where a frame saw anything;
    moving: bool (n, h, w), where something moved against the camera; still: whether the camera stood; ways: for frames
    that were followed, by their number in the shot, how they lie on the held one (3, 3), if the camera moved; numbers:
    the n frames' numbers in the shot.
    """

    frames: np.ndarray
    valid: np.ndarray
    moving: np.ndarray
    still: bool
    ways: Ways = field(default_factory=dict)
    numbers: tuple[int, ...] = ()

    def onto(self, number: int, values: np.ndarray) -> np.ndarray:
        """Values (h, w) of a frame of the shot, by its number, as the held frame sees them; 0 beyond it."""
        way = self.ways.get(number)
        h, w = values.shape
        return values if way is None else cv2.warpPerspective(values, way, (w, h), flags=cv2.INTER_LINEAR)


def lay(
    frames: Sequence[np.ndarray], at: int, most: int = 28, known: Callable[[], np.ndarray | None] = lambda: None,
    ways: Ways | None = None,
) -> Stack:  # fmt: skip
    """Lays frames of a shot (uint8 RGB (h, w, 3), in order) onto frame `at`.

    At most `most` of them are taken, evenly, of those that see enough of what it shows. Brightness is evened out by
    each frame's usual gain, which takes away exposure drift and flicker. By what is `known` of a subject, bool (h, w),
    frame `at` must not be followed; that is asked for when it is needed. ways: about how some frames lie on it, itself
    among them, if the camera moved and that is known: then only those are taken, and looked for right there.
    """
    h, w = frames[at].shape[:2]
    chosen = compared(len(frames), at, most)
    followed = _camera(frames, at, chosen, known) if ways is None else ways
    still = followed is None
    if followed is not None:
        near = [n for n in sorted(followed) if _in_sight(followed[n], h, w) > SIGHT]
        if ways is not None and len(near) < FEWEST:
            near = sorted(followed)
        if ways is not None or FEWEST <= len(near) < len(followed):
            chosen = [near[k] for k in _chosen(len(near), near.index(at), most)[0]]
        if ways is not None:
            followed = ways | _exactly(frames, at, {n: ways[n] for n in chosen if n != at}, known())
    pictures: dict[int, np.ndarray] = {}
    seen: dict[int, np.ndarray] = {}
    for n in chosen:
        if followed is None or n == at:
            pictures[n], seen[n] = frames[n], np.ones((h, w), bool)
        elif n in followed:
            pictures[n] = cv2.warpPerspective(frames[n], followed[n], (w, h), flags=cv2.INTER_LINEAR)
            seen[n] = cv2.warpPerspective(np.full((h, w), 255, np.uint8), followed[n], (w, h)) > 250
        else:
            continue
        if n != at:
            pictures[n] = evened(pictures[n], frames[at], seen[n])
    order = [at, *(n for n in pictures if n != at)]
    moving = _moving(pictures, seen)
    return Stack(
        np.stack([pictures[n] for n in order]),
        np.stack([seen[n] for n in order]),
        np.stack([moving[n] for n in order]),
        still,
        followed or {},
        tuple(order),
    )


def _exactly(frames: Sequence[np.ndarray], at: int, ways: Ways, subject: np.ndarray | None) -> Ways:
    """The maps of frames onto frame `at`, of which is known about how; a subject, bool (h, w), is not followed."""
    clear = contrast(frames[at])
    points = features(clear, AlignSettings().corners, subject)

    def exactly(n: int) -> np.ndarray:
        there = between(clear, contrast(frames[n]), points, np.linalg.inv(ways[n]))
        return ways[n] if there is None else np.linalg.inv(there)

    found = side_by_side(functools.partial(exactly, n) for n in ways)
    return dict(zip(ways, found, strict=True))


def _camera(
    frames: Sequence[np.ndarray], at: int, chosen: list[int], known: Callable[[], np.ndarray | None]
) -> Ways | None:
    """The maps of frames onto frame `at`, those chosen among them unless the camera got lost; None if it stood."""
    followed, at_followed = _chosen(len(frames), at, FOLLOWED)
    seen_as = list(side_by_side(functools.partial(contrast, frames[n]) for n in chosen))
    held, subject = chosen.index(at), known()
    if stands_still(seen_as, held, subject) or stood_before_something_plain(seen_as, held, subject):
        return None
    clear = dict(zip(chosen, seen_as, strict=True))
    rest = [n for n in followed if n not in clear]
    clear |= zip(rest, side_by_side(functools.partial(contrast, frames[n]) for n in rest), strict=True)
    found = onto([clear[n] for n in followed], at_followed, subject)
    return {n: way for n, way in zip(followed, found, strict=True) if way is not None}


def _in_sight(way: np.ndarray, h: int, w: int) -> float:
    """The share of a frame (h, w) that another one sees, which lies on it as a homography says."""
    frame = np.array([[[0, 0]], [[w, 0]], [[w, h]], [[0, h]]], np.float32)
    area, _ = cv2.intersectConvexConvex(frame, cv2.perspectiveTransform(frame, way))
    return float(area) / (w * h)


def compared(count: int, at: int, most: int) -> list[int]:
    """The numbers of those of `count` frames that `lay` takes if they see the same, frame `at` among them, in order."""
    followed, at_followed = _chosen(count, at, FOLLOWED)
    return [followed[n] for n in _chosen(len(followed), at_followed, most)[0]]


def _chosen(count: int, at: int, most: int) -> tuple[list[int], int]:
    """At most `most` of `count` frames, evenly, frame `at` among them; and which of them that is."""
    if count <= most:
        return list(range(count)), at
    spaced = {round(k) for k in np.linspace(0, count - 1, most)}
    spaced.discard(min(spaced, key=lambda k: abs(k - at)))
    chosen = sorted(spaced | {at})
    return chosen, chosen.index(at)


def evened(picture: np.ndarray, reference: np.ndarray, seen: np.ndarray) -> np.ndarray:
    """A picture with a reference's brightness, as most of the pixels have it: uint8 (h, w, 3), or grey (h, w).

    What differs is left alone if it is next to nothing, or so much that it is not the exposure. seen: bool (h, w), the
    pixels that count.
    """
    sample, known = (p[::4, ::4][seen[::4, ::4]].astype(np.float32) for p in (picture, reference))
    if len(sample) < 50:
        return picture
    gain = np.median((known + 8) / (sample + 8), 0)
    if not 0.004 < np.abs(gain - 1).max() < 0.3:
        return picture
    return np.clip(picture * gain.astype(np.float32), 0, 255).astype(np.uint8)


def _moving(pictures: dict[int, np.ndarray], seen: dict[int, np.ndarray]) -> dict[int, np.ndarray]:
    """Where each of the laid pictures, by number, moves against both of its neighbours: bool (h, w).

    What is about to be covered, or was just uncovered, is only found again in one of them; it does not move. Where
    only one of them sees it, that one decides.
    """
    flow = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_ULTRAFAST)
    numbers = sorted(pictures)
    h, w = pictures[numbers[0]].shape[:2]
    small = (w // 2, h // 2)
    grey = {
        n: cv2.resize(cv2.cvtColor(p, cv2.COLOR_RGB2GRAY), small, interpolation=cv2.INTER_AREA)
        for n, p in pictures.items()
    }
    clear = {n: cv2.resize(s.astype(np.uint8), small, interpolation=cv2.INTER_NEAREST) > 0 for n, s in seen.items()}

    def against(n: int, other: int) -> np.ndarray:
        # Where one sees nothing it is given what the other sees: the rim of nothing would move.
        own, next_to = np.where(clear[n], grey[n], grey[other]), np.where(clear[other], grey[other], grey[n])
        motion = flow.calc(own, next_to, None)  # type: ignore[call-overload]
        fast = cv2.dilate((cv2.magnitude(*cv2.split(motion)) > 0.6).astype(np.uint8), np.ones((5, 5), np.uint8))
        moves = cv2.resize(fast, (w, h), interpolation=cv2.INTER_NEAREST) > 0
        return np.where(seen[n] & seen[other], moves, True)

    result = {}
    for k, n in enumerate(numbers):
        others = [*numbers[max(0, k - 1) : k], *numbers[k + 1 : k + 2]]
        asked = np.any([seen[n] & seen[o] for o in others], axis=0) if others else np.zeros((h, w), bool)
        result[n] = np.logical_and.reduce([asked, *(against(n, o) for o in others)])
    return result
