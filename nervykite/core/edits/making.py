"""A piece in the making: edits done one after the other to a document in hand, as recipes do them."""

import math
from typing import Any

from ..cards.card import Inks
from ..errors import Refusal
from ..model import Arrangement, CueTie, Document, Finish, GroundItem, Key, Layer, PutOn, Sounding
from ..model.base import new_id
from ..model.ties import Tie
from ..motion.recipe import preset
from ..timeline.arrangements.standstill import Standstill
from ..timeline.timeline import Span, Timeline
from .base import Edit, item_of, layer_of, with_item, with_layer
from .cueing import AddCue
from .ground import AddStandstill
from .layers import ChangeLayer
from .moves import MirrorExit, PutMove


class Making:
    """What a recipe works on. `cutouts` are the layers of what was caught, in order, plain and left behind."""

    def __init__(self, document: Document, cutouts: list[str]) -> None:
        self.document, self.cutouts = document, cutouts

    def do(self, edit: Edit) -> Document:
        """Makes an edit."""
        self.document = edit.apply(self.document)
        return self.document

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

    def frames(self, seconds: float) -> int:
        """So many seconds in frames of the piece, at least one."""
        return max(1, round(seconds * float(self.document.project.rate)))

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

    @property
    def length(self) -> int:
        """How many frames the piece has."""
        return Timeline(self.document).length

    def after(self, item: GroundItem) -> GroundItem:
        """What comes next in the ground. Raises Refusal if nothing does."""
        ground = self.document.project.ground
        place = [g.id for g in ground].index(item.id) + 1
        if place == len(ground):
            raise Refusal("Nothing comes after that take. Add another one.")
        return ground[place]

    def over(self, id_: str) -> GroundItem:
        """The piece of the ground that a cutout was caught in."""
        return item_of(self.document, self.layer(id_).over or "")

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
