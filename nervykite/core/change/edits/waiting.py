"""Layers that cannot be shown, because the ground has changed below them: why they wait, and a way back."""

from typing import Literal

from ...kinds.arrangements.trail import Trail
from ...piece.model import Document, Layer
from ...piece.model.base import Id
from ...piece.timeline.timeline import Timeline
from .base import Edit, open_layer, shows_frame, with_item, with_layer, with_project


def waits_for(timeline: Timeline, layer: Layer) -> str | None:
    """The reason why a layer has no place in time, in words; None if it has one."""
    if timeline.span(layer) is not None:
        return None
    place = timeline.place(layer)
    moment = layer.source.moment(timeline.document)
    if place is not None and moment is not None and place.landing is None:
        return f"Its frame, {moment[1]}, was trimmed away from the ground"
    wrong = None if place is None else layer.arrangement.unsuited(place)
    return wrong or "There is no ground that it could fly over"


class BringBack(Edit):
    """Gives a layer that waits its place again.

    It goes over another take that shows its frame, if one does; else its own take is made long enough to show it. Where
    only the way it is arranged has come not to fit, it trails.
    """

    kind: Literal["bring back"] = "bring back"
    layer: Id

    def title(self, document: Document) -> str:
        return f"bring {open_layer(document, self.layer).name} back"

    def apply(self, document: Document) -> Document:
        layer = open_layer(document, self.layer)
        if waits_for(Timeline(document), layer) is None:
            return document
        moment, item = layer.source.moment(document), document.item(layer.over or "")
        if moment is None or item is None:
            return document
        if not shows_frame(document, item, *moment):
            others = [g for g in document.project.ground if shows_frame(document, g, *moment)]
            if others:
                document = with_layer(document, layer.id, over=others[0].id)
            else:
                first, past = item.source.range or (moment[1], moment[1] + 1)
                source = item.source.trimmed(document, min(first, moment[1]), max(past, moment[1] + 1))
                document = with_project(with_item(document, item.id, source=source), loop=None)
        if waits_for(Timeline(document), open_layer(document, layer.id)) is not None:
            document = with_layer(document, layer.id, arrangement=Trail(), starts=None, ends=None)
        return document
