"""Cutting a subject out of a frame of any film: by marks, by a pick, or by correcting what is there."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

import cv2
import numpy as np

from ..core.common.errors import Refusal
from ..core.common.kept import Kept
from ..core.see.find import marks, mover
from ..core.see.find.correct import Side, correct
from ..core.see.find.motion_cue import joined, whom_moves
from ..core.see.find.person import pick_person
from ..core.see.find.prior import people
from ..core.see.find.rough import Added, rough
from ..core.see.find.strokes import Stroke, draw
from ..core.see.find.wavering import other_outlines
from ..core.see.scene.scene import Scene, working_size
from ..core.see.scene.stirring import SIGHT, stirring
from .service_footage import Film, Progress, looked_at, nothing, window_of

Pick = Literal["mover", "person", "difference"]
ROUGH = 36_000
"""Pixels at which strokes are answered at once."""
UNEVEN = "Parts of it are less sure to belong to the subject than the rest. Take away by a drop stroke what does not."
FULL_SEARCH = 2
"""Up to so many strokes the whole subject is looked for anew; after that a stroke changes only what is near it. As
many strokes one after the other then end as well as if three were looked for anew, and are answered much sooner."""


@dataclass(frozen=True)
class Remembered:
    """The memory of what earlier questions about films found out, for those that come: scenes, and what moves at a
    glance.
    """

    scenes: Kept[Scene] = field(default_factory=lambda: Kept(3))
    stirs: Kept[tuple[np.ndarray | None]] = field(default_factory=lambda: Kept(16))


@dataclass(frozen=True)
class Strokes:
    """Keep and drop strokes; `newest` says to which of them the last one belongs that was drawn."""

    keep: Sequence[Stroke] = ()
    drop: Sequence[Stroke] = ()
    newest: Side | None = None

    def __len__(self) -> int:
        return len(self.keep) + len(self.drop)


def stirs(film: Film, frame: int, remembered: Remembered) -> np.ndarray | None:
    """The movement in a frame at a glance, see `stirring`; None where there are no frames beside it."""
    take = film.take(frame)
    if len(take) < 2:
        return None

    def look() -> tuple[np.ndarray | None]:
        window = range(max(take.start, frame - SIGHT), min(take.stop, frame + SIGHT + 1))
        beside = film.small(window, working_size(*film.size))
        return (stirring(beside, frame - window.start),)

    return remembered.stirs.get((film.key, frame), look)[0]


def by_marks(
    film: Film,
    frame: int,
    picture: np.ndarray,
    strokes: Strokes,
    fine: float,
    remembered: Remembered,
    before: np.ndarray | None = None,
) -> np.ndarray:
    """The subject that strokes mean: float32 (h, w), 0…1.

    picture: the frame, uint8 RGB; fine: how far to each side the edge is solved, in pixels; before: the alpha that the
    newest stroke corrects. Raises Refusal.
    """
    looked_at(film)
    if before is not None and strokes.newest and len(strokes) > FULL_SEARCH and strokes.keep and strokes.drop:
        return correct(picture, before, list(strokes.keep), list(strokes.drop), fine, strokes.newest)
    hint = joined(lambda: stirs(film, frame, remembered))
    return marks.cut_out(picture, list(strokes.keep), list(strokes.drop), hint, fine, before)


def others(
    film: Film, frame: int, picture: np.ndarray, strokes: Strokes, fine: float, remembered: Remembered,
    answered: np.ndarray, report: Progress = nothing,
) -> list[np.ndarray]:  # fmt: skip
    """The other outlines that a few strokes may mean, see `other_outlines`: none if they are more.

    picture: the frame, uint8 RGB; fine: how far to each side the edge is solved, px; answered: alpha float32 (h, w),
    0…1. Raises Refusal.
    """
    looked_at(film)
    if len(strokes) > FULL_SEARCH or not strokes.keep or not strokes.drop:
        return []
    hint = joined(lambda: stirs(film, frame, remembered))
    return other_outlines(picture, list(strokes.keep), list(strokes.drop), hint, answered, fine, report)


def roughly(
    film: Film, frame: int, added: Sequence[Added], strokes: Strokes, remembered: Remembered,
    before: np.ndarray | None = None,
) -> np.ndarray:  # fmt: skip
    """A rough answer to strokes that were added to others, of a small size; see `rough`. Raises Refusal.

    Nothing is worked out for it that takes time: what moves counts if it is known by now.
    """
    width, height = film.size
    picture = film.small(range(frame, frame + 1), working_size(width, height, ROUGH))[0]

    def moves() -> np.ndarray | None:
        known = remembered.stirs.peek((film.key, frame))
        if known is None or known[0] is None:
            return None
        new = [[a.stroke for a in added if a.side == side] for side in ("keep", "drop")]
        keep, drop = (draw(n, height, width) for n in new)
        return whom_moves(known[0], keep, drop)

    return rough(picture, picture.shape[1] / width, added, strokes.keep, strokes.drop, before, moves)


def by_pick(
    film: Film,
    frame: int,
    picture: np.ndarray,
    pick: Pick,
    remembered: Remembered,
    plate: np.ndarray | None = None,
    answered: np.ndarray | None = None,
    progress: Progress = nothing,
) -> mover.Proposal:
    """The proposal of a pick in a frame.

    picture: the frame, uint8 RGB; plate: the clean plate, uint8 RGB, for *difference*; answered: the alpha of somebody
    who is known to be about there, for *person*. Raises Refusal.
    """
    looked_at(film)
    size = working_size(*film.size)
    if pick == "person":
        return pick_person(picture, answered, stirs(film, frame, remembered))
    if pick == "difference":
        if plate is None:
            raise Refusal("Pick difference compares with the clean plate, and there is none yet. Build one first.")
        if plate.shape != picture.shape:
            plate = cv2.resize(plate, picture.shape[1::-1], interpolation=cv2.INTER_LINEAR)
        small, behind = (cv2.resize(p, size, interpolation=cv2.INTER_AREA) for p in (picture, plate))
        return mover.pick_difference(small, behind)
    window = window_of(film, frame)
    near = film.small(window, size, lambda share: progress(0.7 * share))
    key = film.key, window
    proposal, scene = mover.pick_mover(near, frame - window.start, people, remembered.scenes.peek(key))
    remembered.scenes[key] = scene
    return proposal
