"""Edits of the ground: what lies in it, one after the other."""

from fractions import Fraction
from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...kinds.arrangements.over_standstill import Standstill
from ...kinds.sources.clean_plate import PlateSource
from ...kinds.sources.lying import Lying
from ...kinds.sources.plain_colour import ColourSource
from ...kinds.sources.shot_source import ShotSource
from ...kinds.sources.standstill import StandstillSource
from ...piece.model import Behaviour, Document, Finish, Framing, GroundItem, Project, Shot, Source
from ...piece.model.base import FrameNumber, FramePast, Id, new_id
from ...piece.model.source import Shown
from ...piece.timeline.ripple import without_items
from ...piece.timeline.timeline import Timeline
from .base import Edit, behaving, dressed, hold_of, item_of, shot_of, with_item, with_project, without_unused_holds
from .copying import renewed
from .holds import HoldFrame
from .retied import retied
from .seams import as_worn, closed, cut

Place = Annotated[int, Field(ge=0, le=100_000)]
"""A place in the order of the ground, from 0."""
Items = Annotated[list[Id], Field(min_length=1, max_length=2000)]


class AddShot(Edit):
    """Takes an imported shot into the project, and puts it at the end of the ground.

    The first shot of an empty project also sets the canvas: its size (halved until it fits) and rate.
    """

    kind: Literal["add shot"] = "add shot"
    shot: Shot

    def brings(self) -> set[str]:
        return {self.shot.id}

    def title(self, document: Document) -> str:
        return f"import {self.shot.name}"

    def apply(self, document: Document) -> Document:
        shots = {**document.shots, self.shot.id: self.shot}
        item = GroundItem(source=ShotSource(shot=self.shot.id, first=0, past=self.shot.frames))
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
        return with_project(document, **changes).model_copy(update={"shots": shots})


def _halved(rate: Fraction) -> Fraction:
    """A rate for the piece: high-speed shots come down to what such videos are shown at."""
    while rate > 31:
        rate /= 2
    return rate


def put(document: Document, item: GroundItem, at: int | None) -> Document:
    """The document with an item at a place of the ground, or at its end."""
    ground = list(document.project.ground)
    ground.insert(len(ground) if at is None else min(at, len(ground)), item)
    return with_project(document, ground=ground, loop=document.project.loop if at is None else None)


class AddGround(Edit):
    """Puts a shot of the shelf into the ground once more: at a place, or at the end."""

    kind: Literal["add ground"] = "add ground"
    shot: Id
    at: Place | None = None
    item: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"add {shot_of(document, self.shot).name}"

    def apply(self, document: Document) -> Document:
        shot = shot_of(document, self.shot)
        source = ShotSource(shot=shot.id, first=0, past=shot.frames)
        return put(document, GroundItem(id=self.item, source=source), self.at)


class LayGround(Edit):
    """Puts things at the end of the ground, as a timeline from elsewhere has them."""

    kind: Literal["lay ground"] = "lay ground"
    items: Annotated[list[GroundItem], Field(min_length=1, max_length=2000)]

    def title(self, document: Document) -> str:
        return f"take over {len(self.items)} pieces of a timeline"

    def apply(self, document: Document) -> Document:
        known = {g.id for g in document.project.ground} | {x.id for x in document.project.layers}
        if len({i.id for i in self.items} - known) < len(self.items):
            raise Refusal("Something of that timeline is there already. Read it once more.")
        laid = []
        for item in self.items:
            if "ground" not in item.source.on:
                raise Refusal(f"{item.source.title} cannot lie in the ground. Put it into the sky.")
            source = item.source.checked(document)
            fade = min(item.fade, source.lasts(document))
            laid.append(GroundItem(id=item.id, source=source, fade=fade))
        return with_project(document, ground=[*document.project.ground, *laid])


class AddColour(Edit):
    """Puts a colour into the ground for so many frames: at a place, or at the end."""

    kind: Literal["add colour"] = "add colour"
    source: ColourSource = ColourSource(lasting=30)
    at: Place | None = None
    item: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return "add a colour"

    def apply(self, document: Document) -> Document:
        return put(document, GroundItem(id=self.item, source=self.source), self.at)


