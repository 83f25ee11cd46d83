"""Edits of layers in the sky."""

from typing import Annotated, Any, Literal

from pydantic import Field

from ..errors import Refusal
from ..model import Arrangement, Document, Finish, Layer, Source
from ..model.base import FrameNumber, Id, Name, Number, new_id
from ..model.blend import BlendMode
from ..model.naming import free_name
from ..timeline.ripple import tied_to
from ..timeline.timeline import Timeline
from .base import (
    Edit,
    dressed,
    hold_behind,
    layer_of,
    open_layer,
    suited,
    with_hold,
    with_layer,
    with_project,
    without_unused_holds,
)
from .copying import hold_again, renewed


class ChangeLayer(Edit):
    """Changes what is given of a layer; `clear` names the fields to set back.

    `until` is the project frame at which its free end comes to lie: the first one after a trail, the first one of a
    layer that waits. It is kept as a tie.
    """

    kind: Literal["change layer"] = "change layer"
    layer: Id
    name: Name | None = None
    visible: bool | None = None
    locked: bool | None = None
    blend: BlendMode | None = None
    arrangement: Arrangement | None = None
    until: FrameNumber | None = None
    anchor: tuple[Number, Number] | None = None
    finishes: Annotated[list[Finish], Field(max_length=40)] | None = None
    source: Source | None = None
    clear: list[Literal["until", "anchor"]] = []

    def title(self, document: Document) -> str:
        layer = layer_of(document, self.layer)
        name = layer.name
        if self.name is not None:
            return f"rename {name} to {self.name}"
        if self.visible is not None:
            return f"{'show' if self.visible else 'hide'} {name}"
        if self.locked is not None:
            return f"{'lock' if self.locked else 'unlock'} {name}"
        if self.blend is not None:
            return f"blend {name} by {self.blend}"
        if self.finishes is not None:
            return f"dress {name}"
        if self.arrangement is not None:
            return f"make {name} {self.arrangement.doing}"
        if self.source is not None:
            return self.source.changed(layer.source, name)
        return f"{'re-anchor' if self.anchor is not None or 'anchor' in self.clear else 'trim'} {name}"

    def apply(self, document: Document) -> Document:
        layer = layer_of(document, self.layer)
        if layer.locked and self.locked is None and self.visible is None:
            open_layer(document, layer.id)
        given: dict[str, Any] = {
            n: v for n in ("name", "visible", "locked", "blend", "anchor") if (v := getattr(self, n)) is not None
        }
        if self.source is not None:
            if "sky" not in self.source.on:
                raise Refusal(f"{self.source.title} cannot fly. Put it into the ground.")
            given["source"] = self.source.checked(document)
        if self.finishes is not None:
            given |= dressed(layer, self.finishes)
        if self.arrangement is not None and self.arrangement != layer.arrangement:
            source = given.get("source", layer.source)
            given["source"] = source.moving(document) if self.arrangement.travels else source.standing(document)
            given |= {"arrangement": self.arrangement, "starts": None, "ends": None}
        if "until" in self.clear:
            given |= {"starts": None, "ends": None}
        if "anchor" in self.clear:
            given["anchor"] = None
        document = with_layer(document, layer.id, **given)
        if "arrangement" in given:
            suited(document, layer.id)
        return document if self.until is None else _ending(document, layer_of(document, layer.id), self.until)


def _ending(document: Document, layer: Layer, frame: int) -> Document:
    """The document with the free end of a layer at a project frame. Raises Refusal if it does not fit there."""
    timeline = Timeline(document)
    place, span = timeline.place(layer), timeline.span(layer)
    if place is None or span is None:
        raise Refusal(f"The footage of {layer.name} is not in the ground any more.")
    if not layer.arrangement.free:
        raise Refusal(f"{layer.name} lasts as long as its footage does: it has no end to drag.")
    end = layer.arrangement.free[-1]
    start, past = (frame, span.end) if end == "start" else (span.start, frame)
    wrong = layer.arrangement.refuses(start, past, place)
    if wrong:
        raise Refusal(wrong)
    return with_layer(document, layer.id, **{f"{end}s": tied_to(place, frame)})


class MoveLayer(Edit):
    """Puts a layer at another height: 0 is the farthest."""

    kind: Literal["move layer"] = "move layer"
    layer: Id
    to: Annotated[int, Field(ge=0, le=100_000)]

    def title(self, document: Document) -> str:
        return f"reorder {layer_of(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = layer_of(document, self.layer)
        rest = [x for x in document.project.layers if x.id != layer.id]
        rest.insert(min(self.to, len(rest)), layer)
        return with_project(document, layers=rest)


class RemoveLayer(Edit):
    """Removes a layer; its hold goes when nothing else uses it."""

    kind: Literal["remove layer"] = "remove layer"
    layer: Id

    def title(self, document: Document) -> str:
        return f"remove {layer_of(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = open_layer(document, self.layer)
        layers = [x for x in document.project.layers if x.id != layer.id]
        return without_unused_holds(with_project(document, layers=layers))


class DuplicateLayer(Edit):
    """Adds a copy right above a layer, sharing its hold or with a hold of its own."""

    kind: Literal["duplicate layer"] = "duplicate layer"
    layer: Id
    separate: bool = False
    copy_id: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"duplicate {layer_of(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = layer_of(document, self.layer)
        name = free_name(layer.name, {x.name for x in document.project.layers})
        copy = renewed(layer).model_copy(update={"id": self.copy_id, "name": name, "locked": False})
        layers = list(document.project.layers)
        layers.insert(layers.index(layer) + 1, copy)
        document = with_project(document, layers=layers)
        return MakeSeparate(layer=copy.id).apply(document) if self.separate else document


class MakeSeparate(Edit):
    """Gives a layer a hold of its own, with a copy of the matte it shared."""

    kind: Literal["make separate"] = "make separate"
    layer: Id

    def title(self, document: Document) -> str:
        return f"make {layer_of(document, self.layer).name} separate"

    def apply(self, document: Document) -> Document:
        layer = layer_of(document, self.layer)
        own = hold_again(hold_behind(document, layer), name=layer.name)
        source = layer.source.model_copy(update={"hold": own.id})
        return with_layer(with_hold(document, own), layer.id, source=source)
