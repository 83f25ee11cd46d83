"""A rough answer to strokes, at once: what they mean about, while the search takes its time."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import cv2
import numpy as np

from .correct import CorrectSettings, Side, correct
from .evidence import Later
from .marks import MARKS, MarksSettings, find
from .search import SearchSettings, without
from .strokes import Stroke

QUICK = without(MARKS, "judge", "looks")
"""What is heard: all that asks no network."""


class Added(NamedTuple):
    """A stroke, and what it says of the subject."""

    side: Side
    stroke: Stroke


@dataclass(frozen=True)
class RoughSettings:
    """The settings of what is left out to be quick."""

    marks: MarksSettings = field(default_factory=lambda: MarksSettings(SearchSettings(turns=1, steps=80), alike=()))
    """The settings by which a subject is looked for that nothing is known of."""
    correcting: CorrectSettings = field(default_factory=lambda: CorrectSettings(SearchSettings(turns=1, steps=100)))
    """The settings by which one is corrected that was found."""


def rough(
    picture: np.ndarray, scale: float, added: Sequence[Added], keep: Sequence[Stroke] = (),
    drop: Sequence[Stroke] = (), before: np.ndarray | None = None, moves: Later = lambda: None,
    settings: RoughSettings = RoughSettings(),
) -> np.ndarray:  # fmt: skip
    """About what strokes mean: float32 (h, w), 0…1, almost everywhere 0 or 1. Raises Refusal if they are of no use.

    picture: uint8 RGB (h, w, 3), small, `scale` times the size of the frame in which strokes are drawn; added: new
    strokes in order, which correct `before` (any size), what keep and drop strokes led to; None if nothing was found
    yet: all strokes are then asked together. moves: how likely each pixel is of a subject that moves, as for `find`,
    asked for then.
    """

    def there(strokes: Sequence[Stroke]) -> list[Stroke]:
        return [Stroke(np.asarray(s.points, float) * scale, s.width * scale) for s in strokes]

    keeps, drops = there(keep), there(drop)
    if before is None:
        keeps += there([a.stroke for a in added if a.side == "keep"])
        drops += there([a.stroke for a in added if a.side == "drop"])
        return find(picture, keeps, drops, moves, QUICK, lambda voices, *_: voices.before, settings=settings.marks)
    known = cv2.resize(before, picture.shape[1::-1], interpolation=cv2.INTER_AREA)
    for side, stroke in added:
        (keeps if side == "keep" else drops).extend(there([stroke]))
        known = correct(picture, known, keeps, drops, 0, side, settings=settings.correcting)
    return known
