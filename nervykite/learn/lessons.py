"""Lessons: what all voices say of a made-up scene at some turn of the search, and what the subject is in truth.

python -m nervykite.learn.lessons lessons-1.npz --count 1200 --seed 1 --cutouts FOLDER --places FOLDER
"""

import argparse
import contextlib
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from ..core.matte import marks
from ..core.matte.judge import SIDE, SURE, Voices
from ..core.matte.person import person_hint
from ..core.matte.refine import smaller
from .cutouts import Collection
from .scenes import noise, scene
from .strokes import strokes_on

SIZE = (640, 360)
"""Rows and columns of a scene."""
STROKES = 2
"""How many times strokes are drawn on each."""
GUESSED, UNHEARD = 0.4, 0.45
"""The share of lessons in which a finder roughly knows the subject, and in which nobody is asked."""
JUDGED = 0.6
"""The share of earlier turns in which somebody has judged, about as well as the judge will."""
MADE_UP = 0.35
"""The share of made-up scenes where there are others."""


@dataclass(frozen=True)
class Lesson:
    """What the judge is shown, float16 (SIDE, SIDE, SEEN) and layers, and the answer, uint8 (SIDE, SIDE), 0…255."""

    seen: np.ndarray
    looked: list[np.ndarray]
    truth: np.ndarray


class _Enough(Exception):
    """The turn that was waited for has come."""


def lessons_on(rng: np.random.Generator, picture: np.ndarray, alpha: np.ndarray) -> list[Lesson]:
    """Up to STROKES lessons on a scene, uint8 RGB (h, w, 3), and its matte, float32 (h, w), 0…1."""
    drawn = (strokes_on(rng, alpha) for _ in range(STROKES))
    return [_lesson(rng, picture, alpha, *strokes) for strokes in drawn if strokes]


def guess_at(rng: np.random.Generator, alpha: np.ndarray) -> np.ndarray:
    """What a person finder might say of a subject with the matte `alpha`: coarse, with parts lost or made up, 0…1."""
    coarse = rng.uniform(6, 18)
    size = max(4, int(alpha.shape[1] / coarse)), max(4, int(alpha.shape[0] / coarse))
    small = cv2.resize(alpha, size, interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), rng.uniform(0.4, 1.6))
    doubt = noise(rng, small.shape[0], small.shape[1], 1, 5) * rng.uniform(0, 0.35) * (0.3 + small)
    guess = 1 / (1 + np.exp(-3 * ((small - rng.uniform(0.25, 0.6)) * rng.uniform(2, 6) + doubt)))
    inside = np.argwhere(small > 0.5)
    for lost in (True, False):
        if rng.random() >= 0.4 or not len(inside):
            continue
        row, column = inside[rng.integers(len(inside))] if lost else (rng.integers(n) for n in small.shape)
        spot = np.zeros_like(small)
        axes = [max(1, int(v)) for v in rng.uniform(1, 0.12 * max(small.shape), 2)]
        cv2.ellipse(spot, (int(column), int(row)), axes, rng.uniform(0, 180), 0, 360, 1.0, -1)
        spot = cv2.GaussianBlur(spot, (0, 0), 1)
        guess = guess * (1 - spot) if lost else np.maximum(guess, 0.8 * spot)
    return (guess * rng.uniform(0.8, 1)).astype(np.float32)


def _lesson(
    rng: np.random.Generator, picture: np.ndarray, alpha: np.ndarray, keep: list[marks.Stroke], drop: list[marks.Stroke]
) -> Lesson:
    """What is known at one of the three turns, and the truth in the part of the scene that is looked at."""
    wanted, heard = int(rng.integers(0, 3)), []

    def listen(voices: Voices) -> np.ndarray | None:
        heard.append(voices)
        if len(heard) > wanted:
            raise _Enough
        if rng.random() > JUDGED or voices.wish.shape != told.shape:
            return None
        about = cv2.resize(guess_at(rng, told), told.shape[::-1], interpolation=cv2.INTER_LINEAR)
        return SURE * np.clip(rng.uniform(1, 3) * (2 * about - 1), -1, 1)

    inside, outside = (marks.draw(strokes, *alpha.shape) for strokes in (keep, drop))
    asked = rng.random()
    guess = guess_at(rng, alpha) if asked < GUESSED else None
    if guess is None and asked >= GUESSED + UNHEARD:
        guess = person_hint(picture, inside, outside)
    part = marks.beside(inside, outside)
    told, _ = smaller(np.ascontiguousarray(alpha[part]), marks.COARSE)
    with contextlib.suppress(_Enough):
        marks.find(picture, keep, drop, lambda: guess, listen)
    truth = cv2.resize(np.ascontiguousarray(alpha[part]), (SIDE, SIDE), interpolation=cv2.INTER_AREA)
    shown = heard[-1]
    looked = [layer.astype(np.float16) for layer in shown.looked()]
    return Lesson(shown.seen().astype(np.float16), looked, np.round(truth * 255).astype(np.uint8))


def main() -> None:
    """Makes lessons and writes them into a file."""
    parser = argparse.ArgumentParser(description=main.__doc__)
    parser.add_argument("out", type=Path)
    parser.add_argument("--count", type=int, default=1200)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--cutouts", type=Path, action="append", default=[], help="a folder of pictures with an alpha")
    parser.add_argument("--places", type=Path, action="append", default=[], help="a folder of photographs")
    given = parser.parse_args()
    rng = np.random.default_rng(given.seed)
    others = Collection(given.cutouts, given.places) if given.cutouts else None
    lessons: list[Lesson] = []
    while len(lessons) < given.count:
        kind = scene if others is None or rng.random() < MADE_UP else others.scene
        made = kind(rng, *SIZE)
        if made is not None:
            lessons += lessons_on(rng, *made)
    seen, truth = np.stack([x.seen for x in lessons]), np.stack([x.truth for x in lessons])
    layers = {f"layer{k}": np.stack(layer) for k, layer in enumerate(zip(*(x.looked for x in lessons), strict=True))}
    np.savez(given.out, allow_pickle=False, seen=seen, truth=truth, **layers)


if __name__ == "__main__":
    main()
