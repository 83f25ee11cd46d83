"""The figures of the relay: bodies of tapered capsules, posed, dressed in their club's colours.

Juno Abara runs for the Harbour Hares, Teo Marrick for the Salt Lane Swifts (made-up people, made-up clubs).
"""

import math
from dataclasses import dataclass

import numpy as np

from .acts import SHIN, THIGH
from .poses import Pose
from .solids import Solid, unit

SKIN, JACKET, LEG, SHOE, SOLE, HAIR, BAND, EYE, LIP, CARRIED, SHORTS = range(11)
CAST = 16
"""Materials of the second figure of a scene begin here, of the third at twice this."""
# The patterns that the light kernel's `albedo` knows.
TORSO, STRIPE, HEM, EYEBALL, HEADBAND, SOCK, UPPER_ARM, FOREARM = 1, 2, 4, 5, 6, 7, 10, 11
CUFF, HANDLE, CLOTH, YOKE, WOUND, DISC, STRAND, VISOR = 12, 13, 14, 15, 16, 17, 20, 21


@dataclass(frozen=True)
class Costume:
    """The costume of a figure.

    dyes: linear colours (11, 3) of: light, main, bright, yoke, leggings, shorts, shoes, skin, hair, band, lips.
    """

    dyes: tuple[tuple[float, float, float], ...]
    long_hair: bool = True


JUNO = Costume(
    (
        (0.93, 0.84, 0.66), (0.86, 0.105, 0.055), (0.98, 0.55, 0.04), (0.010, 0.235, 0.29), (0.055, 0.095, 0.20),
        (0.016, 0.032, 0.10), (0.96, 0.60, 0.03), (0.60, 0.315, 0.185), (0.060, 0.024, 0.013), (0.02, 0.42, 0.46),
        (0.42, 0.10, 0.075),
    )
)  # fmt: skip
TEO = Costume(
    (
        (0.88, 0.84, 0.76), (0.055, 0.16, 0.30), (0.86, 0.46, 0.06), (0.78, 0.71, 0.58), (0.115, 0.115, 0.12),
        (0.014, 0.060, 0.105), (0.80, 0.78, 0.72), (0.33, 0.155, 0.085), (0.022, 0.014, 0.010), (0.86, 0.30, 0.05),
        (0.25, 0.07, 0.055),
    ),
    long_hair=False,
)  # fmt: skip


