"""Colours as numbers, and between two: mixed in OKLab (Ottosson 2020, as CSS Color 4 has it), where equal steps look
equal.
"""

from collections.abc import Sequence

import numpy as np

LIGHT_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
LMS_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)


def rgb_of(colour: str) -> tuple[float, float, float]:
    """R', G', B' of #RRGGBB, each 0…1."""
    r, g, b = (int(colour[n : n + 2], 16) / 255 for n in (1, 3, 5))
    return r, g, b


def hex_of(rgb: Sequence[float]) -> str:
    """#RRGGBB of R', G', B'; what lies beyond 0…1 is the nearest that a screen can show."""
    return "#" + "".join(f"{round(min(1.0, max(0.0, v)) * 255):02X}" for v in rgb)


def mixed(one: Sequence[float], other: Sequence[float], share: float) -> list[float]:
    """R', G', B' so much of the way from one colour to another; share may lie beyond 0…1."""
    if share in (0, 1):
        return list(other if share else one)
    a, b = lab_of(one), lab_of(other)
    lms = np.linalg.solve(LMS_TO_LAB, a + (b - a) * share) ** 3
    light = np.clip(np.linalg.solve(LIGHT_TO_LMS, lms), 0, 1)
    return [float(v) for v in np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)]


def lab_of(rgb: np.ndarray | Sequence[float]) -> np.ndarray:
    """OKLab of R', G', B', any number of them, float (…, 3); by the curve of IEC 61966-2-1."""
    v = np.asarray(rgb, float)
    light = np.where(v <= 0.04045, v / 12.92, ((np.maximum(v, 0) + 0.055) / 1.055) ** 2.4)
    return np.cbrt(light @ LIGHT_TO_LMS.T) @ LMS_TO_LAB.T
