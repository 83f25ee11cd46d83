"""The frames of a piece that an edit can have changed."""

from collections.abc import Iterable

import numpy as np

from ...piece.model import Document, GroundItem, Layer
from ...piece.timeline.timeline import Ties
from .evaluate import Evaluation

Range = tuple[int, int]
"""Project frames, half-open."""


def affected(before: Evaluation, after: Evaluation) -> list[Range]:
    """The frames whose pixels may differ, as ranges in order; none if nothing that is seen has changed.

    Documents are frozen and share what did not change, so that things are compared by being the same objects.
    """
    old, new = before.document, after.document
    if old is new:
        return []
    whole = ("width", "height", "rate", "background", "behaviours", "blur")
    if any(getattr(old.project, n) != getattr(new.project, n) for n in whole):
        return merged([(0, max(before.length, after.length))])
    # What moves the whole piece goes by how long it is.
    if before.length != after.length and (before.shaking.moves or after.shaking.moves):
        return merged([(0, max(before.length, after.length))])
    if {x.id for x in old.project.layers if x.solo} != {x.id for x in new.project.layers if x.solo}:
        return merged([(0, max(before.length, after.length))])
    ranges = list(_ground(before, after))
    dressed = {g.id: g for g in old.project.ground}
    same_item = {g.id for g in new.project.ground if dressed.get(g.id) is g and _same_steadying(g, old, new)}
    layers = {x.id: x for x in old.project.layers}
    moved = _moved([x.id for x in old.project.layers], [x.id for x in new.project.layers])
    for layer in new.project.layers:
        was = layers.pop(layer.id, None)
        spans = [before.timeline.spans[was.id] if was else None, after.timeline.spans[layer.id]]
        same = (
            was is layer
            and spans[0] == spans[1]
            and (layer.over is None or layer.over in same_item)
            and layer.id not in moved
            and _tied(layer, before) == _tied(layer, after)
            and layer.source.unchanged(old, new)
            and (layer.pin is None or _carried(layer, before, after))
        )
        if not same:
            ranges.extend((s.start, s.end) for s in spans if s is not None)
    gone = (before.timeline.spans[id_] for id_ in layers)
    ranges.extend((s.start, s.end) for s in gone if s is not None)
    return merged(ranges)


def _carried(layer: Layer, before: Evaluation, after: Evaluation) -> bool:
    """True if what is pinned is carried as it was: by the same track, over footage that lies as it did."""
    assert layer.pin is not None
    id_ = layer.pin.track
    old, new = before.document, after.document
    track = new.tracks.get(id_)
    if old.tracks.get(id_) is not track:
        return False
    shot = track.shot if track else None

    def shown(evaluation: Evaluation) -> list[tuple[GroundItem, int]]:
        document, starts = evaluation.document, evaluation.timeline.starts
        return [(g, starts[g.id]) for g in document.project.ground if g.source.footage(document) == shot]

    one, other = shown(before), shown(after)
    return len(one) == len(other) and all(
        a is b and s == t and _same_steadying(a, old, new) for (a, s), (b, t) in zip(one, other, strict=True)
    )


def _same_steadying(item: GroundItem, old: Document, new: Document) -> bool:
    """True if what an item is steadied by is what it was."""
    return item.steady is None or old.tracks.get(item.steady.track) is new.tracks.get(item.steady.track)


def _tied(owner: Layer | GroundItem, evaluation: Evaluation) -> Ties | None:
    """The frames that keys count from, if any of them counts from something else than what it belongs to."""
    return evaluation.timeline.ties_of(owner) if any(k.to for k in owner.keys) else None


def _ground(before: Evaluation, after: Evaluation) -> Iterable[Range]:
    """Where the ground itself differs; all that comes after the first item that begins elsewhere."""
    old, new = before.timeline, after.timeline
    for was, item in zip(before.document.project.ground, after.document.project.ground, strict=False):
        start = new.starts[item.id]
        tables = old.tables[was.id], new.tables[item.id]
        if was.id != item.id or len(tables[0]) != len(tables[1]):
            yield start, max(old.length, new.length)
            return
        kept = was is item and item.source.unchanged(before.document, after.document)
        kept = kept and _same_steadying(item, before.document, after.document)
        moments = [
            e.timeline.ties_of(g) if any(k.to for k in g.keys) else None for e, g in ((before, was), (after, item))
        ]
        if not kept or not np.array_equal(*tables) or moments[0] != moments[1]:
            yield start, new.end_of(item.id) + _fade_after(after, item)
    if old.length != new.length:
        yield min(old.length, new.length), max(old.length, new.length)


def _fade_after(evaluation: Evaluation, item: GroundItem) -> int:
    """For how many frames after its end an item of the ground is still seen."""
    ground = evaluation.document.project.ground
    place = ground.index(item) + 1
    return ground[place].fade if place < len(ground) else 0


def _moved(old: list[str], new: list[str]) -> set[str]:
    """The ids between the first and the last place at which the order of what stays differs."""
    kept = set(old) & set(new)
    one, other = [x for x in old if x in kept], [x for x in new if x in kept]
    differ = [n for n, (a, b) in enumerate(zip(one, other, strict=True)) if a != b]
    return set(one[differ[0] : differ[-1] + 1]) if differ else set()


def merged(ranges: Iterable[Range]) -> list[Range]:
    """Ranges in order, those that touch joined, empty ones left out."""
    found: list[Range] = []
    for first, past in sorted(r for r in ranges if r[0] < r[1]):
        if found and first <= found[-1][1]:
            found[-1] = found[-1][0], max(past, found[-1][1])
        else:
            found.append((first, past))
    return found


class FrameKeys:
    """The keys of a piece's frames, worked out when asked for, after an edit only where it can have changed them."""

    def __init__(self, evaluation: Evaluation, known: "FrameKeys | None" = None) -> None:
        self.evaluation = evaluation
        self.stale: list[Range] = [(0, evaluation.length)]
        """The frames whose keys may differ from those of `known`."""
        self._keys: dict[int, str] = {}
        self.since = known and known.evaluation
        """The evaluation of `known`."""
        if known is not None:
            self.stale = affected(known.evaluation, evaluation)
            outside = (f for f in known._keys if f < evaluation.length)
            self._keys = {f: known._keys[f] for f in outside if not any(a <= f < b for a, b in self.stale)}

    @property
    def document(self) -> Document:
        """The document whose frames they are."""
        return self.evaluation.document

    def of(self, first: int, past: int) -> list[str]:
        """The keys of frames first…past (half-open), as far as the piece goes."""
        frames = range(max(0, first), min(past, self.evaluation.length))
        for frame in frames:
            if frame not in self._keys:
                self._keys[frame] = self.evaluation.at(frame).key
        return [self._keys[f] for f in frames]
