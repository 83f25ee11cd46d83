"""Mattes of many kinds of shot, made-up and the demo's, each beside the truth: what tells which voice is good for what.

What is left out by name is evidence of a search, or a step beside it, which then does nothing.
"""

from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, ExitStack
from typing import NamedTuple
from unittest.mock import patch

import cv2
import numpy as np

from nervykite.core.common.errors import Refusal
from nervykite.core.see.carry import carry as carrying
from nervykite.core.see.carry import contour_search
from nervykite.core.see.carry.reel import working_size as carried_size
from nervykite.core.see.carry.template_matching import Likeness
from nervykite.core.see.find import marks, motion_cue, mover, person, prior, proposal, standing_out
from nervykite.core.see.find.search import Evidence, without
from nervykite.core.see.find.wavering import other_outlines
from nervykite.core.see.matte import matting
from nervykite.core.see.scene import scene as scenes
from nervykite.core.see.scene.behind import Behind
from nervykite.core.see.scene.stirring import SIGHT, stirring
from nervykite.demo import FOOTAGE
from nervykite.demo.demo_project import truth_alpha

from ..learn.strokes import strokes_on
from .material import frames_of, overlap
from .worlds import HELD, WORLDS, World, short_strokes_on, shot_of

DEMO = (
    ("dune-run", 40), ("dune-run", 58), ("dune-run", 76), ("groyne-pan", 30), ("groyne-pan", 45), ("kite-catch", 20),
    ("kite-catch", 40), ("change-over", 30), ("change-over", 50), ("reel-out", 20), ("dusk-60", 20), ("dusk-60", 40),
    ("phone-upright", 20),
)  # fmt: skip
"""Shots of the demo, and moments in them."""
CARRIED = 6, 12
"""How far a matte of a made-up world is carried, in frames; of the demo twice as far."""
SEEDS = 8
"""How many shots there are of each made-up kind."""

Scored = Iterator[tuple[np.ndarray, np.ndarray]]
"""Alphas and the true ones, float32 (h, w), 0…1."""


class Kind(NamedTuple):
    """A kind of shot and what is asked of it; the mattes by some evidence, its names left out."""

    name: str
    mattes: Callable[[tuple[str, ...]], Scored]


class Demo:
    """The demo's footage, decoded once for moments that follow each other."""

    def __init__(self) -> None:
        self._shot, self._frames = "", [np.zeros((1, 1, 3), np.uint8)]

    def frames(self, shot: str) -> list[np.ndarray]:
        """All frames of a shot."""
        if shot != self._shot:
            self._shot, self._frames = shot, frames_of(FOOTAGE / f"{shot}.mp4")
        return self._frames

    def small(self, shot: str) -> list[np.ndarray]:
        """The same at the size at which movement is looked for."""
        size = scenes.working_size(*self.frames(shot)[0].shape[1::-1])
        return [cv2.resize(f, size, interpolation=cv2.INTER_AREA) for f in self.frames(shot)]

    def stirs(self, shot: str, at: int) -> np.ndarray | None:
        """The movement at a glance."""
        first = max(0, at - SIGHT)
        size = scenes.working_size(*self.frames(shot)[0].shape[1::-1])
        near = self.frames(shot)[first : at + SIGHT + 1]
        return stirring([cv2.resize(f, size, interpolation=cv2.INTER_AREA) for f in near], at - first)


