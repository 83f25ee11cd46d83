"""Made-up shots whose mattes are known: subjects that cross, linger or come in twos, before a still or panning camera.

They are put together of the made-up subjects and places of `tools.learn.scenes`, each by its seed, so that any of
them can be looked at again. A world is a kind of shot; what is good in one of them may be of no use in another, which
is why there are several.
"""

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from nervykite.core.see.find.strokes import Stroke

from ..learn.noise import noise
from ..learn.scenes import place, subject

SIZE = 360, 640
"""Columns and rows."""
FRAMES, HELD = 40, 20
World = Literal["crosses", "pans", "lingers", "lingers, pans", "stays", "sways", "two"]
WORLDS: tuple[World, ...] = ("crosses", "pans", "lingers", "lingers, pans", "sways", "two", "stays")
TALL = (0.25, 0.6)
"""How tall subjects are, in heights of the frame, before their limbs."""
FAR, LITTLE = (0.5, 0.9), (0.015, 0.05)
"""How far somebody goes who crosses or who lingers, in widths of the frame."""
STAYS = -0.2
"""When somebody who comes and stays is there, see `_Actor.seen`."""
LEAVES, WALK = 0.9, 4
"""How far somebody goes who leaves, in widths of the frame, and in how many frames."""
PANS = (0.1, 0.5)
"""How far the camera pans, in widths of the frame."""
DAB, LINE = (0.1, 0.3), (0.3, 0.8)
"""How long short strokes are on a subject and beside it, in its extent."""
SHARE = (0.02, 0.35)
"""How much of the held frame a subject may cover."""


@dataclass(frozen=True)
class Shot:
    """Frames uint8 RGB (h, w, 3) and the true alpha of what moves in each, float32 (h, w), 0…1.

    place: what the middle frame would show without its subjects, uint8 (h, w, 3); hidden: where no frame shows that,
    bool (h, w).
    """

    frames: list[np.ndarray]
    truth: list[np.ndarray]
    place: np.ndarray
    hidden: np.ndarray


@dataclass(frozen=True)
class Away:
    """Somebody who lingers is away for a share of the frames, 0…1, before that or after it."""

    share: float
    before: bool

    def at(self, n: int, count: int) -> float:
        """The error in a frame of so many, as a share of the way that takes them out of it."""
        since = (n if self.before else count - 1 - n) - max(1, round(self.share * count))
        return 1.0 if since < 0 else max(0.0, 1 - (since + 1) / WALK)


