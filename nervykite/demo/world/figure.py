"""The runner: a body of capsules, posed, and how it takes the light.

Juno Abara of the Harbour Hares (a made-up person): patterned jacket, shorts over leggings, yellow shoes,
headband, a pony tail with loose strands, and the streamer that the relay hands on.
"""

import math

import numpy as np
from numba import njit, prange

from .gait import SHIN, SPEED, THIGH, pose_at
from .noise import clamp, plain, smooth
from .place import ray
from .solids import Solid, distance, local, mask_near, mask_of_ray, sunlight, unit

SKIN, JACKET, LEG, SHOE, SOLE, HAIR, BAND, EYE, LIP, STREAMER, SHORTS = range(11)
# The patterns that `albedo` knows.
TORSO, STRIPE, HEM, PLAIN_EYE, HEADBAND, SOCK, UPPER_ARM, FOREARM = 1, 2, 4, 5, 6, 7, 10, 11
CUFF, HANDLE, CLOTH, YOKE, STRAND = 12, 13, 14, 15, 20


class Runner:
    """The runner at one instant of the action; `time` 0 is the top of the leap."""

    def __init__(self, time: float, ground, heading: float = 16.0) -> None:
        self.time = time
        self.pose = pose_at(time)
        turn = math.radians(heading)
        self.ahead = np.array([math.cos(turn), 0, -math.sin(turn)])
        self.up = np.array([0, 1.0, 0])
        self.far = np.array([math.sin(turn), 0, math.cos(turn)])
        along = self.ahead * SPEED * time
        self.pelvis = along + self.up * (self.pose["rise"] + ground(along[0], along[2]))
        self.solid = Solid()
        lean = math.radians(self.pose["lean"])
        self.spine = math.sin(lean) * self.ahead + math.cos(lean) * self.up
        self.chest = math.cos(lean) * self.ahead - math.sin(lean) * self.up
        twist = math.radians(self.pose["twist"])
        self.across = self.far * math.cos(twist) + self.chest * math.sin(twist)
        self.front = self.chest * math.cos(twist) + self.far * math.sin(twist)
        self.hips = self.far * math.cos(twist * 0.4) + self.chest * math.sin(twist * 0.4)
        self._torso()
        self._head()
        for side, name in ((-1, "N"), (1, "F")):
            self._leg(side, name)
            self._arm(side, name)

    def _limb(self, angle: float, out: float = 0.0, side: int = 0) -> np.ndarray:
        """Direction of a limb: `angle` from straight down, forward positive; `out` to the side."""
        a, o = math.radians(angle), math.radians(out)
        down = math.sin(a) * self.ahead - math.cos(a) * self.up
        return down * math.cos(o) + self.far * side * math.sin(o)

    def _torso(self) -> None:
        add, p, up, front = self.solid.add, self.pelvis, self.spine, self.front
        neck = p + up * 0.515
        add(JACKET, 0, p + up * 0.015, p + up * 0.17, 0.138, 0.128, front, 0.86, 1.12, 0.04, TORSO, 0.015)
        add(JACKET, 0, p + up * 0.17, p + up * 0.40, 0.128, 0.146, front, 0.90, 1.22, 0.06, TORSO, 0.17)
        yoke = p + up * 0.43
        add(
            JACKET, 0, yoke - self.across * 0.135, yoke + self.across * 0.135, 0.066, 0.066, up, melt=0.07, pattern=YOKE
        )
        add(JACKET, 0, p + up * 0.455, neck + up * 0.02, 0.085, 0.066, front, melt=0.05, pattern=TORSO, offset=0.45)
        hood = neck - self.chest * 0.08
        add(JACKET, 0, hood + up * 0.005, hood - up * 0.085, 0.052, 0.066, self.across, 1.35, 1, 0.04, TORSO, 0.47)
        # The hem flaps behind: two loose folds that the wind lifts in turn.
        add(JACKET, 0, p - up * 0.060, p + up * 0.02, 0.146, 0.142, front, 0.90, 1.10, 0.02, TORSO, -0.045)
        for k, (side, reach) in enumerate(((-0.5, 0.10), (0.45, 0.13))):
            root = p - self.chest * 0.105 + self.hips * side * 0.16 - up * 0.02
            lift = 0.5 + 0.35 * math.sin(self.time * 21 + k * 2.1)
            fold = root - unit(self.chest * 0.9 + up * (0.9 - lift)) * reach
            add(JACKET, 0, root, fold, 0.040, 0.020, up, 1.0, 0.45, 0.05, TORSO, -0.06)

    def _head(self) -> None:
        add, up0, neck = self.solid.add, self.spine, self.pelvis + self.spine * 0.515
        pitch = math.radians(self.pose["lean"] * 0.45 + self.pose["head"])
        up = math.sin(pitch) * self.ahead + math.cos(pitch) * self.up
        straight = math.cos(pitch) * self.ahead - math.sin(pitch) * self.up
        turn = math.radians(30)
        side_way = self.far * math.cos(turn) + straight * math.sin(turn)
        front = straight * math.cos(turn) - self.far * math.sin(turn)
        self.face = front
        add(SKIN, 0, neck - up0 * 0.02, neck + up0 * 0.09 + front * 0.01, 0.052, 0.05, front, melt=0.03)
        c = neck + up0 * 0.10 + up * 0.095 + front * 0.025
        add(SKIN, 0, c - front * 0.025 + up * 0.02, c + front * 0.022 + up * 0.022, 0.098, 0.092, up, 1, 0.92, 0.03)
        add(SKIN, 0, c + front * 0.03 - up * 0.02, c + front * 0.062 - up * 0.088, 0.072, 0.04, front, 1, 0.98, 0.045)
        add(SKIN, 0, c + front * 0.112 + up * 0.012, c + front * 0.128 - up * 0.022, 0.009, 0.0165, front, melt=0.022)
        for side in (-1, 1):
            s = side_way * side
            ear = c - front * 0.012
            add(SKIN, 0, ear + s * 0.092 - up * 0.012, ear + s * 0.098 + up * 0.02, 0.016, 0.021, front, 1, 0.5, 0.01)
            cheek = c + front * 0.072 - up * 0.03 + s * 0.045
            add(SKIN, 0, cheek, cheek + front * 0.003 - up * 0.004, 0.034, 0.033, front, melt=0.03)
            eye = c + front * 0.101 + up * 0.006 + s * 0.041
            add(EYE, 0, eye - up * 0.005, eye + up * 0.005, 0.0128, 0.0128, front, melt=0.001, pattern=PLAIN_EYE)
            brow = [
                eye + up * 0.036 + front * 0.004 - s * 0.016,
                eye + up * 0.040 - front * 0.009 + s * 0.012,
                eye + up * 0.032 - front * 0.019 + s * 0.026,
            ]
            add(HAIR, 0, brow[0], brow[1], 0.0052, 0.0050, front, melt=0.002)
            add(HAIR, 0, brow[1], brow[2], 0.0050, 0.0030, front, melt=0.002)
            temple = c + s * 0.083 + up * 0.035 + front * 0.012
            add(HAIR, 0, temple, temple + s * 0.005 - up * 0.055 - front * 0.004, 0.024, 0.008, front, melt=0.02)
        mouth = [
            c + front * (0.098 - 0.010 * abs(k)) - up * (0.071 - 0.010 * k * k) + side_way * 0.020 * k
            for k in (-1.6, -0.8, 0.0, 0.8, 1.6)
        ]
        for k, (a, b) in enumerate(zip(mouth, mouth[1:], strict=False)):
            thick = (0.003, 0.0062, 0.0066, 0.0062, 0.003)
            add(LIP, 0, a, b, thick[k], thick[k + 1], front, melt=0.004)
        self._hair(c, up, front, side_way)

    def _hair(self, c, up, front, side_way) -> None:
        add = self.solid.add
        cap = c - front * 0.022 + up * 0.052
        add(HAIR, 0, cap - side_way * 0.006, cap + side_way * 0.006, 0.0985, 0.0985, front, 1.10, 1, 0.03, STRAND)
        add(HAIR, 0, c - front * 0.070 - up * 0.005, c - front * 0.072 - up * 0.055, 0.072, 0.045, front, 1, 1.1, 0.04)
        fringe = c + front * 0.05 + up * 0.105 - side_way * 0.05
        add(
            HAIR,
            0,
            fringe,
            fringe + front * 0.012 - up * 0.007 + side_way * 0.105,
            0.026,
            0.028,
            front,
            1,
            1,
            0.03,
            STRAND,
        )
        knot = c - front * 0.125 + up * 0.065
        add(HAIR, 0, knot + front * 0.03, knot - front * 0.02, 0.034, 0.036, up, melt=0.02)
        swing = math.sin(self.time * 9.0)
        way = [
            -front * 0.9 + up * 0.35,
            -front + up * 0.02 + self.far * 0.1,
            -front * 0.9 - up * (0.30 + 0.15 * swing) - self.far * 0.12,
            -front * 0.8 - up * (0.55 + 0.3 * swing),
        ]
        thick = (0.038, 0.044, 0.038, 0.026, 0.006)
        a = knot
        for k, direction in enumerate(way):
            b = a + unit(direction) * 0.078
            add(HAIR, 1, a, b, thick[k], thick[k + 1], up, melt=0.03)
            a = b
        # Loose strands: thin chains that leave the tail and wave on their own.
        for k in range(5):
            a = knot - front * 0.03 + self.far * 0.02 * (k - 2)
            for j in range(5):
                wave = math.sin(self.time * (11 + 2 * k) - j * 0.9 + k * 1.9)
                lift = 0.55 - 0.26 * k - 0.10 * j + 0.35 * wave
                b = a + unit(-front + up * lift + self.far * 0.12 * (k - 2)) * (0.050 + 0.012 * (k % 3))
                thin = 0.0060 - 0.0009 * j
                add(HAIR, 8, a, b, thin, thin - 0.0009, up, melt=0.003)
                a = b
        band = c - front * 0.037 + up * 0.050
        add(BAND, 0, band - up * 0.003, band + up * 0.003, 0.1085, 0.1085, up, 1, 0.98, 0.001, HEADBAND)

    def _leg(self, side: int, name: str) -> None:
        add, pose, group = self.solid.add, self.pose, 2 if side < 0 else 3
        hip = self.pelvis - self.up * 0.03 + self.hips * side * 0.088
        thigh = self._limb(pose["hip" + name], 4, side)
        knee = hip + thigh * THIGH
        shin_angle = pose["hip" + name] - pose["knee" + name]
        shin = self._limb(shin_angle, 2, side)
        ankle = knee + shin * SHIN
        sole_angle = shin_angle + 90 - pose["ankle" + name]
        toe = self._limb(sole_angle, 3, side)
        instep = -self._limb(sole_angle - 90)
        over_thigh, over_shin = self._limb(pose["hip" + name] + 90), self._limb(shin_angle + 90)
        stripe = STRIPE if side < 0 else 0  # outside only: an inner one would show between the legs
        add(LEG, group, hip + thigh * 0.10, knee, 0.088, 0.060, over_thigh, melt=0.03, pattern=stripe)
        add(LEG, group, knee, ankle, 0.059, 0.038, over_shin, melt=0.035, pattern=stripe)
        calf = knee + shin * 0.06 - over_shin * 0.020
        add(LEG, group, calf, calf + shin * 0.16 + over_shin * 0.008, 0.046, 0.032, over_shin, 1, 1, 0.05)
        # The shorts' hem flares a little and follows the swing late.
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
        add, pose, group = self.solid.add, self.pose, 4 if side < 0 else 5
        shoulder = self.pelvis + self.spine * 0.435 + self.across * side * 0.168
        upper = self._limb(pose["shoulder" + name] + pose["lean"] * 0.5, pose["out" + name], side)
        elbow = shoulder + upper * 0.285
        fore = self._limb(pose["shoulder" + name] + pose["elbow" + name] + pose["lean"] * 0.5, -6, side)
        wrist = elbow + fore * 0.245
        add(JACKET, group, shoulder, elbow, 0.070, 0.054, self.chest, melt=0.05, pattern=UPPER_ARM)
        add(JACKET, group, elbow, wrist - fore * 0.012, 0.055, 0.044, self.chest, melt=0.035, pattern=FOREARM)
        add(BAND, group, wrist - fore * 0.022, wrist + fore * 0.004, 0.043, 0.042, self.chest, melt=0.002, pattern=CUFF)
        palm_up = unit(np.cross(fore, self.far))
        add(SKIN, group, wrist, wrist + fore * 0.035, 0.027, 0.032, self.far, 0.80, 1, 0.02)
        add(SKIN, group, wrist + fore * 0.035, wrist + fore * 0.062, 0.035, 0.033, self.far, 0.66, 1, 0.02)
        curl = 0.75 if side > 0 else 0.45  # the far hand grips, the near one runs relaxed
        for k in range(4):
            root = wrist + fore * 0.078 + palm_up * (0.027 - 0.018 * k)
            bent = unit(fore * (1 - curl) - self.far * side * curl - palm_up * 0.10 * (k - 1.5))
            joint = root + unit(fore + bent) * 0.026
            add(SKIN, group, root, joint, 0.0105, 0.0098, self.far, melt=0.006)
            add(
                SKIN, group, joint, joint + unit(bent * 1.6 - fore * curl) * 0.028, 0.0098, 0.0078, self.far, melt=0.004
            )
        thumb = wrist + fore * 0.045 + palm_up * 0.028
        add(SKIN, group, thumb, thumb + unit(fore + palm_up * 0.9) * 0.042, 0.0135, 0.0100, self.far, melt=0.012)
        if side > 0:
            self._streamer(wrist + fore * 0.065, unit(fore * 0.75 + palm_up * 0.55 + self.ahead * 0.2), fore)

    def _streamer(self, grip, along, ref) -> None:
        add, t = self.solid.add, self.time
        tip = grip + along * 0.25
        add(STREAMER, 5, grip - along * 0.07, tip, 0.017, 0.017, ref, melt=0.002, pattern=HANDLE)
        a = tip
        for i in range(9):
            wave = 0.42 * math.sin(t * 13 + 1.2 - i * 0.95) - 0.10
            b = a + unit(-self.ahead + self.up * wave + self.far * 0.35 * math.sin(t * 10 - i * 0.8)) * 0.075
            wide = 0.026 - 0.0016 * i
            add(STREAMER, 7, a, b, wide, wide - 0.0016, self.up, 1, 0.28, 0.012, CLOTH, i * 0.075)
            a = b


