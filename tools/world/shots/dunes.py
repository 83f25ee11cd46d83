"""The shots that are filmed in the gap of the dunes."""

import functools
import math

import numpy as np

from .. import film, props
from ..acts import DUNE_RUN, SPEED, STRIDE, Act, Flight, Gesture, ease, strides
from ..body import JUNO, TEO, Figure
from ..film import Stock
from ..mesh import Mesh
from ..poses import LAND, LEAP, PUSH, STAND, mirrored
from ..solids import Solid
from ..spots import HighKite, OpenSky
from .filming import Shot, ground_at


def along(heading: float, metres: float, start=(0.0, 0.0)) -> np.ndarray:
    """The point on the ground `metres` from `start` along a heading."""
    turn = math.radians(heading)
    return ground_at(start[0] + math.cos(turn) * metres, start[1] - math.sin(turn) * metres)


class DuneRun(Shot):
    """Juno leaps over driftwood, left to right, in slow motion; the camera stands still. Its last second is empty."""

    name, title = "dune-run", "Dune run"
    frames, top = 132, 60
    acts = (DUNE_RUN,)
    holds = {46: "Take-off", 60: "Top of the leap", 74: "Coming down"}

    @classmethod
    def perform(cls, time, solid):
        where = along(16, DUNE_RUN.gone(time))
        if abs(where[0]) > 3.4:
            return []
        return [Figure(solid, DUNE_RUN.pose_at(time), where, 16, time)]


class EmptyShore(Shot):
    """The same camera with nobody there: wind, flags, sea."""

    name, title = "empty-shore", "Empty shore"
    frames, top, cast = 90, -100, 0


_TURN = STAND | {
    "rise": 0.94, "turn": 4, "lean": 4, "twist": 6, "head": 4, "look": 2,
    "shoulderF": 12, "elbowF": 88, "foreF": -12, "curlF": 0.85, "shoulderN": -6, "elbowN": 30,
}  # fmt: skip
_WIND_UP = _TURN | {
    "rise": 0.92, "turn": 44, "lean": -2, "twist": 26, "head": -2, "look": 34,
    "shoulderF": -28, "elbowF": 124, "outF": 20, "shoulderN": 22, "elbowN": 50, "outN": 22,
}  # fmt: skip
_THRUST = _TURN | {
    "rise": 0.95, "turn": 74, "lean": 9, "twist": -22, "head": -6, "look": 20, "tilt": 3,
    "shoulderF": 80, "elbowF": 4, "outF": -17, "foreF": -19, "shoulderN": -34, "elbowN": 64, "outN": 28,
}  # fmt: skip
REEL_OUT = Act(
    score=(
        (0.0, _TURN), (0.28, _TURN | {"twist": 2, "turn": 6}), (0.66, _WIND_UP),
        (0.80, _WIND_UP | {"turn": 50, "shoulderF": -22, "rise": 0.925}),
        (1.00, _THRUST | {"shoulderF": 84, "lean": 11, "twist": -27, "turn": 77}), (1.14, _THRUST),
        (1.9, _THRUST | {"shoulderF": 79, "twist": -20, "rise": 0.945}),
        (2.6, _THRUST | {"shoulderF": 80, "twist": -21}),
    ),
    gone=lambda time: 0.10 * ease((time - 0.8) / 0.25),
)  # fmt: skip


class ReelOut(Shot):
    """Half figure: Juno turns to the lens and thrusts the kite reel forward at arm's length; a crisp hold."""

    name, title = "reel-out", "Reel out"
    frames, slow = 75, 0.9
    focus, blur, most = 1.7, 11.0, 5.0
    sounds = ((0.82, "flutter", 0.9),)
    holds = {44: "Reel out"}

    @classmethod
    def camera_at(cls, frame):
        return film.look_at((-3.06, 1.32, -1.62), yaw=11, pitch=-1.2, field=40)

    @classmethod
    def perform(cls, time, solid):
        where = along(16, REEL_OUT.gone(time), (-2.66, 0.62))
        return [Figure(solid, REEL_OUT.pose_at(time), where, 8, time, carries="reel", wind=0.55)]


