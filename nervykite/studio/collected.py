"""The files that a timeline refers to, collected in a folder so that it is seen and heard alike elsewhere.

What flies lies there as it is seen over nothing, as large as the canvas: its place, keys, finishes and shakes are in
it. Where it rests it is a picture (PNG), where it moves a film with alpha (ProRes 4444). Sounds are WAV as they are
heard by themselves, that of the footage among them.
"""

import re
from collections.abc import Callable
from dataclasses import replace
from itertools import groupby
from pathlib import Path
from typing import Any

import numpy as np
import opentimelineio as otio

from ..core.craft.synthesis.sample_rate import RATE
from ..core.draw.picture.evaluate import Evaluation
from ..core.draw.send.export import Output
from ..core.draw.send.sending import Sending
from ..core.draw.send.writers.prores import ProRes
from ..core.draw.send.writers.stills import Png
from ..core.draw.sound.mix import long_of, mix
from ..core.draw.sound.plan import PlacedSound, SoundPlan, placed, plan_of, samples_before
from ..core.draw.sound.wav import header, packed
from ..core.kinds.sources.wash import WashSource
from ..core.piece.model import Document, Layer
from ..core.piece.timeline.timeline import Timeline
from ..core.see.footage.endings import ending_of
from .studio import Studio

OURS = "nervykite"
LEAST = 1.0
"""How many seconds a layer rests, at least, for a picture of its own between films."""
Progress = Callable[[float], None]


