"""Edits of what a layer or a ground item does over time."""

from typing import Annotated, Literal

from pydantic import Field

from ..model import Document, Easing, GroundItem, Key, Layer, Pose
from ..model.base import FrameNumber, Id, Number, new_id
from ..model.keys import Channel
from ..motion.channels import at_rest, channel_of
from ..timeline.timeline import Timeline
from .base import Edit, OwnerEdit, layer_of, open_layer, replaced, with_layer, with_owner


class SetValue(OwnerEdit):
    """Gives a channel a value at a project frame, the way dragging on the picture does.

    A channel without keys has it all along. With keys, the one at the frame changes, or a new one is set there,
    tied to the nearest of landing, start and end. With `key`, one is set in any case.
    """

    kind: Literal["set value"] = "set value"
    channel: Channel
    frame: FrameNumber
    value: Annotated[list[Number], Field(min_length=1, max_length=2)]
    key: bool = False
    key_id: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"{channel_of(self.owner(document), self.channel).doing} {self.name(document)}"

    def apply(self, document: Document) -> Document:
        owner = self.open_owner(document)
        value = channel_of(owner, self.channel).checked(self.value)
        if not self.key and not any(k.channel == self.channel for k in owner.keys):
            return with_owner(document, owner, **at_rest(owner, self.channel, value))
        ties = Timeline(document).ties_of(owner)
        # The list is read as evaluation reads it: of several keys on one frame the last one counts.
        here = [k for k in owner.keys if k.channel == self.channel and ties[k.tie] + k.offset == self.frame]
        if here:
            keys = replaced(owner.keys, here[-1].id, lambda k: k.model_copy(update={"value": value}))
        else:
            tie = min(ties, key=lambda t: (abs(self.frame - ties[t]), t != "landing"))
            easing = Easing(x1=0.42, x2=0.58) if self.key else Easing()
            key = Key(
                id=self.key_id, channel=self.channel, tie=tie, offset=self.frame - ties[tie], value=value, easing=easing
            )
            keys = [*owner.keys, key]
        return with_owner(document, owner, keys=keys)


class PutAtRest(Edit):
    """Puts a cutout back onto its own place: no keys of its pose, no offset, turn, scale or fade."""

    kind: Literal["put at rest"] = "put at rest"
    layer: Id

    def title(self, document: Document) -> str:
        return f"put {layer_of(document, self.layer).name} at rest"

    def apply(self, document: Document) -> Document:
        layer = open_layer(document, self.layer)
        return with_layer(document, layer.id, keys=[k for k in layer.keys if "." in k.channel], pose=Pose())


class SetKey(OwnerEdit):
    """Adds a key, or replaces the one with its id."""

    kind: Literal["set key"] = "set key"
    key: Key

    def title(self, document: Document) -> str:
        owner = self.owner(document)
        known = any(k.id == self.key.id for k in owner.keys)
        channel = channel_of(owner, self.key.channel).title.lower()
        return f"{'change' if known else 'add'} {channel} key of {self.name(document)}"

    def apply(self, document: Document) -> Document:
        owner = self.open_owner(document)
        channel_of(owner, self.key.channel).checked(self.key.value)
        if any(k.id == self.key.id for k in owner.keys):
            keys = replaced(owner.keys, self.key.id, lambda _: self.key)
        else:
            keys = [*owner.keys, self.key]
        return with_owner(document, owner, keys=keys)


class RemoveKey(OwnerEdit):
    """Removes a key."""

    kind: Literal["remove key"] = "remove key"
    key: Id

    def title(self, document: Document) -> str:
        return f"remove key of {self.name(document)}"

    def apply(self, document: Document) -> Document:
        owner = self.open_owner(document)
        return with_owner(document, owner, keys=[k for k in owner.keys if k.id != self.key])


class SetKeys(OwnerEdit):
    """Replaces all keys of a layer: how a ready move is put on, and how animation is pasted.

    Keys of settings that it does not have are left out.
    """

    kind: Literal["set keys"] = "set keys"
    keys: Annotated[list[Key], Field(max_length=2000)]

    def title(self, document: Document) -> str:
        return f"animate {self.name(document)}" if self.keys else "clear keys"

    def apply(self, document: Document) -> Document:
        owner = self.open_owner(document)
        worn = {f.id for f in owner.finishes}
        given = [k for k in self.keys if "." not in k.channel or k.channel.partition(".")[0] in worn]
        for key in given:
            channel_of(owner, key.channel).checked(key.value)
        own = {k.id for k in owner.keys}
        everyone: list[Layer | GroundItem] = [*document.project.layers, *document.project.ground]
        others = {k.id for x in everyone if x.id != owner.id for k in x.keys} - own
        keys = [k.model_copy(update={"id": new_id()}) if k.id in others else k for k in given]
        return with_owner(document, owner, keys=keys)
