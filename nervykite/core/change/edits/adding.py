"""Edits that put into the sky, or into the ground, what was not caught: pictures, takes, colours."""

from typing import Annotated, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...kinds.arrangements.free import Free
from ...kinds.sources.image import ImageSource
from ...piece.model import Document, GroundItem, Layer, Source
from ...piece.model.base import FrameNumber, Id, Name, new_id
from ...piece.model.naming import free_name
from ...piece.timeline.ripple import free_ties
from ...piece.timeline.timeline import LayerPlace, Timeline
from .base import Edit, layer_of, put_in_order, with_project
from .ground import Place as At
from .ground import put


class AddLayer(Edit):
    """Puts something into the sky from a project frame on, right above a layer or above all.

    It lasts so many frames, or as long as it has any, or to the end of the piece. Where the ground stands, what is
    still is there for as long as that, if nobody says for how long.
    """

    kind: Literal["add layer"] = "add layer"
    source: Source
    at: FrameNumber
    frames: Annotated[int, Field(ge=1, le=100_000)] | None = None
    name: Name | None = None
    above: Id | None = None
    layer: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"add {self.name or self.source.called(document)}"

    def apply(self, document: Document) -> Document:
        if "sky" not in self.source.on or self.source.gathers or self.source.moment(document) is not None:
            raise Refusal(f"{self.source.title} cannot be put into the sky like that.")
        source = self.source.checked(document)
        timeline = Timeline(document)
        if timeline.length == 0:
            raise Refusal("There is no ground yet to fly over. Put footage into it first.")
        start = min(self.at, timeline.length - 1)
        lasts = self.frames or (timeline.length if source.still else source.lasts(document))
        shown = timeline.item_at(start)
        if self.frames is None and source.still and shown is not None and shown.item.source.stands:
            start, lasts = timeline.starts[shown.item.id], len(timeline.tables[shown.item.id])
        name = free_name(self.name or source.called(document), {x.name for x in document.project.layers})
        layer = Layer(
            id=self.layer, name=name, source=source, arrangement=Free(), framing=source.lies(document),
        )  # fmt: skip
        ties = free_ties(LayerPlace(timeline, layer, None), start, min(start + lasts, timeline.length))
        layer = layer.model_copy(update=ties)
        group = at = None
        if self.above is not None:
            group = layer_of(document, self.above).group
            beside = [x.id for x in document.project.layers if x.group == group]
            at = beside.index(self.above) + 1
        return with_project(document, layers=put_in_order(document, [layer], group, at))


class AddPicture(Edit):
    """Puts a picture of the shelf into the ground for so many frames: at a place, or at the end."""

    kind: Literal["add picture"] = "add picture"
    asset: Id
    frames: Annotated[int, Field(ge=1, le=100_000)] = 30
    at: At | None = None
    item: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"add {ImageSource.of(document, self.asset).called(document)}"

    def apply(self, document: Document) -> Document:
        source = ImageSource.of(document, self.asset, self.frames)
        return put(document, GroundItem(id=self.item, source=source), self.at)
