"""Edits of what a layer does over time."""

from typing import Annotated, Literal

from pydantic import Field

from ..errors import Refusal
from ..model import Document, Key, Tie
from ..model.base import Id, Number, new_id
from ..model.layers import LIMITS, Channel, Pose
from ..picture.evaluate import Evaluation
from .base import Edit, layer_of, open_layer, replaced, with_layer


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
        return f"{verb} {layer_of(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = open_layer(document, self.layer)
        low, high = LIMITS.get(self.channel, (-1e6, 1e6))
        if len(self.value) != (2 if self.channel == "position" else 1) or not low <= self.value[0] <= high:
            raise Refusal(f"{self.channel.capitalize()} goes from {low:g} to {high:g}.")
        if not any(k.channel == self.channel for k in layer.keys):
            value = tuple(self.value) if self.channel == "position" else self.value[0]
            return with_layer(document, layer.id, pose=layer.pose.model_copy(update={self.channel: value}))
        span = Evaluation(document).spans[layer.id]
        ties: dict[Tie, int] = span.ties if span else {"start": 0, "landing": 0, "end": 0}
        # The list is read as evaluation reads it: of several keys on one frame the last one counts.
        here = [k for k in layer.keys if k.channel == self.channel and ties[k.tie] + k.offset == self.frame]
        if here:
            keys = replaced(layer.keys, here[-1].id, lambda k: k.model_copy(update={"value": self.value}))
        else:
            tie = min(ties, key=lambda t: (abs(self.frame - ties[t]), t != "landing"))
            key = Key(channel=self.channel, tie=tie, offset=self.frame - ties[tie], value=self.value)
            keys = [*layer.keys, key]
        return with_layer(document, layer.id, keys=keys)


class PutAtRest(Edit):
    """Puts a cutout back onto its own place: no keys, no offset, turn, scale or fade."""

    kind: Literal["put at rest"] = "put at rest"
    layer: Id

    def title(self, document: Document) -> str:
        return f"put {layer_of(document, self.layer).name} at rest"

    def apply(self, document: Document) -> Document:
        layer = open_layer(document, self.layer)
        return with_layer(document, layer.id, keys=[], pose=Pose())


class SetKey(Edit):
    """Adds a key, or replaces the one with its id."""

    kind: Literal["set key"] = "set key"
    layer: Id
    key: Key

    def title(self, document: Document) -> str:
        layer = layer_of(document, self.layer)
        known = any(k.id == self.key.id for k in layer.keys)
        return f"{'change' if known else 'add'} {self.key.channel} key of {layer.name}"

    def apply(self, document: Document) -> Document:
        layer = open_layer(document, self.layer)
        if any(k.id == self.key.id for k in layer.keys):
            keys = replaced(layer.keys, self.key.id, lambda _: self.key)
        else:
            keys = [*layer.keys, self.key]
        return with_layer(document, layer.id, keys=keys)


class RemoveKey(Edit):
    """Removes a key."""

    kind: Literal["remove key"] = "remove key"
    layer: Id
    key: Id

    def title(self, document: Document) -> str:
        return f"remove key of {layer_of(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = open_layer(document, self.layer)
        return with_layer(document, layer.id, keys=[k for k in layer.keys if k.id != self.key])


class SetKeys(Edit):
    """Replaces all keys of a layer: how a ready move is put on, and how animation is pasted."""

    kind: Literal["set keys"] = "set keys"
    layer: Id
    keys: Annotated[list[Key], Field(max_length=2000)]

    def title(self, document: Document) -> str:
        return f"animate {layer_of(document, self.layer).name}" if self.keys else "clear keys"

    def apply(self, document: Document) -> Document:
        layer = open_layer(document, self.layer)
        own = {k.id for k in layer.keys}
        others = {k.id for x in document.project.layers if x.id != layer.id for k in x.keys} - own
        keys = [k.model_copy(update={"id": new_id()}) if k.id in others else k for k in self.keys]
        return with_layer(document, layer.id, keys=keys)
