"""Layers that go by a track where that is not sure."""

from collections.abc import Iterable
from typing import ClassVar, Literal

from ..snag import Check, Inspection, Snag


class DoubtfulTrack(Check):
    """A pinned layer, or a steadied shot, at frames that are to be looked at."""

    kind: Literal["doubtful track"] = "doubtful track"
    title: ClassVar[str] = "Doubtful tracks"
    hint: ClassVar[str] = "What is pinned may slide there"

    def found(self, look: Inspection) -> Iterable[Snag]:
        tracks, timeline = look.document.tracks, look.timeline
        doubts = {k: set(t.doubtful) for k, t in tracks.items()}
        for layer in look.shown:
            span = timeline.spans[layer.id]
            if layer.pin is None or layer.pin.track not in tracks or span is None or not doubts[layer.pin.track]:
                continue
            shot, bad = tracks[layer.pin.track].shot, []
            for time in range(span.start, span.end):
                shown = timeline.item_at(time)
                if (
                    shown
                    and shown.item.source.footage(look.document) == shot
                    and shown.frame in doubts[layer.pin.track]
                ):
                    bad.append(time)
            if bad:
                yield Snag(
                    self.kind, f"{layer.name} may slide: its track is doubtful at {_frames(bad)}.", bad[0], layer.id
                )
        for item in look.ground:
            track = tracks.get(item.steady.track) if item.steady else None
            if track is None or track.shot != item.source.footage(look.document):
                continue
            start = timeline.starts[item.id]
            bad = [start + n for n, f in enumerate(timeline.tables[item.id].tolist()) if f in doubts[track.id]]
            if bad:
                name = look.document.called(item)
                yield Snag(
                    self.kind,
                    f"{name} is steadied by a track that is doubtful at {_frames(bad)}.",
                    bad[0],
                    item=item.id,
                )


def _frames(bad: list[int]) -> str:
    return f"{len(bad)} of its frames" if len(bad) > 1 else "one of its frames"
