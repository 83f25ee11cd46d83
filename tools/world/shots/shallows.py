"""The shot at the edge of the sea."""

import functools
import math

import numpy as np

from .. import film
from ..acts import Act, Flight, Stance
from ..body import Figure
from ..poses import LAND, STAND
from ..spots import Shallows
from ..water import Splash
from .dunes import along
from .filming import Shot

_FALL = LAND | {
    "rise": 1.12, "lean": 12, "twist": 8, "head": -4, "look": 26, "hipN": 58, "kneeN": 62, "ankleN": 4, "splayN": 10,
    "hipF": 34, "kneeF": 50, "ankleF": 4, "splayF": 12, "shoulderN": 96, "elbowN": 22, "outN": 46,
    "shoulderF": 128, "elbowF": 26, "outF": 34, "foreN": 10, "foreF": 8,
}  # fmt: skip
_IMPACT = _FALL | {"rise": 0.86, "lean": 20, "head": -10, "hipN": 62, "kneeN": 60, "hipF": 44, "kneeF": 58}
_CROUCH = _IMPACT | {
    "rise": 0.66, "lean": 34, "head": -26, "shoulderN": 30, "shoulderF": 62, "outN": 58, "outF": 50, "elbowN": 34,
}  # fmt: skip
_RISEN = STAND | {
    "rise": 0.93, "lean": 4, "twist": -10, "head": -14, "look": 44, "splayN": 8, "splayF": 9, "hipN": 14, "hipF": -8,
    "shoulderN": 30, "elbowN": 92, "outN": 34, "shoulderF": 168, "elbowF": 14, "outF": 12, "foreF": 2,
}  # fmt: skip
SPLASH_DOWN = Act(
    score=((-0.12, _FALL), (0.0, _IMPACT), (0.15, _CROUCH), (0.30, _CROUCH | {"rise": 0.68, "lean": 30}),
           (0.62, _RISEN), (0.85, _RISEN | {"twist": -4, "look": 38}), (1.2, _RISEN)),
    stances=(Stance("N", 0.0, 9.0, 0.34, False), Stance("F", 0.0, 9.0, 0.14, False)),
    flights=(Flight(-0.5, -0.33, 0.0, 1.40),),
    gone=lambda time: 2.1 * time if time < 0 else 2.1 * 0.11 * (1 - math.exp(-time / 0.11)),
)  # fmt: skip


class SplashDown(Shot):
    """Juno lands in the shallows and the water flies; the first frame is the impact, crisp."""

    name, title = "splash-down", "Splash down"
    frames, top, slow = 72, -3.4, 0.42
    shutter, place_samples, figure_samples = 0.3, 5, 6
    spot = Shallows
    focus, blur, most = 5.0, 18.0, 5.0
    heading, start = 22.0, (0.12, 16.6)
    acts, sounds = (SPLASH_DOWN,), ((0.05, "splash", 1.0), (0.55, "splash", 0.25))
    holds = {0: "Impact", 6: "Crown"}

    @classmethod
    def camera_at(cls, frame):
        return film.look_at((0.12, -0.50, 12.5), yaw=0, pitch=2.4, field=40)

    @classmethod
    def perform(cls, time, solid):
        where = along(cls.heading, SPLASH_DOWN.gone(time), cls.start)
        return [Figure(solid, SPLASH_DOWN.pose_at(time), where, cls.heading, time, wind=max(0.25, 0.8 - time))]

    @classmethod
    @functools.cache
    def _water(cls) -> tuple[Splash, Splash]:
        near, far = (along(cls.heading, ahead, cls.start) for ahead in (0.36, 0.16))
        return Splash(near[0], near[2] - 0.08, 4), Splash(far[0], far[2] + 0.10, 9, 1800)

    def thrown(self, time, sample, camera):
        parts = [water.triangles(time, sample, camera) for water in self._water()]
        return np.concatenate([p for p, _ in parts]), np.concatenate([c for _, c in parts])

    @classmethod
    def ring(cls, time):
        x, _, z = along(cls.heading, 0.26, cls.start)
        return (x, z, max(0.0, time), max(0.0, 1.0 - time * 0.75) if time > 0 else 0.0)
