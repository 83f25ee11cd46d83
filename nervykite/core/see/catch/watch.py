"""Looking through a take once: where the subject is in each frame, how it moves, and how crisp it is.

In: a take's frames in order, small. Out: a `Seen` and a picture of the body for each. What moves is what differs from
the scene behind it (`moving`), and people are followed by their joints (`people`) where the networks are installed, so
that who lingers is seen as well; animals and things are told by their movement alone.
"""

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field

import cv2
import numpy as np

from ...common.errors import Refusal
from .camera import step
from .foreground import Frames, Moving, body, moving
from .people import People, PeopleSettings, Person
from .seen import Seen, filled


@dataclass(frozen=True)
class Watching:
    """The settings of looking through a shot.

    side: the longer side, in pixels, at which movement is looked for; fine and coarse: the blurs, in pixels of the
    frames as they come, between which detail is counted as crisp; every: people are looked at in every so manyth frame,
    and are between the two around it in the others; whole: how much of a figure's silhouette is the subject's; most:
    what share of the points that are followed counts, those that go least far, as some go astray.
    """

    side: int = 288
    fine: float = 0.8
    coarse: float = 2.4
    every: int = 1
    whole: float = 0.5
    most: float = 0.9
    moving: Moving = field(default_factory=Moving)
    looking: PeopleSettings = field(default_factory=PeopleSettings)


@dataclass
class _Frame:
    """A frame that was read and not told of yet: its detail, fine and coarse, float32 (h, w), as small as movement is
    looked for; how the camera went; who was seen, in pixels of a frame so `tall`, and whether they move.
    """

    tall: int
    fine: np.ndarray
    coarse: np.ndarray
    step: np.ndarray
    people: list[tuple[Person, bool]]
    looked: bool


def stride(rate: float) -> int:
    """Every which frame is looked at of footage with so many a second: about thirty of them say all there is."""
    return max(1, round(rate / 30))


def looked_through(
    read: Callable[[range], Iterable[np.ndarray]],
    frames: range,
    rate: float,
    give_way: Callable[[], None] = lambda: None,
) -> Iterator[tuple[Seen, np.ndarray]]:
    """The records of some frames of one take, in order: a `Seen` and the body, see `watch`.

    read: hands out frames by their numbers, in order; rate: frames a second; give_way: see `watch`.
    """
    by = stride(rate)
    settings = Watching(every=2 if rate / by > 27 else 1)
    return filled(watch(read(frames[::by]), settings, frames.start, give_way), by, len(frames))


def small_size(width: int, height: int, side: int) -> tuple[int, int]:
    """The size, (w, h), at which movement is looked for."""
    scale = min(1.0, side / max(width, height))
    return max(16, round(width * scale)), max(16, round(height * scale))


def watch(
    pictures: Iterable[np.ndarray],
    settings: Watching | None = None,
    first: int = 0,
    give_way: Callable[[], None] = lambda: None,
) -> Iterator[tuple[Seen, np.ndarray]]:
    """The records of each frame of one take, and where the subject is.

    pictures: uint8 RGB (h, w, 3), all of one size, as large as detail is to be judged at; first: from which
    number on people are numbered; give_way: is called some times a frame, and returns once it may go on; what it raises
    ends it. Yields, some frames behind, a `Seen` and the body, uint8 (h', w'), 0…255, for each
    frame in order.
    """
    return _Watch(settings or Watching(), first, give_way).through(pictures)


