"""The record of the subject in a frame, and how that is kept: a row of numbers, and a small picture of the body."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace

import cv2
import numpy as np

JOINTS = (
    "head", "shoulder L", "shoulder R", "elbow L", "elbow R", "wrist L", "wrist R", "finger L", "finger R", "hip L",
    "hip R", "knee L", "knee R", "ankle L", "ankle R", "toe L", "toe R",
)  # fmt: skip
"""The joints of a figure, in their order."""
METHOD = 1
"""Grows whenever what is seen, or how it is kept, becomes another."""
FIGURES = 2
"""How many figures are followed at once."""
_HEAD, _FIGURE = 11, 2 + 2 * len(JOINTS)
ROW = _HEAD + FIGURES * _FIGURE
"""How many numbers a row has."""


@dataclass(frozen=True)
class Seen:
    """The subject as seen in one frame. Lengths are shares of the frame's height, counted from its corner.

    share: how much of the frame it is, 0…1, 0 where nothing moves; box: left, top, right, bottom; detail: how much of
    its contrast is fine, 0…1; speed: how far what moves goes to the next frame, on the screen; step: how the camera
    went since the frame before, (a, b, x, y), as the similarity [[a, -b, x], [b, a, y]]; figures: the joints of
    people, (17, 2) each, by a number that stays theirs as long as they are followed.
    """

    share: float = 0.0
    box: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    detail: float = 0.0
    speed: float = 0.0
    step: tuple[float, float, float, float] = (1.0, 0.0, 0.0, 0.0)
    figures: dict[int, np.ndarray] = field(default_factory=dict)

    def row(self) -> np.ndarray:
        """As numbers: float32 (ROW,)."""
        row = np.zeros(ROW, np.float32)
        row[:_HEAD] = self.share, *self.box, self.detail, self.speed, *self.step
        for place, (number, joints) in enumerate(list(self.figures.items())[:FIGURES]):
            at = _HEAD + place * _FIGURE
            row[at : at + 2] = 1, number
            row[at + 2 : at + _FIGURE] = joints.ravel()
        return row

    @classmethod
    def of(cls, row: np.ndarray) -> "Seen":
        """From a row."""
        share, left, top, right, bottom, detail, speed, *step = (float(v) for v in row[:_HEAD])
        figures = {}
        for place in range(FIGURES):
            part = row[_HEAD + place * _FIGURE :][:_FIGURE]
            if part[0]:
                figures[int(part[1])] = part[2:].reshape(-1, 2).astype(float)
        return cls(share, (left, top, right, bottom), detail, speed, tuple(step), figures)  # type: ignore[arg-type]


def filled(looked: Iterable[tuple[Seen, np.ndarray]], by: int, count: int) -> Iterator[tuple[Seen, np.ndarray]]:
    """The records of so many frames, of which every so manyth was looked at: the others are between those around them.

    looked: a `Seen` and the body's picture for each that was, the first frame being one of them.
    """
    told = 0
    before: tuple[Seen, np.ndarray] | None = None
    for one, body in looked:
        one = replace(one, speed=one.speed / by, step=_part(one.step, by))
        if before is not None:
            for number in range(1, by):
                share = number / by
                yield _between(before[0], one, share), before[1] if share < 0.5 else body
        yield one, body
        told, before = told + (by if before is not None else 1), (one, body)
    if before is not None:
        for _ in range(count - told):  # after the last that was looked at
            yield replace(before[0], step=(1.0, 0.0, 0.0, 0.0)), before[1]


def _part(step: tuple[float, float, float, float], by: int) -> tuple[float, float, float, float]:
    """One of so many equal steps that a camera's step is made of, but for what its turn does to its way."""
    turn = complex(step[0], step[1]) ** (1 / by)
    return turn.real, turn.imag, step[2] / by, step[3] / by


def _between(one: Seen, other: Seen, share: float) -> Seen:
    """The record so far on the way from one frame to another; `other` has the camera's step."""
    if not (one.share and other.share):
        return replace(one if share < 0.5 else other, step=other.step)

    def mixed(a: float, b: float) -> float:
        return a + (b - a) * share

    figures = {
        k: joints + (other.figures[k] - joints) * share for k, joints in one.figures.items() if k in other.figures
    }
    left, top, right, bottom = (mixed(a, b) for a, b in zip(one.box, other.box, strict=True))
    return Seen(
        mixed(one.share, other.share), (left, top, right, bottom), mixed(one.detail, other.detail),
        mixed(one.speed, other.speed), other.step, figures,
    )  # fmt: skip


def packed(bodies: Sequence[np.ndarray]) -> bytes:
    """Pictures of bodies, uint8 (h, w) of one size, one below the other as a PNG."""
    return cv2.imencode(".png", np.concatenate(bodies), [cv2.IMWRITE_PNG_COMPRESSION, 6])[1].tobytes()


def unpacked(data: bytes, count: int) -> list[np.ndarray]:
    """So many pictures of bodies from what `packed` made. Raises ValueError if it is not that."""
    picture = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_GRAYSCALE)
    if picture is None or picture.shape[0] % count:
        raise ValueError("these are no pictures of bodies")
    return np.split(picture, count)