def kinds(seeds: int = SEEDS) -> list[Kind]:
    """All of them; so many made-up shots of each kind."""
    demo = Demo()

    def marked(strokes: Callable, chosen: bool = False) -> Callable[[tuple[str, ...]], Scored]:
        def mattes(names: tuple[str, ...]) -> Scored:
            for seed in range(2 * seeds):
                shot = shot_of(WORLDS[seed % 2], 100 + seed, 3)
                drawn = strokes(np.random.default_rng(seed), shot.truth[1])
                if drawn is not None:
                    heard = without(marks.MARKS, *names)
                    keep, drop = drawn
                    alpha = marks.cut_out(shot.frames[1], keep, drop, prior.person_hint, evidence=heard)
                    if chosen:
                        others = other_outlines(shot.frames[1], keep, drop, prior.person_hint, alpha)
                        alpha = _best([alpha, *others], shot.truth[1])
                    yield alpha, shot.truth[1]

        return mattes

    def marked_demo(strokes: Callable, alone: bool = False) -> Callable[[tuple[str, ...]], Scored]:
        def mattes(names: tuple[str, ...]) -> Scored:
            for number, (shot, at) in enumerate(DEMO):
                truth, frame = truth_alpha(shot, at), demo.frames(shot)[at]
                drawn = strokes(np.random.default_rng(number), truth)
                if drawn is not None:

                    def stirs(shot: str = shot, at: int = at) -> np.ndarray | None:
                        return None if "stirring" in names else demo.stirs(shot, at)

                    heard = without(marks.MARKS, *names)
                    keep, drop = drawn
                    hint = (lambda *_: None) if alone else motion_cue.joined(stirs)
                    yield marks.cut_out(frame, keep, drop, hint, evidence=heard), truth

        return mattes

    def moved(world: World) -> Callable[[tuple[str, ...]], Scored]:
        def mattes(names: tuple[str, ...]) -> Scored:
            for seed in range(seeds):
                shot = shot_of(world, seed)
                yield _moved(shot.frames, shot.frames[HELD], HELD, names), shot.truth[HELD]

        return mattes

    def moved_demo(names: tuple[str, ...]) -> Scored:
        for shot, at in DEMO:
            yield _moved(demo.small(shot), demo.frames(shot)[at], at, names), truth_alpha(shot, at)

    def people_of_demo(names: tuple[str, ...]) -> Scored:
        for shot, at in DEMO:
            frame, stirs = demo.frames(shot)[at], None if "stirring" in names else demo.stirs(shot, at)
            found = person.pick_person(frame, None, stirs, without(person.PERSON, *names))
            yield found.matte(frame, 10), truth_alpha(shot, at)

    def carried(world: World) -> Callable[[tuple[str, ...]], Scored]:
        def mattes(names: tuple[str, ...]) -> Scored:
            for seed in range(seeds):
                shot, begin = shot_of(world, seed), HELD - CARRIED[0]
                wanted = [begin + far for far in CARRIED]
                known, heard = {begin: shot.truth[begin]}, without(contour_search.SETTLE, *names)
                for c in carrying.carry(shot.frames, known, wanted, person=prior.people, evidence=heard):
                    yield c.alpha, shot.truth[c.frame]

        return mattes

    def carried_demo(names: tuple[str, ...]) -> Scored:
        for shot, at in DEMO:
            frames = demo.frames(shot)[at : at + 2 * CARRIED[1] + 1]
            size = carried_size(*frames[0].shape[1::-1])
            small = [cv2.resize(f, size, interpolation=cv2.INTER_AREA) for f in frames]
            wanted = [2 * far for far in CARRIED if 2 * far < len(frames)]
            known, heard = {0: truth_alpha(shot, at)}, without(contour_search.SETTLE, *names)
            for c in carrying.carry(frames, known, wanted, person=prior.people, small=small, evidence=heard):
                yield c.alpha, truth_alpha(shot, at + c.frame)

    return [
        Kind("marks, a few strokes", marked(strokes_on)),
        Kind("marks, two strokes", marked(two_strokes_on)),
        Kind("marks, two short strokes", marked(short_strokes_on)),
        Kind("marks, two short strokes, one of three chosen", marked(short_strokes_on, chosen=True)),
        Kind("marks, the demo", marked_demo(strokes_on)),
        Kind("marks, the demo, two strokes", marked_demo(two_strokes_on)),
        Kind("marks, the demo, two short strokes", marked_demo(short_strokes_on)),
        Kind("marks, the demo, nobody is known", marked_demo(strokes_on, alone=True)),
        Kind("marks, the demo, nobody is known, two strokes", marked_demo(two_strokes_on, alone=True)),
        Kind("marks, the demo, nobody is known, two short strokes", marked_demo(short_strokes_on, alone=True)),
        *(Kind(f"mover, {world}", moved(world)) for world in WORLDS),
        Kind("mover, the demo", moved_demo),
        Kind("person, the demo", people_of_demo),
        *(Kind(f"carry, {world}", carried(world)) for world in ("crosses", "pans", "lingers")),
        Kind("carry, the demo", carried_demo),
    ]


