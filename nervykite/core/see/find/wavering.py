"""Wavering: the outlines that few strokes may mean as well as the one that is answered.

A search weighs all evidence for and against each pixel, and a minimal cut with a constant added to that answers for
every size of subject between nothing and all (the parametric minimum cut of Gallo, Grigoriadis and Tarjan, 1989).
Where strokes leave open what belongs to the subject, a little more or less of it answers with another outline: a body
without the thing beside it, or with the limbs that were too faint.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from .marks import MARKS, PersonHint, cut_out
from .search import Evidence
from .strokes import Stroke


@dataclass(frozen=True)
class WaveringSettings:
    """The settings by which other outlines are proposed."""

    leans: tuple[float, ...] = (-0.8, -0.4, 0.4)
    """What is added for the subject at each pixel, in the search's own units, for each of them."""
    same: float = 0.9
    """The share of what either of two outlines covers that both cover, 0…1, from which on they are the same."""
    most: int = 2
    """How many are proposed at most."""


def other_outlines(
    picture: np.ndarray, keep: list[Stroke], drop: list[Stroke], person: PersonHint, answered: np.ndarray,
    reach: float = 10.0, report: Callable[[float], None] = lambda share: None,
    settings: WaveringSettings = WaveringSettings(),
) -> list[np.ndarray]:  # fmt: skip
    """Outlines that strokes may mean as well, the likeliest first: alphas float32 (h, w), 0…1, none like another.

    picture: the frame, uint8 RGB (h, w, 3).
    keep, drop: the strokes.
    person: what finds people in it, given what the strokes cover.
    answered: the alpha that the strokes led to, float32 (h, w), 0…1.
    reach: how far the fine edge may go, px.
    report: is told how much is done, 0…1, and may raise.
    settings: which are proposed.
    Raises Refusal.
    """
    known = [answered]
    for number, by in enumerate(settings.leans):
        report(number / len(settings.leans))
        if len(known) > settings.most:
            break
        alpha = cut_out(picture, keep, drop, person, reach, evidence=(*MARKS, _leaning(by)))
        if alpha.max() > 0.5 and all(_shared(alpha, k) < settings.same for k in known):
            known.append(alpha)
    return known[1:]


def _leaning(by: float) -> Evidence:
    """Evidence that says as much for the subject everywhere."""
    return lambda view, turn: by


def _shared(one: np.ndarray, other: np.ndarray) -> float:
    """The share of what either of two alphas covers that both cover, 0…1."""
    either = ((one > 0.5) | (other > 0.5)).sum()
    return float(((one > 0.5) & (other > 0.5)).sum() / either) if either else 1.0
