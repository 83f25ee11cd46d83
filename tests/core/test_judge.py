"""The judge of marks, and the made-up scenes it learned from."""

import ast
from pathlib import Path

import cv2
import numpy as np
import pytest

from nervykite.core.see.find import judge, marks
from nervykite.core.see.find.search import replaced
from nervykite.core.see.find.strokes import draw
from nervykite.core.see.matte import networks
from tools import learn
from tools.learn import lessons
from tools.learn.guess import guess_at
from tools.learn.scenes import LEAST, Scene, scene
from tools.learn.strokes import strokes_on

from .scenes import BY_RULES, overlap

pytestmark = pytest.mark.learn

UNSEEN = 90_000
"""Seeds from here on were not used to make what the judge learned from."""


MADE: dict[tuple[int, int], tuple[np.random.Generator, list[Scene]]] = {}


def made_up(count: int, size: tuple[int, int] = (320, 180)) -> list[Scene]:
    """So many scenes that the judge has not seen; always the same ones, made once, and not to be written to."""
    rng, scenes = MADE.setdefault(size, (np.random.default_rng(UNSEEN), []))
    while len(scenes) < count:
        made = scene(rng, *size)
        if made is not None:
            scenes.append(made)
    return scenes[:count]


@pytest.fixture(scope="module")
def scenes():
    return made_up(10)


class TestScenes:
    def test_a_scene_is_a_picture_and_the_matte_of_one_subject(self, scenes):
        for picture, alpha, _ in scenes:
            assert picture.shape == (320, 180, 3)
            assert picture.dtype == np.uint8
            assert alpha.shape == (320, 180)
            assert alpha.dtype == np.float32
            assert 0 <= alpha.min() <= alpha.max() <= 1
            assert (alpha > 0.4).mean() >= LEAST / 2
            assert (alpha < 0.5).any()

    def test_the_same_seed_makes_the_same_scene(self):
        one, other = (scene(np.random.default_rng(7), 160, 90) for _ in range(2))
        assert one is not None
        assert other is not None
        assert np.array_equal(one[0], other[0])
        assert np.array_equal(one[1], other[1])

    def test_a_subject_differs_from_what_would_be_there_without_it(self, scenes):
        steps = []
        for picture, alpha, _ in scenes:
            inside, beside = alpha > 0.95, (alpha < 0.05)
            steps.append(np.abs(picture[inside].mean(0) - picture[beside].mean(0)).mean())
        assert np.median(steps) > 8


class TestStrokes:
    def test_keep_strokes_lie_on_the_subject_and_drop_strokes_beside_it(self, scenes):
        rng = np.random.default_rng(1)
        for _, alpha, _ in scenes:
            drawn = strokes_on(rng, alpha)
            assert drawn is not None
            kept, dropped = (draw(strokes, *alpha.shape) for strokes in drawn)
            assert alpha[kept].mean() > 0.9
            assert alpha[dropped].mean() < 0.02

    def test_there_are_few_of_them(self, scenes):
        rng = np.random.default_rng(2)
        for _, alpha, _ in scenes:
            keep, drop = strokes_on(rng, alpha)
            assert 1 <= len(keep) <= 3
            assert 1 <= len(drop) <= 4

    def test_without_room_there_are_none(self):
        rng = np.random.default_rng(3)
        assert strokes_on(rng, np.zeros((90, 60), np.float32)) is None
        assert strokes_on(rng, np.ones((90, 60), np.float32)) is None


