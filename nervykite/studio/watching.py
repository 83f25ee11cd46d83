"""Looking through shots, over a studio's footage: what is seen is kept with the shot, as far as it has come."""

import contextlib
import os
import threading
from collections.abc import Callable, Iterator
from functools import partial
from typing import Annotated, Literal

import cv2
import numpy as np
from pydantic import BaseModel, Field

from ..core.common.errors import Refusal
from ..core.common.kept import Kept
from ..core.piece.model import Shot
from ..core.see.catch import apexes, cadence
from ..core.see.catch.apexes import Curves, FrameProposal
from ..core.see.catch.ghosts import Ghost, ghost, together
from ..core.see.catch.seen import ROW, Seen, packed, unpacked
from ..core.see.catch.watch import looked_through
from ..core.see.footage.planes import to_bgr
from .studio import Studio

STRETCH = 24
"""So many frames are kept in one go."""
AGAIN = 12
"""So many frames before where it stopped are looked at once more, so that people and camera are known there."""
POLITE = 10
"""How far behind everything else a thread that looks through shots stands (as `nice` has it)."""


def politely() -> None:
    """Has the thread it is called in stand behind all others, where threads can be told apart."""
    with contextlib.suppress(OSError, AttributeError):
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), POLITE)


def takes(shot: Shot) -> list[range]:
    """The takes of a shot, in order."""
    edges = [0, *shot.cuts, shot.frames]
    return [range(a, b) for a, b in zip(edges, edges[1:], strict=False) if a < b]


def unwatched(studio: Studio, shot: Shot) -> list[range]:
    """The frames of each take that were not looked at yet: what is left of it."""
    known = studio.watched.known(shot.id)
    left = []
    for take in takes(shot):
        first = take.start
        for stretch in known:
            if stretch.start == first < take.stop:
                first = stretch.stop
        if first < take.stop:
            left.append(range(first, take.stop))
    return left


def watch_shot(
    studio: Studio,
    shot: Shot,
    seen: Callable[[int], None] = lambda past: None,
    give_way: Callable[[], None] = lambda: None,
) -> None:
    """Looks at what was not looked at yet.

    seen: is told how far it has come, and may raise to stop it; give_way: is called some times a frame,
    returns once it may go on, and may raise as well
    """
    for left in unwatched(studio, shot):
        begin = max(shot.take(left.start).start, left.start - AGAIN)
        rows: list[np.ndarray] = []
        bodies: list[np.ndarray] = []
        first = left.start
        frames = range(begin, left.stop)
        # Who was followed before it was stopped may be somebody else: numbers begin beyond those of then.
        found = looked_through(partial(pictures, studio, shot), frames, float(shot.rate), give_way)
        for frame, (one, body) in zip(frames, found, strict=True):
            if frame < left.start:
                continue
            rows.append(one.row())
            bodies.append(body)
            if len(rows) == STRETCH or frame + 1 == left.stop:
                studio.watched.put(shot.id, first, len(rows), np.stack(rows).tobytes(), packed(bodies))
                first, rows, bodies = frame + 1, [], []
                seen(first)


def pictures(studio: Studio, shot: Shot, frames: range) -> Iterator[np.ndarray]:
    """Frames of a shot, from its proxy, uint8 RGB."""
    proxy = studio.library.proxy(shot)
    for frame in frames:
        yield cv2.cvtColor(to_bgr(proxy.planes(frame)), cv2.COLOR_BGR2RGB)


class Cadence(BaseModel):
    """The choice of frames: from the first to the last one, so many, or every so manyth; so many are evenly spaced
    in time, or by how far the body goes on the screen.
    """

    first: Annotated[int, Field(ge=0)]
    last: Annotated[int, Field(ge=0)]
    count: Annotated[int, Field(ge=1, le=60)] = 3
    every: Annotated[int, Field(ge=1, le=10_000)] | None = None
    by: Literal["time", "distance"] = "time"


