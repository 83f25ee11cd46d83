"""Edits of many keys at once, of several layers and ground items."""

import math
from collections.abc import Callable, Sequence
from typing import Annotated, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...kinds.sources.rest import box_of
from ...piece.model import Bend, Document, Easing, GroundItem, Key, Layer, Tie
from ...piece.model.base import Id, Number, new_id
from ...piece.model.keys import Channel
from ...piece.motion.channels import POSE, channel_of, setting_of
from ...piece.motion.keyed import Keyed
from ...piece.motion.move_beats import turned
from ...piece.timeline.timeline import Ties, Timeline
from .base import Edit, OwnerEdit, layer_of, open_layer, with_layer, with_owner
from .keyframing import nearest
from .layering import Layers, names_of


class ChosenKeys(OwnerEdit):
    """Some keys of a layer or a ground item; none named: all that it has."""

    keys: Annotated[list[Id], Field(max_length=5000)] = []

    def of(self, owner: Layer | GroundItem) -> list[Key]:
        """Those keys. Raises Refusal if one of them is gone."""
        if not self.keys:
            return owner.keys
        known = {k.id: k for k in owner.keys}
        if any(id_ not in known for id_ in self.keys):
            raise Refusal("A key that was chosen is no longer there. Choose again.")
        return [known[id_] for id_ in self.keys]


Of = Annotated[list[ChosenKeys], Field(min_length=1, max_length=500)]


def changed(document: Document, of: Sequence[ChosenKeys], change: Callable[[Key, Ties, list[Key]], Key]) -> Document:
    """The document with each chosen key changed, given the ties of its owner and all that are chosen there."""
    for chosen in of:
        owner = chosen.open_owner(document)
        own = chosen.of(owner)
        ids, ties = {k.id for k in own}, Timeline(document).ties_of(owner)
        keys = [change(k, ties, own) if k.id in ids else k for k in owner.keys]
        document = with_owner(document, owner, keys=keys)
    return document


class MoveKeys(Edit):
    """Moves keys in time by so many frames, drawn out about a frame before that, and in value.

    `add` is what is added to their values, by channel, number by number.
    """

    kind: Literal["move keys"] = "move keys"
    of: Of
    frames: Annotated[int, Field(ge=-1_000_000, le=1_000_000)] = 0
    stretch: Annotated[float, Field(gt=0, le=100)] = 1.0
    around: int = 0
    add: dict[Channel, Annotated[list[Number], Field(min_length=1, max_length=3)]] = {}

    def title(self, document: Document) -> str:
        doing = "stretch" if self.stretch != 1 else "move"
        return f"{doing} keys of {_names(document, self.of)}"

    def apply(self, document: Document) -> Document:
        def moved(key: Key, ties: Ties, _own: list[Key]) -> Key:
            frame = round(self.around + (ties.frame(key) - self.around) * self.stretch) + self.frames
            value = key.value
            for n, more in enumerate(self.add.get(key.channel, ())[: len(value)]):
                value = [*value[:n], value[n] + more, *value[n + 1 :]]
            return key.model_copy(update={"offset": frame - ties.of(key.tie, key.to), "value": value})

        made = changed(document, self.of, moved)
        for chosen in self.of if self.add else ():
            owner = chosen.owner(made)
            for key in chosen.of(owner):
                channel_of(owner, key.channel).checked(key.value)
        return made


class ChangeKeys(Edit):
    """Gives keys another easing, ties them to something else (they stay on their frames), or bends the path at them.

    `to` names the moment or the ground item that they are tied to, where that is meant; `straight` takes their handles
    away.
    """

    kind: Literal["change keys"] = "change keys"
    of: Of
    easing: Easing | None = None
    tie: Tie | None = None
    to: Id | None = None
    bend: Bend | None = None
    straight: bool = False

    def title(self, document: Document) -> str:
        doing = "ease" if self.easing else "tie" if self.tie else "bend the path of"
        return f"{doing} {'keys of ' if self.easing or self.tie else ''}{_names(document, self.of)}"

    def apply(self, document: Document) -> Document:
        timeline = Timeline(document)
        reach = {}
        for chosen in self.of if self.to else ():
            reach.update(_within_reach(timeline, chosen.owner(document)))
        if self.to and self.to not in reach:
            raise Refusal("That moment or cut does not lie where it could be tied to. Choose another.")
        bends = self.bend is not None or self.straight
        if bends and all(len(k.value) != 2 for c in self.of for k in c.of(c.owner(document))):
            raise Refusal("Only keys of a path are bent, those of a position. Choose one of them.")

        def other(key: Key, ties: Ties, _own: list[Key]) -> Key:
            update: dict[str, object] = {}
            if self.easing is not None:
                update["easing"] = self.easing
            if self.tie is not None:
                base = reach[self.to] if self.to else ties.of(self.tie)
                update |= {"tie": self.tie, "to": self.to, "offset": ties.frame(key) - base}
            if bends and len(key.value) == 2:
                update["bend"] = self.bend
            return Key.model_validate(key.model_copy(update=update).model_dump())

        return changed(document, self.of, other)


