"""Edits of layers, the cutouts in the sky."""

from typing import Annotated, Literal

from pydantic import Field

from ..errors import Refusal
from ..finishes.registry import checked
from ..model import Document, Layer
from ..model.base import Id, Name, Number, new_id
from ..model.layers import Arrangement, Finish
from ..picture.evaluate import Evaluation
from .base import (
    Edit,
    free_name,
    hold_of,
    layer_of,
    open_layer,
    with_hold,
    with_layer,
    with_project,
    without_unused_holds,
)

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
        name = layer_of(document, self.layer).name
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
        layer = layer_of(document, self.layer)
        if layer.locked and self.locked is None and self.visible is None:
            open_layer(document, layer.id)
        hold = hold_of(document, layer.hold)
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
        changed = with_layer(document, layer.id, **given)
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
        hold = hold_of(document, layer.hold)
        pieces = [p.model_copy(update={"id": new_id()}) for p in hold.matte.pieces]
        matte = hold.matte.model_copy(update={"pieces": pieces})
        own = hold.model_copy(update={"id": new_id(), "name": layer.name, "matte": matte})
        return with_layer(with_hold(document, own), layer.id, hold=own.id)
