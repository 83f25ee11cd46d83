"""The curves of layers and ground items: how values change over time, as the bench draws them, and a path as dots."""

from dataclasses import dataclass, field

import numpy as np

from ..draw.picture.evaluate import Evaluation
from ..piece.model import GroundItem, Layer
from ..piece.motion.channels import channel_of
from ..piece.motion.keyed import Keyed, KeyTrack
from ..piece.motion.placing import flat_at

MOST = 900
"""How many samples a curve has at most."""
Point = tuple[float, float]


@dataclass(frozen=True)
class Curve:
    """A channel over time: at each sample its numbers, and how fast each changes, a second."""

    channel: str
    title: str
    amount: list[list[float]]
    pace: list[list[float]]


@dataclass(frozen=True)
class PathKey:
    """A key on a path, in canvas pixels; its handles too, and whether it has any of its own.

    `turned` is how what lies on the canvas is turned and scaled into what a bend is given in, 2×2, row by row.
    """

    id: str
    frame: int
    at: Point
    arrive: Point | None
    leave: Point | None
    bent: bool
    turned: list[float]


@dataclass(frozen=True)
class Motion:
    """All of it for one owner.

    `first` is the project frame of the first sample, `step` how many frames lie between two. `path` is where the anchor
    is at each frame from `path_first` on. `larger`: how many times as large its behaviours make the ground there.
    """

    first: int
    step: float
    curves: list[Curve]
    path_first: int = 0
    path: list[Point] = field(default_factory=list)
    path_keys: list[PathKey] = field(default_factory=list)
    larger: float = 1.0


def motion_of(evaluation: Evaluation, owner: Layer | GroundItem) -> Motion:
    """The curves of all channels that have keys; of a layer also the path of its anchor."""
    keyed = evaluation.keyed(owner)
    ties = keyed.ties
    frames = [f for t in keyed.tracks.values() for f in t.frames]
    first, last = min([ties.start, *frames]), max([ties.end - 1, ties.start, *frames])
    fine = max(1, min(4, MOST // max(1, last - first + 1)))
    step = max(1.0 / fine, (last - first) / MOST)
    times = first + step * np.arange(int((last - first) / step + 1e-9) + 1)
    rate = float(evaluation.document.project.rate)
    curves = [_curve(owner, keyed, channel, times, rate) for channel in keyed.tracks]
    if isinstance(owner, GroundItem):
        return Motion(first, float(step), curves, larger=evaluation.lying(owner).larger)
    return Motion(first, float(step), curves, *_path(evaluation, owner, keyed))


def _curve(owner: Layer | GroundItem, keyed: Keyed, channel: str, times: np.ndarray, rate: float) -> Curve:
    """Pace is the difference over an eighth of a frame to either side, so that it jumps where the motion does."""
    track = keyed.tracks[channel]
    near = 0.125
    amount = [track.value(t) for t in times.tolist()]
    pace = [
        [(b - a) / (2 * near) * rate for a, b in zip(track.value(t - near), track.value(t + near), strict=True)]
        for t in times.tolist()
    ]
    return Curve(channel, channel_of(owner, channel).title, _round(amount), _round(pace))


def _round(values: list[list[float]]) -> list[list[float]]:
    return [[round(v, 4) for v in value] for value in values]


def _path(evaluation: Evaluation, layer: Layer, keyed: Keyed) -> tuple[int, list[Point], list[PathKey]]:
    """Where a layer's anchor goes on the canvas, and the keys that its path goes through."""
    tracks = [t for c in ("position", "across", "down") if (t := keyed.tracks.get(c)) is not None]
    frames = [f for t in tracks for f in t.frames]
    if len(set(frames)) < 2:
        return 0, [], []
    first, last = min(frames), max(frames)

    def at(time: float, position: Point) -> Point:
        x, y = evaluation.anchor(layer, time)
        across, down, w = evaluation.around(layer, time) @ [x + position[0], y + position[1], 1]
        return float(across / w), float(down / w)

    dots = [at(f, keyed.position(f)) for f in range(first, min(last, first + 2000) + 1)]
    own = keyed.tracks.get("position")
    keys = (
        [] if own is None or layer.apart else [_path_key(evaluation, layer, own, n, at) for n in range(len(own.keys))]
    )
    return first, [(round(x, 2), round(y, 2)) for x, y in dots], keys


def _path_key(evaluation: Evaluation, layer: Layer, track: KeyTrack, n: int, at) -> PathKey:
    key, frame = track.keys[n], track.frames[n]
    x, y = key.value
    ax, ay = evaluation.anchor(layer, frame)
    turned = flat_at(evaluation.around(layer, frame), (ax + x, ay + y))[:2, :2]
    arrive, leave = track.handles(n)

    def handle(bend: Point | None) -> Point | None:
        return None if bend is None else at(frame, (x + bend[0], y + bend[1]))

    here = at(frame, (x, y))
    return PathKey(key.id, frame, here, handle(arrive), handle(leave), key.bend is not None, turned.ravel().tolist())
