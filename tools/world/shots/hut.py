"""Two takes in front of the beach hut, one camera."""

import math

from .. import film, hut
from ..acts import Act, Gesture, ease, strides
from ..body import JUNO, TEO, Figure
from ..film import Stock
from ..poses import STAND
from ..spots import HutFront
from .dunes import along
from .filming import Shot, texture


class HutWindow(Shot):
    """The hut's open window, the beach beside it; the camera stands still."""

    spot = HutFront
    slow = 0.8
    focus, blur, most = 4.5, 14.0, 4.0
    stock = Stock(exposure=1.12)

    @classmethod
    def camera_at(cls, frame):
        return film.look_at((-12.95, 1.45, -3.95), yaw=0.0, pitch=2.0, field=38)


_SCORE, _FEET = strides(-1.6, 12, {"look": 14})
PASSING = Act(score=tuple(_SCORE), stances=tuple(_FEET))


class HutWindow1(HutWindow):
    """Take 1: the window is empty; Teo runs past on the beach."""

    name, title = "hut-window-1", "Hut window, take 1"
    frames, top = 84, 46
    acts = (PASSING,)
    holds = {46: "Passing"}

    @classmethod
    def perform(cls, time, solid):
        where = along(-82, PASSING.gone(time), (-12.05, 3.05))
        return [Figure(solid, PASSING.pose_at(time), where, -82, time, TEO)]


_REST = STAND | {
    "rise": 0.95, "lean": 4, "look": -2, "head": -2, "twist": 4, "shoulderN": 6, "elbowN": 30,
    "shoulderF": 8, "elbowF": 60, "outF": 16,
}  # fmt: skip
SNAP = Act(
    score=((-2.0, _REST), (-1.1, _REST | {"twist": -2, "rise": 0.945}), (-0.4, _REST | {"tilt": 3}),
           (0.0, _REST | {"tilt": 4}), (0.5, _REST | {"tilt": 3, "head": -6}), (1.2, _REST)),
    gestures=(
        Gesture({"shoulderN": 66, "elbowN": 92, "outN": 12, "foreN": -8, "curlN": 0.30}, -1.2, -0.7, 0.75, 1.1),
        Gesture({"snapN": 0.49, "curlN": 0.40}, -0.6, -0.25, 1.0, 1.4),
        Gesture({"snapN": 1.0, "elbowN": 80, "shoulderN": 62}, -0.03, 0.02, 0.25, 0.5),
        Gesture({"head": -8, "look": -10, "lean": 7}, -0.1, 0.05, 0.5, 0.9),
    ),
    gone=lambda time: 0.0,
)  # fmt: skip


class HutWindow2(HutWindow):
    """Take 2: Juno stands in the window and snaps her fingers."""

    name, title = "hut-window-2", "Hut window, take 2"
    frames, top = 84, 48
    shades = False
    figure_lamp = (0.0, 0.0, 0.0, 0.95, 0.90, 0.85)
    sounds = ((0.0, "snap", 1.0),)
    holds = {50: "Snap"}

    @classmethod
    def perform(cls, time, solid):
        lean = 0.30 * (1 - ease((time + 1.25) / 0.5))
        x = -13.25 - 0.9 * lean
        pelvis = (x, hut.floor(texture()) + 0.02, hut.FRONT + 0.62 + 0.2 * lean)
        return [Figure(solid, SNAP.pose_at(time), pelvis, 82, time, JUNO, None, wind=0.12 + 0.05 * math.sin(time))]
