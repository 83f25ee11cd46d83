"""The shifts that behaviours add to keys, over time."""

from collections.abc import Callable, Sequence

import numpy as np

from ..model.behaviour import Behaviour, BehaviourKind, BehaviourStage, Shift, Shifts


class Looked:
    """The shifts over time, looked up: none is worked out twice, and what is known to come is worked out at once.

    shifts: gives what is added at some times, float64 (n,); about as quick for many as for one
    """

    def __init__(self, shifts: Callable[[np.ndarray], Shifts], most: int = 4096) -> None:
        self._shifts, self._most = shifts, most
        self._known: dict[float, Shift] = {}

    def at(self, time: float) -> Shift:
        """The shift at a time."""
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
    """The shifts that some behaviours, with their settings as `ways`, add at some times on a stage."""
    found = Shifts.none(len(times))
    for one, way in zip(behaviours, ways, strict=True):
        start, end = stage.start - one.before, stage.end + one.after
        landing = start if stage.landing == stage.start else stage.landing
        own = BehaviourStage(start, landing, end, stage.rate, stage.box, one.seed)
        found = found.with_(way.shifts(times, own).weighed(one.strength * _presence(one, times, own)))
    return found


def _presence(one: Behaviour, times: np.ndarray, stage: BehaviourStage) -> np.ndarray:
    """The presence of a behaviour, 0…1: it comes and goes smoothly (3u² − 2u³)."""
    found = np.ones(len(times))
    for lasts, gone in ((one.fade_in, times - stage.start), (one.fade_out, stage.end - times)):
        if lasts:
            u = np.clip(gone / lasts, 0, 1)
            found = found * u * u * (3 - 2 * u)
    return found