@njit(fastmath=True, cache=True)
def bump(tex, material, pattern, lx, ly, lz):
    """Height of folds, strands and weave over the smooth body."""
    turn = math.atan2(lx, lz)
    if material == 1:
        a = turn * 0.16
        w = ly + 0.05 * plain(tex, a * 6.0 + 3.0, ly * 4.0)
        fold = 1 - abs(plain(tex, a * 5.0 + 2.0 + w * 2.0, w * 9.0 + pattern))
        deep = 0.0120 if pattern == 1 else 0.008
        return deep * fold * fold + 0.0016 * plain(tex, a * 14.0 - ly * 6.0, ly * 16.0 + 7.0)
    if material == 5:
        if pattern == 20:
            return 0.0034 * plain(tex, ly * 75.0 + 0.6 * plain(tex, turn * 2.0, 3.0), turn * 1.1 + 5.0)
        return 0.0032 * plain(tex, turn * 7.0 + ly * 10.0, ly * 3.0 + 5.0) + 0.0012 * plain(tex, turn * 19.0, ly * 6.0)
    if material == 10:
        return 0.005 * plain(tex, turn * 1.3, ly * 9.0 + 2.0)
    if material == 2:
        return 0.0018 * plain(tex, lx * 20.0 + lz * 20.0, ly * 26.0)
    return 0.0