class _Watch:
    def __init__(self, settings: Watching, first: int, give_way: Callable[[], None]) -> None:
        self._settings, self._give_way = settings, give_way
        self._frames = Frames()
        self._waiting: deque[_Frame] = deque()
        self._told = 0
        self._before: np.ndarray | None = None
        self._way = np.eye(3)
        self._since = np.eye(3)
        self._looked: _Frame | None = None
        self._people: People | None = People(settings.looking, first)
        self._body: np.ndarray | None = None

    def through(self, pictures: Iterable[np.ndarray]) -> Iterator[tuple[Seen, np.ndarray]]:
        ahead, together = self._settings.moving.reach, self._settings.moving.together
        for picture in pictures:
            self._give_way()
            self._read(picture)
            if self._frames.past - self._told >= together + ahead:
                yield from self._tell(together)
        while self._told < self._frames.past:
            yield from self._tell(min(together, self._frames.past - self._told))

    def _read(self, picture: np.ndarray) -> None:
        h, w = picture.shape[:2]
        size = small_size(w, h, self._settings.side)
        full = cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY)
        small = _shrunk(picture, size)
        grey = cv2.cvtColor(small, cv2.COLOR_RGB2GRAY)
        went = np.eye(3) if self._before is None else step(self._before, grey, self._scenery(grey.shape))
        self._before, self._way, self._since = grey, went @ self._way, went @ self._since
        self._frames.add(small, grey, self._way)
        number = self._frames.past - 1
        people: list[tuple[Person, bool]] = []
        if self._people is not None and number % self._settings.every == 0:
            by = np.diag([w / size[0], h / size[1], 1.0])
            try:
                found = self._people.look(picture, by @ self._since @ np.linalg.inv(by), size)
                people = [(p, self._people.moves(p)) for p in found]
            except Refusal:  # the networks are not installed
                self._people = None
            self._since = np.eye(3)
        looked = number % self._settings.every == 0
        self._waiting.append(_Frame(h, *self._detail(full, size), went, people, looked))

    def _scenery(self, shape: tuple[int, ...]) -> np.ndarray | None:
        """Where nobody was in the frame before, uint8 (h, w), 255 there."""
        people = self._waiting[-1].people if self._waiting else []
        if not people:
            return None
        theirs = np.max([p.silhouette for p, _ in people], 0)
        return np.where(cv2.dilate(theirs, np.ones((9, 9), np.uint8)) > 0.3, 0, 255).astype(np.uint8)

    def _detail(self, full: np.ndarray, size: tuple[int, int]) -> tuple[np.ndarray, np.ndarray]:
        picture = full.astype(np.float32)
        fine = cv2.GaussianBlur(picture, (5, 5), self._settings.fine)
        coarse = cv2.GaussianBlur(fine, (11, 11), self._settings.coarse)
        bands = (cv2.convertScaleAbs(one - other, alpha=6) for one, other in ((picture, fine), (fine, coarse)))
        high, low = (_shrunk(band, size).astype(np.float32) for band in bands)
        return high, low

    def _tell(self, count: int) -> Iterator[tuple[Seen, np.ndarray]]:
        window = range(self._told, self._told + count)
        weights = []
        for weight in moving(self._frames, window, self._settings.moving):
            self._give_way()
            weights.append(weight)
        for number, weight in zip(window, weights, strict=True):
            self._give_way()
            frame = self._waiting.popleft()
            if frame.looked:
                self._looked = frame
            else:
                self._fill(frame)
            self._body = self._subject(frame, weight)
            yield self._seen(number, frame), np.round(255 * self._body).astype(np.uint8)
        self._told = window.stop
        self._frames.forget(self._told - self._settings.moving.reach)

    def _fill(self, frame: _Frame) -> None:
        """Puts people into a frame in which they were not looked at: half way between those around it."""
        after = next((n for n, other in enumerate(self._waiting) if other.looked), None)
        if self._looked is None or after is None:
            frame.people = self._looked.people if self._looked else []
            return
        passed = self._settings.every - 1 - after
        share = passed / self._settings.every
        there = {p.number: p for p, _ in self._waiting[after].people}
        for one, moves in self._looked.people:
            if (other := there.get(one.number)) is not None:
                frame.people.append((_between(one, other, share, frame.tall), moves))

    def _subject(self, frame: _Frame, weight: np.ndarray) -> np.ndarray:
        """Where the subject is, float32 (h, w), 0…1."""
        theirs = np.zeros_like(weight)
        for person, moves in frame.people:
            if moves or (person.silhouette * weight).sum() > 0.1 * person.silhouette.sum():
                theirs = np.maximum(theirs, person.silhouette)
        if theirs.max() < self._settings.whole:
            found = body(weight, self._body, self._settings.moving)
            return np.zeros_like(weight) if found is None else found
        # What hangs on them moves with them: hair, a kite's line, what they hold.
        reach = 2 * round(self._settings.moving.join * max(weight.shape)) + 1
        near = cv2.dilate(theirs, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach)))
        return np.maximum(theirs, weight * (near > self._settings.whole))

    def _seen(self, number: int, frame: _Frame) -> Seen:
        found, height = self._body, self._frames.grey(number).shape[0]
        assert found is not None
        a, b, x, y = frame.step[0, 0], frame.step[1, 0], frame.step[0, 2] / height, frame.step[1, 2] / height
        figures = {p.number: p.joints / frame.tall for p, _ in frame.people}
        total = float(found.sum())
        if total < 6:
            return Seen(step=(a, b, x, y), figures=figures)
        high, low = float((frame.fine * found).sum()), float((frame.coarse * found).sum())
        return Seen(
            float((found > 0.25).mean()),
            _box(found, height),
            high / (high + low + 1e-6),
            self._speed(number, found) / height,
            (a, b, x, y),
            figures,
        )

    def _speed(self, number: int, found: np.ndarray) -> float:
        """The speed of what moves, on the screen, in pixels of the small frames a frame: the mean of most of it.

        From the frame before and to the one after alike, as the shutter is open around the frame.
        """
        own = self._frames.grey(number)
        points = cv2.goodFeaturesToTrack(own, 120, 0.01, 3, mask=(found > 0.25).astype(np.uint8))
        ways = []
        for other in (number - 1, number + 1):
            if points is None or not self._frames.first <= other < self._frames.past:
                continue
            nothing = np.empty(0, np.float32)
            there, follows, _ = cv2.calcOpticalFlowPyrLK(
                own, self._frames.grey(other), points, nothing, winSize=(13, 13), maxLevel=4
            )
            way = np.sort(np.linalg.norm((there - points).reshape(-1, 2)[follows.ravel() > 0], axis=1))
            ways += [way[: max(1, round(self._settings.most * len(way)))].mean()] if len(way) else []
        return float(np.mean(ways)) if ways else 0.0


