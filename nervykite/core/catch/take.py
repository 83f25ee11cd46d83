"""A take as a recipe looks at it: what of it is in the piece, and which frames are worth holding."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from ..errors import Refusal
from . import cadence
from .apexes import Proposal


@dataclass(frozen=True)
class Take:
    """What a piece of the ground shows of its shot.

    frames: those that it shows, in order; rate: of the shot, frames a second; found: proposals, the best first; there:
    for each frame of the shot whether somebody was seen in it; way: how far they had gone by then, in shares of the
    height; cut: the frames in which the picture's left or right edge cuts them off.
    """

    frames: Sequence[int]
    rate: float
    found: Sequence[Proposal] = ()
    there: np.ndarray = field(default_factory=lambda: np.zeros(0, bool))
    way: np.ndarray = field(default_factory=lambda: np.zeros(0))
    cut: frozenset[int] = frozenset()

    @property
    def seen(self) -> list[int]:
        """The frames in which somebody is seen; all of them if nobody was found in any."""
        return [f for f in self.frames if f < len(self.there) and self.there[f]] or list(self.frames)

    @property
    def best(self) -> int:
        """The frame most worth holding. Raises Refusal if the take shows none."""
        if not self.frames:
            raise Refusal("That take has no frames in the piece. Choose another.")
        shown = set(self.frames)
        peaks = [p.frame for p in self.found if p.frame in shown and p.peak > 0]
        whole = [f for f in peaks if f not in self.cut]
        if peaks:
            return (whole or peaks)[0]
        crisp = [p.frame for p in self.found if p.frame in shown]
        seen = self.seen
        return crisp[0] if crisp else seen[len(seen) // 2]

    def around(self, count: int, step: int) -> list[int]:
        """So many frames, so many apart, around the best one; fewer where the take is too short."""
        seen = self.seen
        middle = seen.index(min(seen, key=lambda f: abs(f - self.best)))
        most = min(count, 1 + (len(seen) - 1) // max(1, step))
        first = middle - step * ((most - 1) // 2)
        first = max(0, min(first, len(seen) - 1 - step * (most - 1)))
        return [seen[first + step * n] for n in range(most)]

    def spaced(self, after: Sequence[int], begun: bool = False) -> list[int]:
        """Frames that lie so many after the first of them (in order, from 0), the middle one at the best; closer
        together where the take is too short. `begun`: none of them is the first that it shows, if it has others."""
        seen = [f for f in self.seen if not begun or f > self.frames[0]] or self.seen
        if after[-1] > len(seen) - 1:
            after = [round(a * (len(seen) - 1) / after[-1]) for a in after]
        middle = seen.index(min(seen, key=lambda f: abs(f - self.best)))
        first = max(0, min(middle - after[len(after) // 2], len(seen) - 1 - after[-1]))
        return [seen[first + a] for a in after]

    def by_distance(self, count: int) -> list[int]:
        """So many frames, each as far on the screen from the one before; by time where nobody moves."""
        seen = self.seen
        if len(self.way) and self.way[seen[-1]] - self.way[seen[0]] > 0.05:
            return cadence.in_distance(self.way, seen[0], seen[-1], count, seen)
        return cadence.in_time(seen[0], seen[-1], count, seen)

    def peaks(self, count: int, apart: float) -> list[int]:
        """Up to so many frames worth holding, at least so many seconds apart, in their order; those in which all of the
        subject is seen before others."""
        chosen: list[int] = []
        shown = set(self.frames)
        found = [p.frame for p in self.found if p.frame in shown]
        for frame in [self.best, *sorted(found, key=lambda f: f in self.cut)]:
            if len(chosen) < count and all(abs(frame - c) >= apart * self.rate for c in chosen):
                chosen.append(frame)
        return sorted(chosen)
