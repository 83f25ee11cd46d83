"""Lessons: what all voices say of a made-up scene at some turn of the search, and what the subject is in truth.

python -m tools.learn.lessons lessons-1.npz --count 1200 --seed 1 --cutouts FOLDER --places FOLDER
"""

import argparse
import contextlib
from collections.abc import Callable
from pathlib import Path

import numpy as np

from nervykite.core.see.find import marks
from nervykite.core.see.find.judge import SURE
from nervykite.core.see.find.prior import person_hint
from nervykite.core.see.find.search import replaced
from nervykite.core.see.find.strokes import Stroke, draw
from nervykite.core.see.matte.part import smaller

from .answers import at_size, on_a_guess, on_a_plate
from .camera import moved, power
from .cutouts import Collection
from .guess import guess_at
from .lesson import Enough, Lesson, lesson_of
from .scenes import Scene
from .scenes import scene as made_up
from .strokes import strokes_on

SIZE = (640, 360)
"""Rows and columns of a scene."""
STROKES = 2
"""How many times strokes are drawn on each."""
ON_A_PLATE, ON_A_GUESS = 0.8, 0.4
"""The share of scenes that teach about answers that differ from a plate, and that a finder's guess led to."""
GUESSED, UNHEARD = 0.4, 0.45
"""The share of lessons in which a finder roughly knows the subject, and in which nobody is asked."""
JUDGED = 0.6
"""The share of earlier turns in which somebody has judged, about as well as the judge will."""
MADE_UP = 0.35
"""The share of made-up scenes where there are others."""


def lessons_on(rng: np.random.Generator, scene: Scene) -> list[Lesson]:
    """Up to STROKES + 2 lessons on a scene."""
    drawn = (strokes_on(rng, scene.alpha) for _ in range(STROKES))
    lessons: list[Lesson | None] = [_on_strokes(rng, scene, *strokes) for strokes in drawn if strokes]
    if rng.random() < ON_A_PLATE:
        lessons.append(on_a_plate(rng, scene))
    if rng.random() < ON_A_GUESS:
        lessons.append(on_a_guess(rng, scene))
    return [lesson for lesson in lessons if lesson is not None]


def _on_strokes(rng: np.random.Generator, scene: Scene, keep: list[Stroke], drop: list[Stroke]) -> Lesson:
    """The evidence at one of the three turns, and the truth in the part of the scene that is looked at."""
    picture, alpha, _ = scene
    wanted, heard = int(rng.integers(0, 3)), []

    def judge(view: marks.Marked, turn: marks.MarksTurn) -> np.ndarray | None:
        heard.append(view.voices(turn))
        if len(heard) > wanted:
            raise Enough
        if rng.random() > JUDGED or turn.unary.shape != told.shape:
            return None
        return marks.weighed(view, turn, said_by_one_who_knows(rng, told))

    inside, outside = (draw(strokes, *alpha.shape) for strokes in (keep, drop))
    asked = rng.random()
    guess = guess_at(rng, alpha) if asked < GUESSED else None
    if guess is None and asked >= GUESSED + UNHEARD:
        guess = person_hint(picture, inside, outside)
    part = marks.beside(inside, outside)
    told, _ = smaller(np.ascontiguousarray(alpha[part]), marks.MarksSettings().pixels)
    with contextlib.suppress(Enough):
        marks.find(picture, keep, drop, lambda: guess, replaced(marks.MARKS, judge))
    return lesson_of(heard[-1], alpha[part])


def said_by_one_who_knows(rng: np.random.Generator, alpha: np.ndarray) -> np.ndarray:
    """Say of somebody about a subject with the matte `alpha` (h, w) who knows it about as well as the judge, ±SURE."""
    about = at_size(guess_at(rng, alpha), alpha)
    return SURE * np.clip(rng.uniform(1, 3) * (2 * about - 1), -1, 1)


def write(lessons_on: Callable[[np.random.Generator, Scene], list[Lesson]]) -> None:
    """Makes lessons on scenes and writes them into a file, as the command line says."""
    parser = argparse.ArgumentParser(description=write.__doc__)
    parser.add_argument("out", type=Path)
    parser.add_argument("--count", type=int, default=1200)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--cutouts", type=Path, action="append", default=[], help="a folder of pictures with an alpha")
    parser.add_argument("--places", type=Path, action="append", default=[], help="a folder of photographs")
    parser.add_argument("--drawings", type=Path, action="append", default=[], help="a folder of drawings with an alpha")
    given = parser.parse_args()
    rng = np.random.default_rng(given.seed)
    others = Collection(given.cutouts, given.places, given.drawings) if given.cutouts else None
    lessons: list[Lesson] = []
    while len(lessons) < given.count:
        if others is None or rng.random() < MADE_UP:
            made = made_up(rng, *SIZE)
        else:
            made = others.scene(rng, *SIZE, moved=lambda subject: moved(rng, subject), power=power(rng))
        if made is not None:
            lessons += lessons_on(rng, made)
    seen, truth = np.stack([x.seen for x in lessons]), np.stack([x.truth for x in lessons])
    layers = {f"layer{k}": np.stack(layer) for k, layer in enumerate(zip(*(x.looked for x in lessons), strict=True))}
    np.savez(given.out, allow_pickle=False, seen=seen, truth=truth, **layers)


if __name__ == "__main__":
    write(lessons_on)
