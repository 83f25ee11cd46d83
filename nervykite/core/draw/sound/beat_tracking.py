"""The beats of music: how fast, where, which of them begin bars, and which are accents.

How strongly something begins is the rise of energy in bands of the ear's width (Böck and Widmer, “Maximum Filter
Vibrato Suppression for Onset Detection”, 2013, without the maximum filter); tempo is what that comes back after,
weighed towards what people tap to; beats are the path through it that keeps to the tempo best (Ellis, “Beat Tracking by
Dynamic Programming”, 2007).
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.ndimage import gaussian_filter1d, maximum_filter1d
from scipy.signal import resample_poly, stft

from ...craft.synthesis.sample_rate import RATE
from ...piece.model import Counted


@dataclass(frozen=True)
class Hearing:
    """The settings by which beats are looked for.

    `step` is how far apart the moments lie that are looked at, in samples; `bands` how many bands from `low` to
    `high` Hz; `slowest` and `quickest` the tempi that there may be, beats a minute; `usual` the tempo that people tap
    to, and `spread` how much they differ, in octaves; `tight` how much keeping to the tempo counts. Where what lies
    between two beats is as strong as `doubled` of them, it is a beat too; where every other beat is weaker than
    `halved` of those beside it, it is none. Where what begins is by `late` more like what comes four beats later than
    like what comes two beats later, only every other beat is one, if it is also by `sorts` more like that of two beats
    later than like what comes between. `lead` is how much before it begins a sound is seen, as the window has a
    length, in seconds. Notes are told apart in windows of `fine` samples, eight times as far apart; a change of
    chords speaks for a bar `chords` times as much as what is low, and what begins of notes `begun` times. `piece` is
    how many moments are looked at in one go. Of all that begins clearly the share beyond `rare` are accents.
    """

    step: int = 480
    window: int = 2048
    bands: int = 36
    low: float = 30.0
    high: float = 15_000.0
    slowest: float = 55.0
    quickest: float = 200.0
    usual: float = 115.0
    spread: float = 0.9
    tight: float = 120.0
    doubled: float = 0.62
    halved: float = 0.42
    lead: float = 0.0123
    fine: int = 1024
    piece: int = 3000
    rare: float = 0.8
    chords: float = 1.0
    begun: float = 6.0
    late: float = 0.14
    sorts: float = 0.15


@dataclass(frozen=True)
class Beats:
    """The beats found: beats a minute; the times of beats, of those that begin bars, and of accents, in seconds."""

    bpm: float
    beats: tuple[float, ...]
    bars: tuple[float, ...]
    accents: tuple[float, ...]


def beats_of(sound: np.ndarray, settings: Hearing | None = None) -> Beats:
    """The beats of some sound.

    sound: float32 or int16 (2, n) at 48 kHz
    Nothing is found in what is silent, or shorter than two seconds.
    """
    s = settings or Hearing()
    mono = sound.mean(0, dtype=np.float32)
    if sound.dtype == np.int16:
        mono /= 32767
    if len(mono) < 2 * RATE or float(np.abs(mono).max()) < 1e-3:
        return Beats(0.0, (), (), ())
    rises = onsets(mono, s)
    strength = rises.sum(0)
    lag = _octave(strength, tempo_of(strength, s), s)
    places = _path(strength, lag, s)
    if 60 * RATE / s.step / lag / 2 >= s.slowest and _comes_back_late(rises, places, lag, s) > s.late:
        lag *= 2
        places = _path(strength, lag, s)
    times = np.maximum(0, _refined(strength, places) * s.step / RATE + s.lead)
    low = rises[: s.bands // 4].sum(0)
    first = _downbeat(mono, low, places, times, s)
    peaks = maximum_filter1d(strength, 9)
    strong = np.flatnonzero((strength == peaks) & (strength > 2.2 * gaussian_filter1d(strength, 2 * lag)))
    if len(strong):  # what stands out among what begins
        strong = strong[strength[strong] >= np.quantile(strength[strong], s.rare)]
    accents = strong * s.step / RATE + s.lead
    period = float(np.median(np.diff(times))) if len(times) > 1 else lag * s.step / RATE
    return Beats(60 / period, tuple(times.tolist()), tuple(times[first::4].tolist()), tuple(accents.tolist()))


def onsets(mono: np.ndarray, s: Hearing) -> np.ndarray:
    """The onset strength in each band at each moment: float32 (bands, moments)."""
    padded = np.concatenate([np.zeros(s.window // 2, np.float32), mono])
    count = (len(padded) - s.window) // s.step + 1
    # Piece by piece: the spectrum of a whole hour would fill the memory.
    energy = np.concatenate([_energy(padded, at, min(count, at + s.piece), s) for at in range(0, count, s.piece)], 1)
    loud = np.log10(1 + 1e6 * energy / max(float(energy.max()), 1e-12))
    rise = np.maximum(0, loud[:, 2:] - loud[:, :-2])
    rise = np.pad(rise, ((0, 0), (1, 1)))
    return np.asarray(rise / max(float(rise.sum(0).std()), 1e-9), np.float32)


def _energy(padded: np.ndarray, first: int, past: int, s: Hearing) -> np.ndarray:
    """The energy in each band at moments first…past (half-open): float32 (bands, moments)."""
    part = padded[first * s.step : (past - 1) * s.step + s.window]
    f, _, spectrum = stft(part, RATE, nperseg=s.window, noverlap=s.window - s.step, boundary=None, padded=False)
    rows = np.searchsorted(f, np.geomspace(s.low, s.high, s.bands + 1))
    power = np.abs(spectrum) ** 2
    return np.stack([power[a : max(b, a + 1)].mean(0) for a, b in pairwise(rows)])


def tempo_of(strength: np.ndarray, s: Hearing) -> int:
    """After how many moments a beat follows on the one before."""
    centred = strength - gaussian_filter1d(strength, RATE / s.step)
    count = 1 << (2 * len(centred) - 1).bit_length()
    spectrum = np.fft.rfft(centred, count)
    again = np.fft.irfft(np.abs(spectrum) ** 2, count)[: len(centred)]
    lags = np.arange(round(60 * RATE / s.step / s.quickest), round(60 * RATE / s.step / s.slowest) + 1)
    lags = lags[lags < len(again) // 2]
    # What comes back after a beat comes back after two and four as well.
    comb = again[lags] + 0.5 * again[np.minimum(2 * lags, len(again) - 1)]
    comb = comb + 0.25 * again[np.minimum(4 * lags, len(again) - 1)]
    tempi = 60 * RATE / s.step / lags
    weight = np.exp(-0.5 * (np.log2(tempi / s.usual) / s.spread) ** 2)
    return int(lags[np.argmax(comb * weight)])


def _octave(strength: np.ndarray, lag: int, s: Hearing) -> int:
    """The lag itself, half of it or twice it, as what lies on and between beats tells."""
    local = maximum_filter1d(strength, 7)

    def mean(first: int, by: int) -> float:
        return float(local[first::by].mean()) if first < len(local) else 0.0

    phase = max(range(lag), key=lambda k: mean(k, lag))
    on, between = mean(phase, lag), mean(phase + lag // 2, lag)
    tempo = 60 * RATE / s.step / lag
    if between > s.doubled * on and 2 * tempo <= s.quickest:
        return lag // 2
    sides = sorted((mean(phase, 2 * lag), mean(phase + lag, 2 * lag)))
    return 2 * lag if sides[0] < s.halved * sides[1] and tempo / 2 >= s.slowest else lag


def _comes_back_late(rises: np.ndarray, places: np.ndarray, lag: int, s: Hearing) -> float:
    """The likeness of what begins at a beat to what begins four beats later, over that to what begins two later, -2…2.

    A bar has something of its own on one and three, such as a low drum, and something else on two and four. Where it
    takes four beats for that to come back, and every other beat is of another sort, these are halves of beats. It is 0
    where they are not: what is accented every four beats alone has no such sorts.
    """
    begins = np.stack([rises[:, max(0, p - 2) : p + lag // 2].sum(1) for p in places])
    begins -= begins.mean(0)
    length = np.maximum(np.linalg.norm(begins, axis=1), 1e-9)

    def like(by: int) -> float:
        return float(((begins[by:] * begins[:-by]).sum(1) / (length[by:] * length[:-by])).mean())

    if len(places) <= 12 or like(2) - (like(1) + like(3)) / 2 < s.sorts:
        return 0.0
    return like(4) - like(2)


def _path(strength: np.ndarray, lag: int, s: Hearing) -> np.ndarray:
    """The moments of beats: those that together begin most strongly and lie about a lag apart."""
    local = gaussian_filter1d(strength, lag / 32)
    local = local / max(float(local.std()), 1e-9)
    count = len(local)
    score, back = local.copy(), np.full(count, -1)
    steps = np.arange(-2 * lag, -max(1, lag // 2) + 1)
    cost = -s.tight * np.log(-steps / lag) ** 2
    for n in range(max(1, lag // 2), count):
        before = n + steps
        inside = before >= 0
        if not inside.any():
            continue
        worth = score[before[inside]] + cost[inside]
        best = int(np.argmax(worth))
        if worth[best] > 0:
            score[n] += worth[best]
            back[n] = before[inside][best]
    at = count - lag + int(np.argmax(score[-lag:])) if count > lag else int(np.argmax(score))
    found = []
    while at >= 0:
        found.append(at)
        at = int(back[at])
    return np.array(found[::-1])


def _refined(strength: np.ndarray, places: np.ndarray) -> np.ndarray:
    """Moments between those that are looked at: where a parabola through the three around each has its top."""
    inner = np.clip(places, 1, len(strength) - 2)
    a, b, c = (strength[inner + k].astype(float) for k in (-1, 0, 1))
    bend = a - 2 * b + c
    shift = np.where(np.abs(bend) > 1e-9, 0.5 * (a - c) / np.where(np.abs(bend) > 1e-9, bend, 1), 0)
    return inner + np.clip(shift, -0.5, 0.5)


def _downbeat(mono: np.ndarray, low: np.ndarray, places: np.ndarray, times: np.ndarray, s: Hearing) -> int:
    """One of four beats that begins a bar: on which chords change, most notes begin, and most of what is low does."""
    if len(places) < 8:
        return 0
    notes = _notes_of_beats(mono, times, s)
    changes, begun = _chord_changes(notes), _notes_begun(notes)
    worth = [
        s.chords * changes[k::4].mean() + s.begun * begun[k::4].mean() + low[places[k::4]].mean() for k in range(4)
    ]
    return int(np.argmax(worth))


def _notes_of_beats(mono: np.ndarray, times: np.ndarray, s: Hearing) -> np.ndarray:
    """The strength of each of the twelve notes from each beat to the next: float (12, n)."""
    # Notes lie low: an eighth of the samples says as much of them.
    slow = resample_poly(mono, 1, 8)
    f, at, spectrum = stft(slow, RATE // 8, nperseg=s.fine, noverlap=s.fine - s.fine // 8)
    heard = (f > 60) & (f < 1600)
    note = np.round(12 * np.log2(f[heard] / 440)).astype(int) % 12
    power = np.abs(spectrum[heard])
    notes = np.stack([power[note == n].sum(0) for n in range(12)])
    sums = np.concatenate([np.zeros((12, 1)), np.cumsum(notes, 1)], 1)
    # What begins on a beat is seen as soon as the window reaches it, half its length before.
    ends = np.concatenate([times, [times[-1] + np.median(np.diff(times))]]) - s.fine / 2 / (RATE / 8)
    return np.diff(sums[:, np.searchsorted(at, ends)], axis=1)


def _chord_changes(notes: np.ndarray) -> np.ndarray:
    """For each beat how much other notes sound in the two beats from it on than in the two before it, in its mean."""

    def beside(n: int) -> np.ndarray:
        part = notes[:, max(0, n) : max(0, n + 2)].sum(1)
        return part / max(float(np.linalg.norm(part)), 1e-9)

    count = notes.shape[1]
    found = np.array([1 - float(beside(n - 2) @ beside(n)) if n >= 2 else 0.0 for n in range(count)])
    found[:2] = found[2:].mean() if count > 2 else 0
    return found / max(float(found.mean()), 1e-9)


def _notes_begun(notes: np.ndarray) -> np.ndarray:
    """For each beat how much more each note sounds than before it, in shares of what sounds in a beat: that of a note
    which ends is nothing. The beats beside it count half of those next to it.
    """
    padded = np.pad(notes, ((0, 0), (2, 1)), mode="edge")
    before = padded[:, 1:-2] + 0.5 * padded[:, :-3]
    after = padded[:, 2:-1] + 0.5 * padded[:, 3:]
    return np.maximum(0, after - before).sum(0) / max(1.5 * float(notes.sum(0).mean()), 1e-9)


def counted(found: Beats) -> Counted | None:
    """Beats that were found as they are kept with a sound; None if there are none."""
    if not found.beats:
        return None
    first = found.beats.index(found.bars[0]) if found.bars else 0
    beats, accents = ([round(t, 4) for t in times][:20_000] for times in (found.beats, found.accents))
    return Counted(beats=sorted(set(beats)), first=first, accents=sorted(set(accents)))