def two_strokes_on(rng: np.random.Generator, alpha: np.ndarray):
    """The first keep stroke and the first drop stroke that somebody in a hurry draws; None if there is no room."""
    drawn = strokes_on(rng, alpha)
    return None if drawn is None else (drawn[0][:1], drawn[1][:1])


def _best(alphas: list[np.ndarray], truth: np.ndarray) -> np.ndarray:
    """The alpha that somebody would choose who sees the subject."""
    return max(alphas, key=lambda a: overlap(a > 0.5, truth > 0.5))


def _moved(frames: list[np.ndarray], picture: np.ndarray, at: int, names: tuple[str, ...]) -> np.ndarray:
    """The movers in a frame; nothing if nothing is found."""
    try:
        found, _ = mover.pick_mover(frames, at, prior.people, evidence=without(mover.MOVER, *names))
        return found.matte(picture, 10)
    except Refusal:
        return np.zeros(picture.shape[:2], np.float32)


def _nothing(shape: tuple[int, ...], dtype: type = np.float32) -> np.ndarray:
    return np.zeros(shape, dtype)


def _unheard(found: Callable) -> Callable:
    def unheard(self: Likeness, *given: object) -> tuple[np.ndarray, np.ndarray]:
        like, trust = found(self, *given)
        return like, 0 * trust

    return unheard


STEPS: dict[str, Callable[[], list[AbstractContextManager]]] = {
    "nearer": lambda: [
        patch.object(marks, "nearer", lambda voices, ours, others, heed: voices.before),
        patch.object(standing_out, "from_near", lambda turn, found, ours, others: found),
    ],
    "tracer": lambda: [patch.object(matting, "traced", lambda picture, outline: None)],
    "refine": lambda: [patch.object(proposal, "refined", lambda picture, found, says: found)],
    "ghosts": lambda: [patch.object(scenes, "ghosts", lambda stack, *_: _nothing(stack.valid.shape, bool))],
    "passers": lambda: [patch.object(scenes, "passers", lambda stack, *_: _nothing(stack.valid.shape))],
    "crowd": lambda: [
        patch.object(prior, "one_more", lambda *_: None),
        patch.object(prior, "hidden", lambda *_: ()),
    ],
    "shade": lambda: [
        patch.object(standing_out, "shaded", lambda frame, plate, noise: _nothing(noise.shape, bool)),
        patch.object(contour_search, "shaded", lambda frame, plate, noise: _nothing(noise.shape, bool)),
    ],
    "unrest": lambda: [patch.object(Behind, "unrest", property(lambda behind: _nothing(behind.noise.shape)))],
    "sways": lambda: [patch.object(Behind, "sways", property(lambda behind: _nothing(behind.noise.shape)))],
    "stirring": list,
    "likeness": lambda: [patch.object(Likeness, "found", _unheard(Likeness.found))],
    "staying": lambda: [patch.object(carrying, "without_what_stays", lambda matte, *_: matte)],
    "crumbs": lambda: [patch.object(carrying, "without_crumbs", lambda outline, *_: outline)],
}
"""Steps beside the evidence that can be left out."""
EVIDENCE: dict[str, tuple[Evidence, ...]] = {
    "marks": marks.MARKS,
    "mover": mover.MOVER,
    "person": person.PERSON,
    "carry": contour_search.SETTLE,
}
"""What is heard by what."""
NAMES = sorted({e.__name__ for heard in EVIDENCE.values() for e in heard} | set(STEPS))
"""All that can be left out."""


def left_out(names: tuple[str, ...]) -> ExitStack:
    """A context in which some steps do nothing. Raises Refusal if there is nothing of that name."""
    stack = ExitStack()
    for name in names:
        if name not in NAMES:
            raise Refusal(f"There is no “{name}” to leave out; there are {', '.join(NAMES)}.")
        for patched in STEPS.get(name, list)():
            stack.enter_context(patched)
    return stack
