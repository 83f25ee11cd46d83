"""Things in the air: many small ones that drift, fall or fly, worked out for any time by itself."""

import math
from abc import abstractmethod
from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np

from ...common.colour import rgb_of
from ...craft.finishing.setting_fields import Seed, percent, px
from ...piece.motion.hashed import unit
from .worked import Plane, Worked

MOST = 1500
"""How many there are at most."""


@dataclass
class Specks:
    """Where things are, what they look like: arrays of one entry each. Places and lengths are canvas pixels, turns
    radians, opacity 0…1; `soft` is how wide their edge is.
    """

    x: np.ndarray
    y: np.ndarray
    long: np.ndarray
    thin: np.ndarray
    turn: np.ndarray
    soft: np.ndarray
    colour: np.ndarray
    opacity: np.ndarray


class Chances:
    """Numbers of chance for each of so many things, the same whenever they are asked."""

    def __init__(self, count: int, seed: int) -> None:
        self._numbers, self._seed = np.arange(count), seed

    def __call__(self, lane: int, low: float = 0.0, high: float = 1.0, round_: np.ndarray | None = None) -> np.ndarray:
        """One number each, evenly between two; `round_`: each time its number here is another, it is another one."""
        numbers = self._numbers if round_ is None else self._numbers + 100_003 * round_
        return low + (high - low) * unit(numbers, self._seed, lane)


class Air(Worked):
    """One sort of things in the air, over all of the canvas.

    Some are near and some far, as much as `depth` says: near ones are larger, quicker and less sharp. They go out of
    the canvas on one side and come in again on the other, well outside of it.
    """

    looks: ClassVar[str] = "air"
    usual: ClassVar[int] = 200
    """How many there are on a tall canvas."""
    reach: ClassVar[float] = 60.0
    """How far outside of the canvas one may still be seen, in pixels, at its usual size."""
    form: ClassVar[str] = "DISC"
    light: ClassVar[float] = 0.0
    """How much they add to what is below rather than cover it."""
    groups: ClassVar[dict[str, tuple[str, ...]]] = {"In the air": ("wind", "pace", "depth", "seed")}

    amount: Annotated[float, percent("Amount", 0, 5, usual=3)] = 1.0
    large: Annotated[float, percent("Size", 0.1, 8, usual=3)] = 1.0
    wind: Annotated[float, px("Wind, a second", 3000, -3000, usual=600, keyable=False)] = 0.0
    pace: Annotated[float, percent("Pace", 0, 8, keyable=False, usual=3)] = 1.0
    depth: Annotated[float, percent("Depth")] = 0.6
    seed: Seed = 1

    @property
    def moves(self) -> bool:
        return True

    @abstractmethod
    def specks(self, chance: Chances, near: np.ndarray, seconds: float, canvas: tuple[int, int]) -> Specks:
        """All of them at a time; near: how near each is, about 1: how much larger and quicker it is than usual."""

    def painted(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        from ...craft.finishing.compiled import specks_kernels as kernel

        out = np.zeros((*plane.shape, 4), np.float32)
        wanted = self.amount * self.usual * canvas[0] * canvas[1] / (720 * 1280)
        count = min(MOST, math.ceil(wanted))
        if not count:
            return out
        chance = Chances(count, self.seed)
        near = 2.0 ** (self.depth * chance(0, -1.4, 1.4))
        # Far ones are put first, near ones over them.
        order = np.argsort(near, kind="stable")
        found = self.specks(chance, near, seconds, canvas)
        # The last of a share of one is fainter, so that an amount with keys lets none jump in.
        found.opacity[-1] *= wanted - count + 1
        inverse = np.linalg.inv(np.vstack([plane.matrix, [0, 0, 1]]))
        fine, tilt = float(plane.fine), math.atan2(inverse[1, 0], inverse[0, 0])
        at = inverse[:2] @ np.stack([found.x, found.y, np.ones(count)])
        colour = np.column_stack([found.colour, np.clip(found.opacity, 0, 1)])
        half = np.stack([found.long, found.thin]).T * fine
        arrays = (at.T, half, found.turn + tilt, found.soft * fine, colour)
        ready = [np.ascontiguousarray(a[order], np.float32) for a in arrays]
        # Kernels count from the middle of a grid's first pixel.
        ready[0] += np.float32(0.5)
        middles, halves, turns, softs, colours = ready
        light = np.float32(self.light)
        kernel.put(getattr(kernel, self.form), middles, halves, turns, softs, colours, light, out)
        return out

    def drifting(
        self, chance: Chances, near: np.ndarray, seconds: float, canvas: tuple[int, int], down: float, sway: float = 0.0
    ) -> tuple[np.ndarray, np.ndarray]:
        """Places of what goes on and on: `down` so many pixels a second, aside with the wind, swaying by so much."""
        room = self.reach * self.large * 2.2
        wide, high = canvas[0] + 2 * room, canvas[1] + 2 * room
        speed = near * chance(1, 0.75, 1.25)
        period = chance(2, 1.6, 3.8)
        swing = np.sin(2 * math.pi * (self.pace * seconds / period + chance(3)))
        x = chance(4) * wide + self.wind * speed * seconds + sway * near * swing
        y = chance(5) * high + down * self.pace * speed * seconds
        return x % wide - room, y % high - room

    def blurred(self, near: np.ndarray, size: np.ndarray) -> np.ndarray:
        """The softness of things of such a size: what lies out of focus, near or far, is the softer."""
        return size * self.depth * np.abs(np.log2(near)) * 0.55 + 0.8


def shades(colours: tuple[str, ...], chance: Chances, lane: int) -> np.ndarray:
    """One of several colours for each: R'G'B', (n, 3)."""
    table = np.array([rgb_of(c) for c in colours])
    return table[np.minimum((chance(lane) * len(colours)).astype(int), len(colours) - 1)]


def mixed(one: str, other: str, share: np.ndarray) -> np.ndarray:
    """Colours between two, (n, 3)."""
    a, b = np.array(rgb_of(one)), np.array(rgb_of(other))
    return a + (b - a) * np.clip(share, 0, 1)[:, None]
