"""Sound played faster or slower: with its pitch, as a tape is, or kept in pitch."""

from fractions import Fraction

import av
import numpy as np
from scipy.signal import resample_poly

from ...craft.synthesis.sample_rate import RATE

LEAD = RATE // 4
"""Samples before a stretch that are worked on with it, so that it begins as if it had gone on."""
LEAST, MOST = Fraction(1, 2), Fraction(2)
"""How much the filter changes the speed in one go; beyond that it is passed several times."""


def played(sound: np.ndarray, at: int, length: int, speed: Fraction, pitch: bool) -> np.ndarray:
    """Sound from a sample on, so many times as fast.

    sound: float32 or int16 (2, m) at RATE; length: how many samples are made, float32 (2, length); what is missing is
    silence. With `pitch` it is resampled (polyphase, as SciPy does it); else FFmpeg's `atempo`, a waveform-similarity
    overlap-add (Verhelst and Roelands 1993), keeps the pitch.
    """
    lead = min(at, int(LEAD * speed))
    past = min(sound.shape[1], at + int(length * speed) + LEAD)
    part = sound[:, at - lead : max(at - lead, past)].astype(np.float32)
    if sound.dtype == np.int16:
        part /= 32767
    if not part.shape[1]:
        return np.zeros((2, length), np.float32)
    changed = _resampled(part, speed) if pitch else _stretched(part, speed)
    skip = round(lead / speed)
    out = np.zeros((2, length), np.float32)
    heard = changed[:, skip : skip + length]
    out[:, : heard.shape[1]] = heard
    return out


def _resampled(sound: np.ndarray, speed: Fraction) -> np.ndarray:
    return np.asarray(resample_poly(sound, speed.denominator, speed.numerator, axis=1), np.float32)


def _stretched(sound: np.ndarray, speed: Fraction) -> np.ndarray:
    graph = av.filter.Graph()
    first = graph.add_abuffer(sample_rate=RATE, format="fltp", layout="stereo", time_base=Fraction(1, RATE))
    last = first
    left = speed
    while left != 1:
        step = max(LEAST, min(MOST, left))
        left /= step
        tempo = graph.add("atempo", f"{float(step):.6f}")
        last.link_to(tempo)
        last = tempo
    apart = graph.add("aformat", "sample_fmts=fltp:channel_layouts=stereo")  # the filter may have put channels together
    last.link_to(apart)
    sink = graph.add("abuffersink")
    apart.link_to(sink)
    graph.configure()
    blocks: list[np.ndarray] = []

    def drain() -> None:
        while True:
            try:
                blocks.append(graph.pull().to_ndarray())
            except (av.BlockingIOError, av.EOFError):
                return

    for at in range(0, sound.shape[1], RATE):
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound[:, at : at + RATE]), "fltp", "stereo")
        frame.rate, frame.pts, frame.time_base = RATE, at, Fraction(1, RATE)
        graph.push(frame)
        drain()
    graph.push(None)
    drain()
    return np.concatenate(blocks, 1) if blocks else np.zeros((2, 0), np.float32)
