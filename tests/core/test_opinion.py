"""A second opinion on what was found without strokes."""

from dataclasses import dataclass, fields

import cv2
import numpy as np
import pytest

from nervykite.core.see.find.evidence import known_to_each
from nervykite.core.see.find.nearer import nearer
from nervykite.core.see.find.opinion import MARGIN, Opined, from_near, judge, looks, voices_on
from nervykite.core.see.matte.colours import lab

from .scenes import overlap
from .test_judge import made_up

pytestmark = pytest.mark.learn

EVERYWHERE = slice(None), slice(None)


@dataclass
class View:
    likeness: float
    judgement: float


def changed(turn: Opined, **other) -> Opined:
    """The same with other values, and nothing worked out of it yet."""
    return Opined(**{f.name: getattr(turn, f.name) for f in fields(turn)} | other)


def half_found(picture: np.ndarray, alpha: np.ndarray) -> tuple[Opined, np.ndarray]:
    """An answer that has only the upper two thirds of a subject, and where the rest of it is."""
    subject = alpha > 0.5
    rows = np.flatnonzero(subject.any(1))
    missed = subject & (np.arange(len(alpha))[:, None] > rows[0] + 0.66 * np.ptp(rows))
    found = (subject & ~missed).astype(np.float32)
    core = cv2.erode(found, np.ones((3, 3))) > 0
    rest = cv2.dilate(subject.astype(np.uint8), np.ones((15, 15))) == 0
    nothing = np.zeros(alpha.shape, np.float32)
    unary = np.where(missed, 0.0, 2 * found - 1).astype(np.float32)  # nothing is known of the rest
    kept, dropped = known_to_each(lab(picture), core, rest, EVERYWHERE)
    return Opined(1, found, core, rest, kept, dropped, nothing, unary, picture, found > 0.5, None, nothing), missed


def with_some_of_the_place(picture: np.ndarray, alpha: np.ndarray) -> tuple[Opined, np.ndarray]:
    """An answer that has all of a subject and a piece of the place beside it, and where that is."""
    answer, _ = half_found(picture, alpha)
    subject = alpha > 0.5
    disc = np.zeros(alpha.shape, np.uint8)
    rows, columns = np.nonzero(subject)
    cv2.circle(disc, (int(columns.max()), int(rows.mean())), 22, 1, -1)
    wrong = (disc > 0) & (cv2.dilate(alpha, np.ones((5, 5))) < 0.1)
    found = (subject | wrong).astype(np.float32)
    ours = cv2.erode(subject.astype(np.uint8), np.ones((3, 3))) > 0
    rest = cv2.dilate(found, np.ones((15, 15))) == 0
    unary = np.where(wrong, 0.3, 2 * found - 1).astype(np.float32)
    return changed(answer, unary=unary, found=found, ours=ours, others=rest, near=found > 0.5), wrong


def near(turn: Opined) -> np.ndarray:
    return from_near(turn, turn.found, turn.ours, turn.others)


class TestSecondOpinion:
    def said(self, evidence) -> float:
        """How much more is said for the parts that are missing than for what is not the subject."""
        gained = []
        for picture, alpha, _ in made_up(10):
            answer, missed = half_found(picture, alpha)
            if missed.sum() < 50 or not answer.ours.any():
                continue
            change = evidence(View(1.0, 0.8), answer)
            beside = (cv2.dilate(alpha, np.ones((41, 41))) > 0.5) & answer.others
            gained.append(change[missed].mean() - change[beside].mean())
        assert len(gained) > 4
        return float(np.mean(gained))

    def test_looks_speak_for_what_was_missed(self):
        assert self.said(looks) > 0.5

    def test_the_judge_speaks_against_a_piece_of_the_place(self):
        apart = []
        for picture, alpha, _ in made_up(10):
            answer, wrong = with_some_of_the_place(picture, alpha)
            if wrong.sum() < 50 or not answer.ours.any():
                continue
            change = judge(View(0.0, 0.8), answer)
            apart.append(change[answer.ours].mean() - change[wrong].mean())
        assert len(apart) > 4
        assert np.mean(apart) > 0.3

    def test_nothing_changes_far_away(self):
        picture, alpha, _ = made_up(1)[0]
        answer, _ = half_found(picture, alpha)
        top = int(np.flatnonzero((answer.found > 0.5).any(1))[0])
        upper = (answer.found > 0.5) & (np.arange(len(alpha))[:, None] < top + 40)
        for evidence in (looks, judge):
            said = evidence(View(1.0, 0.5), changed(answer, near=upper))
            assert said[: top + 40].any()
            assert not said[top + 40 + MARGIN + 1 :].any()

    def test_with_nothing_to_compare_with_it_says_nothing(self):
        picture, alpha, _ = made_up(1)[0]
        answer, _ = half_found(picture, alpha)
        alone = changed(answer, others=np.zeros(alpha.shape, bool))
        assert [evidence(View(1.0, 0.5), alone) for evidence in (looks, judge)] == [None, None]

    def test_without_networks_it_says_nothing(self, monkeypatch, tmp_path):
        monkeypatch.setenv("NERVYKITE_NETWORKS", str(tmp_path))
        picture, alpha, _ = made_up(1)[0]
        answer, _ = half_found(picture, alpha)
        assert [evidence(View(1.0, 0.5), answer) for evidence in (looks, judge)] == [None, None]


class TestFromNear:
    def test_a_piece_of_the_place_is_mostly_taken_away(self):
        before, after = [], []
        for picture, alpha, _ in made_up(12):
            answer, wrong = with_some_of_the_place(picture, alpha)
            if wrong.sum() > 200:
                before.append(overlap(answer.found, alpha))
                after.append(overlap(near(answer), alpha))
        assert len(before) > 5
        assert np.mean(after) > np.mean(before) + 0.05

    def test_the_more_it_heeds_the_wish_the_less_it_changes(self):
        picture, alpha, _ = made_up(12)[0]
        answer, _ = half_found(picture, alpha)
        sure = changed(answer, unary=np.where(answer.found > 0, 2, -2).astype(np.float32))
        voices = voices_on(sure, EVERYWHERE, None, np.zeros(alpha.shape, np.float32))
        changes = [
            np.abs(nearer(voices, sure.ours, sure.others, heed) - sure.found).mean() for heed in (0.0, 2.0, 20.0)
        ]
        assert changes[0] > changes[1] > changes[2]
        assert changes[2] < 0.02

    def test_what_has_no_depth_stays_as_it_is(self):
        picture, alpha, _ = made_up(12)[0]
        answer, _ = half_found(picture, alpha)
        thin = changed(answer, ours=np.zeros(alpha.shape, bool))
        assert near(thin) is thin.found
