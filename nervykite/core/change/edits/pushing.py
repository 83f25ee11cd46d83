"""Slow pushes: from one part of what is seen to another, all along."""

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ...common.errors import Refusal
from ...kinds.sources.rest import anchor_of
from ...piece.model import Bezier, Document, Easing, GroundItem, Key, Layer
from ...piece.model.base import Model
from ...piece.motion.channels import FRAMING
from ...piece.motion.keyed import Keyed
from ...piece.motion.placing import moved_by
from ...piece.timeline.timeline import Timeline
from ...see.footage.framing_matrix import by_hand
from .base import Edit, OwnerEdit, with_owner


class Window(Model):
    """A part of the canvas in the canvas's own shape: its middle, in canvas widths and heights from the canvas's
    middle, and its size over the canvas's.
    """

    across: Annotated[float, Field(ge=-2, le=2)] = 0.0
    down: Annotated[float, Field(ge=-2, le=2)] = 0.0
    size: Annotated[float, Field(ge=0.05, le=20)] = 1.0

    def matrix(self, canvas: tuple[int, int]) -> np.ndarray:
        """The matrix that takes the window to all of the canvas: 3×3."""
        x, y = canvas[0] * (0.5 + self.across), canvas[1] * (0.5 + self.down)
        by = 1 / self.size
        return np.array([[by, 0, canvas[0] / 2 - by * x], [0, by, canvas[1] / 2 - by * y], [0, 0, 1]])


class Pushed(OwnerEdit):
    """A layer or a ground item that is pushed; `opposite` the other way round, from the end to the start."""

    opposite: bool = False


def _still(windows: tuple[Window, Window]) -> set[str]:
    """Along which of the canvas's axes both windows lie in the middle."""
    return {n for n in ("across", "down") if all(getattr(w, n) == 0 for w in windows)}


class SlowPush(Edit):
    """Has what is seen go from one window to the other, over all of its time, eased: by keys at its start and end.

    Keys of its framing, or of its position and scale, that are there are replaced.
    """

    kind: Literal["slow push"] = "slow push"
    of: Annotated[list[Pushed], Field(min_length=1, max_length=100)]
    start: Window
    end: Window
    easing: Easing = Bezier(x1=0.42, x2=0.58)

    def title(self, document: Document) -> str:
        first = self.of[0].name(document)
        return f"push {first}" if len(self.of) == 1 else f"push {first} and {len(self.of) - 1} more"

    def apply(self, document: Document) -> Document:
        for one in self.of:
            owner = one.open_owner(document)
            windows = (self.end, self.start) if one.opposite else (self.start, self.end)
            if isinstance(owner, GroundItem):
                document = self._ground(document, owner, windows)
            else:
                document = self._layer(document, owner, windows)
        return document

    def _ground(self, document: Document, item: GroundItem, windows: tuple[Window, Window]) -> Document:
        canvas = document.project.width, document.project.height
        lies = by_hand(item.framing, item.source.size(document), canvas)
        keys = [k for k in item.keys if k.channel not in FRAMING]
        still = _still(windows)
        for tie, offset, window in (("start", 0, windows[0]), ("end", -1, windows[1])):
            by = 1 / window.size
            values = {
                "framing.across": (lies.across - window.across) * by,
                "framing.down": (lies.down - window.down) * by,
                "framing.scale": lies.scale * by,
            }
            for channel, value in values.items():
                if channel.partition(".")[2] in still and getattr(lies, channel.partition(".")[2]) == 0:
                    continue
                FRAMING[channel].checked([value])
                keys.append(Key(channel=channel, tie=tie, offset=offset, value=[value], easing=self.easing))
        return with_owner(document, item, framing=lies, keys=keys)

    def _layer(self, document: Document, layer: Layer, windows: tuple[Window, Window]) -> Document:
        timeline = Timeline(document)
        if timeline.span(layer) is None:
            raise Refusal(f"{layer.name} has no place in the piece. Put its footage into the ground first.")
        canvas = document.project.width, document.project.height
        drop = ("position", "across", "down", "scale")
        keyed = Keyed(layer, timeline.ties_of(layer), float(document.project.rate))
        at = timeline.ties_of(layer).landing
        (scale,), position, anchor = keyed.value("scale", at), keyed.position(at), anchor_of(document, layer)
        keys = [k for k in layer.keys if k.channel not in drop]
        for tie, offset, window in (("start", 0, windows[0]), ("end", -1, windows[1])):
            matrix = window.matrix(canvas)
            x, y = moved_by(matrix, position, anchor)
            values = {"position": [x, y], "scale": [min(50.0, scale / window.size)]}
            if layer.apart:
                values = {"across": [x], "down": [y], "scale": values["scale"]}
            keys += [Key(channel=c, tie=tie, offset=offset, value=v, easing=self.easing) for c, v in values.items()]
        return with_owner(document, layer, keys=keys)
