"""The truth of the figures' movement in a demo shot, by their joints: where it peaks, and how far it blurs them."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.signal import find_peaks, peak_prominences

Joints = dict[str, tuple[float, float]]
TORSO = 2.6
"""How many times as tall a figure is as its head is above its pelvis."""


@dataclass(frozen=True)
class Standing:
    """The settings of how far, in body heights, a peak has to stand out to be an apex, by what of; within how many
    frames apexes are one; how many of a figure's joints have to be in the picture; how far it may stray, in heights,
    for a pose to be held, and for how many frames.
    """

    top: float = 0.1
    stride: float = 0.2
    hand: float = 0.2
    turn: float = 0.12
    one: int = 5
    inside: float = 0.9
    flat: float = 0.012
    held: int = 12


def apexes(frames: Sequence[Sequence[Joints]], size: tuple[int, int], standing: Standing = Standing()) -> list[dict]:
    """The apexes of all figures of a shot, in order: {"frame", "what", "while"}.

    "while" are the first and the last frame through which the pose is held, as it may be for long.

    frames: for each frame the joints of each figure, in pixels; size: of the picture, (w, h).
    """
    found: list[tuple[int, str, float, tuple[int, int]]] = []
    for figure in range(min((len(f) for f in frames), default=0)):
        places = {k: np.array([f[figure][k] for f in frames]) for k in frames[0][figure]}
        found += _of(places, size, standing)
    found.sort(key=lambda a: -a[2])
    kept: list[tuple[int, str, float, tuple[int, int]]] = []
    for one in found:
        if all(abs(one[0] - other[0]) > standing.one for other in kept):
            kept.append(one)
    return [{"frame": frame, "what": what, "while": list(held)} for frame, what, _, held in sorted(kept)]


def _of(
    places: dict[str, np.ndarray], size: tuple[int, int], standing: Standing
) -> list[tuple[int, str, float, tuple[int, int]]]:
    every = np.stack(list(places.values()), 1)
    inside = ((every > 0) & (every < size)).all(2).mean(1) >= standing.inside
    pelvis = places["pelvis"]
    tall = TORSO * np.maximum(1, np.linalg.norm(places["head"] - pelvis, axis=1)).mean()
    hands = np.stack([places["handN"], places["handF"]], 1)
    curves = (
        ("top", -pelvis[:, 1], standing.top),
        ("stride", np.linalg.norm(places["ankleN"] - places["ankleF"], axis=1), standing.stride),
        ("hand", -hands[..., 1].min(1), standing.hand),
        ("reach", np.linalg.norm(hands - pelvis[:, None], axis=2).max(1), standing.hand),
        ("turn", pelvis[:, 0], standing.turn),
        ("turn", -pelvis[:, 0], standing.turn),
    )
    found = []
    for what, curve, least in curves:
        at, _ = find_peaks(curve, prominence=least * tall)
        stands = peak_prominences(curve, at)[0] / (least * tall)
        for frame, stand in zip(at, stands, strict=True):
            if inside[frame]:
                found.append((int(frame), what, float(stand), _held(curve, int(frame), standing, tall)))
    return found


def _held(curve: np.ndarray, top: int, standing: Standing, tall: float) -> tuple[int, int]:
    """The frames around a peak through which the pose is held, if that is for a while; else the peak alone."""
    near = curve >= curve[top] - standing.flat * tall
    first, last = top, top
    while first > 0 and near[first - 1]:
        first -= 1
    while last + 1 < len(curve) and near[last + 1]:
        last += 1
    return (first, last) if last - first >= standing.held else (top, top)


def blurs(frames: Sequence[Sequence[Joints]], size: tuple[int, int]) -> list[float | None]:
    """The way of the joints of the figures from frame to frame, in pixels, in the mean; None where nobody is seen."""
    result: list[float | None] = []
    for number in range(len(frames)):
        ways = []
        for figure in range(len(frames[number])):
            here = np.array(list(frames[number][figure].values()))
            if ((here > 0) & (here < size)).all(1).mean() < 0.5:
                continue
            around = [n for n in (number - 1, number + 1) if 0 <= n < len(frames)]
            ways += [np.linalg.norm(np.array(list(frames[n][figure].values())) - here, axis=1).mean() for n in around]
        result.append(round(float(np.mean(ways)), 2) if ways else None)
    return result
