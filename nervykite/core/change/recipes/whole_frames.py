"""Without cutting anybody out: whole frames that are mixed in, and a window onto another take."""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...kinds.arrangements.trail import Trail
from ...kinds.sources.hold import HoldSource
from ...kinds.sources.played import PlayedSource
from ...kinds.sources.sky_take import TakeSource
from ...piece.model import Matte, Recipe, Shape
from ...piece.model.base import new_id
from ...piece.model.matte import Node
from ...piece.timeline.timeline import Timeline
from ...see.catch.take import Take
from ..edits.adding import AddLayer
from ..edits.arranging import ArrangeLayers
from ..edits.base import shot_of, with_hold, with_layer, with_project
from ..edits.layering import ChangeLayer
from ..edits.making import Making
from .controls import Strength, between, seconds, spacing
from .controls import count as many_of
from .cuts import both
from .trails import Trailing


class QuickTrailRecipe(Trailing):
    """Whole frames laid over each other: of each pixel only the darkest counts, or the lightest."""

    kind: Literal["quick-trail"] = "quick-trail"
    title: ClassVar[str] = "Quick trail"
    hint: ClassVar[str] = "A trail without cutting out: whole frames darkened in"
    rank: ClassVar[int] = 15
    cuts: ClassVar[bool] = False
    when: ClassVar[str] = "Somebody dark before a light sky, or light before dark, and no time to look at mattes."
    film: ClassVar[str] = "A camera on a stand that nobody touches, and light that stays as it is."
    missed: ClassVar[str] = "Water, leaves and passers-by: whatever moves is mixed in as well."

    many: Annotated[int, many_of(12)] = 4
    every: Annotated[int, spacing()] = 8
    counts: Annotated[
        Literal["darken", "lighten"],
        Field(
            title="Keeps what is",
            json_schema_extra={
                "words": {
                    "darken": {"title": "Darker", "hint": "A dark subject before something light"},
                    "lighten": {"title": "Lighter", "hint": "A light subject before something dark"},
                }
            },
        ),
    ] = "darken"

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, frame) for frame in takes[0].around(self.many, self.every)]

    def make(self, making: Making) -> None:
        lasts = making.frames(self.lasts)
        making.do(ArrangeLayers(layers=making.cutouts, arrangement=Trail(), lasts=lasts, together=True))
        for n, cutout in enumerate(making.cutouts):
            whole = HoldSource(hold=making.hold(cutout).id, whole=True)
            making.document = with_layer(making.document, cutout, source=whole)
            making.do(ChangeLayer(layer=cutout, blend=self.counts))
            making.hears(cutout, "shutter", -8, seed=n + 1)
        self.fades(making)


class WindowRecipe(Recipe):
    """The next take is seen in a window over this one, and freezes there at its best moment."""

    kind: Literal["window"] = "window"
    title: ClassVar[str] = "Window"
    hint: ClassVar[str] = "The next take plays in a window, and freezes"
    rank: ClassVar[int] = 14
    takes: ClassVar[int] = 2
    cuts: ClassVar[bool] = False
    when: ClassVar[str] = "Two sides of one moment: who throws and who catches, before and after."
    film: ClassVar[str] = "Leave room beside the subject in the first take. The second one may be anything."
    missed: ClassVar[str] = "A window over the face, or over where the movement goes: put it on the other side."

    pane: Annotated[Literal["upright", "round", "slanted"], Field(title="Window")] = "upright"
    side: Annotated[Literal["left", "right"], Field(title="Side")] = "right"
    lasts: Annotated[float, seconds("Open for", 8)] = 1.8
    strength: Annotated[Strength, Field(title="Size")] = 0.5

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(1, both(takes)[1].best)]

    def make(self, making: Making) -> None:
        seen = making.over(making.only)
        held = making.hold(making.only)
        source = seen.source
        if not isinstance(source, PlayedSource):
            raise Refusal("Only footage that plays can be seen in a window. Choose another take.")
        shot = shot_of(making.document, source.shot)
        nodes = PANES[self.pane](shot.width, shot.height)
        matte = Matte(pieces=[Shape(name="Window", kind="pen", nodes=nodes)])
        hold = held.model_copy(update={"id": new_id(), "name": "Window", "matte": matte, "travel": None})
        making.document = with_hold(making.document, hold)
        freezes = held.frame
        take = TakeSource(
            hold=hold.id, shot=shot.id, first=source.first, past=source.past, speed=source.speed, freezes=freezes
        )
        layers = [x for x in making.document.project.layers if x.id != making.only]
        making.document = with_project(making.document, layers=layers)
        cut = Timeline(making.document).starts[seen.id]
        if cut < 2:
            raise Refusal("The take before the one in the window is too short to see it over. Choose another.")
        lasts = max(2, min(making.frames(self.lasts), cut))
        window = new_id()
        making.do(AddLayer(source=take, at=cut - lasts, frames=lasts, name="Window", layer=window))
        project = making.document.project
        size = between(0.32, 0.72, self.strength)
        across = (0.5 - size / 2 - 0.05) * project.width * (-1 if self.side == "left" else 1)
        down = -(0.5 - size / 2 - 0.06) * project.height
        layer = making.layer(window)
        pose = layer.pose.model_copy(update={"scale": size, "position": (across, down)})
        making.document = with_layer(making.document, window, framing=seen.framing, pose=pose)
        line = {"width": making.px(10), "colour": making.inks.paper}
        making.wears(window, ("outline", line), ("drop-shadow", {}))
        move = max(1, min(making.frames(0.3), lasts // 3))
        making.enters(window, "pop", lasts=move)
        making.leaves_as_it_came(window)
        making.hears(window, "pop", -8, to="start")
        frozen = min(lasts - 1, _until(take, making, freezes))
        making.hears(window, "shutter", -8, to="start", offset=frozen)


def _until(take: TakeSource, making: Making, frame: int) -> int:
    """After how many frames of the piece a take shows one of its own."""
    table = take.frames(making.document)
    return next((n for n, shown in enumerate(table) if shown >= frame), 0)


def _corners(points: Sequence[tuple[float, float]]) -> list[Node]:
    return [Node(x=x, y=y) for x, y in points]


def _upright(w: int, h: int) -> list[Node]:
    """Higher than wide, whichever way the footage lies."""
    x, y = 0.5 * min(0.92 * w, 0.7 * h), 0.47 * h
    return _corners([(w / 2 - x, h / 2 - y), (w / 2 + x, h / 2 - y), (w / 2 + x, h / 2 + y), (w / 2 - x, h / 2 + y)])


def _slanted(w: int, h: int) -> list[Node]:
    return _corners([(0.22 * w, 0.05 * h), (0.97 * w, 0.05 * h), (0.78 * w, 0.95 * h), (0.03 * w, 0.95 * h)])


def _round(w: int, h: int) -> list[Node]:
    """A circle of four cubic arcs (the handle is 4/3·(√2 − 1) of the radius)."""
    r = 0.46 * min(w, h)
    k = 0.5522847 * r
    x, y = w / 2, h / 2
    return [
        Node(x=x, y=y - r, arrive=(-k, 0), leave=(k, 0), smooth=True),
        Node(x=x + r, y=y, arrive=(0, -k), leave=(0, k), smooth=True),
        Node(x=x, y=y + r, arrive=(k, 0), leave=(-k, 0), smooth=True),
        Node(x=x - r, y=y, arrive=(0, k), leave=(0, -k), smooth=True),
    ]


PANES = {"upright": _upright, "round": _round, "slanted": _slanted}
"""The outlines of windows, by the width and height of the frames that are seen in them."""
