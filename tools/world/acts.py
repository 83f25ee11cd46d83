"""Acts: a figure's way through time, as key poses, stances and flights.

Between key poses every channel follows a cubic Hermite curve; in flights only gravity moves the body; in
stances the leg is bent so that its foot stays where it landed, the heel rising as it leaves.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from .poses import FLIGHT, LAND, LEAP, PASS, PUSH, STAND, Pose, mirrored

SPEED = 3.1
"""Metres a second of a run along the figure's way."""
THIGH, SHIN, ANKLE_UP, HIP_DOWN = 0.425, 0.415, 0.088, 0.03
GRAVITY = 9.95


@dataclass(frozen=True)
class Stance:
    """A foot on the ground from `first` to `last`; `ahead` is where it lands before the pelvis, in metres.

    `peels` says whether the heel rises towards the end, as it does in a run.
    """

    side: str
    first: float
    last: float
    ahead: float = 0.30
    peels: bool = True


@dataclass(frozen=True)
class Flight:
    """The body in the air: highest, at `rise` metres, at time `top`."""

    first: float
    top: float
    last: float
    rise: float


@dataclass(frozen=True)
class Gesture:
    """Channels that lead the pose away from `first`, are there from `there` to `until`, and are back by `last`."""

    channels: Pose
    first: float
    there: float
    until: float
    last: float

    def weight(self, time: float) -> float:
        """The weight of the gesture so far, 0…1."""
        return ease((time - self.first) / (self.there - self.first)) * ease(
            (self.last - time) / (self.last - self.until)
        )


@dataclass(frozen=True)
class Act:
    """The act of a figure: key poses by time (seconds), stances, flights, and how far it has gone by then."""

    score: tuple[tuple[float, Pose], ...]
    stances: tuple[Stance, ...] = ()
    flights: tuple[Flight, ...] = ()
    gestures: tuple[Gesture, ...] = ()
    gone: Callable[[float], float] = field(default=lambda time: SPEED * time)

    def pose_at(self, time: float) -> Pose:
        """The pose at a time of the action; before the first key pose and after the last one it stays."""
        pose = self._between(time)
        for flight in self.flights:
            if flight.first < time < flight.last:
                pose["rise"] = flight.rise - 0.5 * GRAVITY * (time - flight.top) ** 2
        for gesture in self.gestures:
            weight = gesture.weight(time)
            for channel, value in gesture.channels.items():
                pose[channel] += (value - pose[channel]) * weight
        for stance in self.stances:
            self._plant(pose, time, stance)
        return pose

    def _between(self, time: float) -> Pose:
        """Catmull-Rom with uneven knots through the key poses."""
        times = [t for t, _ in self.score]
        last = len(times) - 1
        time = min(max(time, times[0]), times[-1])
        i = min(max(int(np.searchsorted(times, time)) - 1, 0), last - 1)
        before, after = max(i - 1, 0), min(i + 2, last)
        h = times[i + 1] - times[i]
        u = (time - times[i]) / h
        a, b, c, d = (self.score[j][1] for j in (before, i, i + 1, after))
        pose = {}
        for k in STAND:
            m1 = (c[k] - a[k]) / (times[i + 1] - times[before]) if before < i else 0.0
            m2 = (d[k] - b[k]) / (times[after] - times[i]) if after > i + 1 else 0.0
            pose[k] = (
                (2 * u**3 - 3 * u * u + 1) * b[k]
                + (u**3 - 2 * u * u + u) * h * m1
                + (3 * u * u - 2 * u**3) * c[k]
                + (u**3 - u * u) * h * m2
            )
        return pose

    def _plant(self, pose: Pose, time: float, stance: Stance) -> None:
        side, first, last = stance.side, stance.first, stance.last
        weight = ease((time - first + 0.035) / 0.05) * ease((last + 0.045 - time) / 0.06)
        if weight <= 0:
            return
        u = min(max((time - first) / (last - first), 0), 1)
        lift = 0.15 * ease((u - 0.45) / 0.55) ** 1.3 if stance.peels else 0.0
        ahead = self.gone(first) - self.gone(time) + stance.ahead + 0.10 * lift / 0.15
        down = pose["rise"] - HIP_DOWN - ANKLE_UP - lift
        reach = min(math.hypot(ahead, down), (THIGH + SHIN) * 0.995)
        line = math.degrees(math.atan2(ahead, down))
        at_hip = math.degrees(math.acos((THIGH**2 + reach**2 - SHIN**2) / (2 * THIGH * reach)))
        at_knee = math.degrees(math.acos((THIGH**2 + SHIN**2 - reach**2) / (2 * THIGH * SHIN)))
        hip, knee = line + at_hip, 180 - at_knee
        pitch = math.degrees(math.asin(min(1, lift / 0.19)))
        for name, value in (("hip", hip), ("knee", knee), ("ankle", hip - knee + pitch)):
            pose[name + side] += (value - pose[name + side]) * weight


def ease(u: float) -> float:
    """Hermite step from 0 to 1, flat outside."""
    u = min(max(u, 0.0), 1.0)
    return u * u * (3 - 2 * u)


STRIDE = 0.36
"""Seconds from one foot's push to the other's."""


def strides(first_push: float, count: int, change: Pose | None = None) -> tuple[list, list[Stance]]:
    """Key poses and stances of a run: `count` strides, the first with the near leg swinging forward.

    `change` replaces channels in every pose (a hand that holds something, a head that looks back).
    """
    score: list[tuple[float, Pose]] = []
    stances = []
    for n in range(count):
        start = first_push + n * STRIDE
        for offset, pose in ((0.0, PUSH), (0.08, FLIGHT), (0.17, LAND), (0.25, PASS)):
            score.append((start + offset, (pose if n % 2 == 0 else mirrored(pose)) | (change or {})))
        stances.append(Stance("NF"[n % 2], start + 0.17, start + 0.37))
    return score, stances


DUNE_RUN = Act(
    score=(
        (-1.01, PUSH), (-0.93, FLIGHT), (-0.84, LAND), (-0.76, PASS), (-0.65, mirrored(PUSH)),
        (-0.57, mirrored(FLIGHT)), (-0.48, mirrored(LAND)), (-0.40, mirrored(PASS)), (-0.28, PUSH),
        (0.0, LEAP), (0.27, LAND), (0.37, PASS), (0.48, mirrored(PUSH)), (0.56, mirrored(FLIGHT)),
        (0.65, mirrored(LAND)), (0.73, mirrored(PASS)), (0.84, PUSH), (0.92, FLIGHT), (1.01, LAND), (1.09, PASS),
    ),
    stances=(
        Stance("N", -0.84, -0.64), Stance("F", -0.48, -0.27), Stance("N", 0.27, 0.49), Stance("F", 0.65, 0.85),
    ),
    flights=(Flight(-0.28, 0.0, 0.275, 1.36),),
)  # fmt: skip
"""The leap over driftwood; 0 is its top."""
