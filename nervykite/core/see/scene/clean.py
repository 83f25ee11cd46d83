"""The clean plate of a moment in full size: the scene without the people and things that move through it."""

import functools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np

from ...common.aside import crew, side_by_side
from ...common.errors import Refusal
from .align import between, contrast, features
from .mend import filled
from .plate import plate_of
from .scene import Person, SceneSettings, Weighed, people_in, weighed, working_size
from .stack import Stack, lay
from .uncovered import UncoveredSettings, resting, uncovered

Elsewhere = Callable[[int], np.ndarray | None]
"""What is known to be no part of the scene in a frame, by its number: float32 (h, w), 0…1; None if nothing is."""


@dataclass(frozen=True)
class CleanSettings:
    """The settings by which a plate is built."""

    scene: SceneSettings = field(default_factory=SceneSettings)
    compared: int = 20
    """How many frames are compared at most."""
    faint: float = 0.05
    """From how much of a subject on a place is its own."""
    person: float = 0.6
    """The share of a subject, 0…1, that has to be a person's for people to be it."""
    near: float = 0.05
    """The distance that it may have gone by then, in heights of the frame."""
    exactly: int = 31
    """The window, px, around what was cut out of a frame in which nothing else is taken for it."""
    apart: int = 5
    """The window, px, around that outside of which the frame is known to show the scene there."""
    uncovered: UncoveredSettings = field(default_factory=UncoveredSettings)
    """When a frame shows the place behind the subject."""
    gone: float = 0.5
    """The share of the subject's place that a frame shows once the subject has gone."""
    bridged: int = 9
    """How wide a gap, px, between such a place and what rests beside the subject belongs to both."""
    hidden: float = 0.8
    """The likelihood, 0…1, from which on a place is taken for somebody's in a frame."""
    seen: float = 0.15
    """The part of the frames, 0…1, that has to speak for a place that is known."""
    fills: float = 0.9
    """The share of a picture, 0…1, up to which what is not known is filled."""


