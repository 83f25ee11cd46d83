"""Lessons on answers that no strokes led to."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.find import judge
from tools.learn import answers
from tools.learn.scenes import Scene

from .test_judge import made_up

pytestmark = pytest.mark.learn


@pytest.fixture(scope="module")
def scenes() -> list[Scene]:
    return made_up(8)


def far_from(scene: Scene) -> np.ndarray:
    """What neither the subject nor its shadow touches."""
    shadow = np.abs(scene.picture.astype(float) - scene.place).max(-1) > 30
    return cv2.dilate(np.maximum(scene.alpha, shadow.astype(np.float32)), np.ones((31, 31))) < 0.05


class TestPlates:
    def test_the_place_is_that_of_the_picture_without_the_subject(self, scenes):
        for scene in scenes:
            apart = np.abs(scene.picture.astype(float) - scene.place).mean(-1)
            away, inside = far_from(scene), scene.alpha > 0.95
            if away.sum() > 1000:
                assert np.median(apart[away]) < 12
                assert np.median(apart[inside]) > np.median(apart[away])

    def test_a_plate_knows_all_but_what_the_subject_hid(self, scenes):
        rng, some = np.random.default_rng(1), 0
        for scene in scenes:
            plate, noisy, support = answers.plate_for(rng, scene)
            assert plate.shape == scene.picture.shape
            assert plate.dtype == np.uint8
            assert (noisy > 0).all()
            hidden = support < answers.KNOWN
            some += hidden.any()
            assert not hidden[cv2.dilate(scene.alpha, np.ones((21, 21))) < 0.05].any()
        assert 0 < some < len(scenes)

    def test_where_it_is_known_it_shows_the_place(self, scenes, monkeypatch):
        monkeypatch.setattr(answers, "LINGERS", 0)
        for scene in scenes:
            plate, _, _ = answers.plate_for(np.random.default_rng(2), scene)
            assert np.abs(plate.astype(float) - scene.place).mean() < 20

    def test_a_hidden_place_may_show_the_subject(self, scenes, monkeypatch):
        for share, nearer in ((1, True), (0, False)):
            monkeypatch.setattr(answers, "LINGERS", 1)
            monkeypatch.setattr(answers, "SHOWS_IT", share)
            to_subject, to_place = [], []
            for scene in scenes:
                plate, _, support = answers.plate_for(np.random.default_rng(3), scene)
                there = (support < answers.KNOWN) & (cv2.erode(scene.alpha, np.ones((15, 15))) > 0.9)
                if there.sum() > 100:
                    to_subject.append(np.abs(plate.astype(float) - scene.picture)[there].mean())
                    to_place.append(np.abs(plate.astype(float) - scene.place)[there].mean())
            assert (np.mean(to_subject) < np.mean(to_place)) == nearer


class TestAnswers:
    @pytest.mark.parametrize("kind", [answers.on_a_plate, answers.on_a_guess])
    def test_a_lesson_is_roughly_answered_and_the_truth_fits_it(self, scenes, kind):
        rng, overlaps = np.random.default_rng(4), []
        for scene in scenes:
            lesson = kind(rng, scene)
            if lesson is None:
                continue
            assert lesson.seen.shape == (judge.SIDE, judge.SIDE, judge.SEEN)
            assert lesson.truth.shape == (judge.SIDE, judge.SIDE)
            before, truth = lesson.seen[..., 9] > 0.5, lesson.truth > 127
            overlaps.append((before & truth).sum() / max(1, (before | truth).sum()))
            assert lesson.seen[..., 8].max() <= 0  # nothing is borne out by strokes
        assert len(overlaps) > 4
        assert np.mean(overlaps) > 0.5

    def test_what_a_plate_does_not_know_is_told(self, scenes, monkeypatch):
        told = []
        for share in (0, 1):
            monkeypatch.setattr(answers, "LINGERS", share)
            rng = np.random.default_rng(5)
            lessons = [answers.on_a_plate(rng, scene) for scene in scenes]
            told.append(min(lesson.seen[..., 8].min() for lesson in lessons if lesson is not None))
        assert told[0] == 0
        assert told[1] < -0.5

    def test_the_same_seed_makes_the_same_lesson(self, scenes):
        one, other = (answers.on_a_plate(np.random.default_rng(6), scenes[0]) for _ in range(2))
        assert one is not None
        assert other is not None
        assert np.array_equal(one.seen, other.seen)
        assert np.array_equal(one.truth, other.truth)
