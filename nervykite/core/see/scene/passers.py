"""Passers: what moves through a scene, followed from the held frame through the others, and so known in all of them.

Somebody who lingers before a panning camera needs it: without it a tenth less of that is found.
"""

import functools
from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np

from ...common.aside import side_by_side
from .difference import apart
from .rigid_motion import whole_motion
from .stack import Stack


@dataclass(frozen=True)
class PasserSettings:
    """The settings of what is followed, and how far."""

    least: float = 0.0005
    """The smallest part of the frame that is followed."""
    joined: int = 15
    """How near to each other, px, parts may lie that are one."""
    moves: float = 0.8
    """How far something has to go from one frame to the next, px, to be told from the scene."""
    core: int = 9
    """The window, px, all of which a part covers around corners that are its own and not half the scene's."""
    within: float = 1.0
    """The distance, px, within which those corners agree where they go."""
    own_way: float = 1.5
    """The distance, px, by which a part goes elsewhere than the rest, to be followed by itself."""
    parts: int = 4
    """The number of parts that are followed by themselves, the largest."""
    around: int = 13
    """The window, px, that the followed one may reach beyond: it bends, and was found roughly."""
    close: int = 3
    """The same window for what is known exactly, px: if it lingers, every pixel beside it that is seen counts."""
    same: float = 6.0
    """By how many levels, in the mean, what rests changes at most from frame to frame."""
    unwanted: float = 0.69
    """How unwanted a passer is in a plate: where all frames show one, what they show has a say all the same."""


def passers(
    stack: Stack, plate: np.ndarray, noise: np.ndarray, people: np.ndarray | None = None,
    subject: np.ndarray | None = None, settings: PasserSettings = PasserSettings(),
) -> np.ndarray:  # fmt: skip
    """Where each frame of a stack shows what moves through it: float32 (n, h, w), 0…1.

    plate: uint8 RGB (h, w, 3), which may still show somebody who was long in one place; noise: float32 (h, w), levels;
    people: float32 (n, h, w), 0…1, or None; subject: what is known to be no part of the scene in the held frame, bool
    (h, w), which is followed even while it rests, and 1 where it is. What differs from the plate in the held frame, be
    it only a rim, is followed as one piece from each frame to the next, away from the held one, until it is lost; so a
    place that it covers in most of them is known in the others.
    """
    shows = np.zeros(stack.frames.shape[:3], np.float32)
    found = found_roughly(stack.frames[0], plate, noise, None if people is None else people[0], settings)
    if subject is not None:
        found[subject] = 0
    parts = [(part, False) for part in _parts(found, stack, settings)] if found.any() else []
    if subject is not None:
        parts += [(part, True) for part in _parts(subject.astype(np.uint8), stack, settings) if part.any()]

    def shown(part: np.ndarray, known: bool, onward: list[int]) -> list[tuple[int, np.ndarray]]:
        seen = ways(stack.frames[0], part, stack, onward, rests=known, settings=settings)
        return [(n, _unwanted(_moved(part, way), known, settings)) for n, way in seen]

    for part, known in parts:
        shows[0] = np.maximum(shows[0], _unwanted(part, known, settings))
    calls = (functools.partial(shown, *p, onward) for p in parts for onward in beside(stack.numbers[0], stack))
    for seen in side_by_side(calls):
        for n, there in seen:
            shows[n] = np.maximum(shows[n], there)
    return shows


def _unwanted(part: np.ndarray, known: bool, settings: PasserSettings) -> np.ndarray:
    """The degree to which what a part, uint8 (h, w), covers is unwanted in a plate: float32 (h, w); known: whether it
    is exact.
    """
    around = settings.close if known else settings.around
    wide = settings.unwanted * cv2.dilate(part, np.ones((around, around), np.uint8)).astype(np.float32)
    return np.maximum(wide, part) if known else wide


def beside(number: int, stack: Stack) -> tuple[list[int], list[int]]:
    """The frames of a stack, by their place in it, after a frame of the shot and before it, the nearest ones first."""
    order = sorted(range(len(stack.numbers)), key=lambda n: stack.numbers[n])
    later = [n for n in order if stack.numbers[n] > number]
    earlier = [n for n in reversed(order) if stack.numbers[n] < number]
    return later, earlier


