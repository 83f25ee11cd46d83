"""The one search: all evidence is weighed, the best outline is cut, what it shows is learned, and it is weighed again.

Marks, picks and carrying are this search with other evidence. Evidence is a function with a name: asked at each turn,
it answers how much it speaks for the subject at each pixel, and may leave the answer to others. What a kind of search
works on, and what it learns from an answer, is its view.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol, TypeVar

import numpy as np

from .cut import minimal_cut

Box = tuple[slice, slice]
"""Rows and columns."""


@dataclass
class Turn:
    """One turn of a search, of pictures (h, w)."""

    number: int
    found: np.ndarray | None
    """The last answer, float32, 0…1; None if there is none yet."""
    ours: np.ndarray
    others: np.ndarray
    """What is surely the subject, and surely not, bool."""
    kept: np.ndarray
    dropped: np.ndarray
    """How well the colours are known to subject and surroundings, float32, see `evidence.known_to`."""
    leans: np.ndarray
    """Whose colours they are, float32, -1…1."""
    unary: np.ndarray
    """What was said in this turn so far, float32: above 0 for the subject."""

    @property
    def begins(self) -> np.ndarray | None:
        """From what the cut of this turn begins, which is the nearer to its end the better: float32 (h, w)."""
        return self.found


T = TypeVar("T", bound=Turn)


class UnaryTerms(Protocol):
    """Where what is said adds up."""

    unary: np.ndarray


class SearchView(Protocol[T]):
    """The view that a kind of search has of its picture."""

    pairwise: np.ndarray
    """What an outline costs at each pixel, float32 (h, w)."""

    def turn(self, number: int, found: np.ndarray | None) -> T | None:
        """The next turn, by what the last answer teaches; None if it teaches too little to go on."""
        ...

    def box(self, turn: T) -> Box:
        """The part of the picture that a turn is about."""
        ...

    def bound(self, turn: T) -> np.ndarray:
        """The unary term of a turn with what is certain, which nothing that is said can change."""
        ...

    def whole(self, found: np.ndarray) -> np.ndarray:
        """An answer without what cannot be part of the subject."""
        ...


Evidence = Callable[..., "np.ndarray | float | None"]
"""What speaks for the subject (> 0) or against it, of a view and a turn: float32 (h, w); None if it says nothing."""


@dataclass(frozen=True)
class SearchSettings:
    """The settings of how long is searched."""

    turns: int
    """Turns at most."""
    steps: int
    """Steps of each cut at most."""
    settled: float = 1.0
    """How much of two answers has to be the same, in what either covers, for the last one to be final."""


def search(view: SearchView[T], evidence: Sequence[Evidence], settings: SearchSettings):
    """The subject, float32 (h, w), 0…1, almost everywhere 0 or 1; and the last turn, None if there was none.

    view: what is looked at; evidence: what is heard, in order.
    """
    found: np.ndarray | None = None
    last: T | None = None
    for number in range(settings.turns):
        turn = view.turn(number, found)
        if turn is None:
            break
        hear(view, turn, evidence)
        before, box, unary = found, view.box(turn), view.bound(turn)
        result = np.zeros_like(unary) if before is None else before.copy()
        begins = None if turn.begins is None else turn.begins[box]
        result[box] = minimal_cut(unary[box], view.pairwise[box], begins, settings.steps)
        found, last = view.whole(result), turn
        if before is not None and overlap(before > 0.5, found > 0.5) > settings.settled:
            break
    return found, last


def hear(view: object, turn: UnaryTerms, evidence: Sequence[Evidence]) -> None:
    """Adds what all evidence says to the unary term of a turn."""
    for speaks in evidence:
        says = speaks(view, turn)
        if says is not None:
            turn.unary += says


def overlap(one: np.ndarray, other: np.ndarray) -> float:
    """The overlap of two areas, bool (h, w): what they have in common, of all that either covers."""
    return float((one & other).sum() / max(1, (one | other).sum()))


def without(evidence: Sequence[Evidence], *names: str) -> tuple[Evidence, ...]:
    """All evidence but that of some names."""
    return tuple(e for e in evidence if e.__name__ not in names)


def replaced(evidence: Sequence[Evidence], *others: Evidence) -> tuple[Evidence, ...]:
    """All evidence, with others in the place of those that have their names."""
    by_name = {e.__name__: e for e in others}
    return tuple(by_name.get(e.__name__, e) for e in evidence)
