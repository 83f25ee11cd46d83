"""The plan of a piece's sound: a list of clips, made from the document alone, and keyed like frames."""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise

from ...craft.synthesis.sample_rate import RATE
from ...piece.model import Cue, Document, GroundItem, Mix, Sounding
from ...piece.model.mixing import LinePoint, Part
from ...piece.model.source import Hush
from ...piece.timeline.timeline import Timeline

BLOCK = RATE
"""Samples that are mixed, kept and sent to who listens in one go."""
REACH = 6 * RATE
"""No sample is changed by what is heard farther from it than that: by what rings out, or has the bed step back."""
Line = tuple[tuple[int, float], ...]
"""Corners of a line of loudness: samples of the sound's own, and decibels."""


def samples_before(frame: int, rate: Fraction) -> int:
    """The number of samples there are before the start of a project frame."""
    return round(Fraction(frame * RATE) / rate)


@dataclass(frozen=True)
class SoundClip:
    """Samples first…past (half-open) of the piece carry a shot's sound, from its sample `source` on.

    It is played so many times as fast, higher with that if `pitch` says so; multiplied by `gain` and along `line`, and
    comes and goes over so many samples.
    """

    shot: str
    file: str
    first: int
    past: int
    source: int
    speed: Fraction = Fraction(1)
    pitch: bool = False
    gain: float = 1.0
    fade_in: int = 0
    fade_out: int = 0
    line: Line = ()


@dataclass(frozen=True)
class PlacedSound:
    """Samples first…past (half-open; `first` may lie before the piece) carry a cue's sound, from its sample `skip` on.

    `sound` is a stored file by its hash, or what makes it. `past` is None where it is as long as the sound. It is
    multiplied by `gain` and along `line`, lies at `pan` (−1…1), and comes and goes over so many samples.
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
    part: str = "hits"
    speed: Fraction = Fraction(1)
    pitch: bool = False
    line: Line = ()


@dataclass(frozen=True)
class Hushed:
    """For samples first…past (half-open) a part of the mix is not heard as it is."""

    part: Part
    first: int
    past: int
    way: Hush


@dataclass(frozen=True)
class SoundPlan:
    """All clips in order, the cues, what is hushed, how it is mixed, and how many samples the piece lasts."""

    clips: tuple[SoundClip, ...]
    length: int
    cues: tuple[PlacedSound, ...] = ()
    hushed: tuple[Hushed, ...] = ()
    mix: Mix = field(default_factory=lambda: Mix(loudness=None))

    @property
    def silent(self) -> bool:
        """True if there is nothing in it that could be heard."""
        return not self.clips and not self.cues

    @property
    def key(self) -> str:
        """A hash of all that is heard: equal keys sound the same."""
        return _hash(self.clips, self.length, self.cues, self.hushed, self.mix)

    @property
    def blocks(self) -> int:
        """The number of blocks it has; the last one may be shorter."""
        return -(-self.length // BLOCK)

    def block(self, number: int) -> str:
        """A hash of all that can be heard in a block before it is mastered."""
        low, high = number * BLOCK - REACH, (number + 1) * BLOCK + REACH
        near = [tuple(x for x in group if x.first < high and (x.past is None or x.past > low))
                for group in (self.clips, self.cues, self.hushed)]  # fmt: skip
        faders = self.mix.model_copy(update={"loudness": None, "peak": 0.0})
        return _hash(number, min(self.length, (number + 1) * BLOCK), near, faders)


def _hash(*things: object) -> str:
    return hashlib.sha1(repr(things).encode()).hexdigest()[:20]


def times(decibels: float) -> float:
    """By how much so many decibels multiply; the lowest that a fader has is silence."""
    return 0.0 if decibels <= -60 else 10 ** (decibels / 20)


def plan_of(timeline: Timeline) -> SoundPlan:
    """The sound of a piece: that of the ground's shots, cut together as the ground is, and its cues."""
    document, rate = timeline.document, timeline.document.project.rate
    clips, hushed = [], []
    for item in document.project.ground:
        first, past = (samples_before(f, rate) for f in (timeline.starts[item.id], timeline.end_of(item.id)))
        hushed += [Hushed(part, first, past, way) for part, way in item.source.hushes.items()]
        clip = _clip(document, item, first, past)
        if clip is not None:
            clips.append(clip)
    length = samples_before(timeline.length, rate)
    cues = _in_one(list(_cues(timeline, length)))
    return SoundPlan(tuple(_run_together(clips)), length, tuple(cues), tuple(hushed), document.project.mix)


