"""Edits of mattes that travel, and of mattes carried to other moments."""

from typing import Annotated, Any, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Document, Piece, Stop, Travel
from ...piece.model.base import FrameNumber, Id, Model, new_id
from .base import (
    Edit,
    hold_behind,
    hold_of,
    hold_shown,
    layer_of,
    shot_of,
    shows_frame,
    travel_of,
    with_hold,
    with_stops,
)
from .holds import HoldFrame


class SetTravel(Edit):
    """Gives a hold's matte a range of source frames to travel through, half-open; without one, it stays put."""

    kind: Literal["set travel"] = "set travel"
    hold: Id
    range: tuple[int, int] | None

    def title(self, document: Document) -> str:
        name = hold_of(document, self.hold).name
        return f"let {name} travel" if self.range else f"keep {name} in place"

    def apply(self, document: Document) -> Document:
        hold = hold_of(document, self.hold)
        if self.range is None:
            if any(hold_shown(x) == hold.id and x.arrangement.travels for x in document.project.layers):
                raise Refusal(f"A layer of {hold.name} runs along with the footage. Make it trail or wait ahead first.")
            return with_hold(document, hold.model_copy(update={"travel": None}))
        first, past = self.range
        shot = shot_of(document, hold.shot)
        if not 0 <= first <= hold.frame < past <= shot.frames:
            raise Refusal(
                f"The range has to include {hold.frame}, and lie within 0 to {shot.frames - 1} of {shot.name}."
            )
        take = shot.take(hold.frame)
        if first < take.start or past > take.stop:
            raise Refusal(
                f"{shot.name} cuts: frames {take.start} to {take.stop - 1} are one take. A matte travels within that."
            )
        stops = [s for s in hold.travel.stops if first <= s.frame < past] if hold.travel else []
        return with_hold(document, hold.model_copy(update={"travel": Travel(first=first, past=past, stops=stops)}))


class ChangeStop(Edit):
    """Locks or unlocks a frame of a travelling matte, accepts what was carried there as fixed, or forgets it."""

    kind: Literal["change stop"] = "change stop"
    hold: Id
    frame: FrameNumber
    change: Literal["lock", "unlock", "fix", "forget"]

    def title(self, document: Document) -> str:
        return f"{self.change} frame {self.frame}"

    def apply(self, document: Document) -> Document:
        hold = hold_of(document, self.hold)
        travel = travel_of(hold)
        stop = travel.at(self.frame)
        if stop is None:
            raise Refusal(f"There is no matte at frame {self.frame} yet. Carry one there, or draw it.")
        if self.change == "forget":
            if stop.locked:
                raise Refusal(f"Frame {self.frame} is locked. Unlock it first.")
            travel = travel.model_copy(update={"stops": [s for s in travel.stops if s.frame != self.frame]})
        else:
            changes: dict[str, dict[str, Any]] = {
                "fix": {"carried": False, "doubt": 0.0, "stale": False},
                "lock": {"locked": True},
                "unlock": {"locked": False},
            }
            travel = with_stops(travel, [stop.model_copy(update=changes[self.change])])
        return with_hold(document, hold.model_copy(update={"travel": travel}))


class PutCarried(Edit):
    """Takes over what carrying found; frames that are fixed or locked stay as they are."""

    kind: Literal["put carried"] = "put carried"
    hold: Id
    stops: list[Stop]

    def title(self, document: Document) -> str:
        count = len(self.stops)
        return f"carry {hold_of(document, self.hold).name} to {count} frame{'' if count == 1 else 's'}"

    def apply(self, document: Document) -> Document:
        hold = hold_of(document, self.hold)
        travel = travel_of(hold)
        kept = {s.frame for s in travel.stops if s.locked or not s.carried} | {hold.frame}
        new = [s for s in self.stops if s.frame not in kept and travel.first <= s.frame < travel.past]
        return with_hold(document, hold.model_copy(update={"travel": with_stops(travel, new)}))


class CarryTo(Model):
    """A matte that was carried to a moment, and how doubtful it is, 0…1."""

    frame: FrameNumber
    pieces: list[Piece]
    doubt: Annotated[float, Field(ge=0, le=1)] = 0.0


class CarryHolds(Edit):
    """Puts mattes that were carried from a hold onto other moments of its shot, as holds of their own.

    A hold at that frame without a matte takes it; where there is none, the frame is held. A carved one keeps its own.
    """

    kind: Literal["carry holds"] = "carry holds"
    hold: Id
    items: list[CarryTo]

    def title(self, document: Document) -> str:
        count = len(self.items)
        return f"carry {hold_of(document, self.hold).name} to {count} moment{'' if count == 1 else 's'}"

    def apply(self, document: Document) -> Document:
        source = hold_of(document, self.hold)
        for item in self.items:
            held = [h for h in document.holds.values() if h.shot == source.shot and h.frame == item.frame]
            if any(h.matte.pieces for h in held):
                continue
            if not held:
                over = next(
                    (g for g in document.project.ground if shows_frame(document, g, source.shot, item.frame)), None
                )
                if over is None:
                    continue  # the footage there was trimmed away meanwhile
                layer = new_id()
                document = HoldFrame(item=over.id, frame=item.frame, name=source.name, layer=layer).apply(document)
                held = [hold_behind(document, layer_of(document, layer))]
            matte = source.matte.model_copy(update={"pieces": item.pieces})
            document = with_hold(document, held[0].model_copy(update={"matte": matte}))
        return document
