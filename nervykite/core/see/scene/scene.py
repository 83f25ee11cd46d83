"""The scene of a shot: what is there behind those who move through it, as one of its frames sees it."""

import functools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np

from ...common.aside import crew, side_by_side
from ...common.errors import Refusal
from .behind import Behind
from .difference import apart
from .ghost import GhostSettings, ghosts
from .passers import PasserSettings, passers
from .plate import noise_of, plate_of
from .stack import Stack, Ways, compared, lay

PIXELS = 200_000
"""Pixels at which movement is looked for."""


@dataclass(frozen=True)
class SceneSettings:
    """The number of frames are compared, and when people are believed."""

    frames: int = 16
    """How many frames of a shot are compared at most."""
    against: float = 0.1
    """The share of the people found that must show nothing new, if the finder is not to be believed."""
    stirs: float = 0.04
    """The share of somebody's area, 0…1, that changes if they are more than a part of the scene."""
    changed: int = 10
    """The difference, in levels, from all that was right beside it, by which something has changed."""
    passers: PasserSettings = field(default_factory=PasserSettings)
    ghosts: GhostSettings = field(default_factory=GhostSettings)


Person = Callable[[np.ndarray, bool], np.ndarray | None]
"""How likely a person is at each pixel of a frame, float32 (h, w), 0…1, quickly or well; None if that is unknown."""


def working_size(width: int, height: int, pixels: int = PIXELS) -> tuple[int, int]:
    """The size at which a mover is looked for in frames of the given size, of so many pixels at most."""
    scale = min(1.0, math.sqrt(pixels / (width * height)))
    return max(16, round(width * scale)), max(16, round(height * scale))


@dataclass(frozen=True)
class Scene:
    """A shot without what moves through it, as frame `at` sees it, at the working size.

    stack: its frames; behind: what they show without their movers; people: float32 (n, h, w), how likely a person is
    in each frame of the stack, or None; held: how likely one is in frame `at`, (h, w), or None if nobody says so or the
    frames contradict it.
    """

    at: int
    stack: Stack
    behind: Behind
    people: np.ndarray | None
    held: np.ndarray | None = None


def scene_of(
    frames: Sequence[np.ndarray], at: int, person: Person | None = None, ways: Ways | None = None,
    settings: SceneSettings = SceneSettings(),
) -> Scene:  # fmt: skip
    """The scene of a shot, uint8 RGB (h, w, 3) frames in order, as frame `at` sees it. Raises Refusal.

    `person` says how likely a person is at each pixel of a frame: it keeps somebody who lingers out of the plate. ways:
    how frames lie on frame `at`, if that is known, see `lay`.
    """
    if len(frames) < 4:
        raise Refusal("A mover shows by comparing frames, and this shot has fewer than four. Use marks instead.")
    with crew() as aside:  # people are looked for while the frames are laid onto each other
        asked, first = {}, None
        if person is not None:
            first = aside.submit(person, frames[at], False)
            soon = compared(len(frames), at, settings.frames) if ways is None else []
            asked = {n: aside.submit(person, frames[n], True) for n in soon if n != at}

        def known() -> np.ndarray | None:
            seen = None if first is None else first.result()
            return None if seen is None else seen > 0.3

        stack = lay(frames, at, settings.frames, known, ways)
        held = None if first is None else first.result()
        if person is not None:
            asked |= {n: aside.submit(person, frames[n], True) for n in stack.numbers[1:] if n not in asked}
        found = {n: future.result() for n, future in asked.items()}
    if len(stack.frames) < 4:
        raise Refusal("The frames around this one cannot be laid over each other. Use marks instead.")
    likely = None
    if held is not None:
        answers = ((n, found[n]) for n in stack.numbers[1:])
        likely = people_in(stack, [held, *(None if f is None else stack.onto(n, f) for n, f in answers)], settings)
    at_first = weighed(stack, likely, settings=settings)
    if likely is not None and at_first.people is None:
        held = None
    plate, support, noise = at_first.plate, at_first.support, at_first.noise
    anew = np.any(at_first.passing, 0) | np.any(at_first.shown, 0)
    if anew.any():
        plate, support = plate_of(stack, at_first.unwanted, at_first.shown, (plate, support, anew))
        noise = noise_of(stack, plate)
    return Scene(at, stack, Behind(plate, noise, support, stack), at_first.people, held)


