"""The relay's tune, by synthesis: 100 beats a minute, 20 seconds, a clear beat, made to loop."""

import numpy as np

from .sound import RATE, band

TEMPO, SECONDS = 100, 20.0
BEAT = 60 / TEMPO


def note(number: int) -> float:
    """Frequency in Hz of a note numbered as in MIDI (69 is A4, 440 Hz)."""
    return 440.0 * 2 ** ((number - 69) / 12)


def plucked(number: int, seconds: float, bright: float = 0.5) -> np.ndarray:
    """A plucked bar, like a marimba: a tone with two inharmonic overtones that die away at once."""
    t = np.arange(int(seconds * RATE)) / RATE
    f = note(number)
    tone = np.sin(2 * np.pi * f * t) * np.exp(-t * 5)
    tone += bright * 0.5 * np.sin(2 * np.pi * 3.93 * f * t) * np.exp(-t * 16)
    return (tone + bright * 0.2 * np.sin(2 * np.pi * 9.2 * f * t) * np.exp(-t * 40)) * np.minimum(1, t * 900)


def bass(number: int, seconds: float) -> np.ndarray:
    """A round bass."""
    t = np.arange(int(seconds * RATE)) / RATE
    f = note(number)
    tone = np.sin(2 * np.pi * f * t) + 0.35 * np.sin(4 * np.pi * f * t) + 0.12 * np.sin(6 * np.pi * f * t)
    return np.tanh(1.4 * tone * np.exp(-t * 2.6)) * np.minimum(1, t * 300) * np.minimum(1, (seconds - t) * 60)


def drum(kind: str, seed: int = 0) -> np.ndarray:
    """kick, clap or shaker."""
    rng = np.random.default_rng(seed)
    t = np.arange(int(0.3 * RATE)) / RATE
    noise = rng.standard_normal(len(t))
    if kind == "kick":
        return np.sin(2 * np.pi * (46 * t + 2.4 * (1 - np.exp(-t * 32)))) * np.exp(-t * 9) * 1.2
    if kind == "clap":
        hands = sum(np.where(t > d, np.exp(-(t - d) * 90), 0) for d in (0, 0.011, 0.021)) + 0.5 * np.exp(-t * 18)
        return band(noise, 900, 3600) * hands * 0.8
    return band(noise, 5000, 11000) * np.exp(-t * 45) * np.minimum(1, t * 120) * 0.5


CHORDS = ((57, 60, 64), (53, 57, 60), (48, 55, 64), (55, 59, 62))
RIFF = (0, 2, 1, 2, 0, 1, 2, 1)


def bed() -> np.ndarray:
    """The music: float32 (2, n), within -1…1; its end leads into its beginning."""
    n = int(SECONDS * RATE)
    track = np.zeros((2, n))

    def put(sound: np.ndarray, beat: float, gain: float, pan: float = 0.5) -> None:
        place = (int(beat * BEAT * RATE) + np.arange(len(sound))) % n  # what rings on past the end sounds at the start
        track[0, place] += sound * gain * np.sqrt(1 - pan)
        track[1, place] += sound * gain * np.sqrt(pan)

    beats = SECONDS / BEAT
    step = 0.0
    while step < beats - 0.01:
        whole = int(step)
        chord = CHORDS[whole // 4 % 4]
        half = round(step * 2)
        if step == whole:
            put(drum("kick"), step, 0.62 if whole % 2 == 0 else 0.40)
            if whole % 2 == 1:
                put(drum("clap", whole), step, 0.34, 0.55)
            put(bass(chord[0] - 24, BEAT * 0.9), step, 0.34)
        elif whole % 4 == 3:
            put(bass(chord[1] - 24, BEAT * 0.4), step, 0.26)
        pitch = chord[RIFF[half % 8]] + 12
        put(plucked(pitch, 0.9), step, 0.22, 0.35 + 0.3 * (half % 2))
        if whole >= 16 and half % 4 in (1, 3):
            put(plucked(pitch + 12, 0.7, 0.8), step + 0.25, 0.10, 0.7)
        for quarter in (0.0, 0.25):
            put(drum("shaker", half), step + quarter, 0.16 if quarter == 0 else 0.09, 0.62)
        step += 0.5
    return np.tanh(track * 0.95).astype(np.float32)
