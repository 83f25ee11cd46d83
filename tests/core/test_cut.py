"""Distances from strokes, the minimal cut, and cutting once more at a finer size."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nervykite.core.see.find import marks
from nervykite.core.see.find.cut import minimal_cut
from nervykite.core.see.find.geodesic import geodesic_distance
from nervykite.core.see.find.marks import Stroke
from nervykite.core.see.find.refine import refined
from nervykite.core.see.matte.solve import solve_alpha

from .scenes import DROP, KEEP, overlap, picture


class TestGeodesic:
    def test_is_the_distance_on_even_ground(self):
        seeds = np.zeros((41, 41), bool)
        seeds[20, 20] = True
        far = geodesic_distance(seeds, np.ones((41, 41), np.float32))
        assert far[20, 40] == pytest.approx(20)
        assert far[0, 0] == pytest.approx(20 * 2**0.5, rel=1e-3)

    def test_goes_round_a_wall(self):
        cost = np.ones((31, 31), np.float32)
        cost[:25, 15] = 1000
        seeds = np.zeros((31, 31), bool)
        seeds[2, 2] = True
        far = geodesic_distance(seeds, cost, sweeps=6)
        assert far[2, 28] > 40
        assert far[2, 28] < 100

    def test_without_a_beginning_everything_is_far(self):
        assert (geodesic_distance(np.zeros((5, 5), bool), np.ones((5, 5), np.float32)) == 1e9).all()

    def test_a_beginning_can_have_a_price(self):
        price = np.full((1, 11), 1e9, np.float32)
        price[0, 0], price[0, 10] = 0, 4
        far = geodesic_distance(price, np.ones((1, 11), np.float32))
        assert far[0].tolist() == [0, 1, 2, 3, 4, 5, 6, 7, 6, 5, 4]


class TestMinimalCut:
    def test_certain_pixels_keep_their_side(self):
        leaning = np.zeros((40, 40), np.float32)
        leaning[:, :5], leaning[:, -5:] = 40, -40
        u = minimal_cut(leaning, np.full((40, 40), 0.5, np.float32))
        assert u[:, :5].min() > 0.99
        assert u[:, -5:].max() < 0.01

    def test_runs_along_the_cheap_line(self):
        leaning = np.zeros((40, 60), np.float32)
        leaning[:, :5], leaning[:, -5:] = 40, -40
        pairwise = np.ones((40, 60), np.float32)
        pairwise[:, 36] = 0.05
        u = minimal_cut(leaning, pairwise, steps=1200)
        assert (u[:, 10:34] > 0.5).all()
        assert (u[:, 40:50] < 0.5).all()

    @pytest.mark.parametrize("shape", [(7, 9), (31, 44), (1, 12), (12, 1)])
    def test_takes_the_steps_that_the_paper_says(self, shape):
        rng = np.random.default_rng(shape[0])
        leaning, pairwise = rng.normal(0, 0.5, shape), rng.random(shape)
        u = ahead = (leaning > 0).astype(float)
        p, step = np.zeros((2, *shape)), 0.3535
        for _ in range(40):
            slope = [np.diff(ahead, axis=n, append=ahead.take([-1], n)) for n in (0, 1)]
            p = p + step * np.array(slope)
            p /= np.maximum(1, np.hypot(*p) / pairwise)
            spread = sum(np.diff(p[n], axis=n, prepend=0) for n in (0, 1))
            before, u = u, np.clip(u + step * (spread + leaning), 0, 1)
            ahead = 2 * u - before
        assert minimal_cut(leaning, pairwise, steps=40, enough=0) == pytest.approx(u, abs=1e-4)

    def test_removes_specks_that_are_not_worth_their_outline(self):
        leaning = np.full((40, 40), -0.5, np.float32)
        leaning[20, 20] = 1.0
        assert minimal_cut(leaning, np.ones((40, 40), np.float32)).max() < 0.5


class TestRefined:
    def test_an_outline_moves_onto_the_edge(self):
        frame, alpha = picture(480, 360)
        rough = cv2.resize(cv2.dilate(alpha, np.ones((7, 7), np.uint8)), (180, 240))
        before = overlap(cv2.resize(rough, (360, 480)), alpha)
        after = overlap(refined(frame, rough, np.zeros_like(rough)), alpha)
        assert after > before + 0.03
        assert after > 0.96

    def test_nothing_to_lay_on_an_edge_stays_as_it_is(self):
        frame, _ = picture()
        nothing = np.zeros((240, 180), np.float32)
        assert refined(frame, nothing, nothing).max() == 0


class TestProperties:
    @settings(max_examples=25, deadline=None)
    @given(st.integers(0, 10_000), st.floats(0.5, 6), st.floats(1e-4, 1))
    def test_a_solved_matte_is_within_bounds_whatever_it_is_given(self, seed, blur, pull):
        rng = np.random.default_rng(seed)
        frame = rng.integers(0, 256, (40, 30, 3)).astype(np.uint8)
        guess = cv2.GaussianBlur(rng.random((40, 30)).astype(np.float32), (0, 0), blur)
        guess = (guess - guess.min()) / (np.ptp(guess) + 1e-6)
        band = np.abs(guess - 0.5) < 0.2
        solved = solve_alpha(frame, guess, band, pull)
        assert np.isfinite(solved).all()
        assert solved.min() >= 0
        assert solved.max() <= 1
        assert np.isin(solved[~band], (0, 1)).all()

    @settings(max_examples=20, deadline=None)
    @given(st.integers(0, 10_000))
    def test_the_other_side_of_a_cut_is_the_cut_of_the_other_side(self, seed):
        rng = np.random.default_rng(seed)
        leaning = cv2.GaussianBlur(rng.standard_normal((24, 24)).astype(np.float32), (0, 0), 2) * 3
        pairwise = np.full((24, 24), 0.2, np.float32)
        one, other = (minimal_cut(sign * leaning, pairwise, steps=800, enough=0) for sign in (1, -1))
        assert np.abs((one > 0.5).astype(int) - (other <= 0.5)).mean() < 0.02

    @settings(max_examples=20, deadline=None)
    @given(st.integers(0, 10_000), st.floats(0.3, 3))
    def test_more_leaning_never_takes_anything_away(self, seed, more):
        rng = np.random.default_rng(seed)
        leaning = cv2.GaussianBlur(rng.standard_normal((24, 24)).astype(np.float32), (0, 0), 2) * 3
        pairwise = np.full((24, 24), 0.2, np.float32)
        less, larger = (minimal_cut(leaning + extra, pairwise, steps=800, enough=0) for extra in (0, more))
        assert ((less > 0.6) & (larger < 0.4)).sum() == 0

    def test_marks_do_not_depend_on_the_size_of_the_picture(self):
        frame, alpha = picture()
        large = cv2.resize(frame, (360, 480), interpolation=cv2.INTER_CUBIC)
        double = [[Stroke(s.points * 2, s.width * 2) for s in strokes] for strokes in (KEEP, DROP)]
        one = marks.find(frame, KEEP, DROP)
        two = cv2.resize(marks.find(large, *double), (180, 240), interpolation=cv2.INTER_AREA)
        assert overlap(one, two) > 0.95
        assert overlap(two, alpha) > 0.94
