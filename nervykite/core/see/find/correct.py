"""Marks on something found already: a stroke changes what is near it, and nothing else."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

import cv2
import numpy as np

from ...common.errors import Refusal
from ..matte.colours import SPACES, Mixture, lab
from ..matte.matting import with_edge
from ..matte.part import around
from .evidence import edges_of, known_to, leaning, pairwise_of
from .geodesic import geodesic_distance
from .search import Box, Evidence, SearchSettings, Turn, search
from .strokes import Stroke, draw

Side = Literal["keep", "drop"]


@dataclass(frozen=True)
class CorrectSettings:
    """The settings by which what was found is cut again around new strokes."""

    search: SearchSettings = field(default_factory=lambda: SearchSettings(turns=1, steps=200))
    pixels: int = 90_000
    """Of the strokes' surroundings, at which they are cut again."""
    beyond: float = 0.8
    """The distance around new strokes that belongs to their surroundings, in their lengths."""
    least: float = 0.11
    """The least such distance, in diagonals of the frame."""
    outline: float = 1.1
    """What an outline costs in even places."""
    stays: float = 1.1
    """The say of what was there, where strokes have none."""
    colour: float = 0.9
    """The say of whose colours they are, where strokes have all of the say."""
    ways: float = 0.55
    """The say of which side's strokes are nearer along the picture, where strokes have all of the say."""
    parts: int = 8
    """Of how many colours a side is taken to be."""
    edge: float = 0.5
    """The cost of crossing a usual edge on a way along the picture."""
    even: float = 0.03
    """The cost of going on along the picture where there is no edge."""
    far: float = 0.35
    """The part of the usual way along which the strokes' say falls to a third, 0…1."""
    window: float = 0.45
    """The part of the surroundings' shorter side at which the strokes' say is about to end, 0…1."""
    loud: float = 1.6
    """Strokes have all of the say where more than one of so many parts of it is left."""


@dataclass
class CorrectTurn(Turn):
    """The only turn; float32 (h, w)."""

    says: np.ndarray
    """How much the strokes have a say, 0…1: all on them, less along the picture, nothing at the window's rim."""
    toward: np.ndarray
    """1 where a keep stroke is nearer along the picture, -1 where a drop stroke is."""


class Corrected:
    """The surroundings of new strokes in a frame, and what was found there before.

    picture: uint8 RGB (h, w, 3); before: float32 (h, w), 0…1; inside, outside: what all strokes cover, bool (h, w);
    new: what new strokes say differently, bool (h, w).
    """

    def __init__(
        self, picture: np.ndarray, before: np.ndarray, inside: np.ndarray, outside: np.ndarray, new: np.ndarray,
        settings: CorrectSettings,
    ) -> None:  # fmt: skip
        self.settings = settings
        h, w = before.shape
        by = min(1.0, math.sqrt(settings.pixels / (h * w)))
        size = max(8, round(w * by)), max(8, round(h * by))

        def small(mask: np.ndarray) -> np.ndarray:
            return cv2.resize(mask.astype(np.float32), size, interpolation=cv2.INTER_AREA)

        self.had = small(before)
        self.keeps, self.drops, fresh = small(inside) > 0.4, small(outside) > 0.4, small(new)
        self._fresh = fresh > 0.3 if (fresh > 0.3).any() else fresh > 0
        self._colours = lab(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), SPACES[0])
        self._edges = edges_of(self._colours)
        self.pairwise = pairwise_of(self._edges, settings.outline)

    def turn(self, number: int, found: np.ndarray | None) -> CorrectTurn:
        """The turn that strokes and the last answer lead to: whose the colours are, and how far strokes have a say."""
        set_, fresh = self.settings, self._fresh
        ours, others = (self.had > 0.9) & ~self.drops, (self.had < 0.1) & ~self.keeps
        kept, dropped = (
            np.zeros(fresh.shape, np.float32) if side is None else known_to(side, self._colours)
            for side in self._sides(ours | self.keeps, others | self.drops)
        )
        cost = (set_.even + set_.edge * self._edges / (self._edges.mean() + 1e-3)).astype(np.float32)
        far, to_keep, to_drop = (geodesic_distance(s, cost) for s in (fresh, self.keeps & fresh, self.drops & fresh))
        straight = cv2.distanceTransform((~fresh).astype(np.uint8), cv2.DIST_L2, 5)
        says = np.exp(-far / (set_.far * max(float(np.median(far)), 1e-3)))
        says *= np.clip(1.3 - straight / (set_.window * min(fresh.shape)), 0, 1)
        toward = np.where(to_keep < to_drop, 1, -1).astype(np.float32)
        leans, nothing = leaning(kept, dropped), np.zeros(fresh.shape, np.float32)
        return CorrectTurn(number, self.had, ours, others, kept, dropped, leans, nothing, says, toward)

    def _sides(self, ours: np.ndarray, others: np.ndarray) -> list[Mixture | None]:
        """The colours of both sides; nothing of either if one is unknown, as all would be the other's then."""
        fresh, parts = self._fresh, self.settings.parts
        areas = (self.keeps, ours), (self.drops, others)
        sides = [_mixture(self._colours[own & fresh], self._colours[known], parts) for own, known in areas]
        return [None, None] if None in sides else sides

    def box(self, turn: Turn) -> Box:
        """All of it."""
        return slice(0, turn.unary.shape[0]), slice(0, turn.unary.shape[1])

    def bound(self, turn: Turn) -> np.ndarray:
        """The unary term, what strokes cover, and at the rim what was there."""
        unary = turn.unary
        unary[self.drops], unary[self.keeps] = -40, 40
        rim = np.ones(unary.shape, bool)
        rim[2:-2, 2:-2] = False
        return np.where(rim, 40 * (2 * self.had - 1), unary).astype(np.float32)

    def whole(self, found: np.ndarray) -> np.ndarray:
        """The answer as it is: what was there before may have been in parts."""
        return found