@njit(fastmath=True, cache=True)
def zigzag(u, v, teeth, deep):
    """v, pushed up and down in `teeth` teeth along u."""
    f = u * teeth - math.floor(u * teeth)
    return v + (abs(f - 0.5) * 2 - 0.5) * deep


@njit(fastmath=True, cache=True)
def albedo(material, pattern, lx, ly, lz):
    """Colour (3), shine, and how far light wraps round."""
    cream = (0.93, 0.84, 0.66)
    coral = (0.86, 0.105, 0.055)
    mustard = (0.98, 0.55, 0.04)
    teal = (0.010, 0.235, 0.29)
    navy = (0.016, 0.032, 0.10)
    c = navy
    shine = 0.12
    wrap = 0.12
    if material == 0:
        return 0.60, 0.315, 0.185, 0.22, 0.35
    if material == 1:
        u = math.atan2(lx, lz) / 6.2832 + 0.5
        c = coral
        if pattern == 1:
            v = zigzag(u, ly, 9.0, 0.045)
            if v > 0.300:
                c = teal
            elif v > 0.275 or 0.195 < v < 0.225:
                c = cream
            elif v > 0.225:
                c = mustard
            v = zigzag(u + 0.05, ly, 9.0, 0.030)
            if 0.075 < v < 0.092:
                c = cream
            if ly > 0.505:
                c = mustard
            if ly < -0.018:
                c = teal
            if lx > 0 and abs(lz) < 0.006 and ly > 0:
                c = cream
        elif pattern == 15:
            c = teal
        elif pattern == 10:
            v = zigzag(u, ly, 5.0, 0.035)
            if v < 0.075:
                c = teal
            elif 0.098 < v < 0.140:
                c = mustard
            elif v < 0.160:
                c = cream
        elif ly >= 0.165:
            c = teal
        elif ly > 0.14:
            c = cream
    elif material == 2:
        c = (0.055, 0.095, 0.20)
        if pattern == 2 and abs(lx) < 0.009 and lz > 0:
            c = cream
        shine = 0.22
    elif material == 3:
        c = (0.96, 0.60, 0.03)
        if 0.05 < ly < 0.075 or 0.09 < ly < 0.105:
            c = (0.90, 0.86, 0.78)
        shine = 0.3
    elif material == 4:
        c = (0.86, 0.82, 0.74)
    elif material == 5:
        c = (0.060, 0.024, 0.013)
        shine = 0.5
    elif material == 6:
        c = (0.02, 0.42, 0.46)
        if pattern == 12:
            c = cream
        elif pattern == 7:
            c = (0.90, 0.86, 0.78)
    elif material == 7:
        c = (0.022, 0.012, 0.009)
        shine = 0.6
    elif material == 8:
        c = (0.42, 0.10, 0.075)
        shine = 0.3
    elif material == 9:
        wrap = 0.6 if pattern == 14 else 0.1
        shine = 0.15 if pattern == 14 else 0.4
        if pattern == 14:
            c = mustard if int(math.floor(ly * 6.66)) % 2 == 0 else cream
        else:
            c = (0.95, 0.93, 0.88) if int(math.floor(ly * 16)) % 2 == 0 else (0.02, 0.42, 0.46)
    elif pattern == 4 and ly > 0.226 and ly < 0.244:
        c = mustard
    return c[0], c[1], c[2], shine, wrap


