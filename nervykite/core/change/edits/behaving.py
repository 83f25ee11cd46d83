"""Edits of behaviours and motion blur."""

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ...common.errors import Refusal
from ...kinds.sources.lying import Lying
from ...kinds.sources.rest import keyed_of
from ...piece.model import Behaviour, Blur, Document, Framing, Key, Layer
from ...piece.model.base import Id
from ...piece.motion.channels import FRAMING
from ...piece.motion.keyed import Keyed
from ...piece.timeline.timeline import Timeline
from .base import Edit, OwnerEdit, suits, with_owner, with_project


class ChangePiece(Edit):
    """Changes what moves all of the piece: its behaviours, and the motion blur of what has none of its own."""

    kind: Literal["change piece"] = "change piece"
    behaviours: Annotated[list[Behaviour], Field(max_length=20)] | None = None
    blur: Blur | None = None

    def title(self, document: Document) -> str:
        return "set the motion blur of the piece" if self.behaviours is None else "move the whole piece"

    def apply(self, document: Document) -> Document:
        if self.behaviours is not None:
            suits(self.behaviours, "piece")
            document = with_project(document, behaviours=self.behaviours)
        return document if self.blur is None else with_project(document, blur=self.blur)


class IntoKeys(OwnerEdit):
    """Turns a behaviour into keys, one on each frame, where they can be changed by hand; nothing moves otherwise."""

    kind: Literal["into keys"] = "into keys"
    behaviour: Id

    def title(self, document: Document) -> str:
        return f"turn a behaviour of {self.name(document)} into keys"

    def apply(self, document: Document) -> Document:
        owner = self.open_owner(document)
        one = next((b for b in owner.behaviours if b.id == self.behaviour), None)
        if one is None:
            raise Refusal("That behaviour is no longer there. Choose another.")
        alone = {"behaviours": [one.model_copy(update={"visible": True})]}
        timeline = Timeline(document)
        ties = timeline.ties_of(owner)
        frames = range(ties.start, ties.end)
        if isinstance(owner, Layer):
            values = _moved(keyed_of(document, owner.model_copy(update=alone), timeline), owner, frames)
            framing: dict[str, Framing] = {}
        else:
            lying = Lying(timeline, owner.model_copy(update=alone))
            lies = [lying.framing(f) for f in frames]
            values = {c: [[getattr(x, c.partition(".")[2])] for x in lies] for c in FRAMING}
            framing = {"framing": lies[0]}
        kept = [k for k in owner.keys if k.channel not in values and not k.channel.startswith(f"{one.id}.")]
        others = [b for b in owner.behaviours if b.id != one.id]
        return with_owner(document, owner, keys=[*kept, *_keys(values)], behaviours=others, **framing)


def _moved(keyed: Keyed, layer: Layer, frames: range) -> dict[str, list[list[float]]]:
    """The values on each frame, behaviours included, of the channels in which they add anything."""
    shifts = keyed.shifts(np.array(frames, float))
    position = [keyed.position(f) for f in frames]
    x = [p[0] + float(d) for p, d in zip(position, shifts.across, strict=True)]
    y = [p[1] + float(d) for p, d in zip(position, shifts.down, strict=True)]
    found: dict[str, list[list[float]]] = {}
    if shifts.across.any() or shifts.down.any():
        if layer.apart:
            found |= {"across": [[v] for v in x], "down": [[v] for v in y]}
        else:
            found["position"] = [[a, b] for a, b in zip(x, y, strict=True)]
    if shifts.turn.any():
        found["rotation"] = [[keyed.number("rotation", f) + float(d)] for f, d in zip(frames, shifts.turn, strict=True)]
    for channel, factors in (("scale", shifts.scale), ("opacity", shifts.opacity)):
        if (factors != 1).any():
            found[channel] = [[keyed.number(channel, f) * float(d)] for f, d in zip(frames, factors, strict=True)]
    if "opacity" in found:
        found["opacity"] = [[min(1.0, max(0.0, v[0]))] for v in found["opacity"]]
    return found


def _keys(values: dict[str, list[list[float]]]) -> list[Key]:
    """Keys on each frame from the start on."""
    return [
        Key(channel=c, tie="start", offset=n, value=[round(v, 6) for v in value])
        for c, each in values.items()
        for n, value in enumerate(each)
    ]
