"""A document laid out in time: which source frame each project frame shows, and where every layer lies."""

from collections.abc import Callable, Hashable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, TypeVar

import numpy as np

from ..model import Cue, Document, GroundItem, Key, Layer, Tie, Tied
from ..model.arrangement import Place
from ..model.source import Shown
from .clock import landing

T = TypeVar("T")


@dataclass(frozen=True)
class Span:
    """A layer's place in time: first frame, first frame after it, and its landing."""

    start: int
    end: int
    landing: int


@dataclass(frozen=True)
class Ties:
    """The project frames that keys count from; `marked` are those of the moments and ground items within reach."""

    start: int
    landing: int
    end: int
    marked: Mapping[str, int] = field(default_factory=dict)

    @property
    def own(self) -> dict[Tie, int]:
        """Those of the thing itself."""
        return {"start": self.start, "landing": self.landing, "end": self.end}

    def of(self, tie: Tie, to: str | None = None) -> int:
        """The frame that one tie stands for; the landing, if what it was tied to is gone."""
        return self.marked.get(to, self.landing) if to is not None else self.own[tie]

    def frame(self, key: Key) -> int:
        """The project frame of a key."""
        return self.of(key.tie, key.to) + key.offset


class Timeline:
    """A document made ready to be asked about time. Only what is asked for is worked out, and once.

    `known` may be that of a document before some edits: what these left as it was is taken over.
    """

    def __init__(self, document: Document, known: "Timeline | None" = None) -> None:
        self.document = document
        self.starts: dict[str, int] = {}
        """For each ground item the project frame at which it begins."""
        at = 0
        self._items = {item.id: item for item in document.project.ground}
        self.tables = _Tables(document, self._items)
        """For each ground item the source frame that each of its project frames shows."""
        self._ends: dict[str, int] = {}
        for item in document.project.ground:
            self.starts[item.id] = at
            at += item.source.lasts(document)
            self._ends[item.id] = at
        self.length = at
        self._edges = np.array([*self.starts.values(), at], np.int64)
        self._spans: dict[str, Span | None] = {}
        self._kept: dict[Hashable, Any] = {}
        if known is not None:
            self._take_over(known)

    def kept(self, name: Hashable, make: Callable[[], T]) -> T:
        """The things that others have worked out over this document, under a name of their own; made when first asked
        for.
        """
        if name not in self._kept:
            self._kept[name] = make()
        return self._kept[name]

    def item_at(self, frame: float) -> Shown | None:
        """The item on screen at a project frame, or at a time between two; None outside the piece."""
        n = int(np.searchsorted(self._edges, frame, side="right")) - 1
        if not 0 <= n < len(self.document.project.ground):
            return None
        item = self.document.project.ground[n]
        return Shown(item, int(self.tables[item.id][int(frame) - self._edges[n]]))

    def before(self, item: GroundItem) -> GroundItem | None:
        """The item right before one of the ground; None if it is the first."""
        at = [*self.starts].index(item.id)
        return self.document.project.ground[at - 1] if at else None

    def end_of(self, item: str) -> int:
        """The first project frame after a ground item."""
        return self._ends[item]

    @cached_property
    def spans(self) -> dict[str, Span | None]:
        """Where each layer lies; None if what it belongs to is not in the ground."""
        return {layer.id: self.span(layer) for layer in self.document.project.layers}

    def span(self, layer: Layer) -> Span | None:
        """Where one layer lies; None if what it belongs to is not in the ground."""
        if layer.id not in self._spans:
            place = self.place(layer)
            span = None if place is None else layer.arrangement.span(place)
            self._spans[layer.id] = None if span is None else Span(*span)
        return self._spans[layer.id]

    def _take_over(self, known: "Timeline") -> None:
        """Tables of ground items, and spans of layers, that cannot have changed."""
        before, now = known.document, self.document
        if before.project.rate != now.project.rate:
            return
        for id_, item in self._items.items():
            if known._items.get(id_) is item and id_ in known.tables.worked_out:
                self.tables.worked_out[id_] = known.tables.worked_out[id_]
        if before.project.ground is not now.project.ground and known._items != self._items:
            return
        layers = {layer.id: layer for layer in before.project.layers}
        for layer in now.project.layers:
            was = layers.get(layer.id)
            if layer.source.gathers:
                continue  # it goes by its members
            if was is layer and layer.id in known._spans and layer.source.unchanged(before, now):
                self._spans[layer.id] = known._spans[layer.id]

    def cue(self, cue: Cue) -> int | None:
        """The project frame that a cue is put on; None if what it is tied to has no place in the piece."""
        tie = cue.tie
        if tie.layer is not None:
            layer = self.document.layer(tie.layer)
            span = self.span(layer) if layer is not None else None
            return None if span is None else getattr(span, tie.to) + tie.offset
        if tie.item is not None:
            if tie.item not in self.starts:
                return None
            return (self.starts if tie.to == "start" else self._ends)[tie.item] + tie.offset
        return (0 if tie.to == "start" else self.length) + tie.offset

    def place(self, layer: Layer) -> "LayerPlace | None":
        """A layer's surroundings in time; None if the ground item it hangs over is gone."""
        item = self._items.get(layer.over) if layer.over else None
        return None if layer.over and item is None else LayerPlace(self, layer, item)

    @cached_property
    def members(self) -> dict[str, list[Layer]]:
        """The layers of each group, by the group's id, from the farthest to the nearest."""
        found: dict[str, list[Layer]] = {}
        for layer in self.document.project.layers:
            if layer.group is not None:
                found.setdefault(layer.group, []).append(layer)
        return found

    def tie_at(self, frame: int) -> Tied:
        """The tie of a project frame that nothing else is meant by: to the ground item that is on screen there."""
        n = min(max(0, int(np.searchsorted(self._edges, frame, side="right")) - 1), len(self._items) - 1)
        if n < 0:
            return Tied(to="piece start", offset=frame)
        item = self.document.project.ground[n].id
        return Tied(to="item start", item=item, offset=frame - self.starts[item])

    def ties_of(self, owner: Layer | GroundItem) -> Ties:
        """The ties that the keys of a layer or a ground item count from."""
        named = {k.to for k in owner.keys if k.to is not None}
        marked = self._marked(owner, named) if named else {}
        if isinstance(owner, Layer):
            span = self.span(owner)
            return Ties(span.start, span.landing, span.end, marked) if span else Ties(0, 0, 0, marked)
        start = self.starts[owner.id]
        return Ties(start, start, self.end_of(owner.id), marked)

    def _marked(self, owner: Layer | GroundItem, named: Iterable[str]) -> dict[str, int]:
        """Where some moments and ground items lie that keys are tied to; without those that are not to be seen."""
        found = {x: self.starts[x] for x in named if x in self.starts}
        item = self._items.get(owner.over or "") if isinstance(owner, Layer) else owner
        if item is not None and len(found) < len(set(named)):
            found |= {k: f for k, f in self.moments_of(item).items() if k in named}
        return found

    def moments_of(self, item: GroundItem) -> dict[str, int]:
        """The project frames at which an item shows the moments of its footage, by their ids."""
        shot = self.document.shots.get(item.source.footage(self.document) or "")
        if shot is None:
            return {}
        places = ((m.id, landing(self.tables[item.id], m.frame, item.source.beyond)) for m in shot.moments)
        return {id_: self.starts[item.id] + at for id_, at in places if at is not None}


