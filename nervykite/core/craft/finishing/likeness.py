"""The tones of a picture as a few numbers, and a picture given the tones of another.

After Reinhard, Ashikhmin, Gooch and Shirley, “Color Transfer between Images” (2001), in OKLab; lightness goes by five
quantiles instead of mean and spread, so that blacks meet blacks.
"""

from collections.abc import Sequence

import numpy as np

from ...common.colour import LIGHT_TO_LMS, LMS_TO_LAB, lab_of
from .linear_light import to_code, to_light
from .tones import FINE, STEPS, through_points

QUANTILES = 0.02, 0.25, 0.5, 0.75, 0.98
COUNT = len(QUANTILES) + 4
"""How many numbers stand for tones: quantiles of lightness, means of a and b, how far these spread."""
MOST = 40_000
STEEP = 0.4, 2.5
"""By how much contrasts and colours are weakened and strengthened at most."""


def tones_of(rgba: np.ndarray) -> list[float] | None:
    """The tones of what a premultiplied R'G'B'A picture, float32 (h, w, 4), covers; None if that is too little."""
    step = max(1, int(np.sqrt(rgba.shape[0] * rgba.shape[1] / MOST)))
    some = rgba[::step, ::step]
    some = some[some[..., 3] > 0.6]
    if len(some) < 16:
        return None
    lab = lab_of(np.clip(some[:, :3] / some[:, 3:], 0, 1))
    numbers = [*np.quantile(lab[:, 0], QUANTILES), *lab[:, 1:].mean(0), *lab[:, 1:].std(0)]
    return [round(float(v), 4) for v in numbers]


def with_tones(rgba: np.ndarray, like: Sequence[float], lightness: float, colour: float) -> np.ndarray:
    """A premultiplied R'G'B'A picture, float32 (h, w, 4), with the tones of another as `tones_of` says them.

    lightness, colour: how much of each, 0…1.
    """
    from .compiled.likeness_kernels import shift

    own = tones_of(rgba)
    if own is None:
        return rgba
    q = len(QUANTILES)
    curve = STEPS + lightness * (_curve(own[:q], like[:q]) - STEPS)
    gains = np.clip(np.array(like[q + 2 :]) / np.maximum(own[q + 2 :], 1e-3), *STEEP)
    gains = 1 + colour * (gains - 1)
    means = np.array(own[q : q + 2])
    towards = means + colour * (np.array(like[q : q + 2]) - means)
    light = to_light(rgba)
    out = np.empty_like(light)
    back = np.linalg.inv(LMS_TO_LAB), np.linalg.inv(LIGHT_TO_LMS)
    given = [np.ascontiguousarray(v, np.float32) for v in (LIGHT_TO_LMS, LMS_TO_LAB, *back, means, gains, towards)]
    shift(light.reshape(-1, 4), np.asarray(curve, np.float32), out.reshape(-1, 4), *given)
    out = to_code(out)
    out[..., 3] = rgba[..., 3]
    return out


def _curve(own: Sequence[float], like: Sequence[float]) -> np.ndarray:
    """Lightness to lightness at `STEPS`, through quantiles, nowhere steeper or flatter than is good to see."""
    x, y = [max(0.0, min(1.0, v)) for v in own], [max(0.0, min(1.0, v)) for v in like]
    points = [(x[0], y[0])]
    for a, b in zip(x[1:], y[1:], strict=True):
        if a - points[-1][0] < 0.01:
            continue
        run = a - points[-1][0]
        rise = min(max(b - points[-1][1], run * STEEP[0]), run * STEEP[1])
        points.append((a, points[-1][1] + rise))
    # What was held back on the way is made good about the middle.
    middle = float(np.interp(own[2], [p[0] for p in points], [p[1] for p in points])) - y[2]
    points = [(a, min(1.0, max(0.0, b - middle))) for a, b in points]
    if points[0][0] > 0.01:
        points.insert(0, (0.0, max(0.0, points[0][1] - points[0][0])))
    if points[-1][0] < 0.99:
        points.append((1.0, min(1.0, points[-1][1] + 1 - points[-1][0])))
    return through_points(points) if len(points) > 1 else np.full(FINE, y[2])