def shot_of(world: World, seed: int, count: int = FRAMES, away: Away | None = None) -> Shot:
    """A shot of a world; another one for each seed. away: when its subjects are not there, if they ever are not."""
    when = [] if away is None else [round(100 * away.share), away.before]
    rng = np.random.default_rng([WORLDS.index(world), seed, *when])
    while True:
        made = _shot(world, rng, count, away)
        if SHARE[0] < (made.truth[count // 2] > 0.5).mean() < SHARE[1]:
            return made


def _shot(world: World, rng: np.random.Generator, count: int, away: Away | None) -> Shot:
    w, h = SIZE
    pans, lingers = "pans" in world, "lingers" in world
    wide = round(w * (1 + (PANS[1] if pans else 0)))
    ground = place(rng, h, wide)
    until = STAYS if world == "stays" else 0.5
    actors = [_Actor.of(rng, ground, wide, lingers, until) for _ in range(2 if world == "two" else 1)]
    panned = rng.uniform(*PANS) * w * rng.choice([-1, 1]) if pans else 0.0
    sway = _Sway(rng, h, wide) if world == "sways" else None
    grain, soft = rng.uniform(1, 4), rng.uniform(0.3, 0.8)
    out = 0.0 if away is None else LEAVES * w * rng.choice([-1, 1])
    frames, truth = [], []
    alone, hidden = np.zeros((h, w, 3), np.uint8), np.ones((h, w), np.float32)
    for n in range(count):
        at = n / (count - 1) - 0.5
        left = (wide - w) / 2 + at * panned
        view = np.array([[1, 0, -left], [0, 1, 0]])
        behind = ground if sway is None else sway.of(ground, n)
        picture = cv2.warpAffine(behind, view, (w, h), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        if n == count // 2:
            alone = np.clip(cv2.GaussianBlur(picture, (0, 0), soft), 0, 255).astype(np.uint8)
        alpha = np.zeros((h, w), np.float32)
        off = np.array([[0, 0, 0.0 if away is None else out * away.at(n, count)], [0, 0, 0]])
        for actor in actors:
            seen = actor.seen(at, view + off, (w, h))
            picture = picture * (1 - seen[..., 3:]) + seen[..., :3]
            alpha = alpha + seen[..., 3] - alpha * seen[..., 3]
        picture = cv2.GaussianBlur(picture, (0, 0), soft) + rng.normal(0, grain, (h, w, 3))
        frames.append(np.clip(picture, 0, 255).astype(np.uint8))
        truth.append(np.clip(alpha, 0, 1).astype(np.float32))
        onto_middle = np.array([[1, 0, left - (wide - w) / 2 - _middle(count) * panned], [0, 1, 0]])
        there = cv2.warpAffine(truth[-1], onto_middle, (w, h), borderMode=cv2.BORDER_CONSTANT, borderValue=1)
        hidden = np.minimum(hidden, there)
    return Shot(frames, truth, alone, hidden > 0.1)


def _middle(count: int) -> float:
    """When the middle frame of so many is seen, see `_Actor.seen`."""
    return count // 2 / (count - 1) - 0.5


@dataclass(frozen=True)
class _Actor:
    """A subject that goes its way: premultiplied float32 (h, w, 4), and how it moves."""

    body: np.ndarray
    goes: np.ndarray
    turns: float
    bends: float
    phase: float
    starts: np.ndarray
    until: float

    @classmethod
    def of(cls, rng: np.random.Generator, ground: np.ndarray, wide: int, lingers: bool, until: float) -> "_Actor":
        w, h = SIZE
        left = (wide - w) // 2
        seen = np.ascontiguousarray(ground[:, left : left + w])
        made = next(made for _ in iter(int, 1) if (made := subject(rng, seen, TALL)) is not None)
        far = rng.uniform(*(LITTLE if lingers else FAR)) * w
        angle = rng.normal(0, 0.25) + rng.choice([0, np.pi])
        goes = far * np.array([np.cos(angle), np.sin(angle)])
        body = np.dstack([made.colours * made.alpha[..., None], made.alpha]).astype(np.float32)
        starts = np.array([left + rng.normal(0, 0.04) * w, rng.normal(0, 0.02) * h])
        return cls(body, goes, rng.uniform(2, 9), rng.uniform(0.02, 0.08), rng.uniform(0, 2 * np.pi), starts, until)

    def seen(self, at: float, view: np.ndarray, size: tuple[int, int]) -> np.ndarray:
        """As it is seen in a view (2, 3) of the place, at a time -0.5…0.5: premultiplied float32 (h, w, 4)."""
        h, w = self.body.shape[:2]
        swing = np.sin(self.phase + 12 * at)
        turn = cv2.getRotationMatrix2D((w / 2, h / 2), self.turns * swing, 1 + 0.04 * at)
        turn[:, 2] += self.goes * min(at, self.until) + self.starts
        turn[0, 1] += self.bends * np.cos(self.phase + 9 * at)  # it leans as it goes
        turn[0, 2] -= self.bends * np.cos(self.phase + 9 * at) * h / 2
        way = view @ np.vstack([turn, [0, 0, 1]])
        return cv2.warpAffine(self.body, way, size, flags=cv2.INTER_LINEAR)


class _Sway:
    """Leaves in the wind: parts of a place go a little to and fro, each in its own time."""

    def __init__(self, rng: np.random.Generator, h: int, w: int) -> None:
        self._far = 4 * np.clip(noise(rng, h, w, 1, 3, 1.0), 0, 1.5)
        self._phase = (3 * noise(rng, h, w, 2, 4, 0.8)).astype(np.float32)
        self._speed = rng.uniform(0.25, 0.6)
        self._y, self._x = np.mgrid[:h, :w].astype(np.float32)

    def of(self, ground: np.ndarray, n: int) -> np.ndarray:
        """The place at a frame."""
        by = (self._far * np.sin(self._speed * n + self._phase)).astype(np.float32)
        return cv2.remap(ground, self._x + by, self._y + 0.3 * by, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT)


def short_strokes_on(rng: np.random.Generator, alpha: np.ndarray) -> tuple[list[Stroke], list[Stroke]] | None:
    """A dab on the subject and a line beside it, for a matte float32 (h, w), 0…1; None if there is no room for them."""
    h, w = alpha.shape
    inside = cv2.erode((alpha > 0.9).astype(np.uint8), np.ones((3, 3)))
    deep = cv2.distanceTransform(np.pad(inside, 1), cv2.DIST_L2, 5)[1:-1, 1:-1]
    if not deep.any():
        return None
    thick, subject = np.argwhere(deep >= 0.6 * deep.max()), np.argwhere(alpha > 0.5)
    middle = thick[rng.integers(len(thick))][::-1].astype(float)
    extent = float(np.hypot(*np.ptp(subject, axis=0)))
    beside = cv2.distanceTransform((alpha < 0.02).astype(np.uint8), cv2.DIST_L2, 5)

    def line(middle: np.ndarray, long: float, angle: float, free: np.ndarray) -> np.ndarray | None:
        points = middle + np.linspace(-0.5, 0.5, 12)[:, None] * long * np.array([np.cos(angle), np.sin(angle)])
        at = np.round(points).astype(int)
        if (at < 0).any() or (at >= (w, h)).any() or not free[at[:, 1], at[:, 0]].all():
            return None
        return points

    dabs = (line(middle, rng.uniform(*DAB) * extent, rng.uniform(0, np.pi), inside > 0) for _ in range(40))
    dab = next((d for d in dabs if d is not None), np.array([middle, middle + 1]))
    for _ in range(400):
        angle = rng.uniform(0, 2 * np.pi)
        away = middle + rng.uniform(0.4, 0.9) * extent * np.array([np.cos(angle), np.sin(angle)])
        across = angle + np.pi / 2 + rng.normal(0, 0.3)
        drop = line(away, rng.uniform(*LINE) * extent, across, beside > 0.03 * extent)
        if drop is not None:
            return [Stroke(dab, 0.008 * h)], [Stroke(drop, 0.008 * h)]
    return None
