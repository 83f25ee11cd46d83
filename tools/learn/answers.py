"""Lessons on answers that no strokes led to: what differs from a plate, or looks like somebody to a finder.

Both run as they run in the program, on a plate with the faults that plates have, and on a finder's guess.
"""

import contextlib
from collections.abc import Callable

import cv2
import numpy as np

from nervykite.core.see.find import opinion
from nervykite.core.see.find.mover import MOVER
from nervykite.core.see.find.person import PERSON, found_by
from nervykite.core.see.find.search import Evidence, replaced
from nervykite.core.see.find.standing_out import standing_out
from nervykite.core.see.scene.behind import Behind
from nervykite.core.see.scene.difference import beyond

from .guess import guess_at
from .lesson import Enough, Lesson, lesson_of
from .noise import noise
from .scenes import Scene

KNOWN = 9.0
"""How many frames have seen what is behind, where that is well known."""
LINGERS = 0.5
"""The share of plates that do not know all of what is behind the subject."""
SHOWS_IT = 0.65
"""The share of those that show the subject itself there, a little earlier or later."""
FINDER = 0.4
"""The share of plates beside which a finder says something, too."""
JUDGED = 0.6
"""The share of earlier turns in which the judge of the moment was heard."""
TURNS = 2


def on_a_plate(rng: np.random.Generator, scene: Scene) -> Lesson | None:
    """A lesson on what differs from a plate of the scene; None if that has nothing to teach."""
    plate, noisy, support = plate_for(rng, scene)
    guess = guess_at(rng, scene.alpha) if rng.random() < FINDER else None
    person = None if guess is None else at_size(guess, scene.alpha)
    behind = Behind(plate, noisy, support)
    return _listened(
        rng, scene, lambda judge: standing_out(scene.picture, behind, lambda: person, evidence=replaced(MOVER, judge))
    )


def on_a_guess(rng: np.random.Generator, scene: Scene) -> Lesson | None:
    """A lesson on what a finder's guess leads to; None if that has nothing to teach."""
    guess = at_size(guess_at(rng, scene.alpha), scene.alpha)
    return _listened(rng, scene, lambda judge: found_by(guess, scene.picture, replaced(PERSON, judge)))


def plate_for(rng: np.random.Generator, scene: Scene) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A plate of a scene as pick mover might have it: uint8 RGB (h, w, 3), its noise and support, float32 (h, w)."""
    h, w = scene.alpha.shape
    shift = np.array([[1, 0, rng.normal(0, 0.3)], [0, 1, rng.normal(0, 0.3)]])
    plate = cv2.warpAffine(scene.place, shift, (w, h), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    seen = plate.astype(np.float32) * rng.normal(1, 0.012)
    support = np.full((h, w), KNOWN, np.float32)
    if rng.random() < LINGERS:
        near = cv2.dilate((scene.alpha > 0.3).astype(np.uint8), np.ones((15, 15), np.uint8)) > 0
        unseen = near & (noise(rng, h, w, 1, 4, 1.0) > rng.uniform(-0.7, 0.9))
        support[unseen] = rng.uniform(0, 3)
        shown = _moved(rng, scene) if rng.random() < SHOWS_IT else _guessed(seen, near)
        share = cv2.GaussianBlur(unseen.astype(np.float32), (0, 0), 1.5)[..., None]
        seen = seen * (1 - share) + shown * share
    plate = np.clip(seen, 0, 255).astype(np.uint8)
    usual = min(float(np.median(beyond(scene.picture, plate, plate))), 5.0)
    grey = cv2.GaussianBlur(cv2.cvtColor(scene.place, cv2.COLOR_RGB2GRAY), (0, 0), 1.5)
    steep = np.abs(cv2.Laplacian(grey, cv2.CV_32F, ksize=3))  # what lies half a pixel off differs at edges
    return plate, (usual + rng.uniform(0.3, 2.5) + rng.uniform(0, 0.3) * steep).astype(np.float32), support


def _moved(rng: np.random.Generator, scene: Scene) -> np.ndarray:
    """The scene with the subject a little elsewhere: float32 (h, w, 3)."""
    h, w = scene.alpha.shape
    turn = cv2.getRotationMatrix2D((w / 2, h / 2), rng.normal(0, 3), rng.normal(1, 0.02))
    turn[:, 2] = turn[:, 2] + rng.normal(0, 0.015 * h, 2)
    subject = np.dstack([scene.picture * scene.alpha[..., None], scene.alpha]).astype(np.float32)
    moved = cv2.warpAffine(subject, turn, (w, h), flags=cv2.INTER_LINEAR)
    return scene.place * (1 - moved[..., 3:]) + moved[..., :3]


def _guessed(place: np.ndarray, unseen: np.ndarray) -> np.ndarray:
    """A place float32 (h, w, 3) where nobody has seen it, guessed from beside that."""
    known = (~unseen).astype(np.float32)
    soft = max(3.0, 0.03 * max(unseen.shape))
    weight = cv2.GaussianBlur(known, (0, 0), soft)[..., None] + 1e-3
    return cv2.GaussianBlur(place * known[..., None], (0, 0), soft) / weight


def _listened(rng: np.random.Generator, scene: Scene, look: Callable[[Evidence], object]) -> Lesson | None:
    """The evidence in a scene when the judge is asked, at one of the turns, and the truth there."""
    wanted, turns, lesson = int(rng.integers(0, TURNS)), 0, None

    def judge(view: opinion.OpinionView, turn: opinion.Opined) -> np.ndarray | None:
        nonlocal turns, lesson
        if turn.found is None or turn.similar is None:
            return None
        turns += 1
        if turns <= wanted:
            return opinion.judge(view, turn) if rng.random() < JUDGED else None
        voices = opinion.voices_on(turn, turn.box, turn.looks, turn.similar)
        lesson = None if voices is None else lesson_of(voices, scene.alpha[turn.box])
        raise Enough

    with contextlib.suppress(Enough):
        look(judge)
    return lesson


def at_size(guess: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """A guess of any size, 0…1, at that of a matte."""
    return np.clip(cv2.resize(guess, alpha.shape[::-1], interpolation=cv2.INTER_LINEAR), 0, 1)
