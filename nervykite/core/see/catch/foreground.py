"""The movers in each frame of a take: where it differs from the scene behind it, put together from frames around it."""

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np

from .camera import refined


@dataclass(frozen=True)
class Moving:
    """The settings by which movers are found.

    reach: how many frames before and after the scene is put together from; samples: how many of those; together: for
    how many frames one scene does; beside: how many frames before and after a frame is compared with as well, as who
    lingers is part of the scene; rise and full: by how many levels something has to differ to count, and to count
    fully; restless: how much the scene's own unrest (its median deviation) takes away; join: what is nearer than this
    share of the longer side is one body; still: pixels that a camera may stray and is taken to stand.
    """

    reach: int = 64
    samples: int = 17
    together: int = 24
    beside: int = 4
    rise: float = 8.0
    full: float = 20.0
    restless: float = 4.0
    join: float = 0.02
    still: float = 0.6


class Frames:
    """Small frames in order, and how the first one lies on each: what has been read so far of a take."""

    def __init__(self) -> None:
        self.first = 0
        self._pictures: list[np.ndarray] = []
        self._greys: list[np.ndarray] = []
        self._ways: list[np.ndarray] = []

    def add(self, picture: np.ndarray, grey: np.ndarray, way: np.ndarray) -> None:
        """Appends a frame, uint8 (h, w, 3) and grey (h, w), and how the take's first frame lies on it, (3, 3)."""
        self._pictures.append(picture)
        self._greys.append(grey)
        self._ways.append(way)

    def forget(self, before: int) -> None:
        """Lets go of the frames before one."""
        gone = max(0, min(before, self.past) - self.first)
        del self._pictures[:gone], self._greys[:gone], self._ways[:gone]
        self.first += gone

    @property
    def past(self) -> int:
        """The number after the last frame."""
        return self.first + len(self._greys)

    def grey(self, number: int) -> np.ndarray:
        """A frame, grey."""
        return self._greys[number - self.first]

    def picture(self, number: int) -> np.ndarray:
        """A frame, in colour."""
        return self._pictures[number - self.first]

    def onto(self, one: int, other: int) -> np.ndarray:
        """The map from a frame onto another one, (3, 3)."""
        return self._ways[other - self.first] @ np.linalg.inv(self._ways[one - self.first])


def moving(frames: Frames, window: range, settings: Moving | None = None) -> Iterator[np.ndarray]:
    """The part that moves in the frames of a window: float32 (h, w), 0…1, a frame.

    frames: has the window, and what there is around it. Colour counts as light does: whichever differs most.
    """
    settings = settings or Moving()
    middle = (window.start + window.stop) // 2
    scene, unrest, still = _scene(frames, middle, settings)
    for number in window:
        own = _soft(frames.picture(number))
        behind, uneasy = scene, unrest
        if not still:
            way = frames.onto(middle, number)
            behind, uneasy = (_laid(x, way) for x in (scene, unrest))
        passes = _apart(own, behind) - settings.restless * uneasy
        lingers = _since(frames, number, own, settings)
        yield np.clip((np.maximum(passes, lingers) - settings.rise) / settings.full, 0, 1)


def _soft(picture: np.ndarray) -> np.ndarray:
    return cv2.GaussianBlur(picture, (5, 5), 0.8)