def clean_plate(
    frames: Sequence[np.ndarray], at: int, person: Person | None = None, subject: np.ndarray | None = None,
    elsewhere: Elsewhere = lambda number: None, settings: CleanSettings = CleanSettings(),
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """The scene at frame `at` of a shot, from its other frames.

    frames: uint8 RGB (h, w, 3), in order; person: what finds people, who are kept out of it even if they linger;
    subject: what else is known to be no part of the scene in that frame, float32 (h, w), 0…1; elsewhere: the same for
    other frames, as each sees it, by their numbers. Where no frame shows the scene it goes on from beside that. Returns
    the plate, uint8 (h, w, 3), and where it is such a guess, bool (h, w). Raises Refusal if the frames are too few or
    cannot be laid over each other.
    """
    if len(frames) < 4:
        raise Refusal("A plate is built by comparing frames, and this shot has fewer than four.")
    h, w = frames[at].shape[:2]
    size = working_size(w, h)
    with crew(1) as aside:  # people are looked for while the frames are made clear
        asked = None if person is None else aside.submit(person, _small(frames[at], size), False)

        def known() -> np.ndarray | None:
            if subject is not None:
                return subject > 0.3
            seen = None if asked is None else asked.result()
            return None if seen is None else cv2.resize(seen, (w, h), interpolation=cv2.INTER_LINEAR) > 0.3

        stack = lay(frames, at, settings.compared, known)
        held = None if asked is None else asked.result()
    if len(stack.frames) < 4:
        raise Refusal("The frames around this one cannot be laid over each other. Choose an empty frame, or a picture.")
    small = _small_stack(stack, size)
    found = None
    if person is not None and held is not None:
        found = [held, *side_by_side(functools.partial(person, frame, True) for frame in small.frames[1:])]
    people = None if found is None else people_in(small, found, settings.scene)
    its_own = None if subject is None else _small(subject, size) > settings.faint
    first = weighed(small, people, its_own, settings.scene)
    unwanted, shown = first.unwanted, first.shown
    if its_own is not None:
        unwanted, shown = _of_the_subject(small, first, its_own, found, settings)
    for n, number in enumerate(small.numbers[1:], 1):
        matte = elsewhere(number)
        if matte is not None:
            own = _small(stack.onto(number, matte), size) > settings.faint
            near = _wider(own, settings.exactly)
            unwanted[n] = np.where(near, own, unwanted[n])
            shown[n] |= near & ~_wider(own, settings.apart)
    plate, support = plate_of(
        stack,
        _grown(unwanted, w, h) if unwanted.any() else None,
        _grown(shown.astype(np.uint8), w, h) > 0 if shown.any() else None,
    )
    hidden = ((unwanted > settings.hidden) | ~small.valid).all(0)
    unknown = (support < settings.seen) | (_grown(hidden[None].astype(np.uint8), w, h)[0] > 0)
    guess = cv2.morphologyEx(unknown.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((9, 9), np.uint8)) > 0
    usable = ~(_grown(unwanted[:1], w, h)[0] > settings.faint) if unwanted.any() else None
    return (filled(plate, guess, usable) if guess.mean() < settings.fills else plate), guess


def _of_the_subject(
    small: Stack, first: Weighed, its_own: np.ndarray, found: Sequence[np.ndarray | None] | None,
    settings: CleanSettings,
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """The parts of each frame that are unwanted, float32 (n, h, w), 0…1, and surely the scene, bool, by a subject."""
    unwanted, shown = first.unwanted, first.shown
    if found is not None:
        unwanted = np.maximum(unwanted, _as_people(its_own, found, settings))
    free = uncovered(small, its_own, first.noise, settings.uncovered)
    gone = free[:, its_own].mean(1) > settings.gone if its_own.any() else np.zeros(len(free), bool)
    free[~gone] = False  # while it stays, a limb that moves has a weak rim for a while, too
    clear = _bridged(free | _beside(its_own, gone, resting(small, first.noise), settings), settings.bridged)
    return np.where(clear, 0, unwanted), shown | free


def _as_people(subject: np.ndarray, found: Sequence[np.ndarray | None], settings: CleanSettings) -> np.ndarray:
    """Where somebody is found in frames who may be the held one's subject, bool (h, w): float32 (n, h, w), 0 or 1.

    found: how likely a person is in each frame as the held one sees it, which comes first. If the subject is none,
    nobody is it.
    """
    shows = np.zeros((len(found), *subject.shape), np.float32)
    if found[0] is None or not subject.any() or (found[0] > 0.5)[subject].mean() < settings.person:
        return shows
    near = _wider(subject, _near(subject, settings))
    for own, likely in zip(shows, found, strict=True):
        if likely is not None:
            own[near & (likely > 0.5)] = 1
    shows[0] = subject  # which is known there
    return shows


def _beside(subject: np.ndarray, gone: np.ndarray, same: np.ndarray, settings: CleanSettings) -> np.ndarray:
    """Where frames show the scene beside the held frame's subject, bool (h, w), whoever is found there: (n, h, w).

    gone: in which frames it has gone, bool (n,); same: where they show what the held frame shows, bool (n, h, w).
    What is still there once the subject has gone is no part of it. While nobody goes, that cannot be told.
    """
    zone = _wider(subject, _near(subject, settings)) & ~_wider(subject, settings.apart)
    return same & zone & same[gone].any(0)


def _near(subject: np.ndarray, settings: CleanSettings) -> int:
    """The window, px, around what covers a frame (h, w) within which that may be in other frames."""
    return 2 * round(settings.near * len(subject)) + 1


def _wider(area: np.ndarray, window: int) -> np.ndarray:
    return cv2.dilate(area.astype(np.uint8), np.ones((window, window), np.uint8)) > 0


def _bridged(areas: np.ndarray, window: int) -> np.ndarray:
    """Areas, bool (n, h, w), with the gaps between their parts closed."""
    square = np.ones((window, window), np.uint8)
    return np.stack([cv2.morphologyEx(a.astype(np.uint8), cv2.MORPH_CLOSE, square) for a in areas]) > 0


def _grown(many: np.ndarray, w: int, h: int) -> np.ndarray:
    return np.stack([cv2.resize(one, (w, h), interpolation=cv2.INTER_LINEAR) for one in many])


def _small(picture: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    return cv2.resize(picture, size, interpolation=cv2.INTER_AREA)


def _small_stack(stack: Stack, size: tuple[int, int]) -> Stack:
    def masks(many: np.ndarray) -> np.ndarray:
        return np.stack([_small(m.astype(np.uint8), size) for m in many]) > 0

    return Stack(
        np.stack([_small(f, size) for f in stack.frames]), masks(stack.valid), masks(stack.moving), stack.still,
        numbers=stack.numbers,
    )  # fmt: skip


def laid_over(other: np.ndarray, frame: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Another frame of a shot as `frame` would see it, both uint8 RGB (h, w, 3); and where it shows anything.

    Returns uint8 (h, w, 3) and bool (h, w). Raises Refusal if the two cannot be laid over each other.
    """
    h, w = frame.shape[:2]
    first, second = contrast(frame), contrast(other)
    mapping = between(first, second, features(first, 800), np.eye(3))
    if mapping is None:
        raise Refusal(
            "The two frames show too little of the same place to be laid over each other. Choose a nearer one."
        )
    corners = np.array([[[0, 0]], [[w, 0]], [[w, h]], [[0, h]]], float)
    if np.abs(cv2.perspectiveTransform(corners, mapping) - corners).max() < 0.5:
        return other, np.ones((h, w), bool)  # a camera that stands is not to be blurred by resampling
    back = np.linalg.inv(mapping)
    laid = cv2.warpPerspective(other, back, (w, h), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return laid, cv2.warpPerspective(np.full((h, w), 255, np.uint8), back, (w, h)) > 250
