"""Near lessons: what was found of a scene's subject, with the faults that it has, as it looks from near, and the truth.

python -m tools.learn.near near-1.npz --count 1000 --seed 1 --cutouts FOLDER --places FOLDER
"""

import contextlib

import cv2
import numpy as np

from nervykite.core.see.find import marks
from nervykite.core.see.find.judge import Voices
from nervykite.core.see.find.nearer import SIDE, NearerSettings, box_around, near_by
from nervykite.core.see.find.prior import person_hint
from nervykite.core.see.find.search import replaced
from nervykite.core.see.find.strokes import draw
from nervykite.core.see.matte.part import smaller

from .guess import guess_at
from .lesson import Enough, Lesson, lesson_of
from .lessons import said_by_one_who_knows, write
from .scenes import Scene
from .strokes import strokes_on

GUESSED, FOUND = 0.35, 0.2
"""The share of lessons in which a finder roughly knows the subject, and in which a real one is asked."""
ALONE, ITSELF = 0.2, 0.4
"""The share of searches by the rules alone, and of those with the judge; in the rest somebody knows it about as well:
the judge has seen these subjects, and is better with them than with others."""
MARGINS = 0.1, 0.4
"""How far beside what was found is looked, in its lengths."""
FAIR = 0.3
"""What has less in common with the subject is another, and teaches nothing."""


def near_lessons_on(rng: np.random.Generator, scene: Scene) -> list[Lesson]:
    """The lesson on what strokes on a scene lead to, if there is one."""
    drawn = strokes_on(rng, scene.alpha)
    if drawn is None:
        return []
    picture, alpha, _ = scene
    inside, outside = (draw(strokes, *alpha.shape) for strokes in drawn)
    part = marks.beside(inside, outside)
    told, _ = smaller(np.ascontiguousarray(alpha[part]), marks.MarksSettings().pixels)
    how, asked = rng.random(), rng.random()
    guess = guess_at(rng, alpha) if asked < GUESSED else None
    if asked > 1 - FOUND:
        guess = person_hint(picture, inside, outside)
    lesson = None

    def judge(view: marks.Marked, turn: marks.MarksTurn) -> np.ndarray | None:
        if how < ALONE:
            return None
        if how < ALONE + ITSELF or turn.unary.shape != told.shape:
            return marks.judge(view, turn)
        return marks.weighed(view, turn, said_by_one_who_knows(rng, told))

    def look(voices: Voices, ours: np.ndarray, others: np.ndarray) -> np.ndarray:
        nonlocal lesson
        there = alpha[part] if voices.unary.shape == told.shape else alpha
        lesson = _lesson(rng, voices, ours, others, there)
        raise Enough

    with contextlib.suppress(Enough):
        marks.find(picture, *drawn, lambda: guess, replaced(marks.MARKS, judge), look)
    return [] if lesson is None else [lesson]


def _lesson(
    rng: np.random.Generator, voices: Voices, ours: np.ndarray, others: np.ndarray, alpha: np.ndarray
) -> Lesson | None:
    """The lesson of looking from near at an answer, and the truth there; None if something else was found."""
    box = box_around(voices.before, NearerSettings(rng.uniform(*MARGINS)))
    truth = cv2.resize(np.ascontiguousarray(alpha), voices.unary.shape[::-1], interpolation=cv2.INTER_AREA)
    found, real = voices.before > 0.5, truth > 0.5
    if box is None or (found & real).sum() < FAIR * (found | real).sum():
        return None
    return lesson_of(near_by(voices, box, ours, others), truth[box], SIDE)


if __name__ == "__main__":
    write(near_lessons_on)
