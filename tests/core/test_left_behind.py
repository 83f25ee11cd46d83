"""What a subject leaves is the place's, though it may be of the subject's own colours."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.carry.carry import carry
from nervykite.core.see.carry.crumbs import without_what_stays

from .scenes import composed, texture

HIGH, WIDE, STEP, FROM, FRAMES = 180, 320, 16, 90, 14


def walker(n: int) -> np.ndarray:
    """The alpha of somebody who walks fast, behind a rail, at frame n: float32 (HIGH, WIDE)."""
    left, swing = FROM + STEP * n, round(14 * np.sin(0.7 * n))
    alpha = cv2.rectangle(np.zeros((HIGH, WIDE), np.uint8), (left, 30), (left + 44, 100), 255, -1)
    cv2.circle(alpha, (left + 22, 24), 16, 255, -1, cv2.LINE_AA)
    for hip, foot in ((14, -swing), (30, swing)):
        cv2.line(alpha, (left + hip, 98), (left + hip + foot, 168), 255, 18, cv2.LINE_AA)
    alpha[108:116] = 0
    return cv2.GaussianBlur(cv2.blur(alpha.astype(np.float32) / 255, (9, 1)), (0, 0), 0.8)


@pytest.fixture(scope="module")
def leaving():
    """Somebody dark leaves a dark cellar window with bars: frames, alphas, and where the window is."""
    place = texture(HIGH, WIDE, (190, 180, 165), 3, 12)
    window = np.zeros((HIGH, WIDE), bool)
    window[118:172, FROM + 4 : FROM + 60] = True
    place[window] = texture(HIGH, WIDE, (30, 32, 36), 4, 2)[window]
    for x in range(FROM + 4, FROM + 60, 7):
        cv2.line(place, (x, 118), (x + 5, 172), (90, 90, 95), 1)
    place[108:116] = (120, 90, 60)
    cloth = texture(HIGH, WIDE, (32, 32, 36), 5, 6)
    alphas = [walker(n) for n in range(FRAMES)]
    return [composed(a, cloth, place, 2.0, n) for n, a in enumerate(alphas)], alphas, window


def test_what_was_hidden_behind_the_subject_is_not_taken_along(leaving):
    frames, alphas, window = leaving
    for found in carry(frames, {0: alphas[0]}, [6, 8, 13]):
        assert (found.alpha[window] > 0.5).mean() < 0.1
        assert (found.alpha > 0.5)[alphas[found.frame] > 0.5].mean() > 0.8


class TestPieces:
    """Two pieces: a large one that moves on, and a small one."""

    def pieces(self, moves: int = 6, contrast: int = 80) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """A matte, a frame and the one before it."""
        matte = np.zeros((120, 200), np.float32)
        matte[20:100, 110:160] = matte[50:80, 30:60] = 1
        now = np.full((120, 200), 150, np.uint8)
        now[20:100, 110:160] = 40
        now[50:80, 30:60] = 150 - contrast
        last = np.full((120, 200), 150, np.uint8)
        last[20:100, 110 - moves : 160 - moves] = 40
        last[50:80, 30:60] = 150 - contrast
        return matte, now, last

    def kept(self, matte, now, last, known: bool = False) -> np.ndarray:
        return without_what_stays(matte, now, last, lambda: np.full(matte.shape, known))

    def test_the_one_that_stays_is_left(self):
        matte, now, last = self.pieces()
        found = self.kept(matte, now, last)
        assert not found[:, :90].any()
        assert (found[:, 90:] == matte[:, 90:]).all()

    def test_but_not_if_it_is_known_why_it_stays(self):
        matte, now, last = self.pieces()
        assert (self.kept(matte, now, last, known=True) == matte).all()

    def test_nor_if_nothing_tells_whether_it_does(self):
        matte, now, last = self.pieces(contrast=3)
        assert (self.kept(matte, now, last) == matte).all()

    def test_nor_if_the_subject_rests(self):
        matte, now, last = self.pieces(moves=0)
        assert (self.kept(matte, now, last) == matte).all()

    def test_nor_if_it_moves_as_well(self):
        matte, now, last = self.pieces()
        assert (self.kept(matte, now, np.roll(last, 5, 0)) == matte).all()

    def test_one_piece_or_none_is_what_it_was(self):
        matte, now, last = self.pieces()
        matte[:, :90] = 0
        assert self.kept(matte, now, last) is matte
        nobody = np.zeros_like(matte)
        assert self.kept(nobody, now, last) is nobody
