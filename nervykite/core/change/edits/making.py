"""A piece in the making: edits done one after the other to a document in hand, as recipes do them."""

import math
from typing import Any

from ...common.errors import Refusal
from ...kinds.arrangements.over_standstill import Standstill
from ...kinds.cards.card import Inks
from ...kinds.sources.rest import box_placed
from ...kinds.sources.shot_source import ShotSource
from ...piece.model import (
    Arrangement,
    Behaviour,
    CueTie,
    Document,
    Finish,
    GroundItem,
    Hold,
    Key,
    Layer,
    PutOn,
    Sounding,
    Source,
)
from ...piece.model.base import new_id
from ...piece.model.framing import Box
from ...piece.model.naming import free_name
from ...piece.model.ties import Tie
from ...piece.motion.keyed import Keyed
from ...piece.motion.move_beats import preset
from ...piece.timeline.timeline import Span, Timeline
from .base import Edit, hold_behind, item_of, layer_of, put_in_order, with_item, with_layer, with_project
from .cueing import AddCue
from .ground import AddStandstill
from .layering import ChangeLayer
from .moves import MirrorExit, PutMove
from .seams import cut


class Making:
    """The document that a recipe works on. `cutouts` are the layers of what was caught, in order, plain and left
    behind; `said` is what the maker is told.
    """

    def __init__(self, document: Document, cutouts: list[str]) -> None:
        self.document, self.cutouts = document, cutouts
        self.said: list[str] = []

    def do(self, edit: Edit) -> Document:
        """Makes an edit."""
        self.document = edit.apply(self.document)
        return self.document

    def says(self, sentence: str) -> None:
        """Has the maker told what came out otherwise than it was asked for."""
        self.said.append(sentence)

    @property
    def only(self) -> str:
        """The one cutout that there is. Raises Refusal if there are several."""
        if len(self.cutouts) != 1:
            raise Refusal("That is made of one frame. Catch just one for it.")
        return self.cutouts[0]

    def px(self, length: float, least: float = 0.0, most: float = math.inf) -> float:
        """A length on a canvas of 1080×1920 as it is on this one, within what a setting takes."""
        project = self.document.project
        return min(most, max(least, length * max(project.width, project.height) / 1920))

    @property
    def rate(self) -> float:
        """The number of frames the piece has a second."""
        return float(self.document.project.rate)

    def frames(self, seconds: float) -> int:
        """So many seconds in frames of the piece, at least one."""
        return max(1, round(seconds * self.rate))

    @property
    def inks(self) -> Inks:
        """The colours of the piece."""
        return Inks.of(self.document.project.palette)

    def layer(self, id_: str) -> Layer:
        """A layer as it is now."""
        return layer_of(self.document, id_)

    def span(self, id_: str) -> Span:
        """Where a layer lies in time."""
        return Timeline(self.document).spans[id_]  # type: ignore[return-value]

    def box(self, id_: str) -> Box:
        """The box that a layer covers as it begins, as it rests there: left, top, right, bottom in project pixels."""
        timeline, layer = Timeline(self.document), self.layer(id_)
        keyed = Keyed(layer, timeline.ties_of(layer), self.rate)
        return box_placed(self.document, layer, keyed.placement(self.span(id_).start), timeline)

    @property
    def length(self) -> int:
        """The number of frames the piece has."""
        return Timeline(self.document).length

    def after(self, item: GroundItem) -> GroundItem:
        """The item that comes next in the ground. Raises Refusal if none does."""
        ground = self.document.project.ground
        place = [g.id for g in ground].index(item.id) + 1
        if place == len(ground):
            raise Refusal("Nothing comes after that take. Add another one.")
        return ground[place]

    def over(self, id_: str) -> GroundItem:
        """The piece of the ground that a cutout was caught in."""
        return item_of(self.document, self.layer(id_).over or "")

    def hold(self, id_: str) -> Hold:
        """The hold whose cutout a layer shows. Raises Refusal if it shows none."""
        return hold_behind(self.document, self.layer(id_))

    def below(self, id_: str, name: str, source: Source) -> str:
        """Puts a plain layer right below another one, that lies as it does; gives its id."""
        layer = self.layer(id_)
        made = Layer(
            name=free_name(name, {x.name for x in self.document.project.layers}), source=source, over=layer.over,
            arrangement=layer.arrangement, framing=layer.framing,
        )  # fmt: skip
        beside = [x.id for x in self.document.project.layers if x.group == layer.group]
        layers = put_in_order(self.document, [made], layer.group, beside.index(layer.id))
        self.document = with_project(self.document, layers=layers)
        return made.id

    def copied(self, id_: str) -> str:
        """Puts a copy of a plain cutout right below it; gives its id."""
        return self.below(id_, self.layer(id_).name, self.layer(id_).source)

    def behaves(self, id_: str, behaviour: Behaviour) -> None:
        """Has a layer behave so, besides all that it does."""
        self.do(ChangeLayer(layer=id_, behaviours=[*self.layer(id_).behaviours, behaviour]))

    def emptied_after(self, cutout: str) -> int:
        """Empties the footage of the subject from a cutout's frame on, as far as its matte travels, over its plate;
        gives for how many frames of the piece that is, 0 if it cannot be.
        """
        hold = self.hold(cutout)
        if hold.plate is None or hold.travel is None or not hold.matte.carved:
            return 0
        timeline = Timeline(self.document)
        item = self.over(cutout)
        within = self.span(cutout).landing - timeline.starts[item.id]
        table = timeline.tables[item.id][within:]
        known = next((n for n, f in enumerate(table) if hold.matte_at(int(f)) is None), len(table))
        if not isinstance(item.source, ShotSource) or known < 2:
            return 0
        fresh = new_id()
        if within:
            self.document = cut(self.document, item, within, fresh)
            item = item_of(self.document, fresh)
        if known < len(table):
            self.document = cut(self.document, item, known, new_id())
            item = item_of(self.document, item.id)
        source = item.source.model_copy(update={"emptied": hold.id}).checked(self.document)
        self.document = with_item(self.document, item.id, source=source)
        return known

    def lies(self, arrangement: str, *layers: str) -> None:
        """Has layers lie so in time."""
        for id_ in layers:
            self.do(ChangeLayer(layer=id_, arrangement=Arrangement.family[arrangement]()))

    def wears(self, layer: str, *finishes: tuple[str, dict[str, Any]]) -> None:
        """Puts finishes on a layer, after those that it has."""
        more = [Finish(kind=kind, settings=settings) for kind, settings in finishes]
        self.do(ChangeLayer(layer=layer, finishes=[*self.layer(layer).finishes, *more]))

    def key(self, layer: str, channel: str, tie: Tie, offset: int, *value: float, easing: str = "soft landing") -> None:
        """Gives a layer a key."""
        key = Key(channel=channel, tie=tie, offset=offset, value=list(value), easing=preset(easing))
        self.document = with_layer(self.document, layer, keys=[*self.layer(layer).keys, key])

    def enters(self, layer: str, move: str, **settings: Any) -> None:
        """Has a layer come in by a move."""
        self.do(PutMove(layers=[layer], side="in", move=PutOn(kind=move, settings=settings)))

    def leaves(self, layer: str, move: str, **settings: Any) -> None:
        """Has a layer leave by a move."""
        self.do(PutMove(layers=[layer], side="out", move=PutOn(kind=move, settings=settings)))

    def leaves_as_it_came(self, layer: str) -> None:
        """Has a layer leave the way it came."""
        self.do(MirrorExit(layers=[layer]))

    def hears(self, layer: str, kind: str, gain: float, to: str = "landing", offset: int = 0, **settings: Any) -> None:
        """Puts a sound on a layer's start, landing or end."""
        sound = Sounding.family.parse({"kind": kind, **settings})
        tie = CueTie(layer=layer, to=to, offset=offset)  # type: ignore[arg-type]
        self.do(AddCue(sound=sound, tie=tie, gain=gain))

    def stands(self, cutout: str, frames: int, heard: str = "silent") -> None:
        """Has everything stand at a cutout's frame, for so many frames, under the cutout."""
        made = new_id()
        at = self.span(cutout).landing
        self.do(AddStandstill(at=at, frames=frames, item=made, heard=heard))  # type: ignore[arg-type]
        changes: dict[str, Any] = {"over": made, "arrangement": Standstill(), "starts": None, "ends": None}
        self.document = with_layer(self.document, cutout, **changes)

    def shakes(self, item: GroundItem, behaviour: Any) -> None:
        """Has a piece of the ground behave so, besides all that it does."""
        now = item_of(self.document, item.id)
        self.document = with_item(self.document, item.id, behaviours=[*now.behaviours, behaviour])