def ways(
    frame: np.ndarray, part: np.ndarray, stack: Stack, onward: list[int], rests: bool = False,
    settings: PasserSettings = PasserSettings(),
) -> Iterator[tuple[int, np.ndarray]]:  # fmt: skip
    """The maps of what `part` covers in a frame to others: for frames of a stack, by their place in it, affine (3, 3).

    frame: uint8 RGB (h, w, 3), as the stack's held one sees it; part: uint8 (h, w), 0 or 1; onward: through which
    frames it is followed, from each to the next until it is lost; rests: whether it may rest like the scene.
    """
    held = before = _grey(frame)
    way = np.eye(3)
    for n in onward:
        now = _grey(stack.frames[n])
        there = _moved(part, way)
        motion = _motion(before, now, there, settings)
        if motion is None and rests:
            motion = _rest(before, now, there, settings)
            if motion is not None and not _still_there(held, now, part, np.vstack([motion, [0, 0, 1]]) @ way, settings):
                break
        if motion is None:
            break
        before, way = now, np.vstack([motion, [0, 0, 1]]) @ way
        yield n, way


def found_roughly(
    frame: np.ndarray, plate: np.ndarray, noise: np.ndarray, person: np.ndarray | None = None,
    settings: PasserSettings = PasserSettings(),
) -> np.ndarray:  # fmt: skip
    """Roughly what a frame shows that its plate does not, or a person (h, w), 0…1: uint8 (h, w), 0 or 1."""
    differs = cv2.GaussianBlur(apart(frame, plate) / np.maximum(2.6 * noise, 7.0), (0, 0), 1) > 1
    if person is not None:
        differs |= person > 0.5
    opened = cv2.morphologyEx(differs.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    joined = cv2.morphologyEx(opened, cv2.MORPH_CLOSE, np.ones((settings.joined, settings.joined), np.uint8))
    _, labels, stats, _ = cv2.connectedComponentsWithStats(joined)
    large = stats[:, cv2.CC_STAT_AREA] > settings.least * joined.size
    large[0] = False
    return large[labels].astype(np.uint8)


def _parts(found: np.ndarray, stack: Stack, settings: PasserSettings) -> list[np.ndarray]:
    """The parts of what was found, uint8 (h, w), by what goes its own way from the held frame to the nearest one."""
    nearest = min(range(1, len(stack.numbers)), key=lambda n: abs(stack.numbers[n] - stack.numbers[0]))
    before, now = _grey(stack.frames[0]), _grey(stack.frames[nearest])
    whole = _motion(before, now, found, settings)
    count, labels, stats, middles = cv2.connectedComponentsWithStats(found)
    if count <= 2:
        return [found]
    rest, parts = found.copy(), []
    largest = 1 + np.argsort(-stats[1:, cv2.CC_STAT_AREA])[: settings.parts]
    for label in largest:
        part = (labels == label).astype(np.uint8)
        own = _motion(before, now, part, settings)
        if own is None:
            continue
        if whole is None or np.abs((own - whole) @ [*middles[label], 1]).max() > settings.own_way:
            rest[part > 0] = 0
            parts.append(part)
    return [rest, *parts]


def _motion(before: np.ndarray, now: np.ndarray, part: np.ndarray, settings: PasserSettings) -> np.ndarray | None:
    """The motion of a part, uint8 (h, w), from one grey frame to the next, by what lies well within it if that is
    enough.
    """
    core = cv2.erode(part, np.ones((settings.core, settings.core), np.uint8))
    motion = whole_motion(before, now, core, settings.moves, settings.within)
    return whole_motion(before, now, part, settings.moves, settings.within) if motion is None else motion


def _rest(before: np.ndarray, now: np.ndarray, part: np.ndarray, settings: PasserSettings) -> np.ndarray | None:
    """The motion of a part that may hardly move; None if it is lost, as something that moved before may be."""
    motion = whole_motion(before, now, part, 0.0, settings.within)
    if motion is None and part.any() and cv2.absdiff(before, now)[part > 0].mean() < settings.same:
        return np.eye(3)[:2]
    return motion


def _still_there(
    held: np.ndarray, now: np.ndarray, part: np.ndarray, way: np.ndarray, settings: PasserSettings
) -> bool:
    """True if a grey frame shows what the held one shows of a part, where that lies by now: the scene rests as well."""
    size = part.shape[1], part.shape[0]
    seen = cv2.warpAffine(now, way[:2], size, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
    return bool(part.any() and cv2.absdiff(held, seen)[part > 0].mean() < 2 * settings.same)


def _grey(frame: np.ndarray) -> np.ndarray:
    return cv2.cvtColor(frame, cv2.COLOR_RGB2GRAY)


def _moved(part: np.ndarray, way: np.ndarray) -> np.ndarray:
    # Who is cut off by the frame's edge goes on there.
    size = part.shape[1], part.shape[0]
    return cv2.warpAffine(part, way[:2], size, flags=cv2.INTER_NEAREST, borderMode=cv2.BORDER_REPLICATE)