@njit(fastmath=True, cache=True)
def rough_distance(tex, rows, segments, spheres, mask, x, y, z, which, material):
    """Distance to the body with its folds."""
    d, _m, _p = distance(rows, segments, spheres, mask, x, y, z, 1e3)
    if material == 1 or material == 5 or material == 10 or material == 2:
        lx, ly, lz = local(rows, which, x, y, z)
        d -= bump(tex, material, rows[which, 18], lx, ly, lz)
    return d


@njit(parallel=True, fastmath=True, cache=True)
def figure_pass(tex, camera, jx, jy, sun, rows, segments, spheres, around, box, face, depth, light, alpha):
    """Adds one sample of the figure to light (H, W, 3) and alpha (H, W), within box (x0, x1, y0, y1).

    `depth` (H, W) hides what lies behind the place; `face` (3) is where the eyes look.
    """
    hh, ww = depth.shape
    ox = camera[0]
    oy = camera[1]
    oz = camera[2]
    sx = sun[0]
    sy = sun[1]
    sz = sun[2]
    for yy in prange(box[2], box[3]):
        for xx in range(box[0], box[1]):
            u = ((xx + jx) / ww * 2 - 1) * camera[12] * ww / hh
            v = (1 - (yy + jy) / hh * 2) * camera[12]
            dx, dy, dz, il = ray(camera, u, v)
            ex = around[0] - ox
            ey = around[1] - oy
            ez = around[2] - oz
            along = ex * dx + ey * dy + ez * dz
            off2 = ex * ex + ey * ey + ez * ez - along * along
            if off2 > around[3] * around[3]:
                continue
            mask = mask_of_ray(spheres, ox, oy, oz, dx, dy, dz, 0.05)
            if mask == 0:
                continue
            half = math.sqrt(around[3] * around[3] - off2)
            t = along - half
            last = along + half
            hit = False
            g = -1
            p = -1
            for _ in range(90):
                d, g, p = distance(rows, segments, spheres, mask, ox + dx * t, oy + dy * t, oz + dz * t, 1e3)
                if d < 0.0008:
                    hit = True
                    break
                t += d * 0.92
                if t > last:
                    break
            if not hit or t * il > depth[yy, xx]:
                continue
            x = ox + dx * t
            y = oy + dy * t
            z = oz + dz * t
            mask = mask_near(spheres, x, y, z, 0.18)
            e = 0.0022
            a = rough_distance(tex, rows, segments, spheres, mask, x + e, y - e, z - e, p, g)
            b = rough_distance(tex, rows, segments, spheres, mask, x - e, y - e, z + e, p, g)
            c = rough_distance(tex, rows, segments, spheres, mask, x - e, y + e, z - e, p, g)
            d = rough_distance(tex, rows, segments, spheres, mask, x + e, y + e, z + e, p, g)
            nx = a - b - c + d
            ny = -a - b + c + d
            nz = -a + b - c + d
            q = 1 / math.sqrt(nx * nx + ny * ny + nz * nz + 1e-14)
            nx *= q
            ny *= q
            nz *= q
            lx, ly, lz = local(rows, p, x, y, z)
            cr, cg, cb, shine, wrap = albedo(g, rows[p, 18], lx, ly, lz)
            if g == 7 and nx * (0.35 * face[0] - dx) + ny * (0.62 - dy) + nz * (-dz) > 1.10:
                cr = 1.1
                cg = 1.1
                cb = 1.05
            if g == 1 or g == 10:
                weave = 1 + 0.05 * plain(tex, lx * 150.0 + lz * 90.0, ly * 170.0)
                cr *= weave
                cg *= weave
                cb *= weave
            if g == 0:
                cr *= 1 + 0.06 * plain(tex, x * 14.0, y * 14.0 + z * 9.0)
            facing = nx * sx + ny * sy + nz * sz
            open_sun = 0.0
            if facing > -wrap:
                open_sun = sunlight(
                    rows, segments, spheres, around, x + nx * 0.012, y + ny * 0.012, z + nz * 0.012, sx, sy, sz, 11.0
                )
            open_ = 1.0
            for s in range(4):
                reach = 0.02 + 0.05 * s
                d, _m, _p = distance(rows, segments, spheres, mask, x + nx * reach, y + ny * reach, z + nz * reach, 0.4)
                open_ -= max(0.0, reach - d) / reach * 0.20
            open_ = clamp(open_, 0.0, 1.0)
            open_ = open_ * open_ * 0.55 + open_ * 0.45
            bright = clamp((facing + wrap) / (1 + wrap), 0.0, 1.0) * open_sun * 3.3
            up = 0.5 + 0.5 * ny
            fill = max(0.0, 0.15 - nx * 0.42 + ny * 0.42 - nz * 0.80) ** 1.3 * 0.40 * (0.35 + 0.65 * open_)
            r = cr * (bright + (0.34 * up + 0.437 * (1 - up) + fill) * open_)
            gg = cg * (bright * 0.86 + (0.44 * up + 0.313 * (1 - up) + fill * 0.93) * open_)
            bb = cb * (bright * 0.68 + (0.62 * up + 0.190 * (1 - up) + fill * 0.86) * open_)
            if g == 0:  # skin glows a little where the shadow begins
                glow = clamp(1 - abs(facing) * 3.0, 0.0, 1.0) * 0.16 * (0.4 + 0.6 * open_sun)
                r += glow * 0.55
                gg += glow * 0.10
                bb += glow * 0.04
            hx = sx - dx
            hy = sy - dy
            hz = sz - dz
            half_way = max(0.0, (nx * hx + ny * hy + nz * hz) / math.sqrt(hx * hx + hy * hy + hz * hz))
            gloss = half_way ** (200.0 if g == 7 else 26.0) * shine * open_sun * 1.3
            towards = clamp(-(nx * dx + ny * dy + nz * dz), 0.0, 1.0)
            rim = (1 - towards) ** 3 * max(0.0, ny * 0.7 + nx * 0.5 + nz * 0.2) * open_ * 0.55
            light[yy, xx, 0] += r + gloss + rim * 0.42
            light[yy, xx, 1] += gg + gloss * 0.9 + rim * 0.44
            light[yy, xx, 2] += bb + gloss * 0.75 + rim * 0.46
            alpha[yy, xx] += 1.0