_REACH = LEAP | {
    "rise": 1.40, "lean": 2, "twist": -10, "head": -26, "look": 0, "tilt": 0,
    "hipN": 62, "kneeN": 78, "ankleN": 24, "hipF": -14, "kneeF": 52, "ankleF": 44,
    "shoulderN": 62, "elbowN": 40, "outN": 30, "shoulderF": 171, "elbowF": 6, "outF": 6, "foreF": 2, "curlF": 0.15,
}  # fmt: skip
_GRAB = _REACH | {"curlF": 0.95, "head": -18, "hipN": 54, "hipF": -6, "shoulderF": 164, "elbowF": 22}
_DROP = LAND | {
    "rise": 0.99, "look": 0, "head": -8, "lean": 8, "hipN": 46, "kneeN": 36, "hipF": 8, "kneeF": 60,
    "shoulderF": 150, "elbowF": 40, "curlF": 0.95, "shoulderN": 26, "elbowN": 70, "outN": 34,
}  # fmt: skip
_RUN_UP, _RUN_UP_FEET = strides(-0.28 - 3 * STRIDE, 3, {"look": 4, "head": -14, "curlF": 0.35})
KITE_CATCH = Act(
    score=(*_RUN_UP, (-0.28, mirrored(PUSH) | {"look": 2, "head": -18, "curlF": 0.25, "rise": 0.96}),
           (-0.02, _REACH), (0.10, _GRAB), (0.29, _DROP), (0.5, _DROP)),
    stances=tuple(_RUN_UP_FEET),
    flights=(Flight(-0.28, 0.0, 0.285, 1.385),),
)  # fmt: skip


class KiteCatch(Shot):
    """Juno runs at the lens, jumps up and grabs the kite's tail; ends with the body filling the frame."""

    name, title = "kite-catch", "Kite catch"
    spot = OpenSky
    frames, top, slow = 68, 46, 0.45
    focus, blur, most = 3.2, 16.0, 5.0
    acts, sounds = (KITE_CATCH,), ((0.045, "flutter", 0.9),)
    holds = {44: "Up", 67: "Full frame"}
    heading, start, catch = 64.0, (0.55, 1.9), 0.045

    @classmethod
    def camera_at(cls, frame):
        return film.look_at((1.56, 0.90, -0.30), yaw=-19, pitch=12.5, field=55)

    @classmethod
    def perform(cls, time, solid):
        where = along(cls.heading, KITE_CATCH.gone(time), cls.start)
        return [Figure(solid, KITE_CATCH.pose_at(time), where, cls.heading, time, carries=None)]

    @classmethod
    @functools.cache
    def _caught(cls) -> np.ndarray:
        return cls.perform(cls.catch, Solid())[0].joints["handF"]

    def thrown(self, time, sample, camera):
        mesh = Mesh()
        if time < self.catch:
            away = np.array([0.10 * math.sin(time * 6), 0.05 * math.sin(time * 9), 0.05 * math.cos(time * 5)])
            end = self._caught() + away * min(1.0, (self.catch - time) / 0.12)
        else:
            end = self.perform(time, Solid())[0].joints["handF"]
        props.tail(mesh, time, camera, end, ease((self.catch + 0.1 - time) / 0.3))
        return mesh.arrays()


_HOLD_OUT = {"shoulderN": 74, "elbowN": 10, "outN": -4, "foreN": -2, "twist": 22, "look": 4}
_REACH_BACK = {"shoulderF": -72, "elbowF": 12, "outF": 16, "twist": 30, "look": -60, "lean": 10}
_GIVING, _GIVING_FEET = strides(-2.02, 12)
GIVER = Act(
    score=tuple(_GIVING), stances=tuple(_GIVING_FEET),
    gestures=(
        Gesture(_HOLD_OUT, -0.42, -0.1, 0.02, 0.3),
        Gesture({"look": 14, "head": -4}, 0.05, 0.3, 2.0, 3.0),
        Gesture({"curlN": 0.25}, 0.02, 0.08, 2.0, 3.0),
    ),
    gone=lambda time: SPEED * time if time < 0 else SPEED * 0.9 * (1 - math.exp(-time / 0.9)),
)  # fmt: skip
_TAKING, _TAKING_FEET = strides(-1.86, 12, {"look": 20})
TAKER = Act(
    score=tuple(_TAKING), stances=tuple(_TAKING_FEET),
    gestures=(
        Gesture(_REACH_BACK, -0.6, -0.28, 0.02, 0.2),
        Gesture({"curlF": 0.9}, -0.03, 0.03, 2.0, 3.0),
    ),
    gone=lambda time: 2.75 * time if time < 0 else 2.75 * time + 0.75 * time * min(time, 0.6),
)  # fmt: skip