def stays(view: Corrected, turn: CorrectTurn) -> np.ndarray:
    """The say of what was there, where strokes have none."""
    return (1 - turn.says) * view.settings.stays * (2 * view.had - 1)


def colour(view: Corrected, turn: CorrectTurn) -> np.ndarray:
    """Whose colours they are, where strokes have a say."""
    return _loud(view, turn) * view.settings.colour * turn.leans


def ways(view: Corrected, turn: CorrectTurn) -> np.ndarray:
    """The side whose stroke is nearer, where strokes have a say."""
    return _loud(view, turn) * view.settings.ways * turn.toward * turn.says


def _loud(view: Corrected, turn: CorrectTurn) -> np.ndarray:
    return np.minimum(1, view.settings.loud * turn.says)


CORRECTING: tuple[Evidence, ...] = (stays, colour, ways)
"""What is heard, in this order."""


def correct(
    picture: np.ndarray, before: np.ndarray, keep: list[Stroke], drop: list[Stroke], reach: float = 10.0,
    newest: Side | None = None, evidence: Sequence[Evidence] = CORRECTING,
    settings: CorrectSettings = CorrectSettings(),
) -> np.ndarray:  # fmt: skip
    """A matte with strokes laid over it.

    picture: uint8 RGB (h, w, 3); before: float32 (h, w), 0…1; reach: how far the fine edge may go, px; newest: the
    side whose last stroke is new, the others having led to what was there before; evidence: what is heard. Around the
    strokes that say something new, the cut is made again: what the strokes say counts near them and along the picture,
    what was there before counts elsewhere. A stroke's own side always wins, a newer one's over an older one's; if none
    is newest, a keep stroke's over a drop stroke's. Returns float32 (h, w), 0…1. Raises Refusal if no stroke lies on
    the picture, or the newest does not.
    """
    h, w = before.shape
    inside, outside = draw(keep, h, w), draw(drop, h, w)
    laid = inside | outside if newest is None else draw((keep if newest == "keep" else drop)[-1:], h, w)
    if not laid.any():
        raise Refusal("All marks lie outside the frame. Draw them over the picture.")
    # In which order older strokes were drawn shows in what they led to.
    ours = inside if newest is None else np.where(laid, newest == "keep", before > 0.5)
    inside, outside = inside & (ours | ~outside), outside & ~(inside & ours)
    new = (inside & (before < 0.5)) | (outside & (before > 0.5))
    result = before.astype(np.float32).copy()
    if new.any():
        box = _around(new, settings)
        view = Corrected(picture[box], before[box], inside[box], outside[box], new[box], settings)
        result[box] = _cut_again(view, evidence, picture[box], before[box], inside[box], outside[box], reach)
    result[inside] = 1
    result[outside] = 0
    return result


def _around(new: np.ndarray, settings: CorrectSettings) -> Box:
    """The surroundings that a stroke may change: as far again as it is long, and a part of the frame at least."""
    h, w = new.shape
    rows, columns = np.flatnonzero(new.any(1)), np.flatnonzero(new.any(0))
    long = max(np.ptp(rows), np.ptp(columns))
    pad = round(max(settings.least * math.hypot(h, w), settings.beyond * long))
    top, left = max(0, rows[0] - pad), max(0, columns[0] - pad)
    return slice(top, min(h, rows[-1] + pad + 1)), slice(left, min(w, columns[-1] + pad + 1))


def _cut_again(
    view: Corrected, evidence: Sequence[Evidence], picture: np.ndarray, before: np.ndarray, inside: np.ndarray,
    outside: np.ndarray, reach: float,
) -> np.ndarray:  # fmt: skip
    """The area that the search finds, and its edge where it is not what was there before: float32 (h, w), 0…1."""
    size = before.shape[::-1]
    cut, _ = search(view, evidence, view.settings.search)
    assert cut is not None
    moved = np.abs((cut > 0.5).astype(np.float32) - (view.had > 0.5))
    changed = cv2.resize(moved, size, interpolation=cv2.INTER_LINEAR)
    outline = np.where(changed > 0.01, cv2.resize(cut, size, interpolation=cv2.INTER_LINEAR), before)
    outline[inside], outline[outside & ~inside] = 1, 0
    if reach <= 0:
        return (outline > 0.5).astype(np.float32)
    # Where the outline stayed, so does its edge.
    spread = 2 * round(reach) + 9
    touched = cv2.dilate((changed > 0.01).astype(np.uint8), np.ones((spread, spread), np.uint8))
    if not touched.any():
        return before
    near = around(touched > 0, spread)
    mix = cv2.GaussianBlur(touched[near].astype(np.float32), (0, 0), 3)
    result = before.copy()
    result[near] += mix * (with_edge(picture[near], outline[near], reach) - before[near])
    return result


def _mixture(marked: np.ndarray, others: np.ndarray, parts: int) -> Mixture | None:
    """Colours (n, 3) of a side: half of them those under new strokes, if there are any; None if too little is known."""
    rng = np.random.default_rng(3)
    if len(marked) < 4:
        return Mixture.of(others, parts) if len(others) > 20 else None
    if len(others) > 20:
        count = max(400, min(len(marked), 3000))
        marked = marked[rng.integers(0, len(marked), count)]
        marked = np.concatenate([marked, others[rng.integers(0, len(others), count)]])
    return Mixture.of(marked, parts)
