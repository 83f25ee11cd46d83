"""The world behind a layer, in one press: blurred, darkened, in few colours, without its subject, moved by itself."""

from typing import Annotated, Any, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...kinds.arrangements.free import Free
from ...kinds.cards.card import Inks
from ...kinds.sources.group import GroupSource
from ...kinds.sources.hold import HoldSource
from ...kinds.sources.image import ImageSource
from ...kinds.sources.inked import Inked
from ...kinds.sources.wash import WashSource
from ...piece.model import Document, Finish, Key, Layer
from ...piece.model.base import Id, new_id
from ...piece.model.layers import Pose, Way
from ...piece.model.naming import free_name
from ...piece.motion.move_beats import preset
from ...piece.timeline.ripple import free_ties
from ...piece.timeline.timeline import LayerPlace, Timeline
from .base import Edit, layer_of, put_in_order, with_project
from .pushing import Pushed, SlowPush, Window

Sort = Literal["blurred", "darkened", "coloured", "empty", "cut out", "moved"]
NAMES = {
    "blurred": "Blurred world", "darkened": "Darkened world", "coloured": "Coloured world", "empty": "Empty world",
    "cut out": "World around", "moved": "Moving world",
}  # fmt: skip
THINGS = (Inked, ImageSource, GroupSource)
"""What may belong to a layer that it lies under: words and shapes, pictures, cards."""
COMES = 8
"""Over how many frames a wash comes, and goes."""
NEARER = 0.9
"""How much of what is seen at first is left at the end where world and subject are pushed apart."""


class PutWorld(Edit):
    """Puts something right below a layer and what belongs to it, for as long as that is there.

    To a layer belongs what lies below it and is there only while it is: a card, a logo.

    Blurred, darkened, coloured: a wash over all that lies below, which comes and goes softly, so that nothing jumps.
    Empty, cut out: the held frame around the subject, with the plate where it was, or with a hole there. Moved: the
    empty one, and slow pushes of it and the layer against each other.
    """

    kind: Literal["put world"] = "put world"
    layer: Id
    way: Sort
    strength: Annotated[float, Field(ge=0, le=1)] = 0.6
    made: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"put a {NAMES[self.way].lower()} behind {layer_of(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = layer_of(document, self.layer)
        span = Timeline(document).span(layer)
        if span is None:
            raise Refusal(f"{layer.name} has no place in the piece. Put its footage into the ground first.")
        name = free_name(NAMES[self.way], {x.name for x in document.project.layers})
        world = self._wash(document, layer, span.start, span.end) if self._washes else self._around(document, layer)
        world = world.model_copy(update={"id": self.made, "name": name})
        place = self._place(document, layer)
        document = with_project(document, layers=put_in_order(document, [world], layer.group, place))
        if self.way == "moved":
            size = 1 - (1 - NEARER) * self.strength / 0.6
            of = [Pushed(layer=layer.id), Pushed(layer=self.made, opposite=True)]
            document = SlowPush(of=of, start=Window(), end=Window(size=max(0.5, size))).apply(document)
        return document

    def _place(self, document: Document, layer: Layer) -> int:
        """Where in its group the world lies: below the layer, and below what belongs to it."""
        timeline = Timeline(document)
        span = timeline.spans[layer.id]
        beside = [x for x in document.project.layers if x.group == layer.group]
        place = next(n for n, x in enumerate(beside) if x.id == layer.id)
        while place and span is not None:
            other = timeline.spans[beside[place - 1].id]
            within = other is not None and span.start <= other.start and other.end <= span.end
            if not within or not isinstance(beside[place - 1].source, THINGS):
                break
            place -= 1
        return place

    @property
    def _washes(self) -> bool:
        return self.way in ("blurred", "darkened", "coloured")

    def _wash(self, document: Document, layer: Layer, start: int, end: int) -> Layer:
        """A wash as long as the layer. On its first and last frame there is nothing of it."""
        soft = preset("soft landing")
        comes = max(1, min(COMES, (end - start - 1) // 2))
        keys = [
            Key(channel="opacity", tie=tie, offset=offset, value=[value], easing=soft)
            for tie, offset, value in (
                ("start", 0, 0.0), ("start", comes, 1.0), ("end", -1 - comes, 1.0), ("end", -1, 0.0),
            )
        ]  # fmt: skip
        wash = Layer(
            name="Wash", source=WashSource(), arrangement=Free(), framing=WashSource().lies(document), keys=keys,
            finishes=[Finish(kind=kind, settings=settings) for kind, settings in self._finishes(document)],
        )  # fmt: skip
        return wash.model_copy(update=free_ties(LayerPlace(Timeline(document), wash, None), start, end))

    def _finishes(self, document: Document) -> list[tuple[str, dict[str, Any]]]:
        s = self.strength
        wide = document.project.width
        if self.way == "blurred":
            return [("soft-blur", {"radius": round(0.06 * s * wide, 1)})]
        if self.way == "darkened":
            return [("tone", {"exposure": round(-3 * s, 2), "saturation": round(1 - 0.6 * s, 2)})]
        inks = Inks.of(document.project.palette)
        return [
            (
                "tritone",
                {"dark": inks.ink, "middle": inks.main, "light": inks.paper, "amount": round(min(1.0, s / 0.6), 2)},
            )
        ]

    def _around(self, document: Document, layer: Layer) -> Layer:
        """The layer once more, as what lies around its subject: at rest, and wearing nothing."""
        source = layer.source
        if not isinstance(source, HoldSource):
            raise Refusal(f"{layer.name} is no cutout of a held frame, so there is no world around it. Choose one.")
        around = source.model_copy(update={"world": True, "whole": False, "fill": self.way != "cut out"})
        around.checked(document)
        return layer.model_copy(
            update={
                "source": around, "pose": Pose(), "way": Way(), "keys": [], "finishes": [], "behaviours": [],
                "entrance": None, "exit": None, "blend": "normal", "blur": None, "solo": False, "locked": False,
                "anchor": None, "apart": False,
            }
        )  # fmt: skip
