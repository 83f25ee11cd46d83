"""Chance that is the same each time it is asked: gradient noise in one dimension.

After K. Perlin, Improving Noise (SIGGRAPH 2002): slopes at the whole numbers, joined by 6u⁵ − 15u⁴ + 10u³. The slopes
come from a hash of the number and the seed (the mixer of splitmix64), so that any time can be asked by itself.
"""

import numpy as np


def noise(times: np.ndarray, seed: int, lane: int = 0) -> np.ndarray:
    """Smooth noise at some times: float64 as given, within ±1, 0 at whole numbers, a bump or two for each of them.

    seed: another one is another noise; lane: so are several of one seed, for example across and down.
    """
    whole = np.floor(times)
    u = times - whole
    first = whole.astype(np.int64)
    before, after = _slope(first, seed, lane) * u, _slope(first + 1, seed, lane) * (u - 1)
    return 2 * (before + (after - before) * u**3 * (u * (6 * u - 15) + 10))


def wander(times: np.ndarray, seed: int, lane: int, octaves: int = 3) -> np.ndarray:
    """Noise over noise, each half as strong and a bit more than twice as fast: within ±1, and never 0 for long.

    Each is read from a place of its own between the whole numbers, where they would all be 0 at once.
    """
    found, weight = np.zeros(len(times)), 0.0
    for n in range(octaves):
        found += noise(times * 2.13**n + 0.5 + 0.37 * n, seed, lane * 8 + n) * 0.5**n
        weight += 0.5**n
    return found / weight


def unit(numbers: np.ndarray, seed: int, lane: int = 0) -> np.ndarray:
    """A number of chance, 0…1, for each whole number: float64 as given."""
    return (_slope(numbers, seed, lane) + 1) / 2


def _slope(numbers: np.ndarray, seed: int, lane: int) -> np.ndarray:
    """A slope of −1…1 for each whole number."""
    with np.errstate(over="ignore"):
        z = numbers.astype(np.uint64) + np.uint64(seed) * np.uint64(0x9E3779B97F4A7C15)
        z += np.uint64(lane + 1) * np.uint64(0xD1B54A32D192ED03)
        for shift, by in ((30, 0xBF58476D1CE4E5B9), (27, 0x94D049BB133111EB)):
            z = (z ^ (z >> np.uint64(shift))) * np.uint64(by)
        z ^= z >> np.uint64(31)
    return z.astype(np.float64) / 2.0**63 - 1
