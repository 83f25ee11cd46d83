"""Edits that arrange several layers at once."""

from typing import Annotated, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Arrangement, Document
from ...piece.timeline.timeline import Timeline
from .base import Edit, layer_of, with_layer
from .layering import ChangeLayer, Layers, chosen_in_order, names_of


class ArrangeLayers(Edit):
    """Arranges layers alike, in the order of their moments.

    `lasts` is for how many frames each is there, on the side that its arrangement leaves free: after its moment for a
    trail, before it for what waits; None: as far as the piece goes. `together` ends trails with the last of them, and
    begins what waits with the first. `steps` makes the ones farther from now the fainter, step by step.
    """

    kind: Literal["arrange"] = "arrange"
    layers: Layers
    arrangement: Arrangement
    lasts: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    together: bool = False
    steps: bool = False

    def title(self, document: Document) -> str:
        return f"make {names_of(document, self.layers)} {self.arrangement.doing}"

    def apply(self, document: Document) -> Document:
        layers = chosen_in_order(document, self.layers)
        for layer in layers:
            change = ChangeLayer(layer=layer.id, arrangement=self.arrangement, clear=["until"])
            document = change.apply(document)
        timeline = Timeline(document)
        spans = {x.id: timeline.span(layer_of(document, x.id)) for x in layers}
        landings = sorted((s.landing, id_) for id_, s in spans.items() if s is not None)
        if not landings:
            raise Refusal("None of those has its frame in the ground. Bring that back first.")
        free = self.arrangement.free
        if self.lasts is not None and len(free) == 1:
            trails = free[0] == "end"
            for landing, id_ in landings:
                since = landing if not self.together else landings[-1 if trails else 0][0]
                until = since + self.lasts if trails else since - self.lasts
                within = min(until, timeline.length) if trails else max(0, until)
                document = ChangeLayer(layer=id_, until=within).apply(document)
        if self.steps:
            ordered = [id_ for _, id_ in landings]
            if free and free[-1] == "start":
                ordered.reverse()  # of what waits the last is the farthest from now
            for n, id_ in enumerate(ordered, 1):
                pose = layer_of(document, id_).pose.model_copy(update={"opacity": n / len(ordered)})
                document = with_layer(document, id_, pose=pose)
        return document
