"""Tones and colours put through curves: straight R'G'B' of a premultiplied picture, float32 (h, w, 4), in and out."""

from collections.abc import Sequence

import numpy as np

FINE = 1024
"""How many values a curve is tabled at, from 0 to 1; between them it is interpolated."""
STEPS = np.linspace(0, 1, FINE)


def through(
    rgba: np.ndarray, curves: Sequence[np.ndarray], bright: np.ndarray | None = None, saturation: float = 1.0
) -> np.ndarray:
    """A picture through a curve for each of R', G', B', then one for how bright it is, then with its colours as strong.

    Curves are tables of the values at `STEPS`.
    """
    from .compiled.tones_kernels import through

    rgba = np.ascontiguousarray(rgba, np.float32)
    tables = [np.ascontiguousarray(c, np.float32) for c in (*curves, STEPS if bright is None else bright)]
    out = np.empty_like(rgba)
    pixels = rgba.reshape(-1, 4)
    through(pixels, tables[0], tables[1], tables[2], tables[3], np.float32(saturation), out.reshape(-1, 4))
    return out


def mapped(
    rgba: np.ndarray, ramp: np.ndarray, amount: float = 1.0, weights: Sequence[float] = (0.2126, 0.7152, 0.0722)
) -> np.ndarray:
    """A picture with its luma mapped to a colour of a ramp, float (3, FINE), by an amount, 0…1.

    weights: how much red, green and blue count.
    """
    from .compiled.tones_kernels import mapped

    rgba = np.ascontiguousarray(rgba, np.float32)
    out, table = np.empty_like(rgba), np.ascontiguousarray(ramp, np.float32)
    pixels = rgba.reshape(-1, 4)
    mapped(pixels, np.array(weights, np.float32), table, np.float32(amount), out.reshape(-1, 4))
    return out


def ramp_of(colours: Sequence[tuple[float, float, float]], places: Sequence[float]) -> np.ndarray:
    """A ramp from colour to colour, in R'G'B': float (3, FINE); they lie at rising places, 0…1."""
    return np.stack([np.interp(STEPS, places, [c[n] for c in colours]) for n in range(3)])


def through_points(points: Sequence[tuple[float, float]]) -> np.ndarray:
    """A smooth curve through points, never beyond them between two (Fritsch and Carlson 1980), at `STEPS`.

    Before the first and after the last it stays as it is there.
    """
    order = sorted(points)
    x, y = np.array([p[0] for p in order], float), np.array([p[1] for p in order], float)
    if len(x) < 2:
        return np.full(FINE, y[0] if len(y) else 0.0)
    gaps = np.maximum(np.diff(x), 1e-6)
    slopes = np.diff(y) / gaps
    ends = np.concatenate([[slopes[0]], (slopes[:-1] + slopes[1:]) / 2, [slopes[-1]]])
    flat = np.concatenate([[False], slopes[:-1] * slopes[1:] <= 0, [False]])
    ends[flat] = 0
    for i, slope in enumerate(slopes):
        if slope == 0:
            ends[i] = ends[i + 1] = 0
            continue
        a, b = ends[i] / slope, ends[i + 1] / slope
        long = np.hypot(a, b)
        if long > 3:
            ends[i], ends[i + 1] = 3 * a / long * slope, 3 * b / long * slope
    n = np.clip(np.searchsorted(x, STEPS, "right") - 1, 0, len(gaps) - 1)
    t = np.clip((STEPS - x[n]) / gaps[n], 0, 1)
    one, two = ends[n] * gaps[n], ends[n + 1] * gaps[n]
    curve = (
        (2 * t**3 - 3 * t**2 + 1) * y[n] + (t**3 - 2 * t**2 + t) * one
        + (3 * t**2 - 2 * t**3) * y[n + 1] + (t**3 - t**2) * two
    )  # fmt: skip
    return np.clip(curve, 0, 1)