class Collecting:
    """A folder into which the media of a timeline are put, each under a name of its own that says what it is."""

    def __init__(self, studio: Studio, document: Document, folder: Path) -> None:
        self._studio, self._document, self._folder = studio, document, folder
        self._evaluation = Evaluation(document)
        self._taken: set[str] = set()
        self._files: dict[str, Path] = {}

    @property
    def _timeline(self) -> Timeline:
        return self._evaluation.timeline

    def collect(self, made: otio.schema.Timeline, progress: Progress) -> None:
        """Has a timeline refer to what is collected. `progress` may raise to stop it."""
        clips = list(made.find_clips())
        for n, clip in enumerate(clips):
            told = clip.metadata.get(OURS, {})
            layer = self._document.layer(told["layer"]["id"]) if "layer" in told else None
            if layer is not None:
                self._put_layer(clip, layer)
            elif "cue" in told:
                self._put_cue(clip, told["cue"]["id"])
            elif isinstance(clip.media_reference, otio.schema.ExternalReference):
                self._put_file(clip.media_reference)
            progress((n + 1) / len(clips))
        self._put_footage_sound(made)

    @property
    def files(self) -> dict[str, str]:
        """The names in the folder of files that lie there as they are, by their hashes."""
        return {hash_: path.name for hash_, path in self._files.items()}

    def _path(self, name: str, ending: str) -> Path:
        """A file in the folder that is not there yet, called as something is."""
        stem = re.sub(r"[^\w\- ]+", "", name).strip() or "Media"
        found, n = f"{stem}{ending}", 2
        while found in self._taken:
            found, n = f"{stem} {n}{ending}", n + 1
        self._taken.add(found)
        return self._folder / found

    def _put_file(self, media: otio.schema.ExternalReference) -> None:
        """Footage and pictures: the files themselves, by their names."""
        hash_ = media.metadata[OURS]["sha256"]
        if hash_ not in self._files:
            path = self._studio.files.path(hash_)
            self._files[hash_] = self._path(media.name, ending_of(path))
            self._files[hash_].symlink_to(path.absolute())
        media.target_url = self._files[hash_].as_uri()

    def _put_layer(self, clip: otio.schema.Clip, layer: Layer) -> None:
        """A layer as pictures where it rests and films where it moves, one after the other in its track."""
        span, track = self._timeline.spans[layer.id], clip.parent()
        clip.enabled = layer.visible
        if span is None or track is None or isinstance(layer.source, WashSource):  # that is nothing by itself
            return
        first, past = max(0, span.start), min(self._timeline.length, span.end)
        shown = Evaluation(Sending(what="layers", layers=[layer.id], span=(first, past)).document(self._document))
        # All that is done to it is in its picture.
        clip.effects.clear()
        track.remove(clip)  # the last there is in it
        least = round(LEAST * self._document.project.rate)
        for begins, ends, rests in stretches([shown.at(frame).layers for frame in range(first, past)], least):
            sending = Sending(what="layers", layers=[layer.id], span=(first + begins, first + ends))
            writer = Png() if rests else ProRes()
            path = self._path(layer.name, writer.suffix)
            self._studio.export(self._document, Output(path, writer, sending))
            part = clip.deepcopy()
            self._refer(part, path, layer.name, ends - begins)
            track.append(part)

    def _refer(self, clip: otio.schema.Clip, path: Path, name: str, lasts: int) -> None:
        rate = float(self._document.project.rate)
        range_ = otio.opentime.TimeRange(otio.opentime.RationalTime(0, rate), otio.opentime.RationalTime(lasts, rate))
        media = otio.schema.ExternalReference(path.as_uri(), range_)
        media.name = name
        clip.media_reference, clip.source_range = media, range_

    def _put_cue(self, clip: otio.schema.Clip, id_: str) -> None:
        """A sound by itself, from the frame on in which it begins."""
        cue = next(c for c in self._document.project.cues if c.id == id_)
        place = placed(cue, self._timeline)
        track = clip.parent()
        if place is None or track is None:
            return
        clip.enabled = not cue.muted
        long = place.past - place.first if place.past is not None else round(long_of(cue, self._timeline) * RATE)
        self._heard(clip, cue.name, (place,), place.first, place.first + long)

    def _heard(self, clip: otio.schema.Clip, name: str, cues: tuple[PlacedSound, ...], first: int, past: int) -> None:
        """Has a clip refer to sounds as they are heard from one sample of the piece to another, by whole frames."""
        rate, whole = self._document.project.rate, plan_of(self._timeline)
        begins = max(0, int(max(0, first) * rate / RATE))
        if begins >= self._timeline.length:  # it would begin once the piece is over
            return
        ends = min(self._timeline.length, max(begins + 1, -int(-past * rate // RATE)))
        low, high = samples_before(begins, rate), samples_before(ends, rate)
        samples = mix(SoundPlan((), max(whole.length, high), cues), self._studio.sound_in, low, high)
        path = self._path(name, ".wav")
        self._write(path, samples)
        self._refer(clip, path, name, ends - begins)
        track = clip.parent()
        if track is not None:
            track.remove(clip)
            track.clear()
            if begins:
                track.append(otio.schema.Gap(duration=otio.opentime.RationalTime(begins, float(rate))))
            track.append(clip)

    def _put_footage_sound(self, made: otio.schema.Timeline) -> None:
        """The sound of the ground, cut together as the ground is, as a track of its own."""
        plan = plan_of(self._timeline)
        if not plan.clips:
            return
        samples = mix(replace(plan, cues=(), mix=SoundPlan((), 0).mix), self._studio.sound_in, 0, plan.length)
        path = self._path("Sound of the footage", ".wav")
        self._write(path, samples)
        clip = otio.schema.Clip("Sound of the footage")
        self._refer(clip, path, clip.name, self._timeline.length)
        track = otio.schema.Track("Footage", kind=otio.schema.TrackKind.Audio)
        track.append(clip)
        made.tracks.append(track)

    def _write(self, path: Path, samples: np.ndarray) -> None:
        path.write_bytes(header(samples.shape[1]) + packed(samples))


def stretches(states: list[Any], least: int) -> list[tuple[int, int, bool]]:
    """Frames parted where something comes to rest for a while: begin, end (half-open), and whether it rests.

    states: how it looks, frame by frame; least: in frames, what rests for less goes with what moves beside it
    """
    found: list[tuple[int, int, bool]] = []
    begins = 0
    for _, run in groupby(states):
        ends = begins + len(list(run))
        rests = ends - begins >= least
        if found and not rests and not found[-1][2]:
            found[-1] = found[-1][0], ends, False
        else:
            found.append((begins, ends, rests))
        begins = ends
    # What never changes is a picture, however short it is.
    return [(0, len(states), True)] if all(s == states[0] for s in states) else found
