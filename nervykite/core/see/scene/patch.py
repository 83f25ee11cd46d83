"""One patch of a picture followed: a shoe, a badge, the crest of a wave, with its size and its turn.

It is looked for around where it should be by normalised cross-correlation (Lewis 1995), then laid on exactly by a
similarity and a change of light (inverse composition; Baker and Matthews 2004). It is compared with how it looked in
the held frame, and, as looks change, with how it looked when it was last seen well. Once lost it is looked for in ever
wider surroundings.
"""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from ...common.errors import Refusal
from ...piece.model.framing import Box
from .follow import CameraPath, Followed, Grey


@dataclass(frozen=True)
class PatchFollowing:
    """The settings by which a patch is followed.

    side: pixels to which its longer side is brought; grain: how much is smoothed away; fewest: pixels of a side below
    which there is nothing to follow, and told: by how many levels it has to vary.
    search: how far around it is looked for, in parts of its longer side, and wider: how many times as far for each
    frame that it has been lost for; sizes and leans: at which it is looked for then, in parts and radians.
    rounds: of laying it on; turns: by how much, in e-folds and radians, it may have grown and turned since it was
    guessed; plain: a correlation that leaves no doubt, sure: one that says it is it, least: one below which it is lost,
    and again: one from which on it is found again; light: how many times as strong its contrast may be then.
    """

    side: int = 56
    search: float = 0.75
    wider: float = 1.35
    sizes: tuple[float, ...] = (0.8, 1.0, 1.25)
    leans: tuple[float, ...] = (-0.35, 0.0, 0.35)
    turns: float = 0.3
    rounds: int = 24
    grain: float = 0.8
    fewest: int = 8
    told: float = 4.0
    plain: float = 0.96
    sure: float = 0.85
    least: float = 0.65
    again: float = 0.92
    light: float = 1.5


@dataclass(frozen=True)
class _Pose:
    """Where a patch is: its middle, in pixels, how large, and how turned, in one number for both."""

    x: float
    y: float
    by: complex = 1.0

    def matrix(self) -> np.ndarray:
        """The matrix from the patch's middle to the frame's pixels: (3, 3)."""
        return np.array([[self.by.real, -self.by.imag, self.x], [self.by.imag, self.by.real, self.y], [0, 0, 1]])


class _Look:
    """Patch as it once looked: pixels that are asked for, and what each change of place, size, turn does to them."""

    def __init__(self, picture: np.ndarray, pose: _Pose, size: tuple[float, float], settings: PatchFollowing) -> None:
        self.size = size
        w, h = size
        longest = max(w, h)
        step = max(1.0, longest / settings.side)
        columns, rows = max(settings.fewest, round(w / step)), max(settings.fewest, round(h / step))
        x, y = np.meshgrid((np.arange(columns) + 0.5) / columns * w - w / 2, (np.arange(rows) + 0.5) / rows * h - h / 2)
        self.x, self.y, self.step = x, y, (w / columns, h / rows)
        self.picture = self.sampled(picture, pose)
        down, across = np.gradient(self.picture)
        across, down = across / self.step[0], down / self.step[1]
        # The rim is shared with what lies behind.
        inner = np.hypot(x / (w / 2), y / (h / 2))
        self.weights = np.exp(-0.5 * (inner / 0.8) ** 2).ravel()
        columns_of = [across, down, across * x + down * y, down * x - across * y, self.picture, np.ones_like(x)]
        self.steps = np.stack([c.ravel() for c in columns_of], 1)
        weighted = self.steps * self.weights[:, None]
        self.solve = np.linalg.pinv(self.steps.T @ weighted) @ weighted.T

    def sampled(self, picture: np.ndarray, pose: _Pose) -> np.ndarray:
        """The pixels of a picture that the patch has where a pose puts it: float32 (rows, columns)."""
        z = (self.x + 1j * self.y) * pose.by
        there = (z.real + pose.x).astype(np.float32), (z.imag + pose.y).astype(np.float32)
        return cv2.remap(picture, *there, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)

    def likeness(self, picture: np.ndarray, pose: _Pose) -> float:
        """The likeness to it of what lies there, whatever the light: -1…1."""
        a, b = self.picture.ravel(), self.sampled(picture, pose).ravel()
        a, b = (v - np.average(v, weights=self.weights) for v in (a, b))
        power = float((self.weights * a * a).sum() * (self.weights * b * b).sum())
        return float((self.weights * a * b).sum() / np.sqrt(power)) if power > 1e-6 else 0.0

    def contrast(self, picture: np.ndarray, pose: _Pose) -> float:
        """The number of times as strong the contrast of what lies there is, or its own: at least 1."""
        a, b = float(self.picture.std()), float(self.sampled(picture, pose).std())
        return max(a, b) / max(1e-6, min(a, b))

    def laid_on(self, picture: np.ndarray, pose: _Pose, rounds: int) -> _Pose:
        """Where it lies exactly, near a pose."""
        for _ in range(rounds):
            off = (self.sampled(picture, pose) - self.picture).ravel()
            across, down, size, turn, _, _ = self.solve @ off
            by = complex(1 + size, turn)
            if not 0.5 < abs(by) < 2:
                break
            moved = complex(across, down) * pose.by / by
            pose = _Pose(pose.x - moved.real, pose.y - moved.imag, pose.by / by)
            if abs(moved) < 0.003 and abs(by - 1) < 1e-4:
                break
        return pose