class ChangeOver(Shot):
    """Juno hands the streamer on to Teo of the other club; the two overlap on the picture."""

    name, title = "change-over", "Change-over"
    frames, top, slow = 84, 44, 0.45
    figure_samples = 6
    cast = 2
    spot = HighKite
    heading = 42.0
    focus, blur = 5.6, 18.0
    acts, sounds = (GIVER, TAKER), ((0.0, "flutter", 0.5),)
    holds = {44: "Hand to hand"}

    @classmethod
    def camera_at(cls, frame):
        return film.look_at((0.50, 1.28, -3.5), yaw=-4.5, pitch=0.3, field=32)

    @classmethod
    @functools.cache
    def _reach(cls) -> tuple[float, float]:
        """Where Teo's way starts (x, z), so that his hand meets the streamer at time 0."""
        giver = cls._giver(0.0, Solid())
        taker = Figure(Solid(), TAKER.pose_at(0.0), (0, 0, 0), cls.heading, 0.0, TEO, None, 1)
        turn = math.radians(cls.heading)
        meet = giver.joints["handN"] + np.array([math.cos(turn), 0.4, -math.sin(turn)]) * 0.13
        gap = meet - taker.joints["handF"]
        return float(gap[0]), float(gap[2])

    @classmethod
    def _giver(cls, time, solid):
        where = along(cls.heading, GIVER.gone(time), (-0.75, 3.45))
        holds = "streamer" if time < 0 else None
        return Figure(solid, GIVER.pose_at(time), where, cls.heading, time, JUNO, holds, 0, grip="N")

    @classmethod
    def perform(cls, time, solid):
        giver = cls._giver(time, solid)
        x, z = cls._reach()
        where = along(cls.heading, TAKER.gone(time), (x, z))
        holds = None if time < 0 else "streamer"
        taker = Figure(solid, TAKER.pose_at(time), where, cls.heading, time, TEO, holds, 1)
        return [giver, taker]


_SPRINT, _SPRINT_FEET = strides(-1.6, 12, {"look": 12, "head": -2})
SPRINT = Act(score=tuple(_SPRINT), stances=tuple(_SPRINT_FEET))


class Dusk60(Shot):
    """Last light, 60 frames a second: Teo runs towards the lens, limbs blurred, the picture full of noise."""

    name, title = "dusk-60", "Dusk 60"
    frames, rate, slow, top = 72, 60, 1.0, 42
    shutter, figure_samples = 0.95, 10
    lamp = (0.16, 0.10, 0.075, 0.27, 0.24, 0.30)
    stock = Stock(exposure=1.45, tint=(1.06, 0.93, 1.0), grain=0.040, speckle=0.024)
    acts = (SPRINT,)
    holds = {34: "Stride"}

    @classmethod
    def camera_at(cls, frame):
        return film.look_at((0.35, 1.02, -5.6), yaw=-2, pitch=3.5, field=42)

    @classmethod
    def perform(cls, time, solid):
        where = along(50, SPRINT.gone(time), (0.05, -2.15))
        return [Figure(solid, SPRINT.pose_at(time), where, 50, time, TEO, "streamer")]


class PhoneUpright(Shot):
    """The leap as somebody's phone saw it, held upright by hand, a little to the side."""

    name, title = "phone-upright", "Phone upright"
    frames, top, slow = 56, 30, 0.6
    locked, place_samples, phone = False, 2, True
    stock = Stock(exposure=1.0, grain=0.012, speckle=0.006)
    blur, most = 10.0, 3.0
    acts = (DUNE_RUN,)
    holds = {30: "Top of the leap"}

    @classmethod
    def camera_at(cls, frame):
        yaw, pitch, roll = film.shake(frame / cls.rate, 2.0, 0.9)
        walk = 0.05 * math.sin(frame / cls.rate * 1.7)
        return film.look_at((1.15 + walk, 1.46, -5.1), yaw=-12 + yaw, pitch=-2 + pitch, roll=roll + 1.0, field=47)

    @classmethod
    def perform(cls, time, solid):
        where = along(16, DUNE_RUN.gone(time))
        if abs(where[0]) > 4:
            return []
        return [Figure(solid, DUNE_RUN.pose_at(time), where, 16, time, TEO)]