def _clip(document: Document, item: GroundItem, first: int, past: int) -> SoundClip | None:
    """The clip heard of an item of the ground."""
    heard, loud, rate = item.source.sound(document), item.loudness, document.project.rate
    shot = document.shots[heard.shot] if heard else None
    if heard is None or shot is None or shot.sound_file is None or loud.muted:
        return None

    def sample(frame: float) -> int:
        whole = min(int(frame), shot.frames - 1)
        ticks = shot.ticks[whole] + (frame - whole) * (shot.ticks[whole + 1] - shot.ticks[whole])
        return round(ticks * float(Fraction(shot.tick)) * RATE)

    source = round(shot.ticks[min(heard.frame, shot.frames - 1)] * Fraction(shot.tick) * RATE)
    line = tuple((sample(min(p.at, shot.frames)), p.gain) for p in loud.line)
    fades = samples_before(loud.fade_in, rate), samples_before(loud.fade_out, rate)
    return SoundClip(
        shot.id, shot.sound_file, first, past, source, heard.speed, heard.pitch, times(loud.gain), *fades, line
    )


def _run_together(clips: list[SoundClip]) -> Iterator[SoundClip]:
    """The clips, with those as one between which nothing was left out: a cut alone is not heard."""
    if not clips:
        return
    run = clips[0]
    for _, clip in pairwise(clips):
        goes_on = clip.source - (run.source + round((run.past - run.first) * run.speed))
        same = replace(run, first=clip.first, past=clip.past, source=clip.source, fade_in=0, fade_out=0)
        same_loud = same == replace(clip, fade_in=0, fade_out=0) and not run.fade_out and not clip.fade_in
        if run.past == clip.first and abs(goes_on) <= 2 and same_loud:
            run = replace(run, past=clip.past, fade_out=clip.fade_out)
            continue
        yield run
        run = clip
    yield run


def _cues(timeline: Timeline, length: int) -> Iterator[PlacedSound]:
    """The cues that are heard, where they lie."""
    for cue in timeline.document.project.cues:
        found = None if cue.muted else placed(cue, timeline)
        if found is not None and found.first < length:
            yield found


def _in_one(cues: list[PlacedSound]) -> list[PlacedSound]:
    """The cues, with those as one that were cut and lie side by side yet: a cut alone is not heard."""
    found: list[PlacedSound] = []
    ending: list[int] = []
    for cue in sorted(cues, key=lambda c: c.first):
        for n in ending:
            run = found[n]
            if run.past is None or abs(run.past - cue.first) > 2 or run.fade_out or cue.fade_in or run.loops:
                continue
            goes_on = cue.skip - (run.skip + round((run.past - run.first) * run.speed))
            same = replace(cue, first=run.first, past=run.past, skip=run.skip, fade_in=run.fade_in, fade_out=0) == run
            if same and abs(goes_on) <= 4 and not cue.reversed:
                past = None if cue.past is None else run.past + cue.past - cue.first
                found[n] = replace(run, past=past, fade_out=cue.fade_out)
                break
        else:
            found.append(cue)
            if cue.past is not None:
                ending.append(len(found) - 1)
    return found


def placed(cue: Cue, timeline: Timeline) -> PlacedSound | None:
    """Where a cue lies; None if what it is tied to has no place in the piece."""
    rate, frame = timeline.document.project.rate, timeline.cue(cue)
    if frame is None:
        return None
    first = samples_before(frame, rate) - round(cue.strikes * RATE)
    past = None if cue.lasts is None else first + round(cue.lasts * RATE)
    if cue.loops and past is None:
        past = max(first + 1, samples_before(timeline.length, rate))
    return PlacedSound(
        cue.sound.file or cue.sound, first, past, round(cue.skip * RATE), times(cue.gain), cue.pan,
        samples_before(cue.fade_in, rate), samples_before(cue.fade_out, rate), cue.loops, cue.reversed,
        cue.part, Fraction(cue.speed).limit_denominator(1000) / 100, cue.pitched, _line(cue.line),
    )  # fmt: skip


def _line(points: list[LinePoint]) -> Line:
    return tuple((round(p.at * RATE), p.gain) for p in points)
