"""Fine edges, and colours cleaned of the old background."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.matte import fine
from nervykite.core.see.matte.fine import EdgeSettings, fine_edge
from nervykite.core.see.matte.fringe import foreground, own_colours
from nervykite.core.see.matte.solve import EPSILON, solve_alpha

from .scenes import blob, composed, overlap, picture, texture


class TestFineEdge:
    def test_a_soft_edge_is_found_from_a_hard_outline(self):
        alpha = blob(240, 180, 90, 120, 52, soft=3.0)
        frame = composed(alpha, texture(240, 180, (210, 70, 50), 3, 6), texture(240, 180, (70, 120, 170), 1, 6), 1.0)
        hard = (alpha > 0.5).astype(np.float32)
        solved = fine_edge(frame, hard)
        band = (alpha > 0.02) & (alpha < 0.98)
        assert np.abs(solved - alpha)[band].mean() < 0.5 * np.abs(hard - alpha)[band].mean()

    def test_a_soft_edge_is_found_though_the_outline_is_trusted(self):
        alpha = blob(240, 180, 90, 120, 52, soft=3.0)
        frame = composed(alpha, texture(240, 180, (210, 70, 50), 3, 6), texture(240, 180, (70, 120, 170), 1, 6), 1.0)
        hard = (alpha > 0.5).astype(np.float32)
        band = (alpha > 0.02) & (alpha < 0.98)
        error = np.abs(fine_edge(frame, hard, trust=0.2) - alpha)[band].mean()
        assert error < 0.5 * np.abs(hard - alpha)[band].mean()

    def test_a_trusted_outline_gives_a_steadier_edge_before_a_busy_place(self):
        alpha = blob(240, 180, 90, 120, 52, soft=0.7)
        hard = (alpha > 0.5).astype(np.float32)
        cloth = texture(240, 180, (150, 120, 100), 3, 24)
        places = [texture(240, 180, (120, 130, 110), seed, 24) for seed in range(4)]
        band = cv2.dilate(hard, np.ones((13, 13))) - cv2.erode(hard, np.ones((13, 13))) > 0

        def restless(**trust: float) -> float:
            solved = [fine_edge(composed(alpha, cloth, p, 3.0, n), hard, **trust) for n, p in enumerate(places)]
            return float(np.abs(np.diff(solved, axis=0))[:, band].mean())

        assert restless(trust=0.2) < 0.75 * restless()

    def test_no_texture_is_left_beside_an_edge_that_the_outline_missed(self, monkeypatch):
        alpha = blob(240, 180, 90, 120, 52, soft=0.7)
        cloth, place = texture(240, 180, (190, 90, 60), 3, 26), texture(240, 180, (90, 120, 140), 1, 26)
        frame = composed(alpha, cloth, place, 2.0)
        shift = np.array([[1, 0, 1.4], [0, 1, -1.2]])
        missed = cv2.warpAffine((alpha > 0.5).astype(np.float32), shift, (180, 240))
        near = np.abs(cv2.blur((alpha > 0.5).astype(np.float32), (13, 13)) - 0.5) < 0.49

        def error() -> float:
            return float(np.abs(fine_edge(frame, missed) - alpha)[near].mean())

        solved_twice = error()
        monkeypatch.setattr(fine, "_cleaned", lambda picture, found, *_: found)
        assert solved_twice < 0.75 * error()

    def test_an_edge_as_wide_as_hair_is_left_as_it_was_found(self, monkeypatch):
        alpha = blob(240, 180, 90, 120, 52, soft=9.0)
        frame = composed(alpha, texture(240, 180, (210, 70, 50), 3, 4), texture(240, 180, (70, 120, 170), 1, 4), 1.0)
        hard = (alpha > 0.5).astype(np.float32)
        solved = fine_edge(frame, hard, 12)
        monkeypatch.setattr(fine, "_cleaned", lambda picture, found, *_: found)
        assert np.abs(solved - fine_edge(frame, hard, 12)).mean() < 3e-3

    @pytest.mark.parametrize(("soft", "reach"), [(1.2, 8), (4.0, 12)])
    def test_a_large_picture_is_solved_about_as_well_with_its_first_solution_at_half_the_size(self, soft, reach):
        alpha = blob(241, 181, 90, 120, 52, soft=soft)
        cloth, place = texture(241, 181, (190, 90, 60), 3, 12), texture(241, 181, (90, 120, 140), 1, 12)
        frame = composed(alpha, cloth, place, 2.0)
        missed = cv2.warpAffine((alpha > 0.5).astype(np.float32), np.array([[1, 0, 1.2], [0, 1, -1.0]]), (181, 241))
        whole = fine_edge(frame, missed, reach, trust=0.05)
        halved = fine_edge(frame, missed, reach, trust=0.05, settings=EdgeSettings(large=0))
        off, off_halved = (float(np.abs(solved - alpha).sum()) for solved in (whole, halved))
        assert off_halved < 1.15 * off
        assert off_halved < 0.6 * np.abs(missed - alpha).sum()
        assert set(np.unique(halved[np.abs(cv2.blur(alpha, (45, 45)) - 0.5) > 0.499])) <= {0, 1}

    def test_stays_within_bounds_and_leaves_what_is_certain(self):
        frame, alpha = picture()
        solved = fine_edge(frame, alpha)
        assert solved.dtype == np.float32
        assert solved.min() >= 0
        assert solved.max() <= 1
        away = cv2.erode((alpha > 0.5).astype(np.uint8), np.ones((25, 25))) > 0
        assert (solved[away] == 1).all()

    def test_full_and_empty_outlines_stay_so(self):
        frame, _ = picture()
        assert fine_edge(frame, np.zeros((240, 180), np.float32)).max() == 0
        assert fine_edge(frame, np.ones((240, 180), np.float32)).min() == 1

    @pytest.mark.parametrize("spot", [(0, 120), (90, 239), (179, 0)])
    def test_a_subject_that_touches_the_frame_is_solved_up_to_it(self, spot):
        alpha = blob(240, 180, *spot, 40)
        frame = composed(alpha, texture(240, 180, (210, 70, 50), 3, 5), texture(240, 180, (70, 120, 170), 1, 5), 1.0)
        solved = fine_edge(frame, (alpha > 0.5).astype(np.float32))
        assert overlap(solved, alpha) > 0.97

    def test_a_subject_of_one_pixel_does_not_break_it(self):
        frame, _ = picture()
        outline = np.zeros((240, 180), np.float32)
        outline[100, 100] = 1
        assert np.isfinite(fine_edge(frame, outline)).all()

    @pytest.mark.parametrize("offset", [0, 2])
    def test_solves_the_equations_of_the_closed_form(self, offset):
        rng = np.random.default_rng(3)
        h, w, pull = 11, 13, 0.03
        picture = np.float32(rng.random((h, w, 3)))
        guess = np.float32(rng.random((h, w)))
        band = np.zeros((h, w), bool)
        band[3 : 7 + offset, 3:8] = band[5, 9] = True
        laplacian = np.zeros((h * w, h * w))
        for y in range(1, h - 1):
            for x in range(1, w - 1):
                if cv2.dilate(band.astype(np.uint8), np.ones((3, 3)))[y, x]:
                    at = (np.arange(y - 1, y + 2)[:, None] * w + np.arange(x - 1, x + 2)).ravel()
                    colours = picture.reshape(-1, 3)[at].astype(float)
                    off = colours - colours.mean(0)
                    like = off @ np.linalg.inv(off.T @ off / 9 + EPSILON * np.eye(3)) @ off.T
                    laplacian[np.ix_(at, at)] += np.eye(9) - (1 + like) / 9
        alpha = (guess > 0.5).astype(float).ravel()
        free = band.ravel()
        given = pull * guess.ravel()[free] - laplacian[np.ix_(free, ~free)] @ alpha[~free]
        alpha[free] = np.linalg.solve(laplacian[np.ix_(free, free)] + pull * np.eye(free.sum()), given)
        solved = solve_alpha(picture, guess, band, pull)
        assert solved == pytest.approx(np.clip(alpha, 0, 1).reshape(h, w), abs=0.05)

    def test_an_outline_beside_the_edge_is_led_to_it(self):
        frame, alpha = picture(480, 360)
        hard = (alpha > 0.5).astype(np.uint8)
        for beside in (cv2.dilate(hard, np.ones((5, 5), np.uint8)), cv2.erode(hard, np.ones((5, 5), np.uint8))):
            off = np.abs(beside.astype(float) - hard).sum()
            solved = fine_edge(frame, beside.astype(np.float32))
            assert np.abs((solved > 0.5).astype(float) - hard).sum() < 0.35 * off

    def test_where_both_sides_look_alike_the_outline_is_kept(self):
        frame = np.random.default_rng(1).normal(120, 2, (120, 160, 3)).clip(0, 255).astype(np.uint8)
        outline = np.zeros((120, 160), np.float32)
        outline[:, 83:] = 1
        profile = fine_edge(frame, outline)[20:100].mean(0)
        assert ((profile > 0.1) & (profile < 0.9)).sum() <= 4
        assert profile[82] < 0.5 < profile[83]

    def test_without_a_band_the_guess_is_rounded(self):
        guess = np.linspace(0, 1, 100, dtype=np.float32).reshape(10, 10)
        solved = solve_alpha(np.zeros((10, 10, 3), np.uint8), guess, np.zeros((10, 10), bool))
        assert (solved == (guess > 0.5)).all()


class TestCleanFringe:
    def test_takes_the_old_background_out_of_the_edge(self):
        alpha = blob(240, 180, 90, 120, 52, soft=3.0)
        cloth, scene = texture(240, 180, (210, 70, 50), 3, 6), texture(240, 180, (70, 190, 90), 1, 6)
        frame = composed(alpha, cloth, scene, 1.0)
        own = own_colours(frame, alpha)
        band = (alpha > 0.1) & (alpha < 0.9)
        new = np.float32((255, 0, 255))
        true = (cloth * alpha[..., None] + new * (1 - alpha[..., None]))[band]
        kept, cleaned = (
            np.abs(c * alpha[..., None] + new * (1 - alpha[..., None]) - 0)[band] - true for c in (frame, own)
        )
        assert np.abs(cleaned).mean() < 0.5 * np.abs(kept).mean()
        assert (own[alpha > 0.999] == frame[alpha > 0.999]).all()

    def test_beyond_the_edge_the_subjects_colours_go_on(self):
        alpha = blob(240, 180, 90, 120, 52, soft=3.0)
        red, green = (np.float32(c) / 255 for c in ((210, 70, 50), (70, 190, 90)))
        shown = red * alpha[..., None] + green * (1 - alpha[..., None])
        own = foreground(shown, alpha)
        near = cv2.dilate(alpha, np.ones((9, 9), np.uint8)) > 0.1
        assert np.abs(own[near] - red).max() < 0.02
        assert np.array_equal(own, foreground(shown, alpha))

    def test_without_a_subject_there_are_still_colours(self):
        assert np.isfinite(foreground(np.full((5, 4, 3), 0.5, np.float32), np.zeros((5, 4), np.float32))).all()

    def test_a_hard_matte_changes_nothing(self):
        frame, alpha = picture()
        assert (own_colours(frame, (alpha > 0.5).astype(np.float32)) == frame).all()