def follow_patch(
    grey: Grey,
    numbers: range,
    ref: int,
    box: Box,
    settings: PatchFollowing | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> CameraPath:
    """The way of a patch over some frames in order, seen from one of them.

    box: left, top, right, bottom of it in frame `ref`, in pixels
    progress: is told the share done, 0…1
    Raises Refusal if there is nothing to follow in it.
    """
    s = settings or PatchFollowing()
    size = box[2] - box[0], box[3] - box[1]

    def picture(number: int) -> np.ndarray:
        return cv2.GaussianBlur(grey(number), (0, 0), s.grain).astype(np.float32)

    home = _Pose((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    if min(size) < s.fewest:
        raise Refusal("That patch is too small to be followed. Draw a larger one.")
    first = _Look(picture(ref), home, size, s)
    if float(first.picture.std()) < s.told:
        raise Refusal("There is nothing in that patch that could be followed. Draw it around something with contrast.")
    found: dict[int, tuple[_Pose, float]] = {ref: (home, 1.0)}
    for order in (range(ref + 1, numbers.stop), range(ref - 1, numbers.start - 1, -1)):
        at, speed, lost, look = home, 0j, 0, first
        for number in order:
            now = picture(number)
            pose, likeness = _sought(now, (first, look), at, speed, lost, s)
            again = likeness >= s.again and min(x.contrast(now, pose) for x in (first, look)) < s.light
            if not again and (lost or likeness < s.least):
                lost, speed = lost + 1, 0j
                found[number] = at, 0.0
            else:
                moved = complex(pose.x - at.x, pose.y - at.y)
                # What was found again elsewhere does not fly on.
                speed = moved if not lost else 0j
                at, lost = pose, 0
                found[number] = pose, min(1.0, (likeness - s.least) / (s.sure - s.least))
                if likeness >= s.sure:
                    look = _Look(now, pose, size, s)
            progress(len(found) / max(1, len(numbers)))
    return _way(found, numbers, ref, home)


def _sought(
    picture: np.ndarray, looks: tuple[_Look, _Look], at: _Pose, speed: complex, lost: int, s: PatchFollowing
) -> tuple[_Pose, float]:
    """Where a patch is that was somewhere the frame before, or before it was lost, and how much that is like it.

    looks: how it was in the held frame, and when it was last seen well.
    """
    guess = _Pose(at.x + speed.real, at.y + speed.imag, at.by)
    guesses: list[_Pose] = [] if lost else [guess, at]
    if not lost:
        tried = _best(picture, looks, guesses, s)
        if tried[1] >= s.plain:
            return tried
    far = s.search * max(looks[0].size) * s.wider**lost
    by = [at.by * size * complex(np.cos(t), np.sin(t)) for size in s.sizes for t in s.leans] if lost else [at.by]
    for look in dict.fromkeys(looks):
        guesses += [_spotted(picture, look, _Pose(guess.x, guess.y, b), far) for b in by]
    return _best(picture, looks, guesses, s)


def _best(
    picture: np.ndarray, looks: tuple[_Look, _Look], guesses: list[_Pose], s: PatchFollowing
) -> tuple[_Pose, float]:
    """The best place near some guesses: as it was in the held frame if that is seen, else as it was last."""
    found: list[tuple[float, _Pose]] = []
    for look in dict.fromkeys(looks):
        poses = [(g, look.laid_on(picture, g, s.rounds)) for g in guesses]
        found += [
            (look.likeness(picture, p) if _near(p, g, max(look.size), picture.shape, s) else -1.0, p) for g, p in poses
        ]
        likeness, pose = max(found, key=lambda one: one[0])
        if likeness >= s.sure:
            break
    return pose, likeness


def _near(pose: _Pose, guess: _Pose, side: float, shape: tuple[int, ...], s: PatchFollowing) -> bool:
    """True if a pose is about where it was guessed, in a picture (h, w), and as large and turned."""
    changed = abs(np.log(pose.by / guess.by))
    if not (0 <= pose.x < shape[1] and 0 <= pose.y < shape[0]):
        return False
    return changed < s.turns and np.hypot(pose.x - guess.x, pose.y - guess.y) < 0.5 * side * abs(guess.by)


def _spotted(picture: np.ndarray, look: _Look, guess: _Pose, far: float) -> _Pose:
    """Where a look is seen best, as large and turned as guessed, no farther away than so many pixels."""
    step, (rows, columns) = max(look.step), look.picture.shape
    turn = np.array([[guess.by.real, -guess.by.imag], [guess.by.imag, guess.by.real]])
    wide, high = (max(4, round(n * abs(guess.by))) for n in (columns, rows))
    middle = np.array([columns / 2, rows / 2]) - 0.5
    shift = np.array([wide / 2, high / 2]) - 0.5 - turn @ middle
    sought = cv2.warpAffine(
        look.picture, np.hstack([turn, shift[:, None]]), (wide, high), borderMode=cv2.BORDER_REFLECT
    )
    h, w = picture.shape
    reach_x, reach_y = far + wide * step / 2, far + high * step / 2
    left, top = max(0, int(guess.x - reach_x)), max(0, int(guess.y - reach_y))
    right, bottom = min(w, int(guess.x + reach_x) + 1), min(h, int(guess.y + reach_y) + 1)
    size = round((right - left) / step), round((bottom - top) / step)
    if size[0] < wide or size[1] < high:
        return guess
    around = cv2.resize(picture[top:bottom, left:right], size, interpolation=cv2.INTER_AREA)
    likeness = cv2.matchTemplate(around, sought, cv2.TM_CCOEFF_NORMED)
    _, _, _, (x, y) = cv2.minMaxLoc(likeness)
    return _Pose(
        left + (x + wide / 2) * (right - left) / size[0], top + (y + high / 2) * (bottom - top) / size[1], guess.by
    )


def _way(found: dict[int, tuple[_Pose, float]], numbers: range, ref: int, home: _Pose) -> CameraPath:
    """Poses as a way; where the patch was lost it goes evenly from where it was seen to where it is seen again."""
    frames = np.array(list(numbers))
    seen = np.array([found[n][1] > 0 for n in numbers])
    poses = np.array([[found[n][0].x, found[n][0].y, found[n][0].by.real, found[n][0].by.imag] for n in numbers])
    for column in range(4):
        poses[:, column] = np.interp(frames, frames[seen], poses[seen, column])
    into = home.matrix()
    made = [into @ np.linalg.inv(_Pose(x, y, complex(a, b)).matrix()) for x, y, a, b in poses]
    followed = [Followed(m, round(found[n][1], 4)) for n, m in zip(numbers, made, strict=True)]
    return CameraPath(ref, numbers.start, "similarity", tuple(followed))
