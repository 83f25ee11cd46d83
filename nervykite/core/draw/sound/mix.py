"""Mixing: the ground's own sound, voices, the bed and hits, each with its loudness, until they are one sound."""

from dataclasses import dataclass
from functools import partial

import numpy as np

from ...craft.synthesis.sample_rate import RATE
from ...piece.model import Cue, Document
from ...piece.model.mixing import PARTS
from ...piece.timeline.timeline import Timeline
from .duck import stepped_back
from .hush import hushed
from .plan import BLOCK, Line, PlacedSound, SoundPlan, placed, times
from .taken import SoundOf, Sounds, length_of

FADE = 144
"""Samples (3 ms) over which sound comes and goes at a cut, so that it does not click."""
LEVELS = 25
"""How many times a second it is told how loud each part is."""


def seconds_of(cue: Cue, document: Document) -> float:
    """The length of a cue's sound, in its own seconds."""
    known = cue.sound.seconds(document)
    return length_of(type(cue.sound), cue.sound.model_dump_json()) / RATE if known is None else known


def long_of(cue: Cue, timeline: Timeline) -> float:
    """For how many seconds a cue is heard."""
    if cue.lasts is not None and cue.loops:
        return cue.lasts
    at = placed(cue, timeline)
    if cue.loops and at is not None and at.past is not None:
        return (at.past - at.first) / RATE
    left = max(0.0, seconds_of(cue, timeline.document) - cue.skip) * 100 / cue.speed
    return left if cue.lasts is None else min(cue.lasts, left)


@dataclass(frozen=True)
class Block:
    """A second of a mix, before it is mastered: float32 (2, n); `levels` is the peak of each part LEVELS times a
    second, float32 (3, LEVELS).
    """

    samples: np.ndarray
    levels: np.ndarray