class _Tables:
    """Conform tables by ground item, each worked out when it is first asked for."""

    def __init__(self, document: Document, items: dict[str, GroundItem]) -> None:
        self._document, self._items = document, items
        self.worked_out: dict[str, np.ndarray] = {}

    def __getitem__(self, item: str) -> np.ndarray:
        if item not in self.worked_out:
            self.worked_out[item] = self._items[item].source.frames(self._document)
        return self.worked_out[item]


@dataclass(frozen=True)
class LayerPlace:
    """The place that an arrangement may ask about: a layer, the ground item it hangs over if it does, and where things
    lie.
    """

    timeline: Timeline
    layer: Layer
    item: GroundItem | None

    @property
    def document(self) -> Document:
        """The document that it all belongs to."""
        return self.timeline.document

    @property
    def start(self) -> int:
        """Where the ground item begins, or the piece."""
        return self.timeline.starts[self.item.id] if self.item else 0

    @property
    def end(self) -> int:
        """Where the ground item ends, or the piece."""
        return self.timeline.end_of(self.item.id) if self.item else self.piece

    @property
    def stands(self) -> bool:
        """True if it hangs over a standstill."""
        return self.item is not None and self.item.source.stands

    @property
    def whole(self) -> tuple[int, int]:
        """From where to where there is anything of it: a group has what its members have, all else the piece."""
        if self.layer.source.gathers:
            spans = [self.timeline.span(x) for x in self.timeline.members.get(self.layer.id, ())]
            found = [s for s in spans if s is not None]
            if found:
                return min(s.start for s in found), max(s.end for s in found)
        return 0, self.piece

    @property
    def piece(self) -> int:
        """The length of the piece."""
        return self.timeline.length

    @cached_property
    def table(self) -> np.ndarray:
        """The source frame of each of the ground item's frames; none without one."""
        return self.timeline.tables[self.item.id] if self.item else np.zeros(0, np.int64)

    @cached_property
    def landing(self) -> int | None:
        """The project frame at which the item shows the layer's moment; None if it does not."""
        document = self.document
        moment = self.layer.source.moment(document)
        if moment is None or self.item is None or self.item.source.footage(document) != moment[0]:
            return None
        at = landing(self.table, moment[1], self.item.source.beyond)
        return None if at is None else self.start + at

    @property
    def travel(self) -> tuple[int, int] | None:
        """The project frames, half-open, at which the item shows what the layer's source travels through."""
        document = self.document
        moment, travel = self.layer.source.moment(document), self.layer.source.travel(document)
        if moment is None or travel is None or self.item is None:
            return None
        if self.item.source.footage(document) != moment[0]:
            return None
        shown = np.flatnonzero((self.table >= travel[0]) & (self.table < travel[1]))
        return (self.start + int(shown[0]), self.start + int(shown[-1]) + 1) if len(shown) else None

    def frame_of(self, tied: Tied, landing: int) -> int:
        """The project frame that a tie stands for, given where the layer lands."""
        if tied.to == "landing":
            return landing + tied.offset
        if tied.to.startswith("piece"):
            return tied.offset + (self.piece if tied.to == "piece end" else 0)
        own = self.item.id if self.item else None
        item = tied.item if tied.item in self.timeline.starts else own
        if item is None:  # what it was tied to is gone
            return landing + tied.offset
        return tied.offset + (self.timeline.starts[item] if tied.to == "item start" else self.timeline.end_of(item))


def unheld(place: Place) -> str | None:
    """The reason why a layer has no footage to go by, in words; None if it hangs over some."""
    name = place.layer.name
    if place.layer.source.moment(place.document) is None:
        return f"{name} was held from no footage, so that it has no moment: it lies free."
    return None if place.item is not None else f"{name} hangs over no footage that shows its frame: it lies free."
