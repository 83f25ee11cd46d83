"""Where something is while the shutter is open around a frame."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from ...piece.model import Blur


@dataclass(frozen=True)
class Legs:
    """The exactness with which a way is followed.

    straight: how far, in project pixels, it may be from what even legs make of it; least: below so many there is no
    motion; most: how many legs there are at most.
    """

    straight: float = 0.5
    least: float = 0.25
    most: int = 16


def legs(
    at: Callable[[float], np.ndarray],
    time: float,
    blur: Blur,
    corners: np.ndarray,
    settings: Legs | None = None,
    ahead: Callable[[Sequence[float]], None] = lambda times: None,
) -> list[np.ndarray]:
    """Places of something while the shutter is open, evenly spaced in time; none if it hardly moves.

    at: gives its 3×3 matrix at a time in frames; corners: 3×n, of what is moved; ahead: is told, before the first is
    asked for, which times may be. There are as many places as make the
    way from each to the next an even one, judged by the middle between them.
    """
    settings = settings or Legs()
    first, lasts = time + blur.phase / 360, blur.shutter / 360
    known: dict[float, np.ndarray] = {}
    finest = 2 * settings.most
    ahead([first + lasts * (n / finest) for n in range(finest + 1)])

    def seen(share: float) -> np.ndarray:
        if share not in known:
            known[share] = at(first + lasts * share)
        return (known[share] @ corners)[:2]

    if max(float(np.abs(seen(n) - seen(0.0)).max()) for n in (0.25, 0.5, 0.75, 1.0)) < settings.least:
        return []
    count = 1
    while count < settings.most and any(
        np.abs((seen(n / count) + seen((n + 1) / count)) / 2 - seen((n + 0.5) / count)).max() > settings.straight
        for n in range(count)
    ):
        count *= 2
    for n in range(count + 1):
        seen(n / count)
    return [known[n / count] for n in range(count + 1)]
