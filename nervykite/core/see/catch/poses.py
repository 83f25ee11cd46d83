"""The curves of each movement of a subject, frame by frame, whose peaks are apexes.

In: what was seen of a take. Out: for each subject, people or what else moves, its movements as numbers a frame, in
shares of the subject's own height, the camera's own way taken out.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d

from .seen import JOINTS, Seen

J = {name: number for number, name in enumerate(JOINTS)}
TORSO = 2.6
"""How many times as tall a body is as its head is above its hips."""


@dataclass(frozen=True)
class PoseTrackingSettings:
    """The settings by which poses are tracked.

    steady: over how many seconds places are smoothed; least: for how many seconds somebody has to be seen to be a
    subject; beside: how much somebody has to move, beside who moves most, to be one as well; inside: how much of a
    body has to be in the picture for a frame to count.
    """

    steady: float = 0.03
    least: float = 0.25
    beside: float = 0.35
    inside: float = 0.8


@dataclass(frozen=True)
class Subject:
    """Somebody, or something, that moves.

    first: the first frame that shows it; size: its height, in shares of the frame's, (n,); inside: how much of it is in
    the picture, 0…1, (n,); movements: how far each has gone, in its heights, (n,), by its name; speed: how far its
    parts go to the next frame on the screen, in shares of the frame's height, (n,); person: whether it is somebody.
    """

    first: int
    size: np.ndarray
    inside: np.ndarray
    movements: dict[str, np.ndarray]
    speed: np.ndarray
    person: bool = True


def ways(seen: Sequence[Seen]) -> np.ndarray:
    """The maps from the first frame to each, in shares of the height: (n, 3, 3)."""
    way, found = np.eye(3), []
    for number, one in enumerate(seen):
        a, b, x, y = one.step
        if number:
            way = np.array([[a, -b, x], [b, a, y], [0, 0, 1]]) @ way
        found.append(way)
    return np.array(found).reshape(-1, 3, 3)


def subjects(
    seen: Sequence[Seen], rate: float, wide: float, settings: PoseTrackingSettings | None = None
) -> list[Subject]:
    """The subjects that move in a take, most of all first; `rate` is frames a second, `wide` the frame's width in
    heights.
    """
    settings = settings or PoseTrackingSettings()
    back = np.linalg.inv(ways(seen)) if seen else np.zeros((0, 3, 3))
    smooth = max(0.5, settings.steady * rate)
    found = []
    for numbers, joints in _tracks(seen):
        if len(numbers) >= max(4, settings.least * rate):
            found.append(_person(numbers, joints, back, wide, smooth))
    found = [s for s in found if (s.inside > settings.inside).sum() >= 3]
    if not found:
        thing = _thing(seen, back, wide, smooth, max(4, settings.least * rate))
        return [] if thing is None else [thing]
    stirred = [float((s.speed * (s.inside > 0.5)).sum()) for s in found]
    order = np.argsort(stirred)[::-1]
    return [found[k] for k in order if stirred[k] >= settings.beside * max(stirred)]


def _tracks(seen: Sequence[Seen]) -> list[tuple[np.ndarray, np.ndarray]]:
    """The frames in which each figure is followed, in a row, and its joints there: (n,), (n, 17, 2)."""
    known: dict[int, list[int]] = {}
    for number, one in enumerate(seen):
        for figure in one.figures:
            known.setdefault(figure, []).append(number)
    tracks = []
    for figure, frames in known.items():
        at = np.array(frames)
        numbers = np.arange(at[0], at[-1] + 1)
        places = np.stack([seen[n].figures[figure] for n in frames]).reshape(len(at), -1)
        filled = np.stack([np.interp(numbers, at, column) for column in places.T], 1)
        tracks.append((numbers, filled.reshape(len(numbers), -1, 2)))
    return tracks


def _person(numbers: np.ndarray, joints: np.ndarray, back: np.ndarray, wide: float, smooth: float) -> Subject:
    joints = gaussian_filter1d(joints, smooth, axis=0, mode="nearest")
    inside = ((joints > 0) & (joints < [wide, 1])).all(2).mean(1)
    hips = joints[:, [J["hip L"], J["hip R"]]].mean(1)
    size = TORSO * np.linalg.norm(joints[:, J["head"]] - hips, axis=1)
    # Who bends down is as tall as before: the size is that of a while.
    size = np.maximum(gaussian_filter1d(size, 8 * smooth, mode="nearest"), 1e-3)
    lies = np.einsum("nij,nkj->nki", back[numbers, :2, :2], joints) + back[numbers, None, :2, 2]
    zoom = np.sqrt(np.linalg.det(back[numbers, :2, :2]))  # sizes as the take's first frame has them
    scene_hips = lies[:, [J["hip L"], J["hip R"]]].mean(1)
    unit = size * zoom
    hands = joints[:, [J["finger L"], J["finger R"]]]
    movements = {
        "rise": -_gone(scene_hips[:, 1], unit),
        "side": _gone(scene_hips[:, 0], unit),
        "stride": np.linalg.norm(joints[:, J["ankle L"]] - joints[:, J["ankle R"]], axis=1) / size,
        "hands": (hips[:, 1] - hands[..., 1].min(1)) / size,
        "reach": np.linalg.norm(hands - hips[:, None], axis=2).max(1) / size,
    }
    return Subject(int(numbers[0]), size, inside, movements, _speed(joints))


def _gone(place: np.ndarray, unit: np.ndarray) -> np.ndarray:
    """The way it has gone, each step measured in the size of its own time: what comes near goes farther on screen."""
    steps = np.diff(place, prepend=place[:1])
    return np.cumsum(steps / unit)


def _speed(joints: np.ndarray) -> np.ndarray:
    way = np.linalg.norm(np.diff(joints, axis=0), axis=2).mean(1)
    ends = np.r_[way[:1], way, way[-1:]]
    return (ends[:-1] + ends[1:]) / 2


def _thing(seen: Sequence[Seen], back: np.ndarray, wide: float, smooth: float, least: float) -> Subject | None:
    """A subject that is told by the outline of what moves alone."""
    there = np.array([s.share > 0 for s in seen], bool)
    share = np.array([s.share for s in seen])
    there &= share > share.max(initial=0) / 6  # what is a few waves only, before and after, is not it
    at = np.flatnonzero(there)
    if len(at) < least:
        return None
    numbers = np.arange(at[0], at[-1] + 1)
    boxes = np.array([seen[int(n)].box for n in at])
    boxes = np.stack([np.interp(numbers, at, column) for column in boxes.T], 1)
    boxes = gaussian_filter1d(boxes, smooth, axis=0, mode="nearest")
    tall, broad = boxes[:, 3] - boxes[:, 1], boxes[:, 2] - boxes[:, 0]
    size = np.full(len(numbers), max(float(np.median(np.maximum(tall, broad))), 1e-3))
    middle = np.stack([boxes[:, [0, 2]].mean(1), boxes[:, [1, 3]].mean(1)], 1)
    lies = np.einsum("nij,nj->ni", back[numbers, :2, :2], middle) + back[numbers, :2, 2]
    edge = 0.01
    inside = 1 - 0.5 * ((boxes[:, 0] < edge) | (boxes[:, 2] > wide - edge))
    movements = {
        "rise": -_gone(lies[:, 1], size), "side": _gone(lies[:, 0], size),
        "broad": broad / size, "tall": tall / size,
    }  # fmt: skip
    speed = np.interp(numbers, at, [seen[int(n)].speed for n in at])
    return Subject(int(numbers[0]), size, inside, movements, gaussian_filter1d(speed, smooth, mode="nearest"), False)
