"""Movement as a help for marks: in a video the subject that strokes mean mostly moves by itself."""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from ..scene.stirring import movers
from .marks import PersonHint
from .prior import person_hint


@dataclass(frozen=True)
class MovingSettings:
    """The settings by which what moves helps marks."""

    meant: float = 0.55
    """How much more of the keep strokes than of the drop strokes lies on what moves, if that is meant."""
    steep: float = 1.5
    """How fast movement becomes sure of itself beyond its level."""
    even: float = 0.25
    """The likelihood of the subject, 0…1, where nothing changes within what moves."""
    fades: float = 3.0
    """The distance beside what moves within which the subject may be, px."""
    says: float = 0.5
    """The say of movement beside a person finder's that the strokes bear out as well."""


def joined(stirs: Callable[[], np.ndarray | None], settings: MovingSettings = MovingSettings()) -> PersonHint:
    """The person finder, and what moves, (h, w), see `stirring`; asked for when it is needed.

    To be given to `marks.cut_out` instead of `person_hint`, which it asks as well.
    """

    def hint(picture: np.ndarray, keep: np.ndarray, drop: np.ndarray) -> np.ndarray | None:
        people, moves = person_hint(picture, keep, drop), stirs()
        if moves is None:
            return people
        likely = whom_moves(moves, keep, drop, settings)
        if likely is None:
            return people
        inside, outside = (_at_size(v, moves.shape) for v in (keep, drop))
        known = None if people is None else cv2.resize(people, moves.shape[::-1], interpolation=cv2.INTER_LINEAR)
        if known is None or _agrees(known, inside, outside) < settings.meant:
            known = likely
        # A keep stroke on what moves means it, even where it is too even inside to differ.
        mixed = (1 - settings.says) * known + settings.says * likely
        return np.where(inside, np.maximum(known, 0.95), mixed).astype(np.float32)

    return hint


def whom_moves(
    moves: np.ndarray, keep: np.ndarray, drop: np.ndarray, settings: MovingSettings = MovingSettings()
) -> np.ndarray | None:
    """The likelihood of the subject by what moves, float32 (h, w), 0…1; None if the strokes do not mean that.

    moves: (h, w), see `stirring`; keep, drop: what strokes cover, bool of any size.
    """
    inside, outside = (_at_size(v, moves.shape) for v in (keep, drop))
    labels = cv2.connectedComponents(movers(moves).astype(np.uint8))[1]
    touched = np.unique(labels[inside])
    meant = np.isin(labels, touched[touched > 0])
    if _agrees(meant.astype(np.float32), inside, outside) < settings.meant:
        return None
    beside = cv2.distanceTransform((~meant).astype(np.uint8), cv2.DIST_L2, 5)
    sure = np.clip(np.tanh(settings.steep * (moves - 1)), 0, 1)
    within, around = settings.even + (1 - settings.even) * sure, np.clip(1 - beside / settings.fades, 0, 1)
    return np.where(meant, within, settings.even * around).astype(np.float32)


def _at_size(mask: np.ndarray, shape: tuple[int, ...]) -> np.ndarray:
    return cv2.resize(mask.astype(np.float32), shape[::-1], interpolation=cv2.INTER_AREA) > 0.1


def _agrees(likely: np.ndarray, inside: np.ndarray, outside: np.ndarray) -> float:
    """The agreement of strokes: how much likelier the subject is under keep than under drop strokes, -1…1."""
    return float(likely[inside].mean() if inside.any() else 0) - float(likely[outside].mean() if outside.any() else 0)
