"""The edit that puts a card into the sky: a group of ordinary layers."""

import hashlib
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from ...common.errors import Refusal
from ...kinds.cards.card import Card, CardPart, Inks, Said
from ...piece.model import Document, Key
from ...piece.model.base import FrameNumber, Id, Number, new_id
from ...piece.model.keys import Bezier
from ...piece.model.naming import free_name
from ...piece.motion.move_beats import preset
from ...piece.timeline.timeline import Timeline
from .adding import AddLayer
from .base import Edit, layer_of, put_in_order, with_layer, with_project
from .groups import MakeGroup
from .moves import MirrorExit, PutMove

OUT = 0.6
"""How long a card takes at most to come, and to go, of the time that it is there."""


class AddCard(Edit):
    """Puts a card into the sky from a project frame on, for so many frames: it comes in, and leaves the way it came.

    Its middle lies at `x`, `y`, in project pixels; it is no wider than `wide`. `above`, or `below`: the layer that it
    comes to lie beside; else it lies above all.
    """

    kind: Literal["add card"] = "add card"
    card: Card
    name: Annotated[str, Field(min_length=1, max_length=80)]
    line: Annotated[str, Field(max_length=120)] = ""
    at: FrameNumber
    frames: Annotated[int, Field(ge=2, le=100_000)] = 60
    x: Number
    y: Number
    wide: Annotated[float, Field(ge=40, le=20_000)]
    tail: Annotated[float, Field(ge=-360, le=360)] = 120.0
    above: Id | None = None
    below: Id | None = None
    group: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"add the card {self._called()}"

    def _called(self) -> str:
        return " ".join(self.name.split())[:40] or self.card.title

    def apply(self, document: Document) -> Document:
        if not self.name.strip():
            raise Refusal("A card needs a name to show. Type one.")
        length = Timeline(document).length
        if length == 0:
            raise Refusal("There is no ground yet to fly over. Put footage into it first.")
        start = min(self.at, length - 1)
        lasts = max(2, min(self.frames, length - start))
        said = Said(self.name.strip(), self.line.strip(), self.wide, self.tail)
        try:
            parts = self.card.laid(said, Inks.of(document.project.palette))
        except ValidationError as error:  # one of its parts would be larger, or smaller, than any may be
            small = any(e["type"].startswith("greater") for e in error.errors())
            advice = "too small. Make it wider." if small else "too large. Make it narrower."
            raise Refusal(f"A card {self.wide:.0f} pixels wide is {advice}") from error
        parts = [p for p in parts if p.source.outlines().box is not None]
        ids: list[str] = []
        for n, part in enumerate(parts):
            id_ = hashlib.sha256(f"{self.group} {n}".encode()).hexdigest()[:16]
            document = self._put(document, part, id_, start, lasts)
            ids.append(id_)
        made = MakeGroup(
            layers=ids, name=free_name(f"Card {self._called()}", {x.name for x in document.project.layers})
        )
        document = made.model_copy(update={"group": self.group}).apply(document)
        beside = self.below or self.above
        if beside is None:
            return document
        group = layer_of(document, beside).group
        around = [x.id for x in document.project.layers if x.group == group and x.id != self.group]
        place = around.index(beside) + (self.below is None)
        own = layer_of(document, self.group)
        return with_project(document, layers=put_in_order(document, [own], group, place))

    def _put(self, document: Document, part: CardPart, id_: str, start: int, lasts: int) -> Document:
        """One part as a layer, with how it comes and goes."""
        width, height = document.project.width, document.project.height
        document = AddLayer(source=part.source, at=start, frames=lasts, layer=id_).apply(document)
        layer = layer_of(document, id_)
        left, top, right, bottom = part.source.bounds(document) or (0, 0, width, height)
        place = self.x - width / 2 + part.x, self.y - height / 2 + part.y
        pose = layer.pose.model_copy(update={"position": place, "rotation": part.turn, "shear": part.shear})
        anchor = (left + right) / 2, (top + bottom) / 2
        document = with_layer(document, id_, pose=pose, anchor=anchor)
        rate = float(document.project.rate)
        most = max(1, int(OUT * lasts / 2))
        late = min(round(part.late * rate), most)
        if part.enters is not None:
            put = part.enters
            if "lasts" in type(put.move).model_fields:
                frames = max(1, min(round(put.move.lasts * rate / 30), most))
                put = put.model_copy(update={"settings": {**put.settings, "lasts": frames}})
            document = PutMove(layers=[id_], side="in", move=put, stagger=0).apply(document)
            document = _later(document, id_, late)
        channel = "source.progress" if part.drawn else "source.entered"
        seconds = part.drawn or part.comes
        if seconds:
            ends = late, late + max(1, min(round(seconds * rate), most))
            ease = preset("soft landing") if part.drawn else Bezier()
            keys = [
                Key(channel=channel, tie="start", offset=offset, value=[float(n)], easing=ease, made="in")
                for n, offset in enumerate(ends)
            ]
            document = with_layer(document, id_, keys=[*layer_of(document, id_).keys, *keys])
        return MirrorExit(layers=[id_]).apply(document) if layer_of(document, id_).keys else document


def _later(document: Document, id_: str, by: int) -> Document:
    """A layer whose entrance begins so many frames later; before that it is not seen."""
    layer = layer_of(document, id_)
    if not by:
        return document
    keys = [k.model_copy(update={"offset": k.offset + by}) if k.made == "in" else k for k in layer.keys]
    return with_layer(document, id_, keys=keys)
