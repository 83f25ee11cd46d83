"""The quality of beats found, in the demo's tune and in pieces whose beats are known; how quickly a piece is mixed, how
near it comes to its loudness, and how near in what is sent hits lie to their ties.
"""

import tempfile
from pathlib import Path
from time import perf_counter

import av
import numpy as np
from scipy.signal import fftconvolve

from nervykite.core.change.edits import AddColour, AddCue
from nervykite.core.common.errors import Refusal
from nervykite.core.craft.synthesis.sample_rate import RATE
from nervykite.core.draw.send.export import Output, export
from nervykite.core.draw.send.writers.mp4 import Mp4
from nervykite.core.draw.sound.beat_tracking import beats_of
from nervykite.core.draw.sound.limit import true_peak
from nervykite.core.draw.sound.loudness import loudness
from nervykite.core.draw.sound.master import Master
from nervykite.core.draw.sound.plan import PlacedSound, SoundClip, SoundPlan, plan_of
from nervykite.core.draw.sound.taken import Sounds
from nervykite.core.kinds.sources.plain_colour import ColourSource
from nervykite.core.piece.model import CueTie, Document, Mix, Project, Sounding
from nervykite.core.see.footage.library import Library
from nervykite.demo import FOOTAGE

from . import Result
from .tunes import agreement, clicks, piece, played

PIECES: tuple[tuple[str, dict[str, float]], ...] = (
    *((f"{bpm} bpm", {"bpm": bpm}) for bpm in (60, 72, 85, 96, 110, 124, 140, 160, 180)),
    *((f"{bpm} bpm, swung", {"bpm": bpm, "swing": 1.0}) for bpm in (90, 120, 150)),
    *((f"{bpm} bpm, voice and noise", {"bpm": bpm, "voice": 0.5, "noise": 0.03}) for bpm in (70, 100, 128, 170)),
)
LONG, CUES = 60, 20
STRIKING = ("shutter", "thud", "slam", "pop", "snap", "tick", "spring", "paper")
"""Hits that strike at a moment, so that it can be measured where they do."""


def measure() -> Result:
    """F-measures at ±50 ms and the rest; the ratio is how many times as fast as it plays a minute is mixed."""
    figures: dict[str, float] = {}
    _beats(figures)
    ratio = _mixing(figures)
    _sent(figures)
    aim = "100 times; F 0.95, median error 10 ms, three minutes in 4 s; loudness within 0.3 LU; hits within one frame"
    return Result("sound", ratio, aim, figures, "times as fast as it plays, mixed with 20 cues")


def _beats(figures: dict[str, float]) -> None:
    errors, bars = [], []
    pieces = [(name, piece(**settings)) for name, settings in PIECES]  # type: ignore[arg-type]
    pieces += [(f"{bpm} bpm, broken chords", played(bpm)) for bpm in (60, 72, 100, 140)]
    pieces += [(f"{bpm} bpm, clicks", clicks(bpm, first=first)) for bpm, first in ((120, 0.0), (84, 0.7))]
    for name, (sound, known) in pieces:
        found = beats_of(sound)
        score, error = agreement(np.array(found.beats), known)
        figures[f"{name}: F"] = score
        errors.append(error)
        bars.append(agreement(np.array(found.bars), known[::4])[0])
    tune = _tune()
    found = beats_of(tune)
    figures["the demo's tune: F"], error = agreement(np.array(found.beats), np.arange(0, tune.shape[1] / RATE, 0.6))
    bars.append(agreement(np.array(found.bars), np.arange(0, tune.shape[1] / RATE, 2.4))[0])
    figures["median error, ms"] = float(np.median([*errors, error]))
    figures["pieces whose bars are found, %"] = 100 * float((np.array(bars) > 0.9).mean())
    long, _ = piece(118, 180.0)
    begun = perf_counter()
    beats_of(long)
    figures["three minutes, s"] = perf_counter() - begun