def _shrunk(picture: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """A picture at a smaller size (w, h), every pixel the mean of those it covers: by halves first, which is quick."""
    h, w = picture.shape[:2]
    while w >= 2 * size[0] and w % 2 == 0 and h % 2 == 0 and h >= 2 * size[1]:
        w, h = w // 2, h // 2
        picture = cv2.resize(picture, (w, h), interpolation=cv2.INTER_AREA)
    return cv2.resize(picture, size, interpolation=cv2.INTER_AREA)


def _between(one: Person, other: Person, share: float, tall: int) -> Person:
    """Somebody so far on the way from one frame to another."""
    joints = (1 - share) * one.joints + share * other.joints
    h, w = one.silhouette.shape
    shown = np.zeros((h, w), np.float32)
    for end, weight in ((one, 1 - share), (other, share)):
        x, y = (joints - end.joints).mean(0) * h / tall
        moved = cv2.warpAffine(end.silhouette, np.array([[1, 0, x], [0, 1, y]]), (w, h), flags=cv2.INTER_LINEAR)
        shown += np.float32(weight) * moved
    return Person(one.number, one.figure, joints, shown, one.stirs)


def _box(found: np.ndarray, height: int) -> tuple[float, float, float, float]:
    total = float(found.sum())
    xs, ys = found.sum(0).cumsum() / total, found.sum(1).cumsum() / total
    left, right = (int(np.searchsorted(xs, q)) for q in (0.02, 0.98))
    top, bottom = (int(np.searchsorted(ys, q)) for q in (0.02, 0.98))
    return left / height, top / height, (right + 1) / height, (bottom + 1) / height