def _apart(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """By how many levels two pictures, uint8 (h, w, 3), differ in the channel in which they do most: float32 (h, w)."""
    return _most(cv2.absdiff(one, other)).astype(np.float32)


def _laid(picture: np.ndarray, way: np.ndarray) -> np.ndarray:
    h, w = picture.shape[:2]
    return cv2.warpAffine(picture, way[:2], (w, h), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)


def _scene(frames: Frames, middle: int, settings: Moving) -> tuple[np.ndarray, np.ndarray, bool]:
    """The scene as a frame sees it, uint8 (h, w, 3), the median of frames around it; how uneasy it is, float32 (h, w);
    and whether the camera stands.
    """
    first, last = max(frames.first, middle - settings.reach), min(frames.past - 1, middle + settings.reach)
    count = min(settings.samples, last - first + 1)
    chosen = np.unique(np.linspace(first, last, count).round().astype(int))
    h, w = frames.grey(middle).shape
    ends = np.array([[0, w, 0, w], [0, 0, h, h], [1, 1, 1, 1.0]])
    ways = [frames.onto(int(n), middle) for n in chosen]
    still = all(np.abs((way @ ends)[:2] - ends[:2]).max() < settings.still for way in ways)
    if still:
        stack = np.stack([_soft(frames.picture(int(n))) for n in chosen])
        half = len(stack) // 2
        median = np.partition(stack, half, axis=0)[half]
        strays = np.stack([_most(cv2.absdiff(one, median)) for one in stack])
        return median, np.partition(strays, half, axis=0)[half].astype(np.float32), True
    stack = np.empty((len(chosen), h, w, 3), np.int16)
    shown = np.empty((len(chosen), h, w), bool)
    for place, (number, way) in enumerate(zip(chosen, ways, strict=True)):
        way = refined(frames.grey(int(number)), frames.grey(middle), way)
        stack[place] = _laid(_soft(frames.picture(int(number))), way)
        shown[place] = cv2.warpAffine(np.ones((h, w), np.uint8), way[:2], (w, h)) > 0
    count = shown.sum(0)
    median = _middling(stack, shown[..., None], count[..., None]).astype(np.uint8)
    strays = np.stack([_most(np.abs(one - median.astype(np.int16))) for one in stack])
    unrest = _middling(strays, shown, count).astype(np.float32)
    return median, np.where(count < 3, 255, unrest).astype(np.float32), False


def _middling(stack: np.ndarray, shown: np.ndarray, count: np.ndarray) -> np.ndarray:
    """The median of those of some values, int16 (n, …), that are shown; 0 where none is."""
    ordered = np.sort(np.where(shown, stack, np.iinfo(np.int16).max), axis=0)
    places = np.broadcast_to(np.maximum(count - 1, 0) // 2, ordered.shape[1:])
    return np.where(count > 0, np.take_along_axis(ordered, places[None], 0)[0], 0)


def _most(picture: np.ndarray) -> np.ndarray:
    """The greatest of a picture's three channels."""
    red, green, blue = cv2.split(picture)
    return cv2.max(cv2.max(red, green), blue)


def _since(frames: Frames, number: int, own: np.ndarray, settings: Moving) -> np.ndarray:
    """By how many levels a frame differs both from one some frames before and from one after."""
    differ: np.ndarray | None = None
    beside = settings.beside
    sides = [n for n in (number - beside, number + beside) if frames.first <= n < frames.past]
    if len(sides) == 1:  # at an end of the take: from two on the same side, where the body was elsewhere in each
        farther = 3 * sides[0] - 2 * number
        sides += [farther] if frames.first <= farther < frames.past else []
    for other in sides:
        apart = _apart(own, _soft(_laid(frames.picture(other), frames.onto(other, number))))
        differ = apart if differ is None else np.minimum(differ, apart)
    if differ is None:
        return np.zeros(own.shape[:2], np.float32)
    return differ - 2.5 * float(np.median(differ))


def body(weight: np.ndarray, before: np.ndarray | None, settings: Moving | None = None) -> np.ndarray | None:
    """Of what moves, float32 (h, w), 0…1, that which hangs together and carries most; None if there is nothing.

    before: the same of the frame before: what lies where that was is likelier to be it. Gaps within are closed: a body
    that lingers differs from where it was at its edges, and where it is patterned.
    """
    settings = settings or Moving()
    there = cv2.morphologyEx((weight > 0.25).astype(np.uint8), cv2.MORPH_OPEN, np.ones((2, 2), np.uint8))
    if there.sum() < 12:
        return None
    join = max(1, round(settings.join * max(weight.shape)))
    round_ = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * join + 1, 2 * join + 1))
    near = cv2.dilate(there, round_)
    count, labels = cv2.connectedComponents(near)
    carried = np.bincount(labels.ravel(), (weight * there).ravel(), count)
    if before is not None:
        shared = np.bincount(labels.ravel(), (before * there).ravel(), count)
        carried *= 1 + 2 * (shared > 0.05 * before.sum())
    carried[0] = 0
    own = (labels == int(carried.argmax())).astype(np.uint8)
    outer, _ = cv2.findContours(own, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    whole = cv2.erode(cv2.drawContours(np.zeros_like(own), outer, -1, 1, cv2.FILLED), round_)
    return np.maximum(weight * there * own, 0.85 * whole).astype(np.float32)
