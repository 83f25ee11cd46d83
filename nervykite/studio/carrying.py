"""Carrying a hold's matte to other frames of its shot, over a studio's footage."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, Field

from ..core.change.edits import CarryHolds, CarryTo, PutCarried
from ..core.common.errors import Refusal
from ..core.piece.model import Found, Hold, Matte, Shot, Stop
from ..core.piece.model.matte import DOUBTFUL
from ..core.see.carry.carry import Carried, carry
from ..core.see.carry.carry_state import Trail
from ..core.see.carry.reel import working_size
from ..core.see.find.prior import people
from .carving import keep_alpha, known_alpha
from .service_footage import Film, looked_at, nothing
from .studio import Studio

Progress = Callable[[float], None]
Changed = Callable[[], None]
CHUNK = 24
"""So many frames are carried through in one go; then what was found is put down, so that stopping loses little."""
FARTHEST = 150
"""How far away, in frames, a moment may lie for a matte to be carried there."""


class CarryRequest(BaseModel):
    """Where to: through the range of the travelling matte, or to moments of the shot as holds of their own."""

    to: Literal["range", "next", "moments"]
    again: Annotated[list[int], Field(max_length=4000)] = []


@dataclass(frozen=True)
class Run:
    """Frames first…last without a matte, and the frames beside them that have one, if they have."""

    first: int
    last: int
    before: int | None
    after: int | None

    @property
    def ends(self) -> list[int]:
        """The frames beside it that have a matte."""
        return [f for f in (self.before, self.after) if f is not None]


def runs(known: set[int], wanted: set[int]) -> Iterator[Run]:
    """The stretches of frames to carry to, each short enough for one go, in an order in which each has a known end."""
    known, left = set(known), sorted(wanted - known)
    while left:
        stretch = _stretch(known, left)
        if stretch is None:
            return
        yield stretch
        done = set(range(stretch.first, stretch.last + 1))
        known |= done
        left = [f for f in left if f not in done]


def _stretch(known: set[int], left: list[int]) -> Run | None:
    wanted = set(left)
    best: Run | None = None
    for f in left:
        before = f - 1 if f - 1 in known else None
        after = f + 1 if f + 1 in known else None
        if before is not None:
            last = f
            while last + 1 in wanted and last - f + 1 < 2 * CHUNK:
                last += 1
            closing = last + 1 if last + 1 in known else None
            if closing is None:
                last = min(last, f + CHUNK - 1)
            return Run(f, last, before, closing)
        if after is not None and best is None:
            first = f
            while first - 1 in wanted and f - first + 1 < CHUNK:
                first -= 1
            best = Run(first, f, None, after)
    return best


def through(
    studio: Studio, project: str, hold_id: str, again: list[int], progress: Progress, changed: Changed
) -> dict[str, object]:
    """Carries a travelling matte to the frames of its range that have none, and to those asked for again.

    Each stretch is put into the document as soon as it is done: a job that is stopped goes on from there. Frames that
    are fixed or locked are never touched. Raises Refusal.
    """
    hold, shot = _hold(studio, project, hold_id)
    if hold.travel is None:
        raise Refusal("This matte does not travel yet. Choose a range first.")
    travel = hold.travel
    fixed = {s.frame for s in travel.stops if s.locked or not s.carried} | {hold.frame}
    stale = {s.frame for s in travel.stops if s.stale} | set(again)
    known = ({s.frame for s in travel.stops} - stale) | fixed
    wanted = set(range(travel.first, travel.past)) - known
    if not wanted:
        return {"frames": 0, "doubtful": 0}
    if not hold.matte.pieces:
        raise Refusal("There is no matte at the held frame yet. Carve it first, then carry it.")
    total, done, doubtful = len(wanted), 0, 0
    trail = studio.trails.peek((project, hold_id)) or {}
    for run in runs(known, wanted):
        hold, shot = _hold(studio, project, hold_id)  # somebody may have corrected a frame meanwhile

        def share(part: float, done: int = done, length: int = run.last - run.first + 1) -> None:
            progress(min(1.0, (done + part * length) / total))

        trail = dict(trail)
        stops = [_stop(studio, c) for c in _carried(studio, shot, hold, run, share, trail)]
        studio.edit(project, PutCarried(hold=hold_id, stops=stops), None)
        studio.trails[project, hold_id] = trail  # not before its mattes are down: a job that is stopped begins there
        changed()
        done += len(stops)
        doubtful += sum(s.state == "doubtful" for s in stops)
    return {"frames": done, "doubtful": doubtful}


def _stop(studio: Studio, carried: Carried) -> Stop:
    try:
        pieces = [Found(kind="carried", name="Carried", raster=keep_alpha(studio, carried.alpha))]
    except Refusal:
        return Stop(frame=carried.frame, pieces=[], doubt=1.0)  # the subject has left the frame, or was lost
    return Stop(frame=carried.frame, pieces=pieces, doubt=carried.doubt)


def _hold(studio: Studio, project: str, hold_id: str) -> tuple[Hold, Shot]:
    document = studio.state(project).document
    if hold_id not in document.holds:
        raise Refusal("That hold is no longer there. Choose another.")
    hold = document.holds[hold_id]
    return hold, document.shots[hold.shot]


def _carried(studio: Studio, shot: Shot, hold: Hold, run: Run, progress: Progress, trail: Trail) -> Iterator[Carried]:
    """Mattes for the frames of a run, from those at its ends; and from a trail, if the run before ended there."""
    stops = hold.travel.stops if hold.travel else ()
    by_hand = {hold.frame, *(s.frame for s in stops if not s.carried)}
    known = {f: a for f in run.ends if (a := known_alpha(studio, shot, hold, f)) is not None}
    yield from carry_run(studio.film(shot), run, known, by_hand, trail, progress)


def carry_run(
    film: Film, run: Run, known: dict[int, np.ndarray], by_hand: set[int], trail: Trail, progress: Progress
) -> Iterator[Carried]:
    """Mattes for the frames of a run of any film.

    known: the alphas, float32 (h, w), 0…1, of the frames at its ends, as far as somebody is seen there; by_hand: frames
    whose matte somebody made, which is news; trail: where the run before ended, taken up and left where this one ends.
    """
    window = range(min([run.first, *run.ends]), max([run.last, *run.ends]) + 1)
    for by, end in ((1, run.before), (-1, run.after)):
        if end in by_hand:
            trail.pop(by, None)
    if not known:  # nobody is there to be carried on
        for frame in range(run.first, run.last + 1):
            yield Carried(frame, np.zeros(film.size[::-1], np.float32), 1.0)
        return
    looked_at(film)
    small = film.small(window, working_size(*film.size))
    wanted = [f - window.start for f in range(run.first, run.last + 1)]
    fixed = {f - window.start: alpha for f, alpha in known.items()}
    for found in carry(film.exact(window), fixed, wanted, progress, people, small, trail):
        yield Carried(found.frame + window.start, found.alpha, found.doubt)


def carry_through(film: Film, at: int, alpha: np.ndarray, wanted: range) -> Iterator[Carried]:
    """A matte carried from the one frame whose alpha is known to others of the same take, outwards and run by run."""
    after, before = range(max(at + 1, wanted.start), wanted.stop), range(wanted.start, min(at, wanted.stop))
    for way, leg in ((1, after), (-1, before)):
        end, known = at, alpha
        trail: Trail = {}
        while leg:
            part, leg = (leg[:CHUNK], leg[CHUNK:]) if way > 0 else (leg[-CHUNK:], leg[:-CHUNK])
            run = Run(part[0], part[-1], end if way > 0 else None, end if way < 0 else None)
            end = part[-1] if way > 0 else part[0]
            found = list(carry_run(film, run, {run.ends[0]: known}, {at}, trail, nothing))
            yield from found
            known = next(c.alpha for c in found if c.frame == end)


def to_moments(
    studio: Studio, project: str, hold_id: str, only_next: bool, progress: Progress, changed: Changed
) -> dict[str, object]:
    """Carries a hold's matte to the next moment of its shot, or to all of them: each becomes a hold with that matte.

    A moment that has a carved hold already keeps it. Raises Refusal.
    """
    hold, shot = _hold(studio, project, hold_id)
    if not hold.matte.pieces:
        raise Refusal("There is no matte at the held frame yet. Carve it first, then carry it.")
    document = studio.state(project).document
    carved = {h.frame for h in document.holds.values() if h.shot == shot.id and h.matte.pieces}
    frames = [m.frame for m in shot.moments if m.frame not in carved]
    if only_next:
        frames = [f for f in frames if f > hold.frame][:1]
    take = shot.take(hold.frame)
    beyond = [f for f in frames if f not in take]
    frames = [f for f in frames if f in take]
    if beyond and not frames:
        raise Refusal("All those moments lie beyond a cut of the footage, in another take. Carve one of them there.")
    if not frames:
        raise Refusal(
            "There is no later moment in this shot that waits for a matte. Flag one in Catch first."
            if only_next
            else "All moments of this shot have mattes already. Flag more in Catch first."
        )
    far = [f for f in frames if abs(f - hold.frame) > FARTHEST]
    frames = [f for f in frames if f not in far]
    if not frames:
        raise Refusal(
            f"The nearest moment is more than {FARTHEST} frames away, too far to carry a matte. Carve it there."
        )
    items = list(carried_out(studio, shot, hold, frames, progress))
    if not items:
        raise Refusal("The subject was lost on the way there. Carve the nearest moment by hand.")
    studio.edit(project, CarryHolds(hold=hold_id, items=items), None)
    changed()
    left = len(far) + len(beyond)
    return {"frames": len(items), "doubtful": sum(i.doubt >= DOUBTFUL for i in items), "left": left}


def carried_out(studio: Studio, shot: Shot, hold: Hold, frames: list[int], progress: Progress) -> Iterator[CarryTo]:
    """A carved hold's matte carried to frames of its take, outwards, one after the other until the subject is lost."""
    film = studio.film(shot)
    looked_at(film)
    legs = [sorted((f for f in frames if f < hold.frame), reverse=True), sorted(f for f in frames if f > hold.frame)]
    span = sum(abs(leg[-1] - hold.frame) for leg in legs if leg)
    done = 0
    for leg in legs:
        at, alpha = hold.frame, studio.renderer.sprites.mattes.alpha(shot, hold.frame, Matte(pieces=hold.matte.pieces))
        trail: Trail = {}
        for frame in leg:
            window = range(min(at, frame), max(at, frame) + 1)
            exact, small = film.exact(window), film.small(window, working_size(*film.size))

            def share(part: float, done: int = done, length: int = len(window) - 1) -> None:
                progress(min(1.0, (done + part * length) / span))

            fixed, wanted = {at - window.start: alpha}, [frame - window.start]
            found = next(carry(exact, fixed, wanted, share, people, small, trail))
            done += len(window) - 1
            stop = _stop(studio, Carried(frame, found.alpha, found.doubt))
            if not stop.pieces:
                break
            yield CarryTo(frame=frame, pieces=stop.pieces, doubt=stop.doubt)
            at, alpha = frame, found.alpha