class ChangeGround(Edit):
    """Changes what is given of an item of the ground. `first` and `past` are frames of what it shows, half-open."""

    kind: Literal["change ground"] = "change ground"
    item: Id
    first: FrameNumber | None = None
    past: FramePast | None = None
    source: Source | None = None
    framing: Framing | None = None
    fade: Annotated[int, Field(ge=0, le=600)] | None = None
    finishes: Annotated[list[Finish], Field(max_length=40)] | None = None
    behaviours: Annotated[list[Behaviour], Field(max_length=20)] | None = None

    def title(self, document: Document) -> str:
        item = item_of(document, self.item)
        name = document.called(item)
        if self.behaviours is not None:
            return f"change how {name} behaves"
        if self.source is not None:
            return self.source.changed(item.source, name)
        if self.fade is not None:
            return f"fade over into {name}" if self.fade else f"cut to {name}"
        return f"{'dress' if self.finishes is not None else 'trim' if self.framing is None else 'frame'} {name}"

    def apply(self, document: Document) -> Document:
        item = item_of(document, self.item)
        changes: dict[str, Any] = {}
        if self.source is not None:
            if "ground" not in self.source.on:
                raise Refusal(f"{self.source.title} cannot lie in the ground. Put it into the sky.")
            changes["source"] = self.source.checked(document)
        if self.first is not None or self.past is not None:
            changes["source"] = (self.source or item.source).trimmed(document, self.first, self.past)
        if self.framing is not None:
            changes["framing"] = self.framing
        if self.fade is not None:
            if document.project.ground[0].id == item.id and self.fade:
                raise Refusal("There is nothing before it in the ground that could fade over into it.")
            changes["fade"] = min(self.fade, item.source.lasts(document))
        if self.finishes is not None:
            changes |= dressed(document, item, self.finishes)
        if self.behaviours is not None:
            changes |= behaving(item.model_copy(update=changes), self.behaviours)
        changed = with_item(document, item.id, **changes)
        longer = "source" in changes and changes["source"].lasts(document) != item.source.lasts(document)
        return with_project(changed, loop=None) if longer else changed


def _on_screen(timeline: Timeline, at: int, wanted: str) -> tuple[Shown, int]:
    """The item that is seen at a project frame, and how many frames after its start. Raises Refusal if none is."""
    shown = timeline.item_at(at)
    if shown is None:
        raise Refusal(f"There is nothing in the ground there {wanted}. Go to a frame of the piece.")
    return shown, at - timeline.starts[shown.item.id]


class SplitGround(Edit):
    """Cuts in two what lies at a project frame, so that the second part begins with it."""

    kind: Literal["split ground"] = "split ground"
    at: FrameNumber
    item: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        shown = Timeline(document).item_at(self.at)
        return f"split {document.called(shown.item)}" if shown else "split"

    def apply(self, document: Document) -> Document:
        shown, within = _on_screen(Timeline(document), self.at, "to cut in two")
        if within == 0:
            raise Refusal("There is a cut there already. Go to the frame that the second part is to begin with.")
        return cut(document, shown.item, within, self.item)


class AddStandstill(Edit):
    """Has everything stand at a project frame, for so many frames more; afterwards it goes on from there.

    With `hold`, a cutout of that very frame goes into the sky for as long.
    """

    kind: Literal["stand still"] = "stand still"
    at: FrameNumber
    frames: Annotated[int, Field(ge=1, le=100_000)] = 30
    heard: Literal["silent", "runs on"] = "silent"
    hold: bool = False
    item: Id = Field(default_factory=new_id)
    rest: Id = Field(default_factory=new_id)
    layer: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        shown = Timeline(document).item_at(self.at)
        return f"stand still at frame {shown.frame}" if shown else "stand still"

    def apply(self, document: Document) -> Document:
        timeline = Timeline(document)
        shown, within = _on_screen(timeline, self.at, "that could stand still")
        item, frame = shown.item, shown.frame
        shot = item.source.footage(document)
        if shot is None:
            raise Refusal(f"{document.called(item)} stands still already. Go to where footage runs.")
        if item.source.stands:
            raise Refusal("Everything stands still there already. Make that standstill longer.")
        table = timeline.tables[item.id]
        past = within + int((table[within:] == frame).sum())  # the held frame is seen in whole before it stands
        lying = Lying(timeline, item)
        worn = as_worn(item.finishes, {c: lying.keyed.value(c, self.at) for c in lying.keyed.settings})
        source = StandstillSource(shot=shot, frame=frame, lasting=self.frames, heard=self.heard)
        stands = {"keys": [], "finishes": worn, "behaviours": [], "framing": lying.framing(self.at)}
        standing = renewed(item.model_copy(update=stands)).model_copy(
            update={"id": self.item, "source": source, "fade": 0}
        )
        if past < len(table):
            document = cut(document, item, past, self.rest)
        place = [g.id for g in document.project.ground].index(item.id) + 1
        document = with_project(put(document, standing, place), loop=None)
        if not self.hold:
            return document
        held = HoldFrame(item=self.item, frame=frame, arrangement=Standstill(), layer=self.layer)
        return held.apply(document)


