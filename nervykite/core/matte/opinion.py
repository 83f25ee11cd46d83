"""A second opinion on an answer that no strokes led to: what looks alike in the picture, and what the judge says.

The depth of what was found stands for keep strokes, and a line around it, as far as that is known to be others', for
drop strokes. The judge learned from answers as well that were found by the rules here (`nervykite.learn.answers`).
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import cv2
import numpy as np

from .judge import Voices, judged, seen_at
from .looks import Looks, alike, looks_of
from .marks import extent
from .nearer import nearer
from .solve import around

MARGIN = 32
"""How far beside the area in question is looked, px."""
DEEP = 0.5
"""From which part of its greatest depth on what was found stands for keep strokes."""
LINE = (22, 28)
"""How far around it the line runs that stands for drop strokes, px."""

HEED = 2.0
"""How much who looks from near leaves to the wish: it learned on what strokes lead to."""


@dataclass(frozen=True)
class Answer:
    """What was found in a picture, and why; float32 or bool (h, w) unless said."""

    picture: np.ndarray
    """uint8 RGB (h, w, 3)."""
    wish: np.ndarray
    """All rules together: above 0 for the subject."""
    leans: np.ndarray
    """Whose colours they are, -1…1."""
    kept: np.ndarray
    dropped: np.ndarray
    """How well they are known to subject and surroundings, see `evidence.known_to`."""
    found: np.ndarray
    """The subject, 0…1."""
    ours: np.ndarray
    others: np.ndarray
    """What is surely the subject, and surely not."""
    person: np.ndarray | None
    """What a person finder says, 0…1."""
    unknown: np.ndarray
    """How little is known of what is behind, 0…1; 0 if nothing behind was looked at."""

    def part(self, box: tuple[slice, slice]) -> "Answer":
        """The same in some rows and columns."""
        return replace(self, **{k: np.ascontiguousarray(v[box]) for k, v in vars(self).items() if v is not None})


Second = Callable[[Answer, np.ndarray, "np.ndarray | float", float], np.ndarray]
"""What gives a second opinion, see `reconsidered`."""


def reconsidered(answer: Answer, where: np.ndarray, likeness: np.ndarray | float, judgement: float) -> np.ndarray:
    """The wish in and beside an area bool (h, w), not empty, once looks and the judge are heard, too: float32 (h, w).

    likeness: the say of what looks alike, (h, w) if it differs; judgement: the share of the judge, 0…1.
    """
    wish = answer.wish.astype(np.float32)
    box = around(where, MARGIN)
    likeness = likeness[box] if isinstance(likeness, np.ndarray) else likeness
    here = answer.part(box)
    seen = looked_at(here)
    if seen is None:
        return wish
    wish[box] += likeness * seen[1]
    if judgement:
        wish[box] += judgement * against(here, *seen)
    return wish


def against(answer: Answer, looks: Looks, similar: np.ndarray) -> np.ndarray:
    """How much more than the wish the judge is for the subject at each pixel: float32 (h, w); 0 if nobody can judge.

    looks, similar: see `looked_at`.
    """
    voices = voices_on(answer, looks, similar)
    says = None if voices is None else judged(voices)
    if voices is None or says is None:
        return np.zeros(answer.found.shape, np.float32)
    return says - seen_at(voices.wish)


def from_near(answer: Answer) -> np.ndarray:
    """What an answer found, once it is looked at from near as well, see `nearer`: float32 (h, w), 0…1.

    The answer's wish is that of which it was cut, with all that was heard.
    """
    voices = voices_on(answer, None, np.zeros(answer.found.shape, np.float32))
    return answer.found if voices is None else nearer(voices, answer.ours, answer.others, HEED)


def looked_at(answer: Answer) -> tuple[Looks, np.ndarray] | None:
    """The looks of an answer's picture, and what looks like the subject, float32 (h, w), -1…1; None if unknown."""
    looks = looks_of(answer.picture)
    similar = None if looks is None else alike(looks, answer.ours, answer.others)
    return None if looks is None or similar is None else (looks, similar)


def voices_on(answer: Answer, looks: Looks | None, similar: np.ndarray) -> Voices | None:
    """What the judge is told of an answer, and what looks alike in its picture; None if nothing can stand for strokes.

    looks, similar: see `looked_at`.
    """
    deep = cv2.distanceTransform(answer.ours.astype(np.uint8), cv2.DIST_L2, 5)
    beside = cv2.distanceTransform((answer.found < 0.5).astype(np.uint8), cv2.DIST_L2, 5)
    keep = answer.ours & (deep >= DEEP * deep.max())
    drop = answer.others & (beside > LINE[0]) & (beside < LINE[1])
    if not keep.any() or not drop.any():
        return None
    return Voices(
        answer.picture,
        answer.wish.astype(np.float32),
        answer.leans,
        along=2 * cv2.GaussianBlur(answer.found, (0, 0), 3) - 1,
        away=cv2.distanceTransform((~keep).astype(np.uint8), cv2.DIST_L2, 5) / extent(answer.ours),
        person=np.zeros(answer.found.shape, np.float32) if answer.person is None else 2 * answer.person - 1,
        sure=-answer.unknown,
        before=answer.found,
        keep=keep,
        drop=drop,
        kept=answer.kept,
        dropped=answer.dropped,
        similar=similar,
        looks=looks,
    )
