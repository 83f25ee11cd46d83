"""People followed through a take: the joints and the silhouette of each, frame by frame.

A detector finds who is there, now and then; in between a second network goes by where they were the frame before, see
`matte/figures.py`. Of many, those are followed who move most.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from ..find.figures import Figure, convincing, figures_in, posed, square
from ..matte.networks import likely

POINTS = (0, 11, 12, 13, 14, 15, 16, 19, 20, 23, 24, 25, 26, 27, 28, 31, 32)
"""Which of the network's points are the joints of `seen.JOINTS`."""


@dataclass(frozen=True)
class PeopleSettings:
    """The settings by which people are followed.

    again: after how many frames it is looked for others, and empty: after how many while nobody is followed; most: how
    many are followed; sure: how sure the network has to be that it still sees somebody; moves: what share of somebody's
    own reach they have to go in a frame, in the mean of a while, to be somebody who moves; remembers: how much of that
    mean stays from frame to frame.
    """

    again: int = 10
    empty: int = 4
    most: int = 2
    sure: float = 0.5
    moves: float = 0.004
    remembers: float = 0.85


@dataclass
class Person:
    """Somebody who is followed; silhouette: how likely each pixel of the small frame is theirs, float32 (h, w), 0…1;
    stirs: how far their joints went in a frame of late, the camera's own way taken out, in shares of their reach.
    """

    number: int
    figure: Figure
    joints: np.ndarray
    silhouette: np.ndarray
    stirs: float


class People:
    """Follows people through the frames of one take; they are numbered from `first` on."""

    def __init__(self, settings: PeopleSettings | None = None, first: int = 0) -> None:
        self._settings = settings or PeopleSettings()
        self._known: list[Person] = []
        self._count = first
        self._frames = 0

    def look(self, picture: np.ndarray, way: np.ndarray, small: tuple[int, int]) -> list[Person]:
        """The people seen in the next frame, uint8 RGB (h, w, 3). Raises Refusal if the networks are not there.

        way: how the frame before lies on it, in its pixels, (3, 3); small: the size, (w, h), of the silhouettes.
        """
        asked: list[tuple[int, Figure, Person | None]] = [(p.number, p.figure, p) for p in self._known]
        if self._frames % (self._settings.again if self._known else self._settings.empty) == 0:
            asked += [(-1, figure, None) for figure in self._others(picture)]
        self._frames += 1
        found: list[Person] = []
        for number, figure, before in asked:
            person = self._posed(picture, number, figure, before, way, small)
            if person is not None and all(_apart(person.figure, other.figure) for other in found):
                found.append(person)
        found.sort(key=lambda p: -p.stirs)
        self._known = found[: self._settings.most]
        for person in self._known:
            if person.number < 0:
                person.number = self._count
                self._count += 1
        return self._known

    def moves(self, person: Person) -> bool:
        """True if somebody moves, by what was seen of them so far."""
        return person.stirs > self._settings.moves

    def _others(self, picture: np.ndarray) -> list[Figure]:
        h, w = picture.shape[:2]
        short = min(h, w)
        windows = [(0, 0, w, h)]
        if max(h, w) > 1.3 * short:
            steps = np.linspace(0, max(h, w) - short, 3).round().astype(int)
            windows += [(0, int(s), w, int(s) + w) if h > w else (int(s), 0, int(s) + h, h) for s in steps]
        seen = figures_in(picture, windows)
        for one in list(seen[:1]):  # somebody far away shows better from near
            if one.reach < 0.12 * short:
                seen = figures_in(
                    picture, [*windows, square(float(one.hips[0]), float(one.hips[1]), 4 * one.reach, 1.2, h, w)]
                )
        return [f for f in seen if all(_apart(f, p.figure) for p in self._known)][: self._settings.most]

    def _posed(
        self, picture: np.ndarray, number: int, figure: Figure, before: Person | None, way: np.ndarray, small
    ) -> Person | None:
        seen = posed(picture, figure)
        grown = seen.placed.reach / figure.reach
        if seen.placed.sure < self._settings.sure or not 0.5 < grown < 2:
            return None
        if before is None and not convincing(figure, seen.placed):
            return None
        scale = small[0] / picture.shape[1]
        onto = seen.onto * scale
        alpha = cv2.warpAffine(likely(seen.logits).astype(np.float32), onto, small, flags=cv2.INTER_LINEAR)
        joints = seen.joints[list(POINTS)]
        stirs = 0.0
        if before is not None:
            carried = before.joints @ way[:2, :2].T + way[:2, 2]
            gone = float(np.linalg.norm(joints - carried, axis=1).mean()) / seen.placed.reach
            keep = self._settings.remembers
            stirs = keep * before.stirs + (1 - keep) * gone
        return Person(number, seen.placed, joints, alpha, stirs)


def _apart(one: Figure, other: Figure) -> bool:
    return bool(np.linalg.norm(one.hips - other.hips) > 0.35 * min(one.reach, other.reach))