class MoveGround(Edit):
    """Puts an item at another place in the order of the ground; what is tied to it goes with it."""

    kind: Literal["move ground"] = "move ground"
    item: Id
    to: Place

    def title(self, document: Document) -> str:
        return f"reorder {document.called(item_of(document, self.item))}"

    def apply(self, document: Document) -> Document:
        item = item_of(document, self.item)
        ground = [g for g in document.project.ground if g.id != item.id]
        ground.insert(min(self.to, len(ground)), item)
        return with_project(document, ground=ground, loop=None)


class DuplicateGround(Edit):
    """Puts a copy of an item right after it; the layers over it stay where they are."""

    kind: Literal["duplicate ground"] = "duplicate ground"
    item: Id
    copy_id: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"duplicate {document.called(item_of(document, self.item))}"

    def apply(self, document: Document) -> Document:
        item = item_of(document, self.item)
        copy = renewed(item).model_copy(update={"id": self.copy_id})
        return put(document, copy, [g.id for g in document.project.ground].index(item.id) + 1)


class SlipGround(Edit):
    """Shows other frames of a take in the same place: so many source frames later."""

    kind: Literal["slip ground"] = "slip ground"
    item: Id
    by: Annotated[int, Field(ge=-1_000_000, le=1_000_000)]

    def title(self, document: Document) -> str:
        return f"slip {document.called(item_of(document, self.item))}"

    def apply(self, document: Document) -> Document:
        item = item_of(document, self.item)
        return with_item(document, item.id, source=item.source.slipped(document, self.by))


class ExchangeGround(Edit):
    """Shows another shot in the place of a take: the same frames of it, as far as it has them."""

    kind: Literal["exchange ground"] = "exchange ground"
    item: Id
    shot: Id

    def title(self, document: Document) -> str:
        return f"exchange {document.called(item_of(document, self.item))}"

    def apply(self, document: Document) -> Document:
        item, shot = item_of(document, self.item), shot_of(document, self.shot)
        source = item.source
        if not isinstance(source, ShotSource):
            raise Refusal(f"{source.called(document)} is no take. Choose one that plays footage.")
        first = min(source.first, shot.frames - 1)
        past = max(first + 1, min(first + source.past - source.first, shot.frames))
        changed = source.model_copy(
            update={"shot": shot.id, "first": first, "past": past, "part": None, "emptied": None}
        )
        return with_project(with_item(document, item.id, source=changed), loop=None)


class RemoveGround(Edit):
    """Takes items out of the ground, with the layers that hang on them; what comes after moves up."""

    kind: Literal["remove ground"] = "remove ground"
    items: Items

    def title(self, document: Document) -> str:
        if len(self.items) > 1:
            return f"remove {len(self.items)} pieces of the ground"
        return f"remove {document.called(item_of(document, self.items[0]))}"

    def apply(self, document: Document) -> Document:
        gone = {item_of(document, id_).id for id_ in self.items}
        layers = without_items(document, gone)
        seams = _seams(document.project.ground, gone)
        ground = [g for g in document.project.ground if g.id not in gone]
        removed = with_project(document, ground=ground, layers=layers, loop=None)
        document = without_unused_holds(retied(document, removed))
        for left, right in reversed(seams):
            document = closed(document, item_of(document, left), item_of(document, right))
        return document


def _seams(ground: list[GroundItem], gone: set[str]) -> list[tuple[str, str]]:
    """The items that come to lie side by side where nothing but standstills is taken out between them."""
    left = [n for n, g in enumerate(ground) if g.id not in gone]
    taken = ((a, b, ground[a + 1 : b]) for a, b in pairwise(left))
    still = ((a, b) for a, b, out in taken if out and all(g.source.stands for g in out))
    return [(ground[a].id, ground[b].id) for a, b in still]


class AddPlate(Edit):
    """Puts a hold's clean plate into the ground, at its end, for so many frames."""

    kind: Literal["add plate"] = "add plate"
    hold: Id
    frames: Annotated[int, Field(ge=1, le=100_000)] = 30

    def title(self, document: Document) -> str:
        return f"add plate of {hold_of(document, self.hold).name}"

    def apply(self, document: Document) -> Document:
        hold = hold_of(document, self.hold)
        if hold.plate is None:
            raise Refusal(f"{hold.name} has no plate yet. Build one first.")
        shot = shot_of(document, hold.shot)
        past = hold.frame + max(1, round(self.frames * shot.rate / document.project.rate))
        source = PlateSource(shot=hold.shot, first=hold.frame, past=past, plate=hold.plate)
        return put(document, GroundItem(source=source), None)
