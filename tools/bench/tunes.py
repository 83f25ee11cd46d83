"""Pieces of music whose beats are known: a kick, a snare, hats between, a bass, at any tempo, straight or swung, with a
voice and noise over them.
"""

import numpy as np

from nervykite.core.craft.synthesis.sample_rate import RATE


def piece(
    bpm: float, seconds: float = 20.0, swing: float = 0.0, voice: float = 0.0, noise: float = 0.0, seed: int = 0,
    first: float = 0.13,
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """Sound, float32 (2, n), and the times of its beats in seconds.

    bpm: beats a minute; swing: how much later hats between beats come, 0…1 (1: as in triplets); voice, noise: how loud
    somebody who speaks is over it, and noise; first: when its first beat is.
    """
    rng, count = np.random.default_rng(seed), int(seconds * RATE)
    track, beat = np.zeros(count), 60 / bpm
    beats = np.arange(first, seconds - 0.05, beat)
    t = np.arange(int(0.25 * RATE)) / RATE
    kick = np.sin(2 * np.pi * (50 * t + 2.5 * (1 - np.exp(-t * 30)))) * np.exp(-t * 12)
    snare = 0.5 * rng.standard_normal(len(t)) * np.exp(-t * 25)
    hat = 0.25 * np.diff(rng.standard_normal(len(t) + 1)) * np.exp(-t * 80)

    def put(sound: np.ndarray, at: float, gain: float = 1.0) -> None:
        begins = int(at * RATE)
        fits = min(len(sound), count - begins)
        if fits > 0:
            track[begins : begins + fits] += gain * sound[:fits]

    for n, at in enumerate(beats):
        put(kick, at, 0.25 if n % 2 else 1.0)
        if n % 2:
            put(snare, at)
        put(hat, at, 0.8)
        put(hat, at + beat * (0.5 + swing / 6), 0.7)
        if n % 4 == 0:
            own = np.arange(int(min(4 * beat, 2) * RATE)) / RATE
            put(0.3 * np.sin(2 * np.pi * (220, 165, 196, 247)[n // 4 % 4] * own) * np.exp(-1.5 * own), at)
    if voice:
        own = np.arange(count) / RATE
        syllables = (np.sin(2 * np.pi * 3.1 * own + rng.uniform(0, 6)) > 0.2).astype(float)
        syllables = np.convolve(syllables, np.hanning(2400) / 1200, "same")
        phase = 2 * np.pi * np.cumsum(140 * (1 + 0.1 * np.sin(2 * np.pi * 0.7 * own))) / RATE
        track += 0.4 * voice * syllables * np.sum([np.sin(k * phase) / k for k in range(1, 12)], 0)
    track += noise * rng.standard_normal(count)
    return np.vstack([track, track]).astype(np.float32) / np.float32(max(1.0, np.abs(track).max())), beats


CHORDS = ((220, 262, 330), (175, 220, 262), (262, 330, 392), (196, 247, 294))
"""Three notes each, in Hz: one chord a bar."""


def played(
    bpm: float, seconds: float = 24.0, between: float = 0.8, first: float = 0.2
) -> tuple[np.ndarray, np.ndarray]:
    """The same of a piece with broken chords over drums: notes between beats are nearly as loud as those on them.

    between: how loud notes between beats are, 0…1 of those on them.
    """
    rng, count = np.random.default_rng(0), int(seconds * RATE)
    track, beat = np.zeros(count), 60 / bpm
    beats = np.arange(first, seconds - 0.1, beat)

    def put(at: float, gain: float, dies: float, hertz: float | None) -> None:
        begins = int(at * RATE)
        t = np.arange(max(0, min(int(4 * dies * RATE), count - begins))) / RATE
        if hertz is None:
            sound = rng.standard_normal(len(t))
        else:
            sound = np.sum([np.sin(2 * np.pi * hertz * k * t) / k for k in (1, 2, 3)], 0) * np.minimum(1, t / 0.004)
        track[begins : begins + len(t)] += gain * sound * np.exp(-t / dies)

    for n, at in enumerate(beats):
        chord = CHORDS[n // 4 % 4]
        put(at, 0.25, 0.35, chord[n % 3])
        put(at + beat / 2, 0.25 * between, 0.35, chord[(n + 1) % 3])
        if n % 4 == 0:
            put(at, 0.5, 1.0, chord[0] / 2)
        if n % 2:
            put(at, 0.15, 0.06, None)
        else:
            put(at, 0.5, 0.12, 55)
        for late in (0.0, 0.5):
            put(at + late * beat, 0.05, 0.02, None)
    track /= max(1.0, np.abs(track).max())
    return np.vstack([track, track]).astype(np.float32), beats


def clicks(bpm: float, seconds: float = 24.0, first: float = 0.0) -> tuple[np.ndarray, np.ndarray]:
    """The same of a metronome whose first of four clicks is louder."""
    count = int(seconds * RATE)
    track, t = np.zeros(count, np.float32), np.arange(RATE // 20) / RATE
    click = np.sin(2 * np.pi * 1000 * t) * np.exp(-90 * t)
    beats = np.arange(first, seconds - 0.1, 60 / bpm)
    for n, at in enumerate(beats):
        begins = int(at * RATE)
        track[begins : begins + len(t)] += (0.3 if n % 4 else 0.54) * click
    return np.vstack([track, track]), beats


def agreement(found: np.ndarray, known: np.ndarray, within: float = 0.05) -> tuple[float, float]:
    """The F-measure of found beats, each within so many seconds of one that is known, and how far off they are, in
    milliseconds, median.
    """
    if not len(found) or not len(known):
        return 0.0, 0.0
    nearest = np.abs(found[:, None] - known[None]).argmin(0)
    far = np.abs(found[nearest] - known)
    hits = len({int(n) for n, d in zip(nearest, far, strict=True) if d <= within})
    precision, recall = hits / len(found), hits / len(known)
    score = 2 * precision * recall / max(1e-9, precision + recall)
    return score, float(np.median(far[far <= within])) * 1000 if (far <= within).any() else 0.0
