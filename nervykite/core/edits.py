"""Everything a person can do to a document: each edit is data, has a name for undo, and makes a new document.

`apply` never changes the document it is given. It raises Refusal, with a sentence, when the edit does not fit it.
"""

from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter

from .errors import Refusal
from .finishes.registry import checked
from .model import Document, GroundItem, Hold, Key, Layer, Matte, Piece, Project, Shape, Shot, Stop, Tie, Travel
from .model.base import Colour, Id, Model, Name, Number, Rate, new_id
from .model.document import Moment
from .model.layers import LIMITS, Arrangement, Channel, Finish, Pose
from .model.project import Side
from .picture.evaluate import Evaluation


class Edit(Model):
    """One thing done to a document."""

    def title(self, document: Document) -> str:
        """What undo calls it, given the document before it."""
        raise NotImplementedError

    def apply(self, document: Document) -> Document:
        """The document afterwards."""
        raise NotImplementedError

    @property
    def files(self) -> set[str]:
        """The hashes of stored files that the document refers to afterwards because of it."""
        return set()


def _with_project(document: Document, **changes: Any) -> Document:
    return document.model_copy(update={"project": document.project.model_copy(update=changes)})


def _replaced(things: Sequence, id_: str, change: Callable) -> list:
    return [change(t) if t.id == id_ else t for t in things]


def _layer(document: Document, id_: str) -> Layer:
    layer = document.layer(id_)
    if layer is None:
        raise Refusal("That layer is no longer there. Choose another.")
    return layer


def _open_layer(document: Document, id_: str) -> Layer:
    layer = _layer(document, id_)
    if layer.locked:
        raise Refusal(f"{layer.name} is locked. Unlock it first.")
    return layer


def _hold(document: Document, id_: str) -> Hold:
    if id_ not in document.holds:
        raise Refusal("That hold is no longer there. Choose another.")
    return document.holds[id_]


def _shot(document: Document, id_: str) -> Shot:
    if id_ not in document.shots:
        raise Refusal("That shot is not part of this project. Import it first.")
    return document.shots[id_]


def _item(document: Document, id_: str) -> GroundItem:
    item = document.item(id_)
    if item is None:
        raise Refusal("That piece of footage is no longer in the ground.")
    return item


def _with_layer(document: Document, id_: str, **changes: Any) -> Document:
    layers = _replaced(document.project.layers, id_, lambda x: x.model_copy(update=changes))
    return _with_project(document, layers=layers)


def _with_hold(document: Document, hold: Hold) -> Document:
    return document.model_copy(update={"holds": {**document.holds, hold.id: hold}})


def _without_unused_holds(document: Document) -> Document:
    used = {layer.hold for layer in document.project.layers}
    return document.model_copy(update={"holds": {k: v for k, v in document.holds.items() if k in used}})


def free_name(wanted: str, taken: set[str]) -> str:
    """The name, with a number behind it if it is taken."""
    if wanted not in taken:
        return wanted
    stem, _, last = wanted.rpartition(" ")
    if not (stem and last.isdigit()):
        stem = wanted
    stem, n = stem[:110], 2
    while f"{stem} {n}" in taken:
        n += 1
    return f"{stem} {n}"


class RenameProject(Edit):
    """Gives the project another name."""

    kind: Literal["rename project"] = "rename project"
    name: Name

    def title(self, document: Document) -> str:
        return f"rename project to {self.name}"

    def apply(self, document: Document) -> Document:
        return _with_project(document, name=self.name)


class SetCanvas(Edit):
    """Changes the canvas: size, rate, background."""

    kind: Literal["set canvas"] = "set canvas"
    width: Side
    height: Side
    rate: Rate
    background: Colour = "#000000"

    def title(self, document: Document) -> str:
        return "change canvas"

    def apply(self, document: Document) -> Document:
        loop = document.project.loop if self.rate == document.project.rate else None
        return _with_project(
            document, width=self.width, height=self.height, rate=self.rate, background=self.background, loop=loop
        )


