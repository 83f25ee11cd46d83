"""What is heard when: the sound of a piece as a list of clips, made from the document alone, and keyed like frames."""

import hashlib
from dataclasses import dataclass
from fractions import Fraction

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
class SoundPlan:
    """All clips in order, and how many samples the piece lasts."""

    clips: tuple[Clip, ...]
    length: int

    @property
    def key(self) -> str:
        """A hash of all that is heard: equal keys sound the same."""
        return hashlib.sha1(repr((self.clips, self.length)).encode()).hexdigest()[:20]


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
    return SoundPlan(tuple(clips), samples_before(timeline.length, rate))
