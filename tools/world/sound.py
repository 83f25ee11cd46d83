"""The sound of the beach, by synthesis: surf and wind, footsteps in sync with the picture, what else is heard."""

from collections.abc import Callable

import numpy as np
from scipy.signal import butter, sosfilt

from .shots import SHOTS

RATE = 48000
"""Samples a second."""


def band(noise: np.ndarray, low: float, high: float) -> np.ndarray:
    """The part of a sound (…, n) between two frequencies in Hz."""
    return sosfilt(butter(2, [low, high], "band", fs=RATE, output="sos"), noise)


def surf(seconds: float, seed: int) -> np.ndarray:
    """Waves that swell, break and hiss, and wind: float64 (2, n), about -0.3…0.3."""
    rng = np.random.default_rng(seed)
    n = int(seconds * RATE)
    t = np.arange(n) / RATE
    sides = []
    for side in range(2):
        swell = 0.5 + 0.5 * np.sin(2 * np.pi * t / 3.7 + 0.4 * side)
        roar = band(rng.standard_normal(n), 60, 500) * (0.35 + 0.65 * swell)
        hiss = band(rng.standard_normal(n), 1500, 7000) * np.roll(swell, RATE // 3) ** 3
        wind = band(rng.standard_normal(n), 200, 900) * (0.6 + 0.4 * np.sin(2 * np.pi * t / 2.3 + side))
        sides.append(0.35 * roar + 0.10 * hiss + 0.10 * wind)
    return np.stack(sides) * 0.8


def footstep(hard: float, seed: int) -> np.ndarray:
    """One foot in dry sand: a soft thud and a scatter of grains; float64 (n,)."""
    rng = np.random.default_rng(seed)
    t = np.arange(int(0.35 * RATE)) / RATE
    thud = np.sin(2 * np.pi * 70 * t * (1 - 0.5 * t)) * np.exp(-t * 28)
    grains = band(rng.standard_normal(len(t)), 900, 5000) * np.exp(-t * 16) * np.minimum(1, t * 60)
    return hard * (0.55 * thud + 0.22 * grains)


def splash(hard: float, seed: int) -> np.ndarray:
    """A body into shallow water: a slap, a rush of foam, drops that patter down; float64 (n,)."""
    rng = np.random.default_rng(seed)
    t = np.arange(int(1.6 * RATE)) / RATE
    slap = band(rng.standard_normal(len(t)), 120, 900) * np.exp(-t * 18)
    rush = band(rng.standard_normal(len(t)), 700, 6000) * np.minimum(1, t * 25) * np.exp(-t * 3.2)
    drops = band(rng.standard_normal(len(t)) * (rng.random(len(t)) < 0.0015), 1200, 5000) * np.exp(
        -((t - 0.8) ** 2) * 6
    )
    return hard * (0.8 * slap + 0.45 * rush + 2.5 * drops)


def snap(hard: float, seed: int) -> np.ndarray:
    """Snapped fingers: a short bright click with a bit of room; float64 (n,)."""
    rng = np.random.default_rng(seed)
    t = np.arange(int(0.25 * RATE)) / RATE
    click = band(rng.standard_normal(len(t)), 1400, 4200) * np.exp(-t * 170)
    room = band(rng.standard_normal(len(t)), 700, 2500) * np.exp(-t * 32) * 0.10
    return hard * (1.5 * click + room)


def flutter(hard: float, seed: int) -> np.ndarray:
    """Cloth or line that whips through the hand: beating noise; float64 (n,)."""
    rng = np.random.default_rng(seed)
    t = np.arange(int(0.45 * RATE)) / RATE
    beat = 0.5 + 0.5 * np.sign(np.sin(2 * np.pi * 34 * t * (1 - 0.6 * t)))
    return hard * 0.6 * band(rng.standard_normal(len(t)), 600, 3800) * beat * np.minimum(1, t * 40) * np.exp(-t * 7)


HEARD: dict[str, Callable[[float, int], np.ndarray]] = {
    "step": footstep, "splash": splash, "snap": snap, "flutter": flutter,
}  # fmt: skip


def events(shot_name: str) -> list[tuple[float, str, float]]:
    """The events heard in a shot: seconds of film, which sound, how hard (0…1)."""
    shot = SHOTS[shot_name]
    heard = list(shot.sounds)
    for act in shot.acts:
        falls = [flight.last for flight in act.flights]
        for stance in act.stances:
            if stance.peels:
                hard = 1.0 if any(abs(stance.first - fall) < 0.05 for fall in falls) else 0.7
                heard += [(stance.first, "step", hard), (stance.last - 0.05, "step", 0.25)]
    film = [((time / shot.slow * shot.rate + shot.top) / shot.rate, kind, hard) for time, kind, hard in heard]
    return [e for e in sorted(film) if 0 <= e[0] < shot.frames / shot.rate]


def soundtrack(shot_name: str) -> np.ndarray:
    """The sound of a shot: float32 (2, n), within -1…1, as long as the picture."""
    shot = SHOTS[shot_name]
    length = shot.frames / shot.rate
    track = surf(length, seed=4 + sum(map(ord, shot_name)) % 50)
    for k, (when, kind, hard) in enumerate(events(shot_name)):
        at = int(when * RATE)
        sound = HEARD[kind](hard, 20 + k)[: track.shape[1] - at]
        pan = 0.5 + 0.35 * np.clip((when / length - 0.5) * 2, -1, 1)
        track[0, at : at + len(sound)] += sound * (1 - pan)
        track[1, at : at + len(sound)] += sound * pan
    return np.tanh(track).astype(np.float32)