def _mixing(figures: dict[str, float]) -> float:
    """The number of times as fast as it plays a minute with a bed and 20 cues is mixed; and what comes of it."""
    rng = np.random.default_rng(0)
    files = {
        name: rng.normal(0, loud, (2, LONG * RATE)).astype(np.float32) for name, loud in (("bed", 0.12), ("shot", 0.05))
    }
    kinds = [k for n, k in Sounding.family.all().items() if n != "shelved"]
    hits = [PlacedSound(kinds[n % len(kinds)](), round((1 + 2.9 * n) * RATE), None) for n in range(CUES)]
    bed = PlacedSound("bed", 0, None, part="bed", gain=0.7)
    clips = (SoundClip("s", "shot", 0, LONG * RATE, 0),)
    sounds = Sounds(files.__getitem__)
    takes = []
    for run in range(4):
        plan = SoundPlan(clips, LONG * RATE, (bed, *hits), (), Mix())
        heard = Master(plan, sounds)
        begun = perf_counter()
        for n in range(plan.blocks):
            heard.block(n)
        mixing = perf_counter() - begun
        _ = heard.gain
        gained = perf_counter() - begun
        for n in range(plan.blocks):
            heard.finished(n)
        if run:  # in the first, hits are made
            takes.append((mixing, gained, perf_counter() - begun))
    mixing, gained, finished = np.median(np.array(takes), 0)
    figures["mixed with 20 cues, times as fast"] = LONG / mixing
    figures["… and brought to its loudness"] = LONG / gained
    figures["… and limited"] = LONG / finished
    off, over = [], []
    for target, loud in ((-14.0, 1.0), (-10.0, 1.0), (-20.0, 0.3), (-14.0, 0.05), (-16.0, 2.0)):
        mix = Mix(loudness=target)
        plan = SoundPlan(clips, LONG * RATE, (PlacedSound("bed", 0, None, part="bed", gain=loud), *hits), (), mix)
        heard = Master(plan, sounds)
        whole = heard.samples(0, plan.length)
        is_ = loudness([whole])
        off.append(abs(target - is_) if is_ is not None else np.inf)
        over.append(20 * np.log10(true_peak(whole)) - mix.peak)
    figures["farthest from its loudness, LU"] = float(max(off))
    figures["true peak over the ceiling, dB"] = float(max(over))
    return float(LONG / mixing)


def _sent(figures: dict[str, float]) -> None:
    """The offset of hits from their ties in a decoded MP4."""
    document = Document(project=Project(name="Hits", width=64, height=64, mix=Mix(loudness=None)))
    document = AddColour(source=ColourSource(lasting=30 * (len(STRIKING) + 1))).apply(document)
    frames = [30 * n + 17 + n % 5 for n in range(len(STRIKING))]
    for kind, frame in zip(STRIKING, frames, strict=True):
        sound = Sounding.family.parse({"kind": kind})
        document = AddCue(sound=sound, tie=CueTie(offset=frame), gain=-6).apply(document)
    sounds = Sounds(_no_file)
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "hits.mp4"
        places = Path(folder)
        export(
            document,
            lambda: Library(lambda name: places / name),
            lambda t: Master(plan_of(t), sounds),
            [Output(out, Mp4())],
        )
        heard = decoded(out)
    off = []
    for cue, frame in zip(document.project.cues, frames, strict=True):
        own = sounds.whole(cue.sound)[:, : RATE // 2]
        expected = frame / 30 * RATE - cue.strikes * RATE
        off.append((found_at(heard, own, round(expected), 3 * 1600) - expected) / 1600)
    figures["hits farthest from their frame, frames"] = float(np.abs(off).max())


def _no_file(name: str) -> np.ndarray:
    raise Refusal(f"There is no file {name} in this piece.")


def decoded(path: Path) -> np.ndarray:
    """The sound of a file as it is shown with its pictures, without what the encoder put before it: float32 (2, n)."""
    with av.open(str(path)) as file:
        stream = file.streams.audio[0]
        frames = list(file.decode(stream))
    whole = np.concatenate([f.to_ndarray() for f in frames], 1)
    lead = round(float((frames[0].pts or 0) * (frames[0].time_base or 0)) * RATE)
    return whole[:, -lead:] if lead < 0 else np.pad(whole, ((0, 0), (lead, 0)))


def found_at(sound: np.ndarray, part: np.ndarray, near: int, reach: int) -> int:
    """The sample at which a part lies in a sound, by correlation, within so many samples of a place."""
    low = max(0, near - reach)
    window = sound[:, low : near + reach + part.shape[1]].mean(0)
    alike = fftconvolve(window, part.mean(0)[::-1], "valid")
    return low + int(np.argmax(alike))


def _tune() -> np.ndarray:
    with av.open(str(FOOTAGE / "relay-tune.ogg")) as file:
        return np.concatenate([frame.to_ndarray() for frame in file.decode(audio=0)], 1)