class ShotObservations:
    """The records of shots, as they are asked for. Safe for several threads."""

    def __init__(self, studio: Studio) -> None:
        self._studio = studio
        self._seen: Kept[list[Seen]] = Kept(6)
        self._proposed: Kept[list[FrameProposal]] = Kept(24)
        self._curves: Kept[list[Curves]] = Kept(6)
        self._bodies: Kept[np.ndarray] = Kept(400)
        self._ghosts: Kept[Ghost] = Kept(60)
        self._pictures: Kept[np.ndarray] = Kept(8)

    def known(self, shot: Shot) -> list[range]:
        """The frames that were looked at, as few stretches as there are."""
        joined: list[range] = []
        for stretch in self._studio.watched.known(shot.id):
            if joined and joined[-1].stop == stretch.start:
                joined[-1] = range(joined[-1].start, stretch.stop)
            else:
                joined.append(stretch)
        return joined

    def seen(self, shot: Shot) -> list[Seen]:
        """The records of each frame of a shot; nothing yet where it was not looked at."""
        return self._seen.get(self._key(shot), lambda: self._read(shot))

    def _key(self, shot: Shot) -> tuple[str, int]:
        return shot.id, sum(len(stretch) for stretch in self._studio.watched.known(shot.id))

    def _read(self, shot: Shot) -> list[Seen]:
        found = [Seen()] * shot.frames
        for stretch in self._studio.watched.stretches(shot.id):
            rows = np.frombuffer(stretch.seen, np.float32).reshape(-1, ROW)
            found[stretch.first : stretch.past] = [Seen.of(row) for row in rows]
        return found

    def curves(self, shot: Shot) -> list[Curves]:
        """The curves of each take of a shot."""
        return self._curves.get(self._key(shot), lambda: self._take_by_take(shot))

    def _take_by_take(self, shot: Shot) -> list[Curves]:
        seen, (rate, wide) = self.seen(shot), _measures(shot)
        return [apexes.curves_of(seen[t.start : t.stop], rate, wide) for t in takes(shot)]

    def proposals(self, shot: Shot, allowed: frozenset[int] | None) -> list[FrameProposal]:
        """The proposals for a whole shot, the best first; `allowed`: the only frames that may be, if not all."""
        return self._proposed.get((self._key(shot), allowed), lambda: self._proposals(shot, allowed))

    def _proposals(self, shot: Shot, allowed: frozenset[int] | None) -> list[FrameProposal]:
        seen, (rate, wide) = self.seen(shot), _measures(shot)
        found = []
        for take in takes(shot):
            inside = None if allowed is None else [f - take.start for f in take if f in allowed]
            for one in apexes.proposals(seen[take.start : take.stop], rate, wide, inside):
                found.append(FrameProposal(one.frame + take.start, one.why, one.peak, one.crisp, one.worth))
        return sorted(found, key=lambda p: -p.worth)

    def cadence(self, shot: Shot, asked: "Cadence", places: list[int]) -> list[int]:
        """The frames of a cadence, each one of `places`, see `core/see/catch/cadence.py`. Raises Refusal."""
        first, last, count = asked.first, asked.last, asked.count
        if not 0 <= first <= last < shot.frames:
            raise Refusal(f"Choose a first and a last frame within 0 to {shot.frames - 1}, the first one first.")
        inside = [f for f in places if first <= f <= last]
        if asked.every is not None:
            return cadence.every(first, last, asked.every, inside)
        if asked.by == "distance":
            seen = self.seen(shot)  # a cut is no way that anybody goes
            steps = np.concatenate([np.diff(cadence.travelled(seen[t.start : t.stop]), prepend=0) for t in takes(shot)])
            return cadence.in_distance(np.cumsum(steps), first, last, count, inside)
        return cadence.in_time(first, last, count, inside)

    def bodies(self, shot: Shot, frames: list[int]) -> list[np.ndarray]:
        """Where the subject is in some frames, uint8 (h, w) each, small; nowhere where it was not looked at."""
        left = [f for f in frames if self._bodies.peek((shot.id, f)) is None]
        for first, count, data in self._studio.watched.bodies(shot.id, left):
            for number, body in enumerate(unpacked(data, count)):
                if first + number in left:
                    self._bodies[shot.id, first + number] = body
        found = [self._bodies.peek((shot.id, f)) for f in frames]
        size = next((b.shape for b in found if b is not None), (16, 16))
        return [np.zeros(size, np.uint8) if b is None else b for b in found]

    def ghosts(self, shot: Shot, frames: list[int], under: int, strength: float) -> np.ndarray:
        """The bodies of some frames over another one: uint8 RGB (h, w, 3), as large as the proxy."""
        behind = self._picture(shot, under)
        return together(behind, [self._ghost(shot, f) for f in frames], strength)

    def _ghost(self, shot: Shot, frame: int) -> Ghost:
        (body,) = self.bodies(shot, [frame])

        def make() -> Ghost:
            return ghost(body, self._picture(shot, frame))

        return self._ghosts.get((shot.id, frame), make) if body.any() else make()

    def _picture(self, shot: Shot, frame: int) -> np.ndarray:
        return self._pictures.get((shot.id, frame), lambda: next(pictures(self._studio, shot, range(frame, frame + 1))))


def _measures(shot: Shot) -> tuple[float, float]:
    """Frames a second, and the width in heights."""
    return float(shot.rate), shot.width / shot.height