class SetLoop(Edit):
    """Sets or clears the range that plays round and round, half-open."""

    kind: Literal["set loop"] = "set loop"
    loop: tuple[int, int] | None

    def title(self, document: Document) -> str:
        return "set loop" if self.loop else "clear loop"

    def apply(self, document: Document) -> Document:
        if self.loop is not None:
            start, end = self.loop
            if not 0 <= start < end <= Evaluation(document).length:
                raise Refusal("The loop has to lie within the ground and be at least one frame long.")
        return _with_project(document, loop=self.loop)


class AddShot(Edit):
    """Takes an imported shot into the project, and puts it at the end of the ground.

    The first shot of an empty project also sets the canvas: its size (halved until it fits) and rate.
    """

    kind: Literal["add shot"] = "add shot"
    shot: Shot

    def title(self, document: Document) -> str:
        return f"import {self.shot.name}"

    def apply(self, document: Document) -> Document:
        shots = {**document.shots, self.shot.id: self.shot}
        item = GroundItem(shot=self.shot.id, first=0, past=self.shot.frames)
        project: Project = document.project
        changes: dict[str, Any] = {"ground": [*project.ground, item]}
        if not document.shots:
            by = 1
            while max(self.shot.width, self.shot.height) / by > 2560:
                by *= 2
            changes["width"], changes["height"] = (
                max(16, side // by // 2 * 2) for side in (self.shot.width, self.shot.height)
            )
            changes["rate"] = self.shot.rate if self.shot.rate <= 30 or by > 1 else _halved(self.shot.rate)
        return _with_project(document, **changes).model_copy(update={"shots": shots})


def _halved(rate: Fraction) -> Fraction:
    """A rate for the piece: high-speed shots come down to what such videos are shown at."""
    while rate > 31:
        rate /= 2
    return rate


class AddGround(Edit):
    """Puts a shot of the shelf at the end of the ground once more."""

    kind: Literal["add ground"] = "add ground"
    shot: Id

    def title(self, document: Document) -> str:
        return f"add {_shot(document, self.shot).name}"

    def apply(self, document: Document) -> Document:
        shot = _shot(document, self.shot)
        item = GroundItem(shot=shot.id, first=0, past=shot.frames)
        return _with_project(document, ground=[*document.project.ground, item])


class ChangeGround(Edit):
    """Trims, refits or dresses a piece of the ground."""

    kind: Literal["change ground"] = "change ground"
    item: Id
    first: Annotated[int, Field(ge=0)] | None = None
    past: Annotated[int, Field(ge=1)] | None = None
    fit: Literal["cover", "contain"] | None = None
    finishes: Annotated[list[Finish], Field(max_length=40)] | None = None

    def title(self, document: Document) -> str:
        name = _shot(document, _item(document, self.item).shot).name
        return f"{'dress' if self.finishes is not None else 'trim' if self.fit is None else 'fit'} {name}"

    def apply(self, document: Document) -> Document:
        item = _item(document, self.item)
        shot = _shot(document, item.shot)
        first = item.first if self.first is None else self.first
        past = item.past if self.past is None else self.past
        if not 0 <= first < past or (item.kind == "shot" and past > shot.frames):
            raise Refusal(f"{shot.name} has frames 0 to {shot.frames - 1}; keep at least one of them.")
        changes: dict[str, Any] = {"first": first, "past": past, "fit": self.fit or item.fit}
        if self.finishes is not None:
            changes["finishes"] = [checked(f, "ground") for f in self.finishes]
        ground = _replaced(document.project.ground, item.id, lambda x: x.model_copy(update=changes))
        return _with_project(document, ground=ground, loop=None if self.finishes is None else document.project.loop)


class RemoveGround(Edit):
    """Takes a piece of footage out of the ground, with the layers that hang on it."""

    kind: Literal["remove ground"] = "remove ground"
    item: Id

    def title(self, document: Document) -> str:
        return f"remove {_shot(document, _item(document, self.item).shot).name}"

    def apply(self, document: Document) -> Document:
        item = _item(document, self.item)
        ground = [x for x in document.project.ground if x.id != item.id]
        layers = [x for x in document.project.layers if x.over != item.id]
        return _without_unused_holds(_with_project(document, ground=ground, layers=layers, loop=None))


class AddMoment(Edit):
    """Flags a frame of a shot."""

    kind: Literal["add moment"] = "add moment"
    shot: Id
    frame: Annotated[int, Field(ge=0)]
    name: Name | None = None

    def title(self, document: Document) -> str:
        return f"flag frame {self.frame}"

    def apply(self, document: Document) -> Document:
        shot = _shot(document, self.shot)
        if self.frame >= shot.frames:
            raise Refusal(f"{shot.name} has no frame {self.frame}; its last one is {shot.frames - 1}.")
        if any(m.frame == self.frame for m in shot.moments):
            raise Refusal(f"Frame {self.frame} of {shot.name} is flagged already.")
        name = free_name(self.name or "Moment 1", {m.name for m in shot.moments})
        moments = sorted([*shot.moments, Moment(frame=self.frame, name=name)], key=lambda m: m.frame)
        return _with_moments(document, shot, moments)


class ChangeMoment(Edit):
    """Renames or nudges a moment."""

    kind: Literal["change moment"] = "change moment"
    shot: Id
    moment: Id
    frame: Annotated[int, Field(ge=0)] | None = None
    name: Name | None = None

    def title(self, document: Document) -> str:
        return "rename moment" if self.frame is None else f"move moment to frame {self.frame}"

    def apply(self, document: Document) -> Document:
        shot = _shot(document, self.shot)
        moment = next((m for m in shot.moments if m.id == self.moment), None)
        if moment is None:
            raise Refusal("That moment is no longer there.")
        frame = moment.frame if self.frame is None else self.frame
        if frame >= shot.frames:
            raise Refusal(f"{shot.name} has no frame {frame}; its last one is {shot.frames - 1}.")
        if any(m.frame == frame and m.id != moment.id for m in shot.moments):
            raise Refusal(f"Frame {frame} of {shot.name} is flagged already.")
        changed = moment.model_copy(update={"frame": frame, "name": self.name or moment.name})
        moments = [changed if m.id == moment.id else m for m in shot.moments]
        return _with_moments(document, shot, sorted(moments, key=lambda m: m.frame))


class RemoveMoment(Edit):
    """Takes a flag away; holds taken there stay."""

    kind: Literal["remove moment"] = "remove moment"
    shot: Id
    moment: Id

    def title(self, document: Document) -> str:
        return "remove moment"

    def apply(self, document: Document) -> Document:
        shot = _shot(document, self.shot)
        return _with_moments(document, shot, [m for m in shot.moments if m.id != self.moment])


def _with_moments(document: Document, shot: Shot, moments: list[Moment]) -> Document:
    changed = shot.model_copy(update={"moments": moments})
    return document.model_copy(update={"shots": {**document.shots, shot.id: changed}})


FRINGE = 0.8
"""How much of the old background a new hold takes out of its edge's colours."""


class HoldFrame(Edit):
    """Holds a source frame of a piece of the ground: flags it, and puts a layer for its cutout on top of the sky."""

    kind: Literal["hold"] = "hold"
    item: Id
    frame: Annotated[int, Field(ge=0)]
    name: Name | None = None
    arrangement: Arrangement = "trail"
    layer: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"hold frame {self.frame}"

    def apply(self, document: Document) -> Document:
        item = _item(document, self.item)
        shot = _shot(document, item.shot)
        if item.kind != "shot":
            raise Refusal("A plate has nobody in it to cut out. Hold a frame of the footage.")
        if not item.first <= self.frame < item.past:
            raise Refusal(f"The ground does not show frame {self.frame} of {shot.name} there. Choose a frame it shows.")
        name = free_name(self.name or "Cutout 1", {x.name for x in document.project.layers})
        if not any(m.frame == self.frame for m in shot.moments):
            document = AddMoment(shot=shot.id, frame=self.frame).apply(document)
        hold = Hold(shot=shot.id, frame=self.frame, name=name, matte=Matte(fringe=FRINGE))
        layer = Layer(id=self.layer, name=name, hold=hold.id, over=item.id, arrangement=self.arrangement)
        return _with_project(_with_hold(document, hold), layers=[*document.project.layers, layer])


class ChangeMatte(Edit):
    """Replaces a hold's matte; every layer of the hold changes with it.

    With `frame`, the pieces are those of a frame that the matte travels to, which is fixed by that; what is done to
    the whole (grow, soften …) is the same at all frames.
    """

    kind: Literal["change matte"] = "change matte"
    hold: Id
    matte: Matte
    frame: Annotated[int, Field(ge=0)] | None = None

    @property
    def files(self) -> set[str]:
        return self.matte.files

    def title(self, document: Document) -> str:
        hold = _hold(document, self.hold)
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
        hold = _hold(document, self.hold)
        if len({p.id for p in self.matte.pieces}) != len(self.matte.pieces):
            raise Refusal("Two pieces of the matte have the same id.")
        if self.frame is None or hold.frame == self.frame:
            travel = hold.travel
            if travel is not None and self.matte.pieces != hold.matte.pieces:
                travel = travel.corrected(hold.frame)
            return _with_hold(document, hold.model_copy(update={"matte": self.matte, "travel": travel}))
        travel = _travel(hold)
        if not travel.first <= self.frame < travel.past:
            raise Refusal(f"The matte of {hold.name} travels through frames {travel.first} to {travel.past - 1} only.")
        before = travel.at(self.frame)
        if before is not None and before.locked:
            raise Refusal(f"Frame {self.frame} is locked. Unlock it first.")
        stop = Stop(frame=self.frame, pieces=self.matte.pieces, carried=False)
        whole = self.matte.model_copy(update={"pieces": hold.matte.pieces})
        if before is None or before.pieces != stop.pieces:
            travel = travel.corrected(self.frame)
        hold = hold.model_copy(update={"travel": _with_stops(travel, [stop]), "matte": whole})
        return _with_hold(document, hold)


def _travel(hold: Hold) -> Travel:
    if hold.travel is None:
        raise Refusal(f"The matte of {hold.name} does not travel. Give it a range first.")
    return hold.travel


def _with_stops(travel: Travel, stops: list[Stop]) -> Travel:
    known = {s.frame: s for s in travel.stops} | {s.frame: s for s in stops}
    return travel.model_copy(update={"stops": [known[f] for f in sorted(known)]})


class SetTravel(Edit):
    """Gives a hold's matte a range of source frames to travel through, half-open; without one, it stays put."""

    kind: Literal["set travel"] = "set travel"
    hold: Id
    range: tuple[int, int] | None

    def title(self, document: Document) -> str:
        name = _hold(document, self.hold).name
        return f"let {name} travel" if self.range else f"keep {name} in place"

    def apply(self, document: Document) -> Document:
        hold = _hold(document, self.hold)
        if self.range is None:
            if any(x.hold == hold.id and x.arrangement == "along" for x in document.project.layers):
                raise Refusal(f"A layer of {hold.name} runs along with the footage. Make it trail or wait ahead first.")
            return _with_hold(document, hold.model_copy(update={"travel": None}))
        first, past = self.range
        shot = _shot(document, hold.shot)
        if not 0 <= first <= hold.frame < past <= shot.frames:
            raise Refusal(
                f"The range has to include {hold.frame}, and lie within 0 to {shot.frames - 1} of {shot.name}."
            )
        stops = [s for s in hold.travel.stops if first <= s.frame < past] if hold.travel else []
        return _with_hold(document, hold.model_copy(update={"travel": Travel(first=first, past=past, stops=stops)}))


class ChangeStop(Edit):
    """Locks or unlocks a frame of a travelling matte, accepts what was carried there as fixed, or forgets it."""

    kind: Literal["change stop"] = "change stop"
    hold: Id
    frame: Annotated[int, Field(ge=0)]
    change: Literal["lock", "unlock", "fix", "forget"]

    def title(self, document: Document) -> str:
        return f"{self.change} frame {self.frame}"

    def apply(self, document: Document) -> Document:
        hold = _hold(document, self.hold)
        travel = _travel(hold)
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
            travel = _with_stops(travel, [stop.model_copy(update=changes[self.change])])
        return _with_hold(document, hold.model_copy(update={"travel": travel}))


class PutCarried(Edit):
    """Takes over what carrying found; frames that are fixed or locked stay as they are."""

    kind: Literal["put carried"] = "put carried"
    hold: Id
    stops: list[Stop]

    @property
    def files(self) -> set[str]:
        return {f for s in self.stops for f in Matte(pieces=s.pieces).files}

    def title(self, document: Document) -> str:
        count = len(self.stops)
        return f"carry {_hold(document, self.hold).name} to {count} frame{'' if count == 1 else 's'}"

    def apply(self, document: Document) -> Document:
        hold = _hold(document, self.hold)
        travel = _travel(hold)
        kept = {s.frame for s in travel.stops if s.locked or not s.carried} | {hold.frame}
        new = [s for s in self.stops if s.frame not in kept and travel.first <= s.frame < travel.past]
        return _with_hold(document, hold.model_copy(update={"travel": _with_stops(travel, new)}))


class CarryTo(Model):
    """A matte that was carried to a moment, and how doubtful it is, 0…1."""

    frame: Annotated[int, Field(ge=0)]
    pieces: list[Piece]
    doubt: Annotated[float, Field(ge=0, le=1)] = 0.0


class CarryHolds(Edit):
    """Puts mattes that were carried from a hold onto other moments of its shot, as holds of their own.

    A hold at that frame without a matte takes it; where there is none, the frame is held. A carved one keeps its own.
    """

    kind: Literal["carry holds"] = "carry holds"
    hold: Id
    items: list[CarryTo]

    @property
    def files(self) -> set[str]:
        return {f for i in self.items for f in Matte(pieces=i.pieces).files}

    def title(self, document: Document) -> str:
        count = len(self.items)
        return f"carry {_hold(document, self.hold).name} to {count} moment{'' if count == 1 else 's'}"

    def apply(self, document: Document) -> Document:
        source = _hold(document, self.hold)
        for item in self.items:
            held = [h for h in document.holds.values() if h.shot == source.shot and h.frame == item.frame]
            if any(h.matte.pieces for h in held):
                continue
            if not held:
                over = next(
                    (g for g in document.project.ground
                     if g.kind == "shot" and g.shot == source.shot and g.first <= item.frame < g.past), None,
                )  # fmt: skip
                if over is None:
                    continue  # the footage there was trimmed away meanwhile
                layer = new_id()
                document = HoldFrame(item=over.id, frame=item.frame, name=source.name, layer=layer).apply(document)
                held = [_hold(document, _layer(document, layer).hold)]
            matte = source.matte.model_copy(update={"pieces": item.pieces})
            document = _with_hold(document, held[0].model_copy(update={"matte": matte}))
        return document


class SetPlate(Edit):
    """Gives a hold the clean plate behind it, or takes it away."""

    kind: Literal["set plate"] = "set plate"
    hold: Id
    plate: Annotated[str, Field(pattern="^[0-9a-f]{64}$")] | None

    @property
    def files(self) -> set[str]:
        return {self.plate} if self.plate else set()

    def title(self, document: Document) -> str:
        return f"{'set' if self.plate else 'remove'} plate of {_hold(document, self.hold).name}"

    def apply(self, document: Document) -> Document:
        hold = _hold(document, self.hold)
        return _with_hold(document, hold.model_copy(update={"plate": self.plate}))


class AddPlate(Edit):
    """Puts a hold's clean plate into the ground, at its end, for so many frames."""

    kind: Literal["add plate"] = "add plate"
    hold: Id
    frames: Annotated[int, Field(ge=1, le=100_000)] = 30

    def title(self, document: Document) -> str:
        return f"add plate of {_hold(document, self.hold).name}"

    def apply(self, document: Document) -> Document:
        hold = _hold(document, self.hold)
        if hold.plate is None:
            raise Refusal(f"{hold.name} has no plate yet. Build one first.")
        shot = _shot(document, hold.shot)
        past = hold.frame + max(1, round(self.frames * shot.rate / document.project.rate))
        item = GroundItem(kind="plate", shot=hold.shot, first=hold.frame, past=past, plate=hold.plate)
        return _with_project(document, ground=[*document.project.ground, item])


ARRANGING = {"trail": "trail", "ahead": "wait ahead", "along": "run along"}


class ChangeLayer(Edit):
    """Changes what is given of a layer; `clear` names the fields to set back (until, anchor)."""

    kind: Literal["change layer"] = "change layer"
    layer: Id
    name: Name | None = None
    visible: bool | None = None
    locked: bool | None = None
    arrangement: Arrangement | None = None
    until: Annotated[int, Field(ge=0)] | None = None
    anchor: tuple[Number, Number] | None = None
    finishes: Annotated[list[Finish], Field(max_length=40)] | None = None
    fill: bool | None = None
    clear: list[Literal["until", "anchor"]] = []

    def title(self, document: Document) -> str:
        name = _layer(document, self.layer).name
        if self.name is not None:
            return f"rename {name} to {self.name}"
        if self.visible is not None:
            return f"{'show' if self.visible else 'hide'} {name}"
        if self.locked is not None:
            return f"{'lock' if self.locked else 'unlock'} {name}"
        if self.finishes is not None:
            return f"dress {name}"
        if self.arrangement is not None:
            return f"make {name} {ARRANGING[self.arrangement]}"
        if self.fill is not None:
            return f"{'fill' if self.fill else 'leave open'} the hole behind {name}"
        return f"{'re-anchor' if self.anchor is not None or 'anchor' in self.clear else 'trim'} {name}"

    def apply(self, document: Document) -> Document:
        layer = _layer(document, self.layer)
        if layer.locked and self.locked is None and self.visible is None:
            _open_layer(document, layer.id)
        hold = _hold(document, layer.hold)
        if self.arrangement == "along" and hold.travel is None:
            raise Refusal(f"{layer.name} can run along once its matte travels. Carry it through a range first.")
        if self.fill and hold.plate is None:
            raise Refusal(f"There is no plate behind {layer.name} yet. Build one in Carve first.")
        given = self.model_dump(exclude_none=True, exclude={"kind", "layer", "clear", "finishes", "anchor"})
        if self.anchor is not None:
            given["anchor"] = self.anchor
        if self.finishes is not None:
            given["finishes"] = [checked(f, "cutout") for f in self.finishes]
        if self.arrangement is not None and self.arrangement != layer.arrangement:
            given["until"] = None
        given |= dict.fromkeys(self.clear)
        changed = _with_layer(document, layer.id, **given)
        if self.until is not None:
            _check_until(changed, changed.layer(layer.id))
        return changed


def _check_until(document: Document, layer: Layer) -> None:
    evaluation = Evaluation(document)
    span = evaluation.spans[layer.id]
    if span is None or layer.until is None:
        return
    if layer.arrangement == "trail" and not span.landing < layer.until <= evaluation.length:
        raise Refusal(f"{layer.name} trails from frame {span.landing}: it has to end after that, within the ground.")
    if layer.arrangement == "ahead" and not layer.until < max(1, span.landing):
        raise Refusal(f"{layer.name} waits for frame {span.landing}: it has to begin before that.")


class MoveLayer(Edit):
    """Puts a layer at another height: 0 is the farthest."""

    kind: Literal["move layer"] = "move layer"
    layer: Id
    to: Annotated[int, Field(ge=0)]

    def title(self, document: Document) -> str:
        return f"reorder {_layer(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = _layer(document, self.layer)
        rest = [x for x in document.project.layers if x.id != layer.id]
        rest.insert(min(self.to, len(rest)), layer)
        return _with_project(document, layers=rest)


class RemoveLayer(Edit):
    """Removes a layer; its hold goes when nothing else uses it."""

    kind: Literal["remove layer"] = "remove layer"
    layer: Id

    def title(self, document: Document) -> str:
        return f"remove {_layer(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = _open_layer(document, self.layer)
        layers = [x for x in document.project.layers if x.id != layer.id]
        return _without_unused_holds(_with_project(document, layers=layers))


class DuplicateLayer(Edit):
    """Adds a copy right above a layer, sharing its hold or with a hold of its own."""

    kind: Literal["duplicate layer"] = "duplicate layer"
    layer: Id
    separate: bool = False
    copy_id: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"duplicate {_layer(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = _layer(document, self.layer)
        name = free_name(layer.name, {x.name for x in document.project.layers})
        copy = layer.model_copy(
            update={
                "id": self.copy_id,
                "name": name,
                "locked": False,
                "keys": [k.model_copy(update={"id": new_id()}) for k in layer.keys],
                "finishes": [f.model_copy(update={"id": new_id()}) for f in layer.finishes],
            }
        )
        layers = list(document.project.layers)
        layers.insert(layers.index(layer) + 1, copy)
        document = _with_project(document, layers=layers)
        return MakeSeparate(layer=copy.id).apply(document) if self.separate else document


class MakeSeparate(Edit):
    """Gives a layer a hold of its own, with a copy of the matte it shared."""

    kind: Literal["make separate"] = "make separate"
    layer: Id

    def title(self, document: Document) -> str:
        return f"make {_layer(document, self.layer).name} separate"

    def apply(self, document: Document) -> Document:
        layer = _layer(document, self.layer)
        hold = _hold(document, layer.hold)
        pieces = [p.model_copy(update={"id": new_id()}) for p in hold.matte.pieces]
        matte = hold.matte.model_copy(update={"pieces": pieces})
        own = hold.model_copy(update={"id": new_id(), "name": layer.name, "matte": matte})
        return _with_layer(_with_hold(document, own), layer.id, hold=own.id)


class SetValue(Edit):
    """Gives a channel a value at a project frame, the way dragging on the picture does.

    A channel without keys has it all along. With keys, the one at the frame changes, or a new one is set there,
    tied to the nearest of landing, start and end.
    """

    kind: Literal["set value"] = "set value"
    layer: Id
    channel: Channel
    frame: int
    value: Annotated[list[Number], Field(min_length=1, max_length=2)]

    def title(self, document: Document) -> str:
        verb = {"position": "move", "scale": "scale", "rotation": "turn", "opacity": "fade"}[self.channel]
        return f"{verb} {_layer(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = _open_layer(document, self.layer)
        low, high = LIMITS.get(self.channel, (-1e6, 1e6))
        if len(self.value) != (2 if self.channel == "position" else 1) or not low <= self.value[0] <= high:
            raise Refusal(f"{self.channel.capitalize()} goes from {low:g} to {high:g}.")
        if not any(k.channel == self.channel for k in layer.keys):
            value = tuple(self.value) if self.channel == "position" else self.value[0]
            return _with_layer(document, layer.id, pose=layer.pose.model_copy(update={self.channel: value}))
        span = Evaluation(document).spans[layer.id]
        ties: dict[Tie, int] = span.ties if span else {"start": 0, "landing": 0, "end": 0}
        # The list is read as evaluation reads it: of several keys on one frame the last one counts.
        here = [k for k in layer.keys if k.channel == self.channel and ties[k.tie] + k.offset == self.frame]
        if here:
            keys = _replaced(layer.keys, here[-1].id, lambda k: k.model_copy(update={"value": self.value}))
        else:
            tie = min(ties, key=lambda t: (abs(self.frame - ties[t]), t != "landing"))
            key = Key(channel=self.channel, tie=tie, offset=self.frame - ties[tie], value=self.value)
            keys = [*layer.keys, key]
        return _with_layer(document, layer.id, keys=keys)


class PutAtRest(Edit):
    """Puts a cutout back onto its own place: no keys, no offset, turn, scale or fade."""

    kind: Literal["put at rest"] = "put at rest"
    layer: Id

    def title(self, document: Document) -> str:
        return f"put {_layer(document, self.layer).name} at rest"

    def apply(self, document: Document) -> Document:
        layer = _open_layer(document, self.layer)
        return _with_layer(document, layer.id, keys=[], pose=Pose())


class SetKey(Edit):
    """Adds a key, or replaces the one with its id."""

    kind: Literal["set key"] = "set key"
    layer: Id
    key: Key

    def title(self, document: Document) -> str:
        layer = _layer(document, self.layer)
        known = any(k.id == self.key.id for k in layer.keys)
        return f"{'change' if known else 'add'} {self.key.channel} key of {layer.name}"

    def apply(self, document: Document) -> Document:
        layer = _open_layer(document, self.layer)
        if any(k.id == self.key.id for k in layer.keys):
            keys = _replaced(layer.keys, self.key.id, lambda _: self.key)
        else:
            keys = [*layer.keys, self.key]
        return _with_layer(document, layer.id, keys=keys)


class RemoveKey(Edit):
    """Removes a key."""

    kind: Literal["remove key"] = "remove key"
    layer: Id
    key: Id

    def title(self, document: Document) -> str:
        return f"remove key of {_layer(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = _open_layer(document, self.layer)
        return _with_layer(document, layer.id, keys=[k for k in layer.keys if k.id != self.key])


class SetKeys(Edit):
    """Replaces all keys of a layer: how a ready move is put on, and how animation is pasted."""

    kind: Literal["set keys"] = "set keys"
    layer: Id
    keys: Annotated[list[Key], Field(max_length=2000)]

    def title(self, document: Document) -> str:
        return f"animate {_layer(document, self.layer).name}" if self.keys else "clear keys"

    def apply(self, document: Document) -> Document:
        layer = _open_layer(document, self.layer)
        own = {k.id for k in layer.keys}
        others = {k.id for x in document.project.layers if x.id != layer.id for k in x.keys} - own
        keys = [k.model_copy(update={"id": new_id()}) if k.id in others else k for k in self.keys]
        return _with_layer(document, layer.id, keys=keys)


ClientEdit = Annotated[
    RenameProject
    | SetCanvas
    | SetLoop
    | AddGround
    | ChangeGround
    | RemoveGround
    | AddMoment
    | ChangeMoment
    | RemoveMoment
    | HoldFrame
    | ChangeMatte
    | SetTravel
    | ChangeStop
    | SetPlate
    | AddPlate
    | ChangeLayer
    | MoveLayer
    | RemoveLayer
    | DuplicateLayer
    | MakeSeparate
    | SetValue
    | SetKey
    | RemoveKey
    | SetKeys
    | PutAtRest,
    Field(discriminator="kind"),
]
"""What a client may ask for. AddShot, PutCarried and CarryHolds are not among them: those are how long work ends."""

client_edit: TypeAdapter[Edit] = TypeAdapter(ClientEdit)