@njit(parallel=True, fastmath=True, cache=True)
def shadow_pass(camera, sun, rows, segments, spheres, around, depth, shadow, close):
    """Adds the figure's shadow on the place, and how closely it stands over it, to (H, W) arrays, 0…1."""
    hh, ww = depth.shape
    for yy in prange(hh):
        for xx in range(ww):
            far = depth[yy, xx]
            if far > 14.0:
                continue
            u = ((xx + 0.5) / ww * 2 - 1) * camera[12] * ww / hh
            v = (1 - (yy + 0.5) / hh * 2) * camera[12]
            x = camera[0] + far * (camera[3] + u * camera[6] + v * camera[9])
            y = camera[1] + far * (camera[4] + u * camera[7] + v * camera[10])
            z = camera[2] + far * (camera[5] + u * camera[8] + v * camera[11])
            lit = sunlight(rows, segments, spheres, around, x, y + 0.01, z, sun[0], sun[1], sun[2], 24.0)
            shadow[yy, xx] += 1 - lit
            ex = x - around[0]
            ez = z - around[2]
            if ex * ex + ez * ez < 1.8:
                d, _m, _p = distance(rows, segments, spheres, -1, x, y + 0.10, z, 1.0)
                close[yy, xx] += 0.6 * (1 - smooth(0.0, 0.55, d))
