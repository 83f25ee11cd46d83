"""A take as a recipe looks at it: what of it is in the piece, and which frames are worth holding."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from ...common.errors import Refusal
from . import cadence
from .apexes import FrameProposal


@dataclass(frozen=True)
class Take:
    """The part of its shot that a piece of the ground shows.

    frames: those that it shows, in order; rate: of the shot, frames a second; found: proposals, the best first; there:
    for each frame of the shot whether somebody was seen in it; way: how far they had gone by then, in shares of the
    height; cut: the frames in which the picture's left or right edge cuts them off; beats: the frames that are shown
    on the beats of the piece's music, in order.
    """

    frames: Sequence[int]
    rate: float
    found: Sequence[FrameProposal] = ()
    there: np.ndarray = field(default_factory=lambda: np.zeros(0, bool))
    way: np.ndarray = field(default_factory=lambda: np.zeros(0))
    cut: frozenset[int] = frozenset()
    beats: Sequence[int] = ()

    @property
    def seen(self) -> list[int]:
        """The frames in which somebody is seen; all of them if nobody was found in any."""
        return [f for f in self.frames if f < len(self.there) and self.there[f]] or list(self.frames)

    @property
    def best(self) -> int:
        """The frame most worth holding. Raises Refusal if the take shows none."""
        return self.moment(0)

    def moment(self, after: int) -> int:
        """The frame most worth holding of those with so many frames of the take after them, if any has. Raises Refusal
        if the take shows none.
        """
        if not self.frames:
            raise Refusal("That take has no frames in the piece. Choose another.")
        shown = set(self.frames)
        room = set(self.frames[: max(0, len(self.frames) - after)]) or shown
        peaks = [p.frame for p in self.found if p.frame in shown and p.peak > 0]
        for some in (room - self.cut, room):
            if (best := next((f for f in peaks if f in some), None)) is not None:
                return best
        if room != shown and peaks:
            # Shortly before the end there is nothing else: as near to the best moment as there is room.
            return min([f for f in self.seen if f in room] or sorted(room), key=lambda f: abs(f - peaks[0]))
        crisp = [p.frame for p in self.found if p.frame in room]
        seen = [f for f in self.seen if f in room] or sorted(room)
        return crisp[0] if crisp else seen[len(seen) // 2]

    def around(self, count: int, step: int, begun: bool = False) -> list[int]:
        """So many frames, so many apart, around the best one: frames that show all of the subject, if there are enough,
        else others; fewer where the take is too short. `begun`: not the first that it shows, if it has others.
        """
        seen = [f for f in self.seen if not begun or f > self.frames[0]] or self.seen
        whole = [f for f in seen if f not in self.cut]
        if len(whole) > (count - 1) * step:
            seen = whole
        middle = seen.index(min(seen, key=lambda f: abs(f - self.best)))
        most = min(count, 1 + (len(seen) - 1) // max(1, step))
        first = middle - step * ((most - 1) // 2)
        first = max(0, min(first, len(seen) - 1 - step * (most - 1)))
        return [seen[first + step * n] for n in range(most)]

    def from_a_beat(self, count: int, step: int) -> list[int]:
        """So many frames, so many apart, of which the first is shown on a beat, around the best one; as `around` where
        the take has no beat that leaves room for them.
        """
        seen, best = set(self.seen), self.best
        rows = [[beat + step * n for n in range(count)] for beat in self.beats]
        fit = [row for row in rows if row[0] > self.frames[0] and seen.issuperset(row)]
        whole = [row for row in fit if self.cut.isdisjoint(row)]
        if not fit:
            return self.around(count, step, begun=True)
        return min(whole or fit, key=lambda row: abs(row[(count - 1) // 2] - best))

    def spaced(self, after: Sequence[int], begun: bool = False) -> list[int]:
        """Frames that lie so many after the first of them (in order, from 0), the middle one at the best; closer
        together where the take is too short. `begun`: none of them is the first that it shows, if it has others.
        """
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
        subject is seen before others.
        """
        chosen: list[int] = []
        shown = set(self.frames)
        found = [p.frame for p in self.found if p.frame in shown]
        for frame in [self.best, *sorted(found, key=lambda f: f in self.cut)]:
            if len(chosen) < count and all(abs(frame - c) >= apart * self.rate for c in chosen):
                chosen.append(frame)
        return sorted(chosen)
