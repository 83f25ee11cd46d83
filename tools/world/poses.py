"""Key poses of a figure.

A limb's angle is counted from straight down, forward positive. The N limbs are the ones nearer to the
camera when the figure goes to the right, the F limbs the farther ones. `knee` and `elbow` are the bend of
the lower part against the upper; `out` leads an arm away from the body, `fore` its forearm; `splay` a leg.
`rise` is the height of the pelvis over the ground in metres; `turn` is added to the figure's heading,
`look` turns the head to its right, `curl` closes the hand; everything else is degrees.
"""

Pose = dict[str, float]

STAND: Pose = {
    "rise": 0.95, "lean": 3, "twist": 0, "head": 0, "turn": 0, "look": 30, "tilt": 0,
    "hipN": 4, "kneeN": 8, "ankleN": 2, "splayN": 4, "hipF": -2, "kneeF": 6, "ankleF": 2, "splayF": 4,
    "shoulderN": -6, "elbowN": 24, "outN": 12, "foreN": -6, "curlN": 0.45,
    "shoulderF": 4, "elbowF": 30, "outF": 12, "foreF": -6, "curlF": 0.75,
    "snapN": 0,
}  # fmt: skip
LEAP: Pose = STAND | {
    "rise": 1.36, "lean": 11, "twist": -24, "head": -8,
    "hipN": 76, "kneeN": 40, "ankleN": 14, "hipF": -36, "kneeF": 46, "ankleF": 42,
    "shoulderN": -58, "elbowN": 58, "shoulderF": 132, "elbowF": 24, "outN": 20, "outF": 8,
}  # fmt: skip
PUSH: Pose = STAND | {
    "rise": 0.97, "lean": 17, "twist": -18, "head": -2,
    "hipN": 64, "kneeN": 84, "ankleN": 5, "hipF": -26, "kneeF": 12, "ankleF": 42,
    "shoulderN": -50, "elbowN": 72, "shoulderF": 70, "elbowF": 70, "outN": 14, "outF": 10,
}  # fmt: skip
FLIGHT: Pose = STAND | {
    "rise": 1.02, "lean": 15, "twist": -16, "head": 0,
    "hipN": 58, "kneeN": 58, "ankleN": 4, "hipF": -28, "kneeF": 62, "ankleF": 40,
    "shoulderN": -40, "elbowN": 78, "shoulderF": 58, "elbowF": 66, "outN": 14, "outF": 10,
}  # fmt: skip
LAND: Pose = STAND | {
    "rise": 0.98, "lean": 15, "twist": -6, "head": 2,
    "hipN": 34, "kneeN": 16, "ankleN": -6, "hipF": -6, "kneeF": 88, "ankleF": 20,
    "shoulderN": -20, "elbowN": 72, "shoulderF": 80, "elbowF": 50, "outN": 18, "outF": 14,
}  # fmt: skip
PASS: Pose = STAND | {
    "rise": 0.92, "lean": 16, "twist": 6, "head": 2,
    "hipN": 4, "kneeN": 34, "ankleN": -14, "hipF": 26, "kneeF": 96, "ankleF": 12,
    "shoulderN": 10, "elbowN": 84, "shoulderF": 20, "elbowF": 84, "outN": 12, "outF": 10,
}  # fmt: skip


def mirrored(pose: Pose) -> Pose:
    """The pose with near and far limbs exchanged; the hand that grips goes on gripping."""
    other = {"N": "F", "F": "N"}
    swapped = {(k[:-1] + other[k[-1]] if k[-1] in other else k): v for k, v in pose.items()}
    kept = {k: pose[k] for k in ("curlN", "curlF", "snapN")}
    return {k: v for k, v in swapped.items() if k != "snapF"} | {"twist": -pose["twist"]} | kept
