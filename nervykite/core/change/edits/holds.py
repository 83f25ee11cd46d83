"""Edits of holds: frames that are held, their mattes and plates."""

from typing import Annotated, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...kinds.arrangements.trail import Trail
from ...kinds.sources.hold import HoldSource
from ...piece.model import Arrangement, Document, Found, Hold, Layer, Matte, Shape, Stop
from ...piece.model.base import FrameNumber, Id, Name, new_id
from ...piece.model.naming import free_name
from .base import Edit, hold_of, item_of, shot_of, shows_frame, suited, travel_of, with_hold, with_project, with_stops
from .moments import AddMoment

FRINGE = 0.8
"""How much of the old background a new hold takes out of its edge's colours."""


class HoldFrame(Edit):
    """Holds a source frame of a piece of the ground: flags it, and puts a layer for its cutout on top of the sky."""

    kind: Literal["hold"] = "hold"
    item: Id
    frame: FrameNumber
    name: Name | None = None
    arrangement: Arrangement = Trail()
    layer: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"hold frame {self.frame}"

    def apply(self, document: Document) -> Document:
        item = item_of(document, self.item)
        footage = item.source.footage(document)
        if footage is None:
            raise Refusal(f"A {item.source.title.lower()} has nobody in it to cut out. Hold a frame of the footage.")
        shot = shot_of(document, footage)
        if not shows_frame(document, item, shot.id, self.frame):
            raise Refusal(f"The ground does not show frame {self.frame} of {shot.name} there. Choose a frame it shows.")
        name = free_name(self.name or "Cutout 1", {x.name for x in document.project.layers})
        if not any(m.frame == self.frame for m in shot.moments):
            document = AddMoment(shot=shot.id, frame=self.frame).apply(document)
        hold = Hold(shot=shot.id, frame=self.frame, name=name, matte=Matte(fringe=FRINGE))
        document = with_hold(document, hold)
        source = HoldSource(hold=hold.id)
        if self.arrangement.travels:
            raise Refusal("A new hold stands still. Let its matte travel before it runs along.")
        layer = Layer(id=self.layer, name=name, source=source, over=item.id, arrangement=self.arrangement)
        document = with_project(document, layers=[*document.project.layers, layer])
        suited(document, layer.id)
        return document


class ChangeMatte(Edit):
    """Replaces a hold's matte; every layer of the hold changes with it.

    With `frame`, the pieces are those of a frame that the matte travels to, which is fixed by that; what is done to
    the whole (grow, soften …) is the same at all frames.
    """

    kind: Literal["change matte"] = "change matte"
    hold: Id
    matte: Matte
    frame: FrameNumber | None = None

    def title(self, document: Document) -> str:
        hold = hold_of(document, self.hold)
        known = hold.matte if self.frame is None else hold.matte_at(self.frame) or Matte()
        before, after = ({p.id: p for p in m.pieces} for m in (known, self.matte))
        where = "" if self.frame in (None, hold.frame) else f" at frame {self.frame}"
        if new := [p for k, p in after.items() if k not in before]:
            return f"{'draw' if isinstance(new[0], Shape) else 'find'} {new[0].name}{where}"
        if gone := [p for k, p in before.items() if k not in after]:
            return f"remove {gone[0].name}{where}"
        if changed := [p for k, p in after.items() if p != before[k]]:
            return f"change {changed[0].name}{where}"
        if list(before) != list(after):
            return f"reorder pieces{where}"
        return f"change edge of {hold.name}"

    def apply(self, document: Document) -> Document:
        hold = hold_of(document, self.hold)
        if len({p.id for p in self.matte.pieces}) != len(self.matte.pieces):
            raise Refusal("Two pieces of the matte have the same id.")
        if self.frame is None or hold.frame == self.frame:
            travel = hold.travel
            if travel is not None and self.matte.pieces != hold.matte.pieces:
                travel = travel.corrected(hold.frame)
            return with_hold(document, hold.model_copy(update={"matte": self.matte, "travel": travel}))
        travel = travel_of(hold)
        if not travel.first <= self.frame < travel.past:
            raise Refusal(f"The matte of {hold.name} travels through frames {travel.first} to {travel.past - 1} only.")
        before = travel.at(self.frame)
        if before is not None and before.locked:
            raise Refusal(f"Frame {self.frame} is locked. Unlock it first.")
        stop = Stop(frame=self.frame, pieces=self.matte.pieces, carried=False)
        whole = self.matte.model_copy(update={"pieces": hold.matte.pieces})
        if before is None or before.pieces != stop.pieces:
            travel = travel.corrected(self.frame)
        hold = hold.model_copy(update={"travel": with_stops(travel, [stop]), "matte": whole})
        return with_hold(document, hold)


class PutFound(Edit):
    """Puts a found piece into the matte that a hold has at a frame, or takes it out.

    It says nothing of the other pieces, so it fits whatever was done to them while the piece was looked for.
    """

    kind: Literal["put found"] = "put found"
    hold: Id
    frame: FrameNumber
    id: Id
    piece: Found | None
    """Stands in place of the piece with that id, or over all others if there is none; None takes that piece out."""

    def title(self, document: Document) -> str:
        return self._whole(document).title(document)

    def apply(self, document: Document) -> Document:
        return self._whole(document).apply(document)

    def _whole(self, document: Document) -> ChangeMatte:
        hold = hold_of(document, self.hold)
        matte = hold.matte_at(self.frame) or hold.matte.model_copy(update={"pieces": []})
        others = [p for p in matte.pieces if p.id != self.id]
        if self.piece is None:
            pieces = others
        elif len(others) == len(matte.pieces):
            name = free_name(self.piece.name, {p.name for p in others})
            pieces = [*others, self.piece.model_copy(update={"id": self.id, "name": name})]
        else:
            new = self.piece.model_copy(update={"id": self.id})
            pieces = [new if p.id == self.id else p for p in matte.pieces]
        return ChangeMatte(hold=self.hold, matte=matte.model_copy(update={"pieces": pieces}), frame=self.frame)


class SetPlate(Edit):
    """Gives a hold the clean plate behind it, or takes it away."""

    kind: Literal["set plate"] = "set plate"
    hold: Id
    plate: Annotated[str, Field(pattern="^[0-9a-f]{64}$")] | None

    def title(self, document: Document) -> str:
        return f"{'set' if self.plate else 'remove'} plate of {hold_of(document, self.hold).name}"

    def apply(self, document: Document) -> Document:
        hold = hold_of(document, self.hold)
        return with_hold(document, hold.model_copy(update={"plate": self.plate}))
