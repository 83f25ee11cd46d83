"""The shot along the groyne."""

from .. import film
from ..acts import Act, ease, strides
from ..body import Figure
from ..spots import Groyne
from .dunes import along
from .filming import Shot

_SCORE, _FEET = strides(-2.2, 14, {"look": 18})
ALONG = Act(score=tuple(_SCORE), stances=tuple(_FEET))


class GroynePan(Shot):
    """The camera follows Juno along the wooden groyne, hand-held, with a slight zoom."""

    name, title = "groyne-pan", "Groyne pan"
    frames, top, slow = 90, 45, 0.62
    locked, place_samples = False, 3
    spot = Groyne
    focus, blur, most = 5.6, 16.0, 4.0
    heading, start = -11.0, (16.2, 1.35)
    acts = (ALONG,)
    holds = {22: "First stride", 45: "Middle", 68: "Last stride"}

    @classmethod
    def camera_at(cls, frame):
        time = frame / cls.rate
        yaw, pitch, roll = film.shake(time, 0.7, 0.55)
        u = ease((frame + 22) / (cls.frames + 40)) * 2 - 1
        sway = (0.035 * film.shake(time * 0.6, 3.1, 1.0)[0], 0.02 * film.shake(time * 0.8, 5.0, 1.0)[0])
        return film.look_at(
            (16.1 + sway[0], 1.36 + sway[1], -4.4),
            yaw=30.5 * u + yaw, pitch=0.6 + pitch, roll=roll, field=43 - 5 * (u + 1) / 2,
        )  # fmt: skip

    @classmethod
    def perform(cls, time, solid):
        where = along(cls.heading, ALONG.gone(time), cls.start)
        return [Figure(solid, ALONG.pose_at(time), where, cls.heading, time)]
