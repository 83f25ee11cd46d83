"""What behaviours add to keys, over time."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from ..model import Behaviour, BehaviourKind
from ..model.source import Box


@dataclass(frozen=True)
class BehaviourStage:
    """Where a behaviour plays.

    start, landing, end: project frames, half-open; rate: frames a second; box: what it moves, from the anchor at rest
    in project pixels; seed: what chance goes by.
    """

    start: int
    landing: int
    end: int
    rate: float
    box: Box
    seed: int = 0


class Shift(NamedTuple):
    """What is added at one time: project pixels, degrees clockwise, and factors of scale and opacity."""

    across: float
    down: float
    turn: float
    scale: float
    opacity: float


@dataclass(frozen=True)
class Shifts:
    """What is added at some times, each float64 (n,).

    across and down in project pixels, turn in degrees clockwise; scale and opacity are factors.
    """

    across: np.ndarray
    down: np.ndarray
    turn: np.ndarray
    scale: np.ndarray
    opacity: np.ndarray

    @classmethod
    def none(cls, n: int) -> "Shifts":
        """Nothing, at so many times."""
        zero, one = np.zeros(n), np.ones(n)
        return cls(zero, zero, zero, one, one)

    @classmethod
    def joined(cls, parts: "Sequence[Shifts]") -> "Shifts":
        """Those of several stretches of time, one after the other."""
        return cls(*(np.concatenate([getattr(p, n) for p in parts]) for n in Shift._fields))

    def at(self, n: int) -> Shift:
        """What is added at one of the times."""
        return Shift(*(float(getattr(self, name)[n]) for name in Shift._fields))

    def weighed(self, by: np.ndarray) -> "Shifts":
        """So much of it, at each time."""
        parts = self.across * by, self.down * by, self.turn * by
        return Shifts(*parts, 1 + (self.scale - 1) * by, 1 + (self.opacity - 1) * by)

    def with_(self, other: "Shifts") -> "Shifts":
        """Both together."""
        parts = self.across + other.across, self.down + other.down, self.turn + other.turn
        return Shifts(*parts, self.scale * other.scale, self.opacity * other.opacity)


class Looked:
    """What is added over time, looked up: what is asked for again is not worked out again, nor what is known to come.

    shifts: gives what is added at some times, float64 (n,); about as quick for many as for one
    """

    def __init__(self, shifts: Callable[[np.ndarray], Shifts], most: int = 4096) -> None:
        self._shifts, self._most = shifts, most
        self._known: dict[float, Shift] = {}

    def at(self, time: float) -> Shift:
        """What is added at a time."""
        if time not in self._known:
            self.ahead((time,))
        return self._known[time]

    def ahead(self, times: Sequence[float]) -> None:
        """Works out what is added at some times that will be asked for."""
        new = [t for t in times if t not in self._known]
        if len(self._known) + len(new) > self._most:
            self._known.clear()
            new = list(times)
        if new:
            found = self._shifts(np.array(new, float))
            self._known.update((t, found.at(n)) for n, t in enumerate(new))


def shifts_of(
    behaviours: Sequence[Behaviour], ways: Sequence[BehaviourKind], times: np.ndarray, stage: BehaviourStage
) -> Shifts:
    """What some behaviours, with their settings as `ways`, add at some times on a stage."""
    found = Shifts.none(len(times))
    for one, way in zip(behaviours, ways, strict=True):
        start, end = stage.start - one.before, stage.end + one.after
        landing = start if stage.landing == stage.start else stage.landing
        own = BehaviourStage(start, landing, end, stage.rate, stage.box, one.seed)
        found = found.with_(way.shifts(times, own).weighed(one.strength * _presence(one, times, own)))
    return found


def _presence(one: Behaviour, times: np.ndarray, stage: BehaviourStage) -> np.ndarray:
    """How much of a behaviour is there, 0…1: it comes and goes smoothly (3u² − 2u³)."""
    found = np.ones(len(times))
    for lasts, gone in ((one.fade_in, times - stage.start), (one.fade_out, stage.end - times)):
        if lasts:
            u = np.clip(gone / lasts, 0, 1)
            found = found * u * u * (3 - 2 * u)
    return found
