"""A second opinion on an answer that no strokes led to: what looks alike in the picture, and what the judge says.

The depth of what was found stands for keep strokes, and a line around it, as far as that is known to be others', for
drop strokes. The judge learned from answers as well that were found by the rules here (`tools.learn.answers`).
"""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Protocol

import cv2
import numpy as np

from ..matte.part import around
from .judge import Voices, judged, seen_at
from .looks import Features, alike, looks_of
from .nearer import nearer
from .search import Box, Turn
from .strokes import extent

MARGIN = 32
"""How far beside the area in question is looked, px."""


@dataclass(frozen=True)
class OpinionSettings:
    """The settings by which a second opinion is come to."""

    deep: float = 0.5
    """From which part of its greatest depth on what was found stands for keep strokes."""
    line: tuple[int, int] = (22, 28)
    """How far around it the line runs that stands for drop strokes, px."""
    heed: float = 2.0
    """How much who looks from near leaves to the unary term: it learned on what strokes lead to."""


@dataclass
class Opined(Turn):
    """A turn of a search without strokes, and what else is worked out once in it."""

    picture: np.ndarray
    """The picture, uint8 RGB (h, w, 3)."""
    near: np.ndarray
    """Where the subject may go on, bool (h, w)."""
    person: np.ndarray | None
    """What a person finder says, float32 (h, w), 0…1."""
    unknown: np.ndarray
    """How little is known of what is behind, float32 (h, w), 0…1; 0 if nothing behind was looked at."""

    @classmethod
    def first(cls, picture: np.ndarray, person: np.ndarray | None, unknown: np.ndarray) -> "Opined":
        """The first turn of a search, in which nothing is found and all of the picture is in question."""
        nothing, nowhere = np.zeros(unknown.shape, np.float32), np.zeros(unknown.shape, bool)
        return cls(
            0, None, nowhere, nowhere, nothing, nothing, nothing, nothing.copy(), picture, ~nowhere, person, unknown
        )

    @cached_property
    def box(self) -> Box:
        """The rows and columns in question."""
        return around(self.near, MARGIN)

    @cached_property
    def looks(self) -> Features | None:
        """The features of the box; None if no network can be run here."""
        return looks_of(np.ascontiguousarray(self.picture[self.box]))

    @cached_property
    def similar(self) -> np.ndarray | None:
        """The likeness to the subject in the box, float32, -1…1; None if unknown."""
        return None if self.looks is None else alike(self.looks, self.ours[self.box], self.others[self.box])


class OpinionView(Protocol):
    """The view of a search that has a second opinion."""

    likeness: "np.ndarray | float"
    """The say of what looks alike, (h, w) if it differs."""
    judgement: float
    """How much of the unary term is the judge's, the rest being that of the rules."""


class Unmarked:
    """The part that views of searches without strokes share: nothing is certain, and what is near is in question."""

    def box(self, turn: Opined) -> Box:
        """At first all of the picture, later what may be the subject."""
        return turn.box

    def bound(self, turn: Opined) -> np.ndarray:
        """The unary term as it is."""
        return turn.unary


def judge(view: OpinionView, turn: Opined) -> np.ndarray | None:
    """The judge, instead of a part of all that was said."""
    if turn.found is None or turn.similar is None:
        return None
    voices = voices_on(turn, turn.box, turn.looks, turn.similar)
    says = None if voices is None else judged(voices)
    if voices is None or says is None:
        return None
    return _in(turn, view.judgement * (says - seen_at(voices.unary)))


def looks(view: OpinionView, turn: Opined) -> np.ndarray | None:
    """The evidence of what looks alike."""
    if turn.found is None or turn.similar is None:
        return None
    likeness = view.likeness[turn.box] if isinstance(view.likeness, np.ndarray) else view.likeness
    return _in(turn, likeness * turn.similar)


def from_near(turn: Opined, found: np.ndarray, ours: np.ndarray, others: np.ndarray) -> np.ndarray:
    """The answer of a turn, once it is looked at from near as well, see `nearer`: float32 (h, w), 0…1.

    ours, others: what of that is surely the subject, and surely not.
    """
    answered = replace(turn, found=found, ours=ours, others=others)
    everywhere = slice(0, found.shape[0]), slice(0, found.shape[1])
    voices = voices_on(answered, everywhere, None, np.zeros(found.shape, np.float32))
    return found if voices is None else nearer(voices, ours, others, OpinionSettings().heed)


def voices_on(
    turn: Opined, box: Box, looks: Features | None, similar: np.ndarray, settings: OpinionSettings = OpinionSettings()
) -> Voices | None:
    """The evidence that the judge is told of a part of the last answer; None if nothing there can stand for strokes.

    looks, similar: what the part looks like, and what looks like the subject in it.
    """
    assert turn.found is not None

    def here(values: np.ndarray) -> np.ndarray:
        return np.ascontiguousarray(values[box])

    found, ours, others = here(turn.found), here(turn.ours), here(turn.others)
    deep = cv2.distanceTransform(ours.astype(np.uint8), cv2.DIST_L2, 5)
    beside = cv2.distanceTransform((found < 0.5).astype(np.uint8), cv2.DIST_L2, 5)
    keep = ours & (deep >= settings.deep * deep.max())
    drop = others & (beside > settings.line[0]) & (beside < settings.line[1])
    if not keep.any() or not drop.any():
        return None
    return Voices(
        here(turn.picture),
        here(turn.unary),
        here(turn.leans),
        along=2 * cv2.GaussianBlur(found, (0, 0), 3) - 1,
        away=cv2.distanceTransform((~keep).astype(np.uint8), cv2.DIST_L2, 5) / extent(ours),
        person=np.zeros(found.shape, np.float32) if turn.person is None else 2 * here(turn.person) - 1,
        sure=-here(turn.unknown),
        before=found,
        keep=keep,
        drop=drop,
        kept=here(turn.kept),
        dropped=here(turn.dropped),
        similar=similar,
        looks=looks,
    )


def _in(turn: Opined, says: np.ndarray) -> np.ndarray:
    """The say in the box of a turn, in all of the picture."""
    whole = np.zeros(turn.unary.shape, np.float32)
    whole[turn.box] = says
    return whole