def _within_reach(timeline: Timeline, owner: Layer | GroundItem) -> dict[str, int]:
    """The moments and cuts that an owner's keys can be tied to, and their frames."""
    item = timeline.document.item(owner.over or "") if isinstance(owner, Layer) else owner
    return {**timeline.starts, **(timeline.moments_of(item) if item else {})}


class RemoveKeys(Edit):
    """Removes keys."""

    kind: Literal["remove keys"] = "remove keys"
    of: Of

    def title(self, document: Document) -> str:
        return f"remove keys of {_names(document, self.of)}"

    def apply(self, document: Document) -> Document:
        for chosen in self.of:
            owner = chosen.open_owner(document)
            gone = {k.id for k in chosen.of(owner)}
            document = with_owner(document, owner, keys=[k for k in owner.keys if k.id not in gone])
        return document


class ReverseKeys(Edit):
    """Turns the time of keys around: what came first comes last, each stretch gone backwards."""

    kind: Literal["reverse keys"] = "reverse keys"
    of: Of

    def title(self, document: Document) -> str:
        return f"reverse {_names(document, self.of)}"

    def apply(self, document: Document) -> Document:
        def reversed_(key: Key, ties: Ties, own: list[Key]) -> Key:
            frames = [ties.frame(k) for k in own]
            offset = min(frames) + max(frames) - ties.frame(key) - ties.of(key.tie, key.to)
            return turned(key, own, ties.frame).model_copy(update={"offset": offset})

        return changed(document, self.of, reversed_)


class SpreadKeys(Edit):
    """Spreads keys over all of the time that is there: the first comes to lie on the first frame, the last on the last.

    The first is tied to the start then, the last to the end, and those between to whichever is nearer.
    """

    kind: Literal["spread keys"] = "spread keys"
    of: Of

    def title(self, document: Document) -> str:
        return f"spread the keys of {_names(document, self.of)}"

    def apply(self, document: Document) -> Document:
        def spread(key: Key, ties: Ties, own: list[Key]) -> Key:
            frames = [ties.frame(k) for k in own]
            low, high = min(frames), max(frames)
            if low == high:
                raise Refusal("A single key cannot be spread. Set another one first.")
            share = (ties.frame(key) - low) / (high - low)
            first, last = ties.start, max(ties.start, ties.end - 1)
            frame = first + round(share * (last - first))
            tie: Tie = "start" if share == 0 else "end" if share == 1 else nearest(ties, frame)
            return key.model_copy(update={"tie": tie, "to": None, "offset": frame - ties.of(tie)})

        return changed(document, self.of, spread)


class PasteKeys(Edit):
    """Puts copied keys on layers: in the channels that they have, in place of those that are there.

    What they are tied to each layer has, so that they fit whatever its length. Keys of settings go on those layers
    alone that have them.
    """

    kind: Literal["paste keys"] = "paste keys"
    layers: Layers
    keys: Annotated[list[Key], Field(min_length=1, max_length=5000)]

    def title(self, document: Document) -> str:
        return f"paste keys on {names_of(document, self.layers)}"

    def apply(self, document: Document) -> Document:
        for id_ in self.layers:
            layer = open_layer(document, id_)
            given = [k for k in self.keys if k.channel in POSE or setting_of(layer, k.channel) is not None]
            if not given:
                raise Refusal(f"{layer.name} has none of what was copied. Copy keys of a layer like it.")
            for key in given:
                channel_of(layer, key.channel).checked(key.value)
            over = {k.channel for k in given}
            # Across and down lie apart from position: whichever comes takes the place of the other.
            apart = layer.apart
            if over & {"across", "down"}:
                over, apart = over | {"position"}, True
            elif "position" in over:
                over, apart = over | {"across", "down"}, False
            marked = Timeline(document).ties_of(layer.model_copy(update={"keys": given})).marked
            fresh = [
                k.model_copy(update={"id": new_id()} | ({} if not k.to or k.to in marked else LANDING)) for k in given
            ]
            keys = [*(k for k in layer.keys if k.channel not in over), *fresh]
            document = with_layer(document, layer.id, keys=keys, apart=apart)
        return document


