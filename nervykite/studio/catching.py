"""From frames that were chosen to cutouts, in one go; and moments moved with all that was taken there."""

from collections.abc import Callable
from typing import Annotated

from pydantic import BaseModel, Field

from ..core.change.edits import CarryHolds, ChangeMatte, HoldFrame, NudgeMoment, Several
from ..core.change.edits.base import hold_shown
from ..core.change.edits.moments import to_carry
from ..core.common.errors import Refusal
from ..core.piece.model import Document, Hold, Shot
from ..core.piece.model.base import FrameNumber, Id, Name
from ..core.piece.model.matte import DOUBTFUL
from . import carving
from .carrying import FARTHEST, carried_out
from .carving import FindRequest
from .studio import Studio

Progress = Callable[[float], None]
Changed = Callable[[], None]
PICKING = 0.25
"""How much of the progress finding the subject in the first frame is."""


class ChosenFrame(BaseModel):
    """A frame that was chosen to be held, and what it is called."""

    frame: FrameNumber
    name: Name | None = None


class CarveAllRequest(BaseModel):
    """Frames of a ground item's shot to hold and to cut the subject out of; the first ones are tried first."""

    item: Id
    frames: Annotated[list[ChosenFrame], Field(min_length=1, max_length=60)]


def hold_and_carve(
    studio: Studio, project: str, request: CarveAllRequest, progress: Progress, changed: Changed
) -> dict[str, object]:
    """Holds frames, finds the subject in the first of them by itself, and carries that matte to the others.

    Each is put down as soon as it is there: stopped, it goes on the next time from what is carved by then. Raises
    Refusal. The result names the layers whose mattes it doubts, those first that it doubts most.
    """
    document = studio.state(project).document
    item = document.item(request.item)
    footage = item.source.footage(document) if item else None
    if item is None or footage is None:
        raise Refusal("There is no footage there to cut anybody out of. Choose a take in the ground.")
    shot = document.shots[footage]
    wanted = [c.frame for c in request.frames]
    held = {h.frame for h in document.holds.values() if h.shot == shot.id}
    new = [HoldFrame(item=item.id, frame=c.frame, name=c.name) for c in request.frames if c.frame not in held]
    if new:
        studio.edit(project, Several(edits=new), None)  # type: ignore[arg-type]
        changed()
    doubts: dict[int, float] = {}
    done = 0
    for take in _by_take(shot, wanted):

        def share(part: float, done: int = done, count: int = len(take)) -> None:
            progress((done + part * count) / len(wanted))

        _carve_take(studio, project, shot, take, doubts, share, changed)
        done += len(take)
    document = studio.state(project).document
    layers = {h.frame: x.id for x in document.project.layers if (h := _hold_of(document, hold_shown(x), shot.id))}
    order = sorted((f for f in doubts if doubts[f] >= DOUBTFUL), key=lambda f: -doubts[f])
    left = [f for f in wanted if not _carved(document, shot, f)]
    return {
        "frames": len(wanted) - len(left), "left": left,
        "doubtful": [layers[f] for f in order if f in layers],
        "layers": [layers[f] for f in sorted(wanted) if f in layers],
    }  # fmt: skip


def _hold_of(document: Document, hold: str | None, shot: str) -> Hold | None:
    found = document.holds.get(hold) if hold else None
    return found if found and found.shot == shot else None


def _by_take(shot: Shot, frames: list[int]) -> list[list[int]]:
    takes: dict[int, list[int]] = {}
    for frame in frames:
        takes.setdefault(shot.take(frame).start, []).append(frame)
    return list(takes.values())


def _carved(document: Document, shot: Shot, frame: int) -> Hold | None:
    return next((h for h in document.holds.values() if h.shot == shot.id and h.frame == frame and h.matte.pieces), None)


def _carve_take(
    studio: Studio,
    project: str,
    shot: Shot,
    frames: list[int],
    doubts: dict[int, float],
    progress: Progress,
    changed: Changed,
) -> None:
    document = studio.state(project).document
    carved = [h for f in frames if (h := _carved(document, shot, f))]
    doubtful = 0.0
    if not carved:
        first, unsure = _picked(studio, project, shot, frames, lambda part: progress(PICKING * part))
        doubts[first.frame] = doubtful = DOUBTFUL if unsure else 0.0
        changed()
        carved = [first]
    while left := [f for f in frames if not _carved(studio.state(project).document, shot, f)]:
        # From the carved ones outwards, each from the nearest; what lies too far from all is left.
        home = min(carved, key=lambda h: min(abs(h.frame - f) for f in left))
        reachable = [f for f in left if abs(f - home.frame) <= FARTHEST and _nearest(carved, f) is home]
        if not reachable:
            return
        got = []
        for one in carried_out(studio, shot, home, reachable, lambda part: progress(PICKING + (1 - PICKING) * part)):
            studio.edit(project, CarryHolds(hold=home.id, items=[one]), None)
            changed()
            doubts[one.frame] = max(one.doubt, doubtful)  # which is carried along
            got.append(one.frame)
        if not got:
            return
        now = studio.state(project).document
        carved += [h for f in got if (h := _carved(now, shot, f))]


def _nearest(carved: list[Hold], frame: int) -> Hold:
    return min(carved, key=lambda h: abs(h.frame - frame))


def _picked(studio: Studio, project: str, shot: Shot, frames: list[int], progress: Progress) -> tuple[Hold, bool]:
    """The first of some held frames in which the subject is found by itself, with that matte: what moves, or a person.

    And whether parts of that are less sure. Raises Refusal if it is found in none.
    """
    why: Refusal | None = None
    for frame in frames:
        for kind in ("mover", "person"):
            document = studio.state(project).document
            hold = next((h for h in document.holds.values() if h.shot == shot.id and h.frame == frame), None)
            if hold is None:
                continue
            try:
                found = carving.find(studio, document, hold, FindRequest(kind=kind, frame=frame), progress)  # type: ignore[arg-type]
            except Refusal as refusal:
                why = why or refusal
                continue
            matte = hold.matte.model_copy(update={"pieces": [found.piece]})
            studio.edit(project, ChangeMatte(hold=hold.id, matte=matte), None)
            return studio.state(project).document.holds[hold.id], found.doubtful
    raise why or Refusal("Those frames are no longer held. Choose them again.")


def nudge(
    studio: Studio, project: str, shot_id: str, moment: str, frame: int, progress: Progress, changed: Changed
) -> dict[str, object]:
    """Moves a moment to a frame, and the holds taken there with it: their mattes are carried. Raises Refusal."""
    document = studio.state(project).document
    if shot_id not in document.shots:
        raise Refusal("That shot is not part of this project. Import it first.")
    shot = document.shots[shot_id]
    pieces, doubt = {}, 0.0
    for hold in to_carry(document, shot_id, moment, frame):
        reached = next(carried_out(studio, shot, hold, [frame], progress), None)
        if reached is None:
            raise Refusal(f"{hold.name} was lost on the way there. Hold frame {frame} by itself, and carve it.")
        pieces[hold.id] = reached.pieces
        doubt = max(doubt, reached.doubt)
    studio.edit(project, NudgeMoment(shot=shot_id, moment=moment, frame=frame, carried=pieces), None)
    changed()
    return {"frame": frame, "doubtful": doubt >= DOUBTFUL}