class Mixer:
    """Makes the sound of a plan, as much of it as is asked for: every sample is the same whatever it is asked with."""

    def __init__(self, plan: SoundPlan, sounds: Sounds | SoundOf) -> None:
        self._plan = plan
        self._sounds = sounds if isinstance(sounds, Sounds) else Sounds(sounds)

    def samples(self, first: int, past: int) -> np.ndarray:
        """Samples first…past (half-open): float32 (2, n) at RATE."""
        parts = self._parts(first, past)
        out: np.ndarray = sum((parts[name] for name in PARTS if name in parts), np.zeros((2, past - first), np.float32))
        return out

    def block(self, number: int) -> Block:
        """A block."""
        first, past = number * BLOCK, min(self._plan.length, (number + 1) * BLOCK)
        parts = self._parts(first, past)
        levels = np.zeros((len(PARTS), LEVELS), np.float32)
        out = np.zeros((2, past - first), np.float32)
        edges = np.arange(0, past - first, BLOCK // LEVELS)
        for n, name in enumerate(PARTS):
            if name in parts:
                out += parts[name]
                levels[n, : len(edges)] = np.maximum.reduceat(np.abs(parts[name]).max(0), edges)
        return Block(out, levels)

    def _parts(self, first: int, past: int) -> dict[str, np.ndarray]:
        """The sound of each part of the mix, with all that is done to it."""
        mix = self._plan.mix
        found: dict[str, np.ndarray] = {}
        for name in PARTS:
            fader = mix.fader(name)
            if fader.muted:
                continue
            sound = hushed(self._plan, name, partial(self._part, name), first, past)
            if name == "footage" and (voices := self._cues("voice", first, past)) is not None:
                sound = voices if sound is None else sound + voices
            if sound is None:
                continue
            if name == "bed" and mix.duck.depth:
                sound = sound * stepped_back(self._plan, self._sounds, first, past)
            found[name] = sound * np.float32(times(fader.gain)) if fader.gain else sound
        return found

    def _part(self, name: str, first: int, past: int) -> np.ndarray | None:
        """A part as it comes; None where nothing of it is heard."""
        return self._clips(first, past) if name == "footage" else self._cues(name, first, past)

    def _clips(self, first: int, past: int) -> np.ndarray | None:
        out = None
        for clip in self._plan.clips:
            if clip.past <= first or clip.first >= past:
                continue
            sound = self._sounds.whole(clip.file)
            length = min(clip.past - clip.first, max(0, int((sound.shape[1] - clip.source) / clip.speed)))
            low, high = max(first, clip.first) - clip.first, min(past - clip.first, length)
            if low >= high:
                continue
            piece = self._sounds.part(clip.file, clip.source, clip.speed, clip.pitch, low, high)
            at = np.arange(low, high)
            fade = min(FADE, length // 2)
            shape = np.ones(1)
            if fade > 1:
                shape = np.clip(np.minimum(at, length - 1 - at) / (fade - 1), 0, 1)
            if clip.fade_in or clip.fade_out:
                shape = shape * _fades(at, length, clip.fade_in, clip.fade_out)
            shape = shape * _along(clip.line, clip.source + at * float(clip.speed))
            start = clip.first + low - first
            out = np.zeros((2, past - first), np.float32) if out is None else out
            out[:, start : start + piece.shape[1]] += piece * (shape * clip.gain).astype(np.float32)
        return out

    def _cues(self, part: str, first: int, past: int) -> np.ndarray | None:
        out = None
        for cue in self._plan.cues:
            if cue.part == part and cue.first < past and (cue.past is None or cue.past > first):
                out = self._add(cue, first, past, out)
        return out

    def _add(self, cue: PlacedSound, first: int, past: int, out: np.ndarray | None) -> np.ndarray | None:
        """Adds what of a cue falls into samples first…past."""
        own_left = self._sounds.whole(cue.sound).shape[1] - cue.skip
        left = own_left if cue.speed == 1 else int(own_left / cue.speed)
        if left <= 0:
            return out
        length = left if cue.past is None else cue.past - cue.first
        length = length if cue.loops else min(length, left)
        low, high = max(first, cue.first) - cue.first, min(past - cue.first, length)
        if low >= high:
            return out
        at = np.arange(low, high)
        from_ = at % left
        within = left - 1 - from_ if cue.reversed else from_
        a, b = int(within.min()), int(within.max()) + 1
        own = self._sounds.part(cue.sound, cue.skip, cue.speed, cue.pitch, a, b)[:, within - a]
        # Where a sound is cut it would click; what is made is silent at its own ends.
        whole = not isinstance(cue.sound, str)
        comes = max(cue.fade_in, 0 if whole and not cue.skip else FADE, 1)
        goes = max(cue.fade_out, 0 if whole and length >= left else FADE, 1)
        shape = np.minimum(1, np.minimum((at + 1) / comes, (length - at) / goes))
        if cue.loops and left > 2 * FADE:
            shape = shape * np.clip(np.minimum(from_ + 1, left - from_) / FADE, 0, 1)
        shape = shape * _along(cue.line, cue.skip + within * float(cue.speed))
        # Between the ears as loud at every place; in the middle as it is.
        angle = (cue.pan + 1) * np.pi / 4
        ears = np.array([np.cos(angle), np.sin(angle)], np.float32) * np.float32(np.sqrt(2) * cue.gain)
        start = cue.first + low - first
        out = np.zeros((2, past - first), np.float32) if out is None else out
        out[:, start : start + own.shape[1]] += own * shape.astype(np.float32) * ears[:, None]
        return out


def _fades(at: np.ndarray, length: int, comes: int, goes: int) -> np.ndarray:
    """The factors for samples of a sound of a length that comes up and goes down over so many samples."""
    return np.minimum(1, np.minimum((at + 1) / max(1, comes), (length - at) / max(1, goes)))


def _along(line: Line, at: np.ndarray) -> np.ndarray:
    """The factors for samples of a sound at places of its own."""
    if not line:
        return np.ones(1)
    gains = np.interp(at, [p[0] for p in line], [p[1] for p in line])
    return np.where(gains <= -60, 0.0, 10 ** (gains / 20))


def mix(plan: SoundPlan, sound_of: SoundOf, first: int = 0, past: int | None = None) -> np.ndarray:
    """Samples first…past (half-open; None: to the end) of a piece, see `Mixer`."""
    return Mixer(plan, sound_of).samples(first, plan.length if past is None else past)