LANDING: dict[str, object] = {"tie": "landing", "to": None}
"""For a key whose moment or cut is not there."""


class StaggerKeys(Edit):
    """Has layers do what they do one after the other, by so many frames each: their keys move in time.

    In the order of their moments, or (`distance`) by how far from the first of them they rest on the canvas, the
    farthest as late as the last would be. `made` names one side's moves alone.
    """

    kind: Literal["stagger"] = "stagger"
    layers: Layers
    frames: Annotated[int, Field(ge=-1000, le=1000)]
    by: Literal["order", "distance"] = "order"
    made: Literal["in", "out"] | None = None

    def title(self, document: Document) -> str:
        return f"stagger {names_of(document, self.layers)}"

    def apply(self, document: Document) -> Document:
        for id_, late in delays(document, self.layers, self.frames, self.by).items():
            layer = open_layer(document, id_)
            keys = [
                k.model_copy(update={"offset": k.offset + late}) if self.made in (None, k.made) else k
                for k in layer.keys
            ]
            document = with_layer(document, id_, keys=keys)
        return document


def delays(document: Document, ids: Sequence[str], frames: int, by: Literal["order", "distance"]) -> dict[str, int]:
    """The number of frames later each of some layers does what it does."""
    timeline = Timeline(document)
    layers = [layer_of(document, x) for x in ids]
    order = sorted(layers, key=lambda x: (timeline.ties_of(x).landing, timeline.ties_of(x).start))
    if by == "order" or len(order) < 2:
        return {x.id: n * frames for n, x in enumerate(order)}
    boxes = {x.id: box_of(document, x) for x in order}
    middles = {k: ((a + c) / 2, (b + d) / 2) for k, (a, b, c, d) in boxes.items()}
    far = {k: math.dist(m, middles[order[0].id]) for k, m in middles.items()}
    most = max(far.values()) or 1.0
    return {k: round(frames * (len(order) - 1) * d / most) for k, d in far.items()}


class KeysApart(Edit):
    """Has across and down keys of their own, or has position keys again; nothing moves otherwise on any frame.

    Together again, there is a key on each frame on which one of the two had any; where their easings differed a layer
    may go another way between two frames. A path's bends are lost where keys lie apart.
    """

    kind: Literal["keys apart"] = "keys apart"
    layer: Id
    apart: bool

    def title(self, document: Document) -> str:
        doing = "apart" if self.apart else "together"
        return f"key across and down of {layer_of(document, self.layer).name} {doing}"

    def apply(self, document: Document) -> Document:
        layer = open_layer(document, self.layer)
        if layer.apart == self.apart:
            return document
        rest = [k for k in layer.keys if k.channel not in ("position", "across", "down")]
        ties = Timeline(document).ties_of(layer)
        keyed = Keyed(layer, ties, float(document.project.rate))
        made: list[Key] = []
        if self.apart:
            for key in layer.keys:
                for n, channel in enumerate(("across", "down")):
                    if key.channel == "position":
                        one = {"id": new_id(), "channel": channel, "value": [key.value[n]], "bend": None}
                        made.append(key.model_copy(update=one))
        else:
            own = [t for c in ("across", "down") if (t := keyed.tracks.get(c)) is not None]
            for frame in sorted({f for t in own for f in t.frames}):
                like = next(t.keys[t.frames.index(frame)] for t in own if frame in t.frames)
                one = {"id": new_id(), "channel": "position", "value": list(keyed.position(frame))}
                made.append(like.model_copy(update=one))
        return with_layer(document, layer.id, keys=[*rest, *made], apart=self.apart)


def _names(document: Document, of: Sequence[ChosenKeys]) -> str:
    first = of[0].name(document)
    return first if len(of) == 1 else f"{first} and {len(of) - 1} more"
