"""How the runner moves: key poses, a smooth path through them, and feet that stay where they land.

A limb's angle is counted from straight down, forward positive. The N limbs are the ones nearer to the
camera, the F limbs the farther ones. `knee` and `elbow` are the bend of the lower part against the upper.
"""

import math

import numpy as np

SPEED = 3.1
"""Metres a second along the runner's way."""
THIGH, SHIN, ANKLE_UP, HIP_DOWN = 0.425, 0.415, 0.088, 0.03

LEAP = {
    "rise": 1.36, "lean": 11, "twist": -24, "head": -8,
    "hipN": 76, "kneeN": 40, "ankleN": 14, "hipF": -36, "kneeF": 46, "ankleF": 42,
    "shoulderN": -58, "elbowN": 58, "shoulderF": 132, "elbowF": 24, "outN": 20, "outF": 8,
}  # fmt: skip
PUSH = {
    "rise": 0.97, "lean": 17, "twist": -18, "head": -2,
    "hipN": 64, "kneeN": 84, "ankleN": 5, "hipF": -26, "kneeF": 12, "ankleF": 42,
    "shoulderN": -50, "elbowN": 72, "shoulderF": 70, "elbowF": 70, "outN": 14, "outF": 10,
}  # fmt: skip
FLIGHT = {
    "rise": 1.02, "lean": 15, "twist": -16, "head": 0,
    "hipN": 58, "kneeN": 58, "ankleN": 4, "hipF": -28, "kneeF": 62, "ankleF": 40,
    "shoulderN": -40, "elbowN": 78, "shoulderF": 58, "elbowF": 66, "outN": 14, "outF": 10,
}  # fmt: skip
LAND = {
    "rise": 0.98, "lean": 15, "twist": -6, "head": 2,
    "hipN": 34, "kneeN": 16, "ankleN": -6, "hipF": -6, "kneeF": 88, "ankleF": 20,
    "shoulderN": -20, "elbowN": 72, "shoulderF": 80, "elbowF": 50, "outN": 18, "outF": 14,
}  # fmt: skip
PASS = {
    "rise": 0.92, "lean": 16, "twist": 6, "head": 2,
    "hipN": 4, "kneeN": 34, "ankleN": -14, "hipF": 26, "kneeF": 96, "ankleF": 12,
    "shoulderN": 10, "elbowN": 84, "shoulderF": 20, "elbowF": 84, "outN": 12, "outF": 10,
}  # fmt: skip


def mirrored(pose: dict) -> dict:
    """The pose with near and far limbs exchanged."""
    other = {"N": "F", "F": "N"}
    swapped = {(k[:-1] + other[k[-1]] if k[-1] in other else k): v for k, v in pose.items()}
    return swapped | {"twist": -pose["twist"]}


_SCORE = [
    (-1.01, PUSH), (-0.93, FLIGHT), (-0.84, LAND), (-0.76, PASS), (-0.65, mirrored(PUSH)),
    (-0.57, mirrored(FLIGHT)), (-0.48, mirrored(LAND)), (-0.40, mirrored(PASS)), (-0.28, PUSH),
    (0.0, LEAP), (0.27, LAND), (0.37, PASS), (0.48, mirrored(PUSH)), (0.56, mirrored(FLIGHT)),
    (0.65, mirrored(LAND)), (0.73, mirrored(PASS)), (0.84, PUSH), (0.92, FLIGHT), (1.01, LAND), (1.09, PASS),
]  # fmt: skip
STANCES = [
    ("N", -0.84, -0.64), ("F", -0.48, -0.27), ("N", 0.27, 0.49), ("F", 0.65, 0.85),
]  # fmt: skip
"""Which foot stands, from when to when; 0 is the top of the leap."""


def pose_at(time: float) -> dict:
    """The pose at a time of the action: cubic Hermite through the key poses (Catmull-Rom, uneven knots)."""
    times = [t for t, _ in _SCORE]
    i = min(max(int(np.searchsorted(times, time)) - 1, 1), len(times) - 3)
    t0, t1, t2, t3 = times[i - 1 : i + 3]
    u = (time - t1) / (t2 - t1)
    pose = {}
    for k in LEAP:
        p0, p1, p2, p3 = (_SCORE[j][1][k] for j in range(i - 1, i + 3))
        m1, m2 = (p2 - p0) / (t2 - t0), (p3 - p1) / (t3 - t1)
        h = t2 - t1
        pose[k] = (
            (2 * u**3 - 3 * u * u + 1) * p1
            + (u**3 - 2 * u * u + u) * h * m1
            + (3 * u * u - 2 * u**3) * p2
            + (u**3 - u * u) * h * m2
        )
    if -0.28 < time < 0.27:  # in the air only gravity acts
        fall = time if time < 0 else time * 0.28 / 0.27
        pose["rise"] = 1.36 - 0.5 * 9.95 * fall * fall
    return plant_feet(pose, time)


def plant_feet(pose: dict, time: float) -> dict:
    """Bends the standing leg so that its foot stays where it landed, the heel rising as it leaves."""
    for side, first, last in STANCES:
        weight = _ease((time - first + 0.035) / 0.05) * _ease((last + 0.045 - time) / 0.06)
        if weight <= 0:
            continue
        u = min(max((time - first) / (last - first), 0), 1)
        lift = 0.15 * _ease((u - 0.45) / 0.55) ** 1.3
        ahead = SPEED * (first - time) + 0.30 + 0.10 * lift / 0.15
        down = pose["rise"] - HIP_DOWN - ANKLE_UP - lift
        reach = min(math.hypot(ahead, down), (THIGH + SHIN) * 0.995)
        line = math.degrees(math.atan2(ahead, down))
        at_hip = math.degrees(math.acos((THIGH**2 + reach**2 - SHIN**2) / (2 * THIGH * reach)))
        at_knee = math.degrees(math.acos((THIGH**2 + SHIN**2 - reach**2) / (2 * THIGH * SHIN)))
        hip, knee = line + at_hip, 180 - at_knee
        pitch = math.degrees(math.asin(min(1, lift / 0.19)))
        ankle = hip - knee + pitch
        for name, value in (("hip", hip), ("knee", knee), ("ankle", ankle)):
            pose[name + side] += (value - pose[name + side]) * weight
    return pose


def _ease(u: float) -> float:
    u = min(max(u, 0.0), 1.0)
    return u * u * (3 - 2 * u)