class Figure:
    """One figure at one instant, added to `solid`.

    `pelvis` is the place on the ground below it (x, ground height, z), `heading` in degrees: 0 to the right,
    positive towards the camera. `time` drives hair, hem and streamer; `carries` is what the hand `grip` holds:
    None, "streamer" or "reel". `wind` is the speed of the air past the figure, 1 in a run.
    """

    def __init__(
        self, solid: Solid, pose: Pose, pelvis, heading: float, time: float,
        costume: Costume = JUNO, carries: str | None = "streamer", cast: int = 0, wind: float = 1.0, grip: str = "F",
    ) -> None:  # fmt: skip
        self.time, self.pose, self.wind, self.carries, self._grip = time, pose, wind, carries, grip
        self.solid, self.costume, self._cast = solid, costume, cast
        turn = math.radians(heading + pose["turn"])
        self.ahead = np.array([math.cos(turn), 0, -math.sin(turn)])
        self.far = np.array([math.sin(turn), 0, math.cos(turn)])
        tilt = math.radians(pose["tilt"])
        self.up = np.array([0, math.cos(tilt), 0]) + self.far * math.sin(tilt)
        self.pelvis = np.asarray(pelvis, float) + [0, pose["rise"], 0]
        self.joints: dict[str, np.ndarray] = {"pelvis": self.pelvis}
        lean = math.radians(pose["lean"])
        self.spine = math.sin(lean) * self.ahead + math.cos(lean) * self.up
        self.chest = math.cos(lean) * self.ahead - math.sin(lean) * self.up
        twist = math.radians(pose["twist"])
        self.across = self.far * math.cos(twist) + self.chest * math.sin(twist)
        self.front = self.chest * math.cos(twist) - self.far * math.sin(twist)
        self.hips = self.far * math.cos(twist * 0.4) + self.chest * math.sin(twist * 0.4)
        self._torso()
        self._head()
        for side, name in ((-1, "N"), (1, "F")):
            self._leg(side, name)
            self._arm(side, name)

    def add(self, material: int, limb: int, *shape, **more) -> None:
        """Adds a capsule of this figure's own material."""
        self.solid.add(material + CAST * self._cast, limb, *shape, **more)

    def _limb(self, angle: float, out: float = 0.0, side: int = 0) -> np.ndarray:
        """Direction of a limb: `angle` from straight down, forward positive; `out` to the side."""
        a, o = math.radians(angle), math.radians(out)
        down = math.sin(a) * self.ahead - math.cos(a) * self.up
        return down * math.cos(o) + self.far * side * math.sin(o)

    def _torso(self) -> None:
        add, p, up, front = self.add, self.pelvis, self.spine, self.front
        neck = p + up * 0.515
        self.joints["neck"] = neck
        add(JACKET, 0, p + up * 0.015, p + up * 0.17, 0.138, 0.128, front, 0.86, 1.12, 0.04, TORSO, 0.015)
        add(JACKET, 0, p + up * 0.17, p + up * 0.40, 0.128, 0.146, front, 0.90, 1.22, 0.06, TORSO, 0.17)
        yoke = p + up * 0.43
        reach = self.across * 0.135
        add(JACKET, 0, yoke - reach, yoke + reach, 0.066, 0.066, up, melt=0.07, pattern=YOKE)
        add(JACKET, 0, p + up * 0.455, neck + up * 0.02, 0.085, 0.066, front, melt=0.05, pattern=TORSO, offset=0.45)
        hood = neck - self.chest * 0.08
        add(JACKET, 0, hood + up * 0.005, hood - up * 0.085, 0.052, 0.066, self.across, 1.35, 1, 0.04, TORSO, 0.47)
        # The hem flaps behind: two loose folds that the wind lifts in turn.
        add(JACKET, 0, p - up * 0.035, p + up * 0.02, 0.146, 0.142, front, 0.90, 1.10, 0.02, TORSO, -0.045)
        seat = p - up * 0.080
        add(SHORTS, 2, seat - self.hips * 0.048, seat + self.hips * 0.048, 0.130, 0.130, up, 1, 0.98, 0.06)
        for k, (side, reach) in enumerate(((-0.5, 0.10), (0.45, 0.13))):
            root = p - self.chest * 0.105 + self.hips * side * 0.16 - up * 0.02
            lift = (0.5 + 0.35 * math.sin(self.time * 21 + k * 2.1)) * self.wind
            fold = root - unit(self.chest * 0.9 * self.wind + up * (0.9 - lift)) * reach
            add(JACKET, 0, root, fold, 0.040, 0.020, up + front * 0.2, 1.0, 0.45, 0.05, TORSO, -0.06)

    def _head(self) -> None:
        add, up0, neck = self.add, self.spine, self.pelvis + self.spine * 0.515
        pitch = math.radians(self.pose["lean"] * 0.45 + self.pose["head"])
        up = math.sin(pitch) * self.ahead + math.cos(pitch) * self.up
        straight = math.cos(pitch) * self.ahead - math.sin(pitch) * self.up
        turn = math.radians(self.pose["look"])
        side_way = self.far * math.cos(turn) + straight * math.sin(turn)
        front = straight * math.cos(turn) - self.far * math.sin(turn)
        self.face = front
        add(SKIN, 0, neck - up0 * 0.02, neck + up0 * 0.09 + front * 0.01, 0.052, 0.05, front, melt=0.03)
        c = neck + up0 * 0.10 + up * 0.095 + front * 0.025
        self.joints["head"] = c
        add(SKIN, 0, c - front * 0.025 + up * 0.02, c + front * 0.022 + up * 0.022, 0.098, 0.092, up, 1, 0.92, 0.03)
        add(SKIN, 0, c + front * 0.03 - up * 0.02, c + front * 0.062 - up * 0.088, 0.072, 0.04, front, 1, 0.98, 0.045)
        bridge, tip = c + front * 0.108 + up * 0.014, c + front * 0.124 - up * 0.022
        add(SKIN, 0, bridge, tip, 0.0065, 0.0100, front, melt=0.016)
        for side in (-1, 1):
            s = side_way * side
            add(SKIN, 0, tip - front * 0.010 - up * 0.002, tip - front * 0.009 + s * 0.010 - up * 0.003, 0.0075, 0.0066,
                up, melt=0.008)  # fmt: skip
            ear = c - front * 0.012
            add(SKIN, 0, ear + s * 0.092 - up * 0.012, ear + s * 0.098 + up * 0.02, 0.016, 0.021, front, 1, 0.5, 0.01)
            cheek = c + front * 0.072 - up * 0.03 + s * 0.045
            add(SKIN, 0, cheek, cheek + front * 0.003 - up * 0.004, 0.034, 0.033, front, melt=0.03)
            self._eye(c + front * 0.0985 + up * 0.007 + s * 0.039, front, up, s)
            temple = c + s * 0.083 + up * 0.035 + front * 0.012
            add(HAIR, 0, temple, temple + s * 0.005 - up * 0.055 - front * 0.004, 0.024, 0.008, front, melt=0.02)
        mouth = []
        for k in (-1.0, -0.5, 0.0, 0.5, 1.0):  # along the curve of the jaw, the corners a little up
            aside = 0.029 * k
            forward = 0.0575 + math.sqrt(0.047**2 - aside**2)
            mouth.append(c + front * forward - up * (0.0700 - 0.0085 * k * k) + side_way * aside)
        for k, (a, b) in enumerate(zip(mouth, mouth[1:], strict=False)):
            thick = (0.0026, 0.0056, 0.0062, 0.0056, 0.0026)
            add(LIP, 0, a, b, thick[k], thick[k + 1], front, melt=0.004)
        if self.costume.long_hair:
            self._long_hair(c, up, front, side_way)
        else:
            self._cap(c, up, front, side_way)

    def _eye(self, eye, front, up, outward) -> None:
        add = self.add
        gaze = unit(front + outward * 0.05)
        add(EYE, 0, eye - up * 0.0015, eye + up * 0.0015, 0.0185, 0.0185, gaze, 0.88, 1.0, 0.001, EYEBALL)
        # Lids: the upper one follows the ball, the lower one is a soft fold.
        for k in (-1, 0, 1):
            lid = eye + up * (0.0158 - 0.0030 * abs(k)) + front * 0.0050 + outward * 0.0105 * k
            add(SKIN, 0, lid, lid + outward * 0.0012, 0.0070, 0.0070, front, melt=0.006)
        low = eye - up * 0.0200 + front * 0.002
        add(SKIN, 0, low - outward * 0.009, low + outward * 0.009, 0.0056, 0.0056, front, melt=0.008)
        brow = [
            eye + up * 0.0360 + front * 0.0085 - outward * 0.019,
            eye + up * 0.0425 + front * 0.0005 + outward * 0.008,
            eye + up * 0.0355 - front * 0.0105 + outward * 0.024,
        ]
        add(HAIR, 0, brow[0], brow[1], 0.0050, 0.0048, front, melt=0.002)
        add(HAIR, 0, brow[1], brow[2], 0.0048, 0.0026, front, melt=0.002)

    def _scalp(self, c, up, front, side_way) -> None:
        cap = c - front * 0.022 + up * 0.052
        self.add(HAIR, 0, cap - side_way * 0.006, cap + side_way * 0.006, 0.0985, 0.0985, front, 1.1, 1, 0.03, STRAND)
        nape = c - front * 0.070
        self.add(HAIR, 0, nape - up * 0.005, nape - front * 0.002 - up * 0.055, 0.072, 0.045, front, 1, 1.1, 0.04)

    def _long_hair(self, c, up, front, side_way) -> None:
        add = self.add
        self._scalp(c, up, front, side_way)
        fringe = c + front * 0.05 + up * 0.105 - side_way * 0.05
        past = fringe + front * 0.012 - up * 0.007 + side_way * 0.105
        add(HAIR, 0, fringe, past, 0.026, 0.028, front, 1, 1, 0.03, STRAND)
        knot = c - front * 0.125 + up * 0.065
        add(HAIR, 0, knot + front * 0.03, knot - front * 0.02, 0.034, 0.036, up, melt=0.02)
        swing, wind = math.sin(self.time * 9.0), self.wind
        fall = (1 - wind) * 0.9
        way = [
            -front * 0.9 + up * (0.35 - fall * 0.3),
            -front * (0.3 + 0.7 * wind) + up * (0.02 - fall) + self.far * 0.1,
            -front * (0.2 + 0.7 * wind) - up * (0.30 + 0.15 * swing + fall) - self.far * 0.12,
            -front * (0.2 + 0.6 * wind) - up * (0.55 + 0.3 * swing + fall),
        ]
        thick = (0.038, 0.044, 0.038, 0.026, 0.006)
        a = knot
        for k, direction in enumerate(way):
            b = a + unit(direction) * 0.078
            add(HAIR, 1, a, b, thick[k], thick[k + 1], up + front * 0.3, melt=0.03)
            a = b
        # Loose strands: thin chains that leave the tail and wave on their own.
        for k in range(6):
            a = knot - front * 0.03 + self.far * 0.016 * (k - 2.5)
            for j in range(7):
                wave = math.sin(self.time * (11 + 2 * k) - j * 0.65 + k * 1.9)
                lift = 0.55 - 0.22 * k - 0.08 * j + 0.28 * wave - fall * 1.1
                away = -front * (0.25 + 0.75 * wind) + up * lift + self.far * 0.10 * (k - 2.5)
                b = a + unit(away) * (0.033 + 0.008 * (k % 3))
                thin = 0.0042 - 0.0005 * j
                add(HAIR, 8, a, b, thin, thin - 0.0005, up + front * 0.3, melt=0.003)
                a = b
        # Flyaway wisps over the forehead and at the nape.
        for k in range(4):
            a = c + up * (0.135 - 0.02 * k) + front * (0.03 - 0.035 * k) + side_way * 0.02 * (k - 1.5)
            for j in range(3):
                wave = math.sin(self.time * (9 + k) - j * 1.1 + k * 2.3)
                away = -front * (0.2 + 0.6 * wind) + up * (0.55 - 0.35 * j + 0.3 * wave) + side_way * 0.3 * (k - 1.5)
                b = a + unit(away) * 0.030
                add(HAIR, 9, a, b, 0.0030 - 0.0006 * j, 0.0024 - 0.0006 * j, up + front * 0.3, melt=0.002)
                a = b
        band = c - front * 0.037 + up * 0.050
        add(BAND, 0, band - up * 0.003, band + up * 0.003, 0.1085, 0.1085, up, 1, 0.98, 0.001, HEADBAND)

    def _cap(self, c, up, front, side_way) -> None:
        add = self.add
        self._scalp(c, up, front, side_way)
        crown = c - front * 0.012 + up * 0.062
        add(BAND, 0, crown, crown + up * 0.012, 0.112, 0.094, front, 1.04, 1, 0.02, VISOR)
        peak = c + front * 0.085 + up * 0.082
        for k in (-1, 0, 1):
            root = peak + side_way * 0.040 * k - front * 0.006 * abs(k)
            add(BAND, 0, root, root + front * 0.070 - up * 0.020, 0.036, 0.030, side_way, 1.0, 0.22, 0.012, VISOR)
        # Curls under the rim.
        for k in range(9):
            angle = math.radians(100 + 20 * k)
            out = front * math.cos(angle) + side_way * math.sin(angle)
            curl = c + out * 0.088 - up * (0.012 + 0.018 * (k % 2)) - front * 0.015
            wave = 0.010 * math.sin(self.time * 13 + k * 1.7) * self.wind
            add(HAIR, 0, curl, curl + out * 0.022 - up * (0.020 + wave), 0.020, 0.010, up + front * 0.3, melt=0.012,
                pattern=STRAND)  # fmt: skip

    def _leg(self, side: int, name: str) -> None:
        add, pose, group = self.add, self.pose, 2 if side < 0 else 3
        splay = pose["splay" + name]
        hip = self.pelvis - self.up * 0.03 + self.hips * side * 0.088
        thigh = self._limb(pose["hip" + name], splay, side)
        knee = hip + thigh * THIGH
        shin_angle = pose["hip" + name] - pose["knee" + name]
        shin = self._limb(shin_angle, splay * 0.5, side)
        ankle = knee + shin * SHIN
        self.joints |= {"knee" + name: knee, "ankle" + name: ankle}
        sole_angle = shin_angle + 90 - pose["ankle" + name]
        toe = self._limb(sole_angle, 3 + (splay - 4) * 0.3, side)
        instep = -self._limb(sole_angle - 90)
        over_thigh, over_shin = self._limb(pose["hip" + name] + 90), self._limb(shin_angle + 90)
        stripe = STRIPE if side < 0 else 0  # outside only: an inner one would show between the legs
        add(LEG, group, hip + thigh * 0.10, knee, 0.088, 0.060, over_thigh, melt=0.03, pattern=stripe)
        add(LEG, group, knee, ankle, 0.059, 0.038, over_shin, melt=0.035, pattern=stripe)
        calf = knee + shin * 0.12 - over_shin * 0.012
        add(LEG, group, calf, calf + shin * 0.10, 0.054, 0.046, over_shin, melt=0.04, pattern=stripe)
        start = self.pelvis - self.up * 0.02 + self.hips * side * 0.05
        add(SHORTS, group, start, hip + thigh * 0.06, 0.088, 0.096, over_thigh, 1, 0.95, 0.05, HEM)
        add(SHORTS, group, hip + thigh * 0.02, hip + thigh * 0.225, 0.096, 0.101, over_thigh, 1, 1, 0.05, HEM, 0.02)
        heel = ankle - instep * 0.045 - toe * 0.035
        add(BAND, group, ankle - shin * 0.055, ankle - shin * 0.005, 0.046, 0.046, over_shin, melt=0.005, pattern=SOCK)
        add(SHOE, group, ankle + shin * 0.012, ankle - instep * 0.02 + toe * 0.05, 0.046, 0.040, toe, melt=0.03)
        add(SHOE, group, heel - toe * 0.012 + instep * 0.010, heel + toe * 0.170, 0.047, 0.038, instep, 1, 0.92, 0.03)
        tread = heel - instep * 0.030
        add(
            SOLE, group, tread - toe * 0.015, tread + toe * 0.182 + instep * 0.008, 0.046, 0.040, instep, 0.48, 1, 0.003
        )

    def _arm(self, side: int, name: str) -> None:
        add, pose, group = self.add, self.pose, 4 if side < 0 else 5
        shoulder = self.pelvis + self.spine * 0.435 + self.across * side * 0.168
        swing = pose["shoulder" + name] + pose["lean"] * 0.5
        upper = self._limb(swing, pose["out" + name], side)
        elbow = shoulder + upper * 0.285
        fore = self._limb(swing + pose["elbow" + name], pose["fore" + name], side)
        wrist = elbow + fore * 0.245
        self.joints |= {"elbow" + name: elbow, "wrist" + name: wrist}
        add(JACKET, group, shoulder, elbow, 0.070, 0.054, self.chest, melt=0.05, pattern=UPPER_ARM)
        add(JACKET, group, elbow, wrist - fore * 0.012, 0.055, 0.044, self.chest, melt=0.035, pattern=FOREARM)
        add(BAND, group, wrist - fore * 0.022, wrist + fore * 0.004, 0.043, 0.042, self.chest, melt=0.002, pattern=CUFF)
        self._hand(side, name, group, wrist, fore)

    def _hand(self, side: int, name: str, group: int, wrist: np.ndarray, fore: np.ndarray) -> None:
        add, curl, far = self.add, self.pose["curl" + name], self.far
        snap = self.pose["snapN"] if name == "N" else 0.0
        thumb_way = unit(np.cross(fore, far))  # the thumb's edge of the hand
        inward = unit(np.cross(thumb_way, fore)) * -side
        add(SKIN, group, wrist, wrist + fore * 0.035, 0.027, 0.032, far, 0.80, 1, 0.02)
        add(SKIN, group, wrist + fore * 0.035, wrist + fore * 0.062, 0.035, 0.033, far, 0.66, 1, 0.02)
        for k in range(4):
            bend = curl
            if snap and k > 0:  # the middle finger goes from the thumb's tip to the ball of the thumb
                bend = curl + (0.25 + 0.35 * (snap > 0.5)) * min(1.0, snap * 2)
            root = wrist + fore * 0.078 + thumb_way * (0.027 - 0.018 * k)
            bent = unit(fore * (1 - bend) + inward * bend - thumb_way * 0.10 * (k - 1.5))
            joint = root + unit(fore + bent) * 0.026
            add(SKIN, group, root, joint, 0.0105, 0.0098, far, melt=0.006)
            tip = joint + unit(bent * 1.6 - fore * bend) * 0.028
            add(SKIN, group, joint, tip, 0.0098, 0.0078, far, melt=0.004)
        thumb = wrist + fore * 0.045 + thumb_way * 0.028
        away = unit(fore + thumb_way * 0.9 + inward * (0.9 * min(1.0, 2 * snap) * (1.0 - 0.8 * (snap > 0.5))))
        add(SKIN, group, thumb, thumb + away * 0.042, 0.0135, 0.0100, far, melt=0.012)
        self.joints["hand" + name] = wrist + fore * 0.07
        if name == self._grip and self.carries == "streamer":
            self._streamer(wrist + fore * 0.065, unit(fore * 0.75 + thumb_way * 0.55 + self.ahead * 0.2), fore)
        if name == self._grip and self.carries == "reel":
            self._reel(wrist + fore * 0.075 + inward * 0.010, unit(thumb_way + fore * 0.12), fore)

    def _streamer(self, grip, along, ref) -> None:
        add, t = self.add, self.time
        tip = grip + along * 0.25
        add(CARRIED, 5, grip - along * 0.07, tip, 0.017, 0.017, ref, melt=0.002, pattern=HANDLE)
        a = tip
        for i in range(9):
            wave = 0.42 * math.sin(t * 13 + 1.2 - i * 0.95) - 0.10 - 0.8 * (1 - self.wind)
            away = -self.ahead * (0.2 + 0.8 * self.wind) + self.up * wave
            b = a + unit(away + self.far * 0.35 * math.sin(t * 10 - i * 0.8)) * 0.075
            wide = 0.026 - 0.0016 * i
            add(CARRIED, 7, a, b, wide, wide - 0.0016, self.up + self.ahead * 0.1, 1, 0.28, 0.012, CLOTH, i * 0.075)
            a = b

    def _reel(self, grip, along, ref) -> None:
        """The kite reel: a grip, a drum of wound line between two discs, and the line that leaves it."""
        add = self.add
        add(CARRIED, 5, grip - along * 0.075, grip + along * 0.07, 0.0150, 0.0150, ref, melt=0.003, pattern=HANDLE)
        low, high = grip + along * 0.085, grip + along * 0.165
        for at in (low, high):
            add(CARRIED, 5, at, at + ref * 0.002, 0.068, 0.068, along, 0.13, 1, 0.003, DISC)
        middle = (low + high) / 2
        add(CARRIED, 7, middle, middle + ref * 0.002, 0.046, 0.046, along, 0.86, 1, 0.003, WOUND)
        add(CARRIED, 5, high, high + along * 0.035, 0.011, 0.013, ref, melt=0.004, pattern=HANDLE)
        side = unit(np.cross(along, ref))
        knob = high + side * 0.048
        add(CARRIED, 7, knob, knob + along * 0.032, 0.0085, 0.0105, ref, melt=0.002, pattern=HANDLE)
        a = middle + side * 0.044
        for k in range(14):  # the line, up to a kite that nobody sees
            slack = 0.10 * math.sin(self.time * 5 + k * 0.6)
            b = a + unit(self.up * (0.42 + 0.05 * k) + self.far * (0.75 + slack) - self.ahead * 0.25) * 0.085
            add(CARRIED, 8, a, b, 0.0019, 0.0019, self.ahead + self.far * 0.4, melt=0.001, pattern=WOUND)
            a = b
