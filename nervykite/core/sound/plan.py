"""What is heard when: the sound of a piece as a list of clips, made from the document alone, and keyed like frames."""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from ..model import Cue, Sounding
from ..timeline.timeline import Timeline

RATE = 48_000
"""Samples a second."""


def samples_before(frame: int, rate: Fraction) -> int:
    """How many samples there are before the start of a project frame."""
    return round(Fraction(frame * RATE) / rate)


@dataclass(frozen=True)
class Clip:
    """Samples first…past (half-open) of the piece carry a shot's sound, from its sample `source` on.

    It is played so many times as fast, higher with that if `pitch` says so.
    """

    shot: str
    file: str
    first: int
    past: int
    source: int
    speed: Fraction = Fraction(1)
    pitch: bool = False


@dataclass(frozen=True)
class Placed:
    """Samples first…past (half-open; `first` may lie before the piece) carry a cue's sound, from its sample `skip` on.

    `sound` is a stored file by its hash, or what makes it. `past` is None where it is as long as the sound. It is
    multiplied by `gain`, lies at `pan` (−1…1), and comes and goes over so many samples.
    """

    sound: str | Sounding
    first: int
    past: int | None
    skip: int = 0
    gain: float = 1.0
    pan: float = 0.0
    fade_in: int = 0
    fade_out: int = 0
    loops: bool = False
    reversed: bool = False


@dataclass(frozen=True)
class SoundPlan:
    """All clips in order, the cues, and how many samples the piece lasts."""

    clips: tuple[Clip, ...]
    length: int
    cues: tuple[Placed, ...] = ()

    @property
    def key(self) -> str:
        """A hash of all that is heard: equal keys sound the same."""
        return hashlib.sha1(repr((self.clips, self.length, self.cues)).encode()).hexdigest()[:20]


def plan_of(timeline: Timeline) -> SoundPlan:
    """The sound of a piece: that of the ground's shots, cut together as the ground is."""
    document = timeline.document
    rate = document.project.rate
    clips = []
    for item in document.project.ground:
        heard = item.source.sound(document)
        shot = document.shots[heard.shot] if heard else None
        if heard is None or shot is None or shot.sound_file is None:
            continue
        first = samples_before(timeline.starts[item.id], rate)
        past = samples_before(timeline.end_of(item.id), rate)
        source = round(shot.ticks[min(heard.frame, shot.frames - 1)] * Fraction(shot.tick) * RATE)
        clips.append(Clip(shot.id, shot.sound_file, first, past, source, heard.speed, heard.pitch))
    length = samples_before(timeline.length, rate)
    return SoundPlan(tuple(clips), length, tuple(_cues(timeline, length)))


def _cues(timeline: Timeline, length: int) -> Iterator[Placed]:
    """The cues that are heard, where they lie."""
    for cue in timeline.document.project.cues:
        found = None if cue.muted else placed(cue, timeline)
        if found is not None and found.first < length:
            yield found


def placed(cue: Cue, timeline: Timeline) -> Placed | None:
    """Where a cue lies; None if what it is tied to has no place in the piece."""
    rate, frame = timeline.document.project.rate, timeline.cue(cue)
    if frame is None:
        return None
    # Its main moment is put on the frame; backwards it begins there.
    strikes = 0.0 if cue.reversed else max(0.0, cue.sound.strikes - cue.skip)
    first = samples_before(frame, rate) - round(strikes * RATE)
    past = None if cue.lasts is None else first + round(cue.lasts * RATE)
    if cue.loops and past is None:
        past = max(first + 1, samples_before(timeline.length, rate))
    return Placed(
        cue.sound.file or cue.sound, first, past, round(cue.skip * RATE), 10 ** (cue.gain / 20), cue.pan,
        samples_before(cue.fade_in, rate), samples_before(cue.fade_out, rate), cue.loops, cue.reversed,
    )  # fmt: skip