class TestLessons:
    def test_a_guess_is_roughly_the_subject(self, scenes):
        rng = np.random.default_rng(4)
        shares = []
        for _, alpha, _ in scenes:
            guess = guess_at(rng, alpha)
            assert 0 <= guess.min() <= guess.max() <= 1
            grown, inside = cv2.resize(guess, alpha.shape[::-1]), alpha > 0.5
            shares.append(grown[inside].mean() - grown[~inside].mean())
        assert np.mean(shares) > 0.3

    def test_strokes_lie_on_the_right_side_of_the_truth_of_a_lesson(self, scenes, monkeypatch):
        for kind in ("ON_A_PLATE", "ON_A_GUESS"):
            monkeypatch.setattr(lessons, kind, 0)
        rng = np.random.default_rng(5)
        for one in scenes[:3]:
            for lesson in lessons.lessons_on(rng, one):
                assert lesson.seen.shape == (judge.SIDE, judge.SIDE, judge.SEEN)
                assert np.isfinite(lesson.seen).all()
                assert [layer.shape[0] for layer in lesson.looked] == [75, 38, 19]
                keep, drop = lesson.seen[..., 10] > 0.5, lesson.seen[..., 11] > 0.5
                assert lesson.truth[keep].mean() > 200
                assert lesson.truth[drop].mean() < 20

    def test_training_and_asking_agree_on_what_is_shown(self, scenes):
        tree = ast.parse((Path(learn.__file__).parent / "train.py").read_text())
        assigned = {ast.unparse(n.targets[0]): n.value for n in tree.body if isinstance(n, ast.Assign)}
        side, seen, unary = ast.literal_eval(assigned["(SIDE, SEEN, UNARY)"])
        voices = voices_of(*scenes[0][:2])
        layers = ast.literal_eval(assigned["LAYERS"])
        assert [(*layer.shape[1:],) for layer in voices.looked()] == [*layers]
        shown = voices.seen()
        assert shown.shape == (side, side, seen) == (judge.SIDE, judge.SIDE, judge.SEEN)
        assert shown[..., unary].min() < -0.2  # the drop strokes' surroundings


def voices_of(picture: np.ndarray, alpha: np.ndarray) -> judge.Voices:
    """What the judge is told at the first turn."""
    heard: list[judge.Voices] = []

    def listening(view, turn) -> None:
        heard.append(view.voices(turn))

    listening.__name__ = "judge"
    strokes = strokes_on(np.random.default_rng(6), alpha)
    assert strokes is not None
    marks.find(picture, *strokes, evidence=replaced(marks.MARKS, listening))
    return heard[0]


class TestJudge:
    def test_marks_are_better_for_it_on_scenes_it_has_not_seen(self, scenes):
        rng = np.random.default_rng(8)
        alone, together = [], []
        for picture, alpha, _ in scenes:
            keep, drop = strokes_on(rng, alpha)
            alone.append(overlap(marks.find(picture, keep, drop, evidence=BY_RULES), alpha))
            together.append(overlap(marks.find(picture, keep, drop), alpha))
        assert np.mean(together) > np.mean(alone) + 0.005

    def test_it_says_the_same_twice_and_never_more_than_it_may(self, scenes):
        voices = voices_of(*scenes[1][:2])
        once, twice = judge.judged(voices), judge.judged(voices)
        assert once.shape == voices.unary.shape
        assert np.array_equal(once, twice)
        assert np.abs(once).max() <= judge.SURE

    def test_marks_go_without_it_where_no_network_runs(self, scenes, monkeypatch):
        picture, alpha, _ = scenes[2]
        keep, drop = strokes_on(np.random.default_rng(9), alpha)
        monkeypatch.setattr(judge, "shipped", lambda file: None)
        found = marks.find(picture, keep, drop)
        assert np.array_equal(found, marks.find(picture, keep, drop, evidence=BY_RULES))

    def test_a_network_that_cannot_be_run_is_none(self, monkeypatch):
        def missing(*_):
            raise ImportError

        monkeypatch.setattr(networks, "Network", missing)
        assert networks.shipped.__wrapped__(judge.MODEL) is None

    def test_a_strokes_own_side_wins_over_it(self, scenes):
        picture, alpha, _ = scenes[3]
        keep, drop = strokes_on(np.random.default_rng(10), alpha)
        found = marks.cut_out(picture, keep, drop, lambda *_: None)
        inside, outside = draw(keep, *alpha.shape), draw(drop, *alpha.shape)
        assert (found[inside] == 1).all()
        assert (found[outside & ~inside] == 0).all()
