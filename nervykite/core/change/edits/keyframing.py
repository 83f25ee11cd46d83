"""Edits of what a layer or a ground item does over time."""

from typing import Annotated, Literal

from pydantic import Field

from ...piece.model import Bezier, Document, GroundItem, Key, Layer, Pose
from ...piece.model.base import FrameNumber, Id, Number, new_id
from ...piece.model.keys import Channel
from ...piece.model.ties import Tie
from ...piece.motion.channels import FRAMING, at_rest, channel_of, setting_of
from ...piece.motion.keyed import Keyed
from ...piece.motion.move_beats import FACTORS
from ...piece.timeline.timeline import Ties, Timeline
from ...see.footage.framing_matrix import by_hand
from .base import Edit, OwnerEdit, layer_of, open_layer, replaced, with_layer, with_owner


class SetValue(OwnerEdit):
    """Gives a channel a value at a project frame, the way dragging on the picture does.

    A channel without keys has it all along. With keys, the one at the frame changes, or a new one is set there,
    tied to the nearest of landing, start and end. With `key`, one is set in any case. A position whose keys lie apart
    is set across and down; across or down alone, where they do not, is set as the position. `shift` sets no key: what
    has keys is changed as a whole, so that it has that value at the frame.
    """

    kind: Literal["set value"] = "set value"
    channel: Channel
    frame: FrameNumber
    value: Annotated[list[Number], Field(min_length=1, max_length=3)]
    key: bool = False
    shift: bool = False
    key_id: Id = Field(default_factory=new_id)

    def brings(self) -> set[str]:
        return set()  # of keys it is known by their owner which are there, and the one at that frame changes

    def title(self, document: Document) -> str:
        return f"{channel_of(self.owner(document), self.channel).doing} {self.name(document)}"

    def apply(self, document: Document) -> Document:
        owner = self.open_owner(document)
        if isinstance(owner, Layer) and owner.apart and self.channel == "position":
            value = channel_of(owner, self.channel).checked(self.value)
            for channel, part in zip(("across", "down"), value, strict=True):
                one = {"channel": channel, "value": [part], "key_id": new_id()}
                document = self.model_copy(update=one).apply(document)
            return document
        if isinstance(owner, Layer) and not owner.apart and self.channel in ("across", "down"):
            (given,) = channel_of(owner, self.channel).checked(self.value)
            ties, rate = Timeline(document).ties_of(owner), float(document.project.rate)
            x, y = Keyed(owner, ties, rate).position(self.frame)
            pair = [given, y] if self.channel == "across" else [x, given]
            return self.model_copy(update={"channel": "position", "value": pair}).apply(document)
        return self._set(document, owner)

    def _set(self, document: Document, owner: Layer | GroundItem) -> Document:
        value = channel_of(owner, self.channel).checked(self.value)
        if isinstance(owner, GroundItem) and self.channel in FRAMING:
            # Keys of a framing are those of a framing by hand.
            canvas = document.project.width, document.project.height
            framing = by_hand(owner.framing, owner.source.size(document), canvas)
            owner = owner.model_copy(update={"framing": framing})
            document = with_owner(document, owner, framing=framing)
        if not self.key and not any(k.channel == self.channel for k in owner.keys):
            return with_owner(document, owner, **at_rest(owner, self.channel, value))
        ties = Timeline(document).ties_of(owner)
        if self.shift and not self.key:
            return with_owner(document, owner, keys=self._shifted(document, owner, ties, value))
        # The list is read as evaluation reads it: of several keys on one frame the last one counts.
        here = [k for k in owner.keys if k.channel == self.channel and ties.frame(k) == self.frame]
        if here:
            keys = replaced(owner.keys, here[-1].id, lambda k: k.model_copy(update={"value": value}))
        else:
            keys = [*owner.keys, self._fresh(owner, ties, value)]
        return with_owner(document, owner, keys=keys)

    def _shifted(self, document: Document, owner: Layer | GroundItem, ties: Ties, value: list[float]) -> list[Key]:
        """All keys of the channel changed alike: factors by the same factor, all else by the same amount."""
        now = Keyed(owner, ties, float(document.project.rate)).value(self.channel, self.frame)
        channel = channel_of(owner, self.channel)

        def shifted(key: Key) -> Key:
            if self.channel in FACTORS and now[0]:
                new = [v * value[0] / now[0] for v in key.value]
            else:
                new = [v + b - a for v, a, b in zip(key.value, now, value, strict=True)]
            return key.model_copy(update={"value": [min(channel.high, max(channel.low, v)) for v in new]})

        return [shifted(k) if k.channel == self.channel else k for k in owner.keys]

    def _fresh(self, owner: Layer | GroundItem, ties: Ties, value: list[float]) -> Key:
        """A key where there was none."""
        tie = nearest(ties, self.frame)
        easing = Bezier(x1=0.42, x2=0.58) if self.key else Bezier()
        offset = self.frame - ties.of(tie)
        return Key(id=self.key_id, channel=self.channel, tie=tie, offset=offset, value=value, easing=easing)


def nearest(ties: Ties, frame: int) -> Tie:
    """The one of its own ties that a frame is nearest to; of equal ones the landing."""
    return min(ties.own, key=lambda t: (abs(frame - ties.own[t]), t != "landing"))


class PutAtRest(Edit):
    """Puts a cutout back onto its own place: no keys of its pose, no move, no offset, turn, scale or fade."""

    kind: Literal["put at rest"] = "put at rest"
    layer: Id

    def title(self, document: Document) -> str:
        return f"put {layer_of(document, self.layer).name} at rest"

    def apply(self, document: Document) -> Document:
        layer = open_layer(document, self.layer)
        keys = [k for k in layer.keys if "." in k.channel]
        return with_layer(document, layer.id, keys=keys, pose=Pose(), entrance=None, exit=None)


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
    """Replaces all keys of a layer or a ground item at once.

    Keys of settings that it does not have are left out.
    """

    kind: Literal["set keys"] = "set keys"
    keys: Annotated[list[Key], Field(max_length=2000)]

    def title(self, document: Document) -> str:
        return f"animate {self.name(document)}" if self.keys else "clear keys"

    def apply(self, document: Document) -> Document:
        owner = self.open_owner(document)
        fits = (k.channel in FRAMING or setting_of(owner, k.channel) is not None for k in self.keys)
        given = [k for k, it_does in zip(self.keys, fits, strict=True) if "." not in k.channel or it_does]
        for key in given:
            channel_of(owner, key.channel).checked(key.value)
        own = {k.id for k in owner.keys}
        everyone: list[Layer | GroundItem] = [*document.project.layers, *document.project.ground]
        others = {k.id for x in everyone if x.id != owner.id for k in x.keys} - own
        keys = [k.model_copy(update={"id": new_id()}) if k.id in others else k for k in given]
        return with_owner(document, owner, keys=keys)
