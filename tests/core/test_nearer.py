"""The look from near at what was found, and the lessons it learned from."""

import ast
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from nervykite.core.see.find import judge, marks, nearer
from nervykite.core.see.find.strokes import draw
from tools import learn
from tools.learn import near
from tools.learn.strokes import strokes_on

from .scenes import as_found, overlap
from .test_judge import made_up, voices_of

pytestmark = pytest.mark.learn


@pytest.fixture(scope="module")
def scenes():
    return made_up(12)


class TestBox:
    def test_it_is_a_fifth_of_its_length_larger_on_each_side(self):
        found = np.zeros((400, 300), np.float32)
        found[100:201, 120:150] = 1
        assert nearer.box_around(found) == (slice(80, 221), slice(100, 170))

    def test_it_ends_at_the_frame_and_is_never_tight(self):
        found = np.zeros((60, 50), np.float32)
        found[0:4, 20:23] = 1
        assert nearer.box_around(found) == (slice(0, 16), slice(8, 35))

    def test_around_nothing_there_is_none(self):
        assert nearer.box_around(np.full((20, 20), 0.5, np.float32)) is None


class TestLook:
    def test_what_marks_find_is_better_for_it_on_scenes_it_has_not_seen(self, scenes):
        rng = np.random.default_rng(11)
        without, together = [], []
        for picture, alpha, _ in scenes:
            keep, drop = strokes_on(rng, alpha)
            without.append(overlap(marks.find(picture, keep, drop, look=as_found), alpha))
            together.append(overlap(marks.find(picture, keep, drop, look=nearer.nearer), alpha))
        assert np.mean(together) > np.mean(without) + 0.003

    def test_it_answers_within_bounds_and_only_around_what_was_found(self, scenes):
        picture, alpha, _ = scenes[0]
        seen = []

        def look(voices, ours, others):
            seen.append((voices, nearer.nearer(voices, ours, others)))
            return seen[-1][1]

        found = marks.find(picture, *strokes_on(np.random.default_rng(13), alpha), look=look)
        (voices, answer) = seen[0]
        assert found.shape == alpha.shape
        assert answer.dtype == np.float32
        assert 0 <= answer.min() <= answer.max() <= 1
        beyond = np.ones(answer.shape, bool)
        beyond[nearer.box_around(voices.before)] = False
        assert np.array_equal(answer[beyond], voices.before[beyond])

    def test_a_strokes_own_side_wins_over_it(self, scenes):
        picture, alpha, _ = scenes[1]
        keep, drop = strokes_on(np.random.default_rng(14), alpha)
        found = marks.find(picture, keep, drop, look=lambda voices, ours, others: 1 - voices.before)
        inside, outside = draw(keep, *alpha.shape), draw(drop, *alpha.shape)
        assert found[inside].min() == 1
        assert found[outside & ~inside].max() == 0

    def test_where_no_network_runs_what_was_found_stays(self, scenes, monkeypatch):
        picture, alpha, _ = scenes[2]
        strokes = strokes_on(np.random.default_rng(15), alpha)
        monkeypatch.setattr(nearer, "shipped", lambda file: None)
        assert np.array_equal(marks.find(picture, *strokes), marks.find(picture, *strokes, look=as_found))

    def test_where_nothing_was_found_nothing_is(self, scenes):
        voices = replace(voices_of(*scenes[3][:2]), before=np.zeros(scenes[3].alpha.shape, np.float32))
        nothing = np.zeros(voices.unary.shape, bool)
        assert not nearer.nearer(voices, nothing, ~nothing).any()


class TestNearLessons:
    def test_they_show_what_was_found_as_large_as_it_is_looked_at(self, scenes):
        rng = np.random.default_rng(16)
        lessons = [lesson for one in scenes[:7] for lesson in near.near_lessons_on(rng, one)]
        assert len(lessons) > 5
        for lesson in lessons:
            assert lesson.seen.shape == (nearer.SIDE, nearer.SIDE, judge.SEEN)
            assert lesson.truth.shape == (nearer.SIDE, nearer.SIDE)
            assert np.isfinite(lesson.seen).all()
            before, truth = lesson.seen[..., 9] > 0.5, lesson.truth > 127
            assert overlap(before, truth) > near.FAIR / 2
            assert before.any(1).mean() > 0.3  # it fills what is looked at
        assert any(overlap(lesson.seen[..., 9] > 0.5, lesson.truth > 127) < 0.98 for lesson in lessons)

    def test_something_else_that_was_found_teaches_nothing(self, scenes, monkeypatch):
        alpha = scenes[0].alpha
        elsewhere = scenes[0]._replace(alpha=np.roll(alpha, alpha.shape[0] // 2, 0)[::-1].copy())
        monkeypatch.setattr(near, "strokes_on", lambda rng, _: strokes_on(rng, alpha))
        assert near.near_lessons_on(np.random.default_rng(17), elsewhere) == []

    def test_training_is_for_what_it_is_shown(self):
        tree = ast.parse((Path(learn.__file__).parent / "train.py").read_text())
        assigned = {ast.unparse(n.targets[0]): n.value for n in tree.body if isinstance(n, ast.Assign)}
        assert ast.literal_eval(assigned["NEAR_SIDE"]) == nearer.SIDE