@dataclass(frozen=True)
class Weighed:
    """The scene as it is known at first; see `Scene` for what is not said."""

    people: np.ndarray | None
    """Those that are to be believed."""
    plate: np.ndarray
    support: np.ndarray
    noise: np.ndarray
    passing: np.ndarray
    """What passes, see `passers`."""
    shown: np.ndarray
    """Where frames show the scene although this plate does not: bool (n, h, w), see `ghosts`."""

    @property
    def unwanted(self) -> np.ndarray:
        """The parts that must not be in a better plate: float32 (n, h, w), 0…1."""
        return self.passing if self.people is None else np.maximum(self.passing, self.people)


def weighed(
    stack: Stack, people: np.ndarray | None, subject: np.ndarray | None = None,
    settings: SceneSettings = SceneSettings(),
) -> Weighed:  # fmt: skip
    """The plate of a stack as far as people, float32 (n, h, w), 0…1, or None, are to be believed, and its faults.

    subject: what is known to be no part of the scene in the held frame, bool (h, w).
    """
    plate, support = plate_of(stack, people)
    noise = noise_of(stack, plate)
    if people is not None and contradicted(people[0], stack.frames[0], plate, noise, support, settings):
        people = None
        plate, support = plate_of(stack)
        noise = noise_of(stack, plate)
    passing = passers(stack, plate, noise, people, subject, settings.passers)
    shown = ghosts(stack, plate, noise, settings.ghosts) & (passing == 0)
    return Weighed(people, plate, support, noise, passing, shown)


def contradicted(
    person: np.ndarray, frame: np.ndarray, plate: np.ndarray, noise: np.ndarray, support: np.ndarray,
    settings: SceneSettings = SceneSettings(),
) -> bool:  # fmt: skip
    """True if a person finder, (h, w), 0…1, sees people where a frame shows nothing but the scene."""
    known = (person > 0.6) & (support > 2)
    differs = cv2.GaussianBlur(apart(frame, plate) / np.maximum(2.6 * noise, 7.0), (0, 0), 2)
    return bool(known.sum() > 50 and ((differs < 1) & known).sum() > settings.against * known.sum())


def people_in(
    stack: Stack, found: Sequence[np.ndarray | None], settings: SceneSettings = SceneSettings()
) -> np.ndarray | None:
    """The likelihood of a person who moves in each frame of a stack: float32 (n, h, w); None if none is, or all over.

    found: what a finder says of each frame as the held one sees it, (h, w), 0…1, or None. It counts only if something
    was found all through the shot: one frame alone may be a mistake. Somebody who never stirs is part of the scene.
    """
    if any(f is None for f in found):
        return None
    likely = np.stack([f for f in found if f is not None]) * stack.valid
    likely *= 1 - _part_of_the_scene(likely, stack, settings)
    share = (likely > 0.6).mean((1, 2))
    return likely if (share > 0.003).mean() > 0.4 and np.median(share) < 0.7 else None


def _part_of_the_scene(likely: np.ndarray, stack: Stack, settings: SceneSettings) -> np.ndarray:
    """People who are there all through the shot and never stir: float32 (h, w), 0 or 1."""
    often = (likely > 0.5).mean(0) > 0.6
    count, labels, stats, _ = cv2.connectedComponentsWithStats(often.astype(np.uint8))
    if count < 2:
        return np.zeros(often.shape, np.float32)
    first = _soft_grey(stack.frames[0])
    high, low = (move(first, np.ones((3, 3), np.uint8)) for move in (cv2.dilate, cv2.erode))

    def changed(frame: np.ndarray, valid: np.ndarray) -> np.ndarray:
        grey = _soft_grey(frame)
        beyond = cv2.max(cv2.subtract(grey, high), cv2.subtract(low, grey))  # 0 where it is not beyond
        return (beyond > settings.changed) & valid

    calls = (functools.partial(changed, *one) for one in zip(stack.frames[1:], stack.valid[1:], strict=True))
    times = np.zeros(often.shape, np.uint8)
    for there in side_by_side(calls):
        times += there
    stirs = times > 0.3 * len(stack.frames)  # somebody who passes in front of them is there for less than that
    share = np.bincount(labels.ravel(), stirs.ravel(), minlength=count) / np.maximum(1, stats[:, cv2.CC_STAT_AREA])
    stays = share < settings.stirs
    stays[0] = False
    return cv2.dilate(stays[labels].astype(np.float32), np.ones((21, 21), np.uint8))


def _soft_grey(frame: np.ndarray) -> np.ndarray:
    return cv2.GaussianBlur(cv2.cvtColor(frame, cv2.COLOR_RGB2GRAY), (0, 0), 1.5)
