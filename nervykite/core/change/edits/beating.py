"""Edits that go by the beats of a sound: putting them right, and bringing moments onto them."""

from itertools import pairwise
from statistics import median
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ...common.errors import Refusal
from ...kinds.sources.lasting import LastingSource
from ...kinds.sources.played import PlayedSource
from ...piece.model import Counted, Cue, Document, GroundItem, Layer, Source
from ...piece.model.base import Id, Model, new_id
from ...piece.timeline.beats import beats_of, counted_of, second_of
from ...piece.timeline.timeline import Timeline
from .base import Edit, item_of, layer_of, with_item, with_project
from .cueing import cue_of
from .retied import retied
from .seams import cut


class MovedBeat(Model):
    """A beat by its number that is brought to another second of its sound; the others go along unless it is `alone`."""

    number: Annotated[int, Field(ge=0, le=20_000)]
    to: Annotated[float, Field(ge=0, le=100_000)]
    alone: bool = False


class CorrectBeats(Edit):
    """Puts the beats of a sound right: by what is given.

    `taps` are project frames, in parts, at which somebody tapped along, the first of them on the first beat of a bar:
    the beats then lie as evenly as they can through these, all along the sound. `moved` brings one elsewhere. `times`
    counts twice or half as fast. `first` is the number of a beat that begins a bar, `bar` how many a bar has. The
    sound has them as well, on the shelf.
    """

    kind: Literal["correct beats"] = "correct beats"
    cue: Id
    taps: Annotated[list[float], Field(min_length=3, max_length=2000)] | None = None
    moved: MovedBeat | None = None
    times: Literal["twice", "half"] | None = None
    first: Annotated[int, Field(ge=0, le=20_000)] | None = None
    bar: Annotated[int, Field(ge=1, le=12)] | None = None

    def title(self, document: Document) -> str:
        return f"correct the beats of {cue_of(document, self.cue).name}"

    def apply(self, document: Document) -> Document:
        cue, timeline = cue_of(document, self.cue), Timeline(document)
        counted = counted_of(cue, timeline)
        if self.taps is not None:
            counted = self._tapped(document, counted)
        if counted is None or not counted.beats:
            raise Refusal(f"{cue.name} has no beats yet. Find them, or tap along with it.")
        if self.moved is not None:
            counted = _moved(counted, self.moved)
        if self.times is not None:
            counted = _twice(counted) if self.times == "twice" else _half(counted)
        bar = self.bar or counted.bar
        first = counted.first if self.first is None else self.first
        counted = counted.model_copy(update={"bar": bar, "first": first % bar})
        cues = [c.model_copy(update={"counted": counted}) if c.id == cue.id else c for c in document.project.cues]
        return with_project(_remembered(document, cue, counted), cues=cues)

    def _tapped(self, document: Document, known: Counted | None) -> Counted:
        cue, timeline = cue_of(document, self.cue), Timeline(document)
        seconds = cue.sound.seconds(document)
        taps = [second_of(cue, timeline, f) for f in sorted(self.taps or [])]
        times = np.array([t for t in taps if t is not None])
        if len(times) < 3 or seconds is None:
            raise Refusal(f"{cue.name} cannot be tapped along with. Choose music that has a place in the piece.")
        gap = median(float(b - a) for a, b in pairwise(times))
        if not 0.15 <= gap <= 4:
            raise Refusal("Those taps are faster or slower than any beat. Tap along once more.")
        numbers = np.round((times - times[0]) / gap)
        gap, start = np.polyfit(numbers, times, 1)
        before = int(start // gap)
        count = int((seconds - (start - before * gap)) // gap) + 1
        beats = [round(float(start + (n - before) * gap), 4) for n in range(min(count, 20_000))]
        bar = known.bar if known else 4
        return Counted(
            beats=[max(0.0, b) for b in beats], first=before % bar, bar=bar, accents=known.accents if known else []
        )


def _remembered(document: Document, cue: Cue, counted: Counted) -> Document:
    """The document with the beats of a cue as those of its sound on the shelf, wherever that is heard next."""
    asset = document.assets.get(getattr(cue.sound, "asset", ""))
    if asset is None:
        return document
    known = asset.model_copy(update={"beats": counted})
    return document.model_copy(update={"assets": {**document.assets, asset.id: known}})


def _moved(counted: Counted, moved: MovedBeat) -> Counted:
    if moved.number >= len(counted.beats):
        raise Refusal("That beat is no longer there. Choose another.")
    by = moved.to - counted.beats[moved.number]
    beats = [b + by if not moved.alone or n == moved.number else b for n, b in enumerate(counted.beats)]
    # Those that would lie before the sound begins are none any more; which of them begin bars stays.
    gone = sum(b < 0 for b in beats)
    beats = beats[gone:]
    if any(b <= a for a, b in pairwise(beats)):
        raise Refusal("A beat stays between the two beside it. Move it less far.")
    return counted.model_copy(update={"beats": beats, "first": (counted.first - gone) % counted.bar})


def _twice(counted: Counted) -> Counted:
    beats = counted.beats
    between = [(a + b) / 2 for a, b in pairwise(beats)]
    every = [x for pair in zip(beats, between, strict=False) for x in pair] + beats[-1:]
    return counted.model_copy(update={"beats": every[:20_000], "first": 2 * counted.first % counted.bar})


def _half(counted: Counted) -> Counted:
    keep = counted.first % 2
    beats = counted.beats[keep::2]
    return counted.model_copy(update={"beats": beats, "first": (counted.first - keep) // 2 % counted.bar})


Meant = Layer | tuple[str, int]
"""A layer, or a frame of a shot."""


class HoldsOnBeats(Edit):
    """Brings moments onto beats, one after the other, by what lies between them in the ground.

    The moments are those of some layers, or flagged ones, in the order in which they come. The first one comes to the
    beat nearest to it, each other one `every` beats later. What lies before each is played faster or slower, or (`by`
    trimming) loses what is too much of it at its end.
    """

    kind: Literal["holds on beats"] = "holds on beats"
    layers: Annotated[list[Id], Field(max_length=200)] = []
    moments: Annotated[list[Id], Field(max_length=200)] = []
    every: Annotated[int, Field(ge=1, le=64)] = 1
    by: Literal["speed", "trimming"] = "speed"
    seed: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return "put the moments on beats"

    def apply(self, document: Document) -> Document:
        timeline = Timeline(document)
        beats = sorted({round(b.frame) for b in beats_of(timeline)})
        if len(beats) < 2:
            raise Refusal("Nothing in the piece has beats. Put music under it first, and find its beats.")
        meant = self._meant(document, timeline)
        if not meant:
            raise Refusal("None of those moments is seen in the ground. Choose holds of footage that runs there.")
        number = None
        for n, one in enumerate(meant):
            at = _lands(Timeline(document), one)
            if at is None:
                continue
            number = self._first(beats, at) if number is None else number + self.every
            if number >= len(beats):
                raise Refusal(f"The music has no beat left for {len(meant) - n} of the moments. Choose fewer.")
            document = self._brought(document, at, beats[number], n)
        return document

    def _first(self, beats: list[int], at: int) -> int:
        if self.by == "trimming":  # nothing can be made longer
            return max((n for n, b in enumerate(beats) if b <= at), default=0)
        return int(np.argmin([abs(b - at) for b in beats]))

    def _meant(self, document: Document, timeline: Timeline) -> list[Meant]:
        """The layers and moments that are meant, in the order in which they land."""
        found: list[Meant] = [layer_of(document, id_) for id_ in self.layers]
        for shot in document.shots.values():
            found += [(shot.id, m.frame) for m in shot.moments if m.id in self.moments]
        seen: dict[int, Meant] = {}
        for one in found:
            at = _lands(timeline, one)
            if at is not None:  # two cutouts of one frame are one moment
                seen.setdefault(at, one)
        return [seen[at] for at in sorted(seen)]

    def _brought(self, document: Document, now: int, target: int, n: int) -> Document:
        """The document with what happens at a project frame brought to another one."""
        timeline = Timeline(document)
        shown = timeline.item_at(now)
        if shown is None or (now == 0 and target):
            raise Refusal("Before one of the moments there is nothing that could be made longer. Choose others.")
        item, start = shown.item, timeline.starts[shown.item.id]
        if now > start:  # what lies before it is a part of the same item
            fresh = f"{(int(self.seed, 16) + n + 1) % 16**16:016x}"
            document = cut(document, item, now - start, fresh)
        before = item_of(document, item.id) if now > start else timeline.before(item)
        if now == target or before is None:
            return document
        wanted = before.source.lasts(document) + target - now
        source = self._lasting(document, before, wanted) if wanted >= 1 else None
        if source is None:
            way = "be trimmed" if self.by == "trimming" else "be played so fast or slow"
            name = document.called(before)
            raise Refusal(f"{name} cannot {way} before one of the moments. Choose the other way, or other beats.")
        return retied(document, with_project(with_item(document, before.id, source=source), loop=None))

    def _lasting(self, document: Document, item: GroundItem, wanted: int) -> Source | None:
        """The source of an item that lasts so many project frames; None if that cannot be."""
        if isinstance(item.source, LastingSource):
            return item.source.lengthened(wanted)
        if not isinstance(item.source, PlayedSource):
            return None
        return (_trimmed if self.by == "trimming" else _sped)(document, item.source, wanted)


def _lands(timeline: Timeline, one: Meant) -> int | None:
    """The project frame at which a layer lands, or a moment is first seen while its footage runs; None if nowhere."""
    if isinstance(one, Layer):
        layer = timeline.document.layer(one.id)
        span = timeline.span(layer) if layer else None
        return span.landing if span else None
    shot, frame = one
    for item in timeline.document.project.ground:
        if item.source.footage(timeline.document) == shot and not item.source.stands:
            table = timeline.tables[item.id]
            found = np.flatnonzero(table >= frame)
            if table[0] <= frame and len(found):
                return timeline.starts[item.id] + int(found[0])
    return None


def _trimmed(document: Document, source: PlayedSource, wanted: int) -> PlayedSource | None:
    """A source that plays without its end, so that it lasts so long. It begins with the moment before: that stays."""
    for past in range(source.past, source.first, -1):
        made = source.model_copy(update={"past": past, "part": None})
        if made.lasts(document) <= wanted:
            return made if made.lasts(document) == wanted else None
    return None


def _sped(document: Document, source: PlayedSource, wanted: int) -> PlayedSource | None:
    """A source at such a speed that it lasts so long; a frame or two less where no whole percent does it."""
    near = source.speed * source.lasts(document) / wanted
    speeds = sorted(range(max(10, int(near) - 3), min(800, int(near) + 4) + 1), key=lambda s: abs(s - near))
    for less in range(4):
        for speed in speeds:
            past = source.past - less
            if past <= source.first:
                return None
            made = source.model_copy(update={"past": past, "speed": speed, "part": None})
            if made.lasts(document) == wanted:
                return made
    return None
