"""The stuff of hits: envelopes, noises, partials, filters that move, rooms. Sound is float32 or float64 at 48 kHz,
one channel (n,) or two (2, n), about −1…1; times are seconds, frequencies Hz.
"""

import functools

import numpy as np
from scipy.signal import butter, fftconvolve, sosfilt

from .sample_rate import RATE

CLICK = 0.002
"""Over so many seconds a sound comes up from nothing and goes down to it, so that neither end clicks."""


def seconds(long: float) -> np.ndarray:
    """The time of each sample of so many seconds: float64 (n,)."""
    return np.arange(max(1, round(long * RATE))) / RATE


def struck(t: np.ndarray, attack: float, decay: float, at: float = 0.0) -> np.ndarray:
    """The envelope of something struck at a time: up within `attack`, then down to a thousandth within `decay`."""
    since = t - at
    up = np.clip(since / max(attack, 1e-5), 0, 1)
    return np.where(since < 0, 0.0, up * up * (3 - 2 * up) * np.exp(-6.9 * np.maximum(since - attack, 0) / decay))


def swollen(t: np.ndarray, peak: float, steep: float = 2.0) -> np.ndarray:
    """An envelope that swells up to a share of its time and goes down again to its end."""
    u = t / max(t[-1], 1e-9)
    rise = np.clip(u / max(peak, 1e-6), 0, 1)
    fall = np.clip((1 - u) / max(1 - peak, 1e-6), 0, 1)
    return np.sin(0.5 * np.pi * np.minimum(rise, fall)) ** steep


def glided(t: np.ndarray, hertz: np.ndarray | float, phase: float = 0.0) -> np.ndarray:
    """A sine whose frequency may change: the integral of it is its phase."""
    return np.sin(2 * np.pi * np.cumsum(np.broadcast_to(hertz, t.shape)) / RATE + phase)


def pink(count: int, chance: np.random.Generator) -> np.ndarray:
    """Noise with as much in each octave, about as loud as white noise: (n,); shaped by 1/√f in its spectrum."""
    spectrum = np.fft.rfft(chance.standard_normal(count))
    f = np.maximum(np.fft.rfftfreq(count, 1 / RATE), 20.0)
    shaped = np.fft.irfft(spectrum / np.sqrt(f), count)
    return shaped / max(float(np.sqrt(np.mean(shaped**2))), 1e-9) * 0.3


def white(count: int, chance: np.random.Generator) -> np.ndarray:
    """White noise, (n,)."""
    return 0.3 * chance.standard_normal(count)


@functools.lru_cache(256)
def _band(low: float, high: float, order: int) -> np.ndarray:
    most = 0.49 * RATE
    if low <= 20:
        return butter(order, min(high, most), "low", fs=RATE, output="sos")
    if high >= most:
        return butter(order, low, "high", fs=RATE, output="sos")
    return butter(order, (low, min(high, most)), "band", fs=RATE, output="sos")


def band(sound: np.ndarray, low: float, high: float, order: int = 2) -> np.ndarray:
    """The band between two frequencies (Butterworth); from 20 Hz down, and from 23 kHz up, there is no edge."""
    return sosfilt(_band(round(float(low), 2), round(float(high), 2), order), sound)


def moving_band(sound: np.ndarray, hertz: np.ndarray, width: float) -> np.ndarray:
    """The band around a frequency that moves: (n,), (n,); width: in octaves, about.

    A state-variable filter by trapezoidal integration (Simper, “Linear Trapezoidal Integrated SVF”, 2013).
    """
    from .swept_filters import svf

    out = np.empty(len(sound))
    q = 1 / (2 * np.sinh(0.5 * np.log(2) * max(width, 0.05)))
    svf(np.ascontiguousarray(sound, np.float64), np.ascontiguousarray(np.clip(hertz, 20, 0.45 * RATE)), q, out)
    return out


def room(
    sound: np.ndarray, long: float, much: float, chance: np.random.Generator, bright: float = 5000.0
) -> np.ndarray:
    """A sound (n,) or (2, n) in a room that rings for so many seconds: (2, n + …), longer by that.

    The room is noise that dies away, other in each ear, its high parts sooner (Moorer, “About This Reverberation
    Business”, 1979); `much` is how loud it is beside the sound itself.
    """
    dry = np.atleast_2d(sound)
    dry = np.vstack([dry, dry]) if len(dry) == 1 else dry
    t = seconds(long)
    ears = []
    for channel in dry:
        noise = chance.standard_normal(len(t))
        low, high = band(noise, 20, bright / 4), band(noise, bright / 4, bright)
        answer = (low * np.exp(-6.9 * t / long) + high * np.exp(-6.9 * t / (0.5 * long))) * np.minimum(1, t / 0.004)
        answer /= np.sqrt((answer**2).sum()) + 1e-9
        wet = fftconvolve(channel, answer)
        wet[: dry.shape[1]] = much * wet[: dry.shape[1]] + channel
        wet[dry.shape[1] :] *= much
        ears.append(wet)
    return np.vstack(ears)


def driven(sound: np.ndarray, by: float) -> np.ndarray:
    """Pushed into its limits, softly: what is loud gets overtones."""
    return np.tanh(by * sound) / np.tanh(by)


def panned(sound: np.ndarray, place: np.ndarray | float) -> np.ndarray:
    """One channel between two ears, −1 left … 1 right, equally loud anywhere: (2, n)."""
    angle = (np.broadcast_to(place, sound.shape) + 1) * np.pi / 4
    return np.vstack([np.cos(angle) * sound, np.sin(angle) * sound])


def finished(sound: np.ndarray, peak: float = 0.89) -> np.ndarray:
    """Two channels as loud as a peak, without a step at either end, nor what lies below hearing: float32 (2, n)."""
    both = np.atleast_2d(sound)
    both = np.vstack([both, both]) if len(both) == 1 else both
    both = sosfilt(_highpass(), both, axis=1)
    # A blow is to stay one: it begins within a quarter of a millisecond.
    for ramp, part in ((12, slice(0, 12)), (round(CLICK * RATE), slice(None, -round(CLICK * RATE) - 1, -1))):
        both[:, part] *= 0.5 - 0.5 * np.cos(np.pi * np.arange(ramp) / ramp)
    loudest = float(np.abs(both).max())
    return np.asarray(both * (peak / loudest if loudest > 1e-9 else 0.0), np.float32)


@functools.cache
def _highpass() -> np.ndarray:
    return butter(2, 22.0, "high", fs=RATE, output="sos")
