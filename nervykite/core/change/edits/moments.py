"""Edits of moments: flagged frames of a shot."""

from typing import Annotated, Any, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Document, Hold, Matte, Piece, Shot, Stop
from ...piece.model.base import FrameNumber, Id, Name
from ...piece.model.naming import free_name
from ...piece.model.shot import Moment
from .base import Edit, hold_shown, item_of, shot_of, shows_frame, with_hold
from .retied import retied


class AddMoment(Edit):
    """Flags a frame of a shot."""

    kind: Literal["add moment"] = "add moment"
    shot: Id
    frame: FrameNumber
    name: Name | None = None

    def title(self, document: Document) -> str:
        return f"flag frame {self.frame}"

    def apply(self, document: Document) -> Document:
        shot = shot_of(document, self.shot)
        if self.frame >= shot.frames:
            raise Refusal(f"{shot.name} has no frame {self.frame}; its last one is {shot.frames - 1}.")
        if any(m.frame == self.frame for m in shot.moments):
            raise Refusal(f"Frame {self.frame} of {shot.name} is flagged already.")
        name = free_name(self.name or "Moment 1", {m.name for m in shot.moments})
        moments = sorted([*shot.moments, Moment(frame=self.frame, name=name)], key=lambda m: m.frame)
        return _with_moments(document, shot, moments)


class ChangeMoment(Edit):
    """Renames a moment, gives it a tag or takes that away (`clear`), or moves it: holds taken there go with it.

    A carved one can go only where its matte has travelled; elsewhere that is carried first, see `NudgeMoment`.
    """

    kind: Literal["change moment"] = "change moment"
    shot: Id
    moment: Id
    frame: FrameNumber | None = None
    name: Name | None = None
    tag: Annotated[Name, Field(max_length=24)] | None = None
    clear: list[Literal["tag"]] = []

    def title(self, document: Document) -> str:
        if self.frame is not None:
            return f"move moment to frame {self.frame}"
        return "rename moment" if self.name else f"tag moment {self.tag}" if self.tag else "take the tag off a moment"

    def apply(self, document: Document) -> Document:
        shot = shot_of(document, self.shot)
        moment = moment_of(shot, self.moment)
        tag = None if "tag" in self.clear else self.tag or moment.tag
        document = _changed(document, shot, moment, name=self.name or moment.name, tag=tag)
        return document if self.frame is None else nudged(document, self.shot, self.moment, self.frame, {})


class NudgeMoment(Edit):
    """Moves a moment, and the holds taken there with it; `carried` are their mattes at the new frame, by their ids.

    That is how carrying them there ends; a client moves moments by `ChangeMoment`.
    """

    kind: Literal["nudge moment"] = "nudge moment"
    shot: Id
    moment: Id
    frame: FrameNumber
    carried: dict[Id, list[Piece]]

    def title(self, document: Document) -> str:
        return f"move moment to frame {self.frame}"

    def apply(self, document: Document) -> Document:
        return nudged(document, self.shot, self.moment, self.frame, self.carried)


class RemoveMoment(Edit):
    """Takes a flag away; holds taken there stay."""

    kind: Literal["remove moment"] = "remove moment"
    shot: Id
    moment: Id

    def title(self, document: Document) -> str:
        return "remove moment"

    def apply(self, document: Document) -> Document:
        shot = shot_of(document, self.shot)
        removed = _with_moments(document, shot, [m for m in shot.moments if m.id != self.moment])
        return retied(document, removed)


def moment_of(shot: Shot, id_: str) -> Moment:
    """A moment by its id. Raises Refusal if it is gone."""
    moment = next((m for m in shot.moments if m.id == id_), None)
    if moment is None:
        raise Refusal("That moment is no longer there. Choose another.")
    return moment


def to_carry(document: Document, shot: str, moment: str, frame: int) -> list[Hold]:
    """The holds at a moment whose mattes have to be carried to a frame before the moment can go there.

    Raises Refusal if it cannot.
    """
    held = _held(document, shot, moment_of(shot_of(document, shot), moment).frame)
    nudged(document, shot, moment, frame, {h.id: [] for h in held})
    return [h for h in held if h.matte.pieces and h.matte_at(frame) is None]


def nudged(document: Document, shot_id: str, moment_id: str, frame: int, carried: dict[str, list[Piece]]) -> Document:
    """The document with a moment moved to a frame, and the holds taken there with it. Raises Refusal."""
    shot = shot_of(document, shot_id)
    moment = moment_of(shot, moment_id)
    if frame >= shot.frames:
        raise Refusal(f"{shot.name} has no frame {frame}; its last one is {shot.frames - 1}.")
    if any(m.frame == frame and m.id != moment.id for m in shot.moments):
        raise Refusal(f"Frame {frame} of {shot.name} is flagged already.")
    held = _held(document, shot_id, moment.frame)
    if held and _held(document, shot_id, frame) and frame != moment.frame:
        raise Refusal(f"Frame {frame} of {shot.name} is held already. Nudge that one away first.")
    for hold in held:
        document = with_hold(document, _moved(hold, shot, frame, carried.get(hold.id)))
        for layer in document.project.layers:
            if hold_shown(layer) == hold.id and layer.over is not None:
                over = item_of(document, layer.over)
                if not shows_frame(document, over, shot_id, frame):
                    raise Refusal(f"The ground does not show frame {frame} of {shot.name} there. Nudge the other way.")
    return _changed(document, shot_of(document, shot_id), moment_of(shot, moment_id), frame=frame)


def _held(document: Document, shot: str, frame: int) -> list[Hold]:
    return [h for h in document.holds.values() if h.shot == shot and h.frame == frame]


def _moved(taken: Hold, shot: Shot, frame: int, carried: list[Piece] | None) -> Hold:
    """A hold at another frame of its take, with the matte that was carried there, or has travelled there already."""
    if frame == taken.frame:
        return taken
    if not taken.matte.pieces and taken.travel is None:
        return taken.model_copy(update={"frame": frame})
    if frame not in shot.take(taken.frame):
        raise Refusal(f"{shot.name} cuts in between: {taken.name} shows another take. Hold a frame there instead.")
    known = taken.matte_at(frame)
    if carried is None and known is None and taken.matte.pieces:
        raise Refusal(f"The matte of {taken.name} is not at frame {frame}. Carry it there first.")
    pieces = carried if known is None and carried is not None else (known or Matte()).pieces
    travel = taken.travel
    if travel is not None:
        if not travel.first <= frame < travel.past:
            last = travel.past - 1
            raise Refusal(f"The matte of {taken.name} travels through frames {travel.first} to {last} only.")
        stops = [s for s in travel.stops if s.frame not in (frame, taken.frame)]
        stops.append(Stop(frame=taken.frame, pieces=taken.matte.pieces, carried=False))
        travel = travel.model_copy(update={"stops": sorted(stops, key=lambda s: s.frame)})
    matte = taken.matte.model_copy(update={"pieces": pieces})
    return taken.model_copy(update={"frame": frame, "matte": matte, "travel": travel})


def _changed(document: Document, shot: Shot, moment: Moment, **changes: Any) -> Document:
    changed = moment.model_copy(update=changes)
    moments = [changed if m.id == moment.id else m for m in shot.moments]
    return _with_moments(document, shot, sorted(moments, key=lambda m: m.frame))


def _with_moments(document: Document, shot: Shot, moments: list[Moment]) -> Document:
    changed = shot.model_copy(update={"moments": moments})
    return document.model_copy(update={"shots": {**document.shots, shot.id: changed}})
