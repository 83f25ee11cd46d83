"""From marks, movement and outlines to mattes with a real edge."""

import cv2
import numba
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nervykite.core.errors import Refusal
from nervykite.core.footage import loose
from nervykite.core.matte import figures, marks, mover, person, solve
from nervykite.core.matte.colours import Mixture, lab, roughness, separation
from nervykite.core.matte.cut import minimal_cut
from nervykite.core.matte.figures import Drawn, Figure, convincing, figures_in, silhouette, there
from nervykite.core.matte.fringe import foreground, own_colours
from nervykite.core.matte.geodesic import geodesic_distance
from nervykite.core.matte.judge import judged
from nervykite.core.matte.marks import Stroke
from nervykite.core.matte.refine import refined
from nervykite.core.matte.solve import EPSILON, fine_edge, solve_alpha
from nervykite.core.matte.svg import area
from nervykite.core.plate import behind as behinds
from nervykite.core.plate import stack as stacks
from nervykite.core.plate.plate import plate_of
from nervykite.core.plate.scene import people_in
from nervykite.core.plate.stack import lay
from nervykite.core.track.align import between, features, homography, stands_still
from nervykite.demo.project import FOOTAGE, truth_alpha

from ..media import make_video
from .scenes import as_found, blob, composed, overlap, passing, picture, texture, walking


def no_judge(_) -> None:
    """So that only the rules speak."""


def stroke(*points: tuple[float, float], width: float = 6) -> Stroke:
    return Stroke(np.array(points, float), width)


KEEP = [
    stroke((90, 90), (90, 150)), stroke((92, 66), (96, 76)),
    stroke((75, 165), (66, 185)), stroke((106, 165), (114, 182)),
]  # fmt: skip
DROP = [stroke((15, 20), (15, 225)), stroke((165, 20), (165, 225)), stroke((30, 15), (150, 15))]


def swaying(degrees: float) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """Somebody who stands before a blurred place and sways slowly, by so much to each side: frames and alphas."""
    place = cv2.GaussianBlur(texture(300, 240, (120, 150, 110), 4, 40), (0, 0), 6)
    cloth, body = texture(300, 240, (170, 110, 80), 6, 30), blob(300, 240, 120, 150, 62, 0.9)
    frames, alphas = [], []
    for n in range(30):
        turn = cv2.getRotationMatrix2D((120, 230), degrees * np.sin(n / 6), 1)
        alphas.append(cv2.warpAffine(body, turn, (240, 300)))
        dressed = cv2.warpAffine(cloth, turn, (240, 300), borderMode=cv2.BORDER_REFLECT)
        frames.append(composed(alphas[n], dressed, place, 2.0, n))
    return frames, alphas


class TestColours:
    def test_a_mixture_prefers_its_own_colours(self):
        rng = np.random.default_rng(0)
        red, blue = rng.normal((60, 50, 30), 4, (400, 3)), rng.normal((30, 10, -50), 4, (400, 3))
        model = Mixture.of(np.float32(np.concatenate([red[:200], blue[:200]])))
        green = np.float32(rng.normal((50, -50, 40), 4, (400, 3)))
        assert np.median(model.log_likelihood(np.float32(red[200:]))) > np.median(model.log_likelihood(green)) + 10
        assert np.median(model.log_likelihood(np.float32(blue[200:]))) > np.median(model.log_likelihood(green)) + 10

    def test_density_integrates_to_one(self):
        model = Mixture.of(np.float32(np.random.default_rng(1).normal(0, 5, (600, 3))), parts=3)
        axis = np.arange(-40, 41, 2.0, dtype=np.float32)
        grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), -1)
        total = np.exp(model.log_likelihood(grid) - 1.5 * np.log(2 * np.pi)).sum() * 8
        assert total == pytest.approx(1, abs=0.05)

    @pytest.mark.parametrize(("count", "values"), [(1, 3), (255, 5), (1000, 3)])
    def test_density_is_the_sum_of_its_parts(self, count, values):
        rng = np.random.default_rng(count)
        model = Mixture.of(np.float32(rng.normal(0, 20, (500, values))), parts=4)
        samples = np.float32(rng.normal(0, 30, (count, values)))
        off = samples[:, None] - model.means
        squares = (np.einsum("kij,nkj->nki", model.whitening, off) ** 2).sum(-1)
        wanted = np.log(np.exp(model.offsets - squares / 2).sum(1) + 1e-300)
        assert model.log_likelihood(samples) == pytest.approx(wanted, abs=0.02)

    def test_separation_is_high_for_different_and_low_for_like_colours(self):
        rng = np.random.default_rng(2)
        one, like, other = (np.float32(rng.normal(m, 5, (300, 3))) for m in (0, 0, 40))
        assert separation(one, other) > 0.97
        assert separation(one, like) < 0.65


class TestRoughness:
    def test_twice_the_texture_is_an_octave(self):
        grain = np.random.default_rng(0).normal(0, 12, (60, 80, 1))
        once, twice = (np.clip(128 + k * grain + np.zeros(3), 0, 255).astype(np.uint8) for k in (1, 2))
        assert (roughness(twice) - roughness(once)).mean() == pytest.approx(1, abs=0.1)

    def test_light_and_slow_changes_are_no_texture(self):
        ramp = np.tile(np.linspace(20, 220, 200)[None, :, None], (60, 1, 3)).astype(np.uint8)
        assert np.abs(roughness(np.full((60, 80, 3), 200, np.uint8)) + 1).max() < 1e-3
        assert roughness(ramp)[:, 10:-10].max() < 0.1


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
        tie = np.ones((40, 60), np.float32)
        tie[:, 36] = 0.05
        u = minimal_cut(leaning, tie, steps=1200)
        assert (u[:, 10:34] > 0.5).all()
        assert (u[:, 40:50] < 0.5).all()

    @pytest.mark.parametrize("shape", [(7, 9), (31, 44), (1, 12), (12, 1)])
    def test_takes_the_steps_that_the_paper_says(self, shape):
        rng = np.random.default_rng(shape[0])
        leaning, tie = rng.normal(0, 0.5, shape), rng.random(shape)
        u = ahead = (leaning > 0).astype(float)
        p, step = np.zeros((2, *shape)), 0.3535
        for _ in range(40):
            slope = [np.diff(ahead, axis=n, append=ahead.take([-1], n)) for n in (0, 1)]
            p = p + step * np.array(slope)
            p /= np.maximum(1, np.hypot(*p) / tie)
            spread = sum(np.diff(p[n], axis=n, prepend=0) for n in (0, 1))
            before, u = u, np.clip(u + step * (spread + leaning), 0, 1)
            ahead = 2 * u - before
        assert minimal_cut(leaning, tie, steps=40, enough=0) == pytest.approx(u, abs=1e-4)

    def test_removes_specks_that_are_not_worth_their_outline(self):
        leaning = np.full((40, 40), -0.5, np.float32)
        leaning[20, 20] = 1.0
        assert minimal_cut(leaning, np.ones((40, 40), np.float32)).max() < 0.5


class TestMarks:
    def test_a_few_strokes_find_the_subject(self):
        frame, alpha = picture()
        assert overlap(marks.find(frame, KEEP, DROP), alpha) > 0.95

    def test_a_strokes_own_side_always_wins(self):
        frame, _ = picture()
        aside = stroke((20, 200), (40, 220), width=8)
        found = marks.find(frame, [*KEEP, aside], DROP[1:])
        assert found[marks.draw([aside], 240, 180)].mean() > 0.9
        across = stroke((70, 120), (110, 120), width=8)
        found = marks.find(frame, KEEP[:1], [*DROP, across])
        alone = marks.draw([across], 240, 180) & ~marks.draw(KEEP[:1], 240, 180)
        assert found[alone].mean() < 0.1

    def test_the_thin_legs_of_somebody_small_are_found(self):
        place = texture(1280, 720, (150, 150, 140), 4)
        alpha = np.zeros((1280, 720), np.float32)
        cv2.ellipse(alpha, (360, 700), (70, 40), 0, 0, 360, 1, -1, cv2.LINE_AA)
        for x in (320, 400):
            cv2.line(alpha, (x, 720), (x - 12, 830), 1, 5, cv2.LINE_AA)
        frame = composed(alpha, texture(1280, 720, (110, 80, 60), 8), place)
        keep = [stroke((315, 700), (405, 700), width=12)]
        keep += [stroke((x - 3, 745), (x - 7, 790), width=3) for x in (320, 400)]
        drop = [stroke((250, 640), (470, 640)), stroke((250, 860), (470, 860))]
        found = marks.find(frame, keep, drop) > 0.5
        legs = (alpha > 0.5) & (np.arange(1280)[:, None] > 745)
        assert found[legs].mean() > 0.95

    def test_a_subject_that_goes_on_beyond_the_strokes_is_found_whole(self):
        alpha = np.zeros((960, 540), np.float32)
        cv2.ellipse(alpha, (270, 500), (110, 380), 0, 0, 360, 1, -1, cv2.LINE_AA)
        frame = composed(alpha, texture(960, 540, (190, 90, 60), 8), texture(960, 540, (90, 120, 150), 8))
        strokes = [stroke((270, 300), (275, 720), width=20)], [stroke((120, 500), (125, 530))]
        found = marks.find(frame, *strokes)
        assert overlap(found, alpha) > 0.98

        turns = [0, 0]
        for n, before in enumerate((None, found)):

            def counting(_, n=n) -> None:
                turns[n] += 1

            again = marks.find(frame, *strokes, judge=counting, before=before)
            assert overlap(again, alpha) > 0.95
        assert turns[1] < turns[0]  # what went on beyond the strokes before is not first looked for near them

    def test_a_person_finder_helps_only_if_the_strokes_agree_with_it(self):
        frame, alpha = picture()
        alone = marks.find(frame, KEEP[:1], DROP)
        helped = marks.find(frame, KEEP[:1], DROP, lambda: alpha)
        misled = marks.find(frame, KEEP[:1], DROP, lambda: 1 - alpha)
        assert overlap(helped, alpha) >= overlap(alone, alpha) - 0.01
        assert (misled == alone).all()

    def test_a_finder_that_strokes_bear_out_is_believed_about_the_rest(self):
        frame, alpha = picture()
        trousers = texture(240, 180, (90, 100, 140), 8)  # and nobody marked them
        lower = alpha * (np.arange(240)[:, None] > 125)
        frame = composed(lower, trousers, frame.astype(np.float32))
        one = [stroke((90, 85), (88, 115))]
        alone, helped, weighed = (
            overlap(marks.find(frame, one, DROP, lambda p=p: p, judge, as_found), alpha)
            for p, judge in ((None, no_judge), (alpha, no_judge), (alpha, judged))
        )
        assert alone < 0.6
        assert min(helped, weighed) > 0.78

    def test_a_finder_that_only_half_believes_in_a_limb_is_believed_if_all_strokes_bear_it_out(self):
        frame, alpha = picture()
        sleeve = np.zeros((240, 180), np.float32)
        cv2.line(sleeve, (105, 105), (150, 60), 1, 9, cv2.LINE_AA)
        elsewhere = np.zeros_like(sleeve)  # so that the colour alone tells nothing
        elsewhere[200:, :60] = 1
        dark = np.maximum(sleeve * (1 - alpha), elsewhere)
        frame = composed(dark, texture(240, 180, (70, 70, 90), 8), frame.astype(np.float32))
        hint = np.maximum(alpha, 0.6 * sleeve)
        limb = (sleeve > 0.5) & (alpha < 0.5)
        by_rules = (marks.find(frame, KEEP, DROP, lambda p=p: p, no_judge) for p in (hint * 0.8, hint))
        strict, sure = (found[limb].mean() for found in by_rules)
        assert sure > 0.6 > strict
        assert marks.find(frame, KEEP, DROP, lambda: hint)[limb].mean() > 0.6  # nor does the judge speak against it

    def test_texture_tells_a_sharp_subject_from_a_blurred_place_of_its_own_colours(self):
        sharp = texture(240, 180, (150, 120, 80), 3, 26)
        sharp += np.random.default_rng(1).normal(0, 16, (240, 180, 1)).astype(np.float32)
        place = cv2.GaussianBlur(texture(240, 180, (150, 120, 80), 5, 26), (0, 0), 4)
        alpha = picture()[1]
        frame = composed(alpha, sharp, place)
        assert overlap(marks.find(frame, KEEP, DROP), alpha) > 0.8

    @pytest.mark.parametrize("seen_by_the_finder", [False, True])
    def test_a_limb_of_a_colour_that_is_seen_nowhere_else_is_the_subjects(self, seen_by_the_finder):
        body, limb = np.zeros((2, 400, 300), np.float32)
        body[140:280, 110:190] = 1
        limb[170:182, 190:226] = 1
        place = texture(400, 300, (70, 110, 160), 3)
        place[200:] = texture(200, 300, (90, 140, 90), 3)
        subject = texture(400, 300, (180, 180, 90), 3)
        subject[:, 190:] = texture(400, 110, (170, 60, 60), 3)
        frame = cv2.GaussianBlur(composed(body + limb, subject, place), (0, 0), 0.6)
        keep = [stroke((130, 160), (170, 260), (130, 260), (178, 160), width=20)]
        drop = [stroke((60, 100), (60, 330), width=14), stroke((80, 60), (220, 60), width=14)]
        hint = 0.7 * body if seen_by_the_finder else None
        found = marks.find(frame, keep, drop, lambda: hint, look=as_found) > 0.5
        assert found[limb > 0].mean() > 0.9
        assert found[(body + limb) == 0].mean() < 0.01

    def test_what_nobody_marked_is_not_the_subject(self):
        alpha = blob(240, 180, 60, 120, 40)
        twin = blob(240, 180, 140, 120, 40)
        cloth = texture(240, 180, (200, 80, 60), 3)
        frame = composed(np.maximum(alpha, twin), cloth, texture(240, 180, (120, 150, 90), 1))
        keep = [stroke((60, 95), (60, 150))]
        drop = [stroke((100, 10), (100, 230)), stroke((10, 10), (10, 230))]
        found = marks.find(frame, keep, drop)
        assert overlap(found, alpha) > 0.85
        assert found[twin > 0.9].mean() < 0.05

    @pytest.mark.parametrize(
        ("keep", "drop", "says"),
        [
            ([], [], "no marks"),
            ([stroke((500, 500), (600, 600))], [], "outside the frame"),
            ([], DROP, "No keep stroke"),
            ([stroke((500, 500), (600, 600))], DROP, "No keep stroke"),
        ],
    )
    def test_marks_that_say_nothing_are_refused(self, keep, drop, says):
        frame, _ = picture()
        with pytest.raises(Refusal, match=says):
            marks.find(frame, keep, drop)

    def test_a_single_click_is_a_stroke(self):
        mask = marks.draw([stroke((20, 10), width=7)], 30, 40)
        assert mask[10, 20]
        assert 20 < mask.sum() < 60

    def test_strokes_scale_with_the_picture(self):
        whole, half = marks.draw(KEEP, 240, 180), marks.draw(KEEP, 120, 90, 0.5)
        shrunk = cv2.resize(whole.astype(np.uint8) * 255, (90, 120), interpolation=cv2.INTER_AREA) > 127
        assert overlap(half.astype(float), shrunk.astype(float)) > 0.75


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
        monkeypatch.setattr(solve, "_cleaned", lambda picture, found, *_: found)
        assert solved_twice < 0.75 * error()

    def test_an_edge_as_wide_as_hair_is_left_as_it_was_found(self, monkeypatch):
        alpha = blob(240, 180, 90, 120, 52, soft=9.0)
        frame = composed(alpha, texture(240, 180, (210, 70, 50), 3, 4), texture(240, 180, (70, 120, 170), 1, 4), 1.0)
        hard = (alpha > 0.5).astype(np.float32)
        solved = fine_edge(frame, hard, 12)
        monkeypatch.setattr(solve, "_cleaned", lambda picture, found, *_: found)
        assert np.abs(solved - fine_edge(frame, hard, 12)).mean() < 3e-3

    @pytest.mark.parametrize(("soft", "reach"), [(1.2, 8), (4.0, 12)])
    def test_a_large_picture_is_solved_about_as_well_with_its_first_solution_at_half_the_size(
        self, monkeypatch, soft, reach
    ):
        alpha = blob(241, 181, 90, 120, 52, soft=soft)
        cloth, place = texture(241, 181, (190, 90, 60), 3, 12), texture(241, 181, (90, 120, 140), 1, 12)
        frame = composed(alpha, cloth, place, 2.0)
        missed = cv2.warpAffine((alpha > 0.5).astype(np.float32), np.array([[1, 0, 1.2], [0, 1, -1.0]]), (181, 241))
        whole = fine_edge(frame, missed, reach, trust=0.05)
        monkeypatch.setattr(solve, "LARGE", 0)
        halved = fine_edge(frame, missed, reach, trust=0.05)
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


class TestAlignment:
    def test_finds_a_known_homography(self):
        scene = texture(200, 260, (130, 130, 130), 3, 30)
        first = cv2.cvtColor(np.clip(scene, 0, 255).astype(np.uint8), cv2.COLOR_RGB2GRAY)
        known = np.array([[1.01, 0.012, 5.0], [-0.01, 1.008, -3.0], [1e-5, -1e-5, 1.0]])
        other = cv2.warpPerspective(first, known, (260, 200))
        found = between(first, other, features(first), np.eye(3))
        corners = np.float64([[[40, 40]], [[220, 40]], [[220, 160]], [[40, 160]]])
        apart = cv2.perspectiveTransform(corners, found) - cv2.perspectiveTransform(corners, known)
        assert np.linalg.norm(apart, axis=2).max() < 0.25

    @pytest.mark.parametrize("lean", [0.0, 3e-4])
    def test_a_mere_turn_and_zoom_is_told_from_a_leaning_camera(self, lean):
        rng = np.random.default_rng(2)
        points = rng.uniform((0, 0), (300, 120), (60, 2))[:, None].astype(np.float32)
        true = np.array([[1.02, -0.03, 4], [0.03, 1.02, -6], [lean, -lean, 1]])
        there = cv2.perspectiveTransform(points, true) + rng.normal(0, 0.15, points.shape).astype(np.float32)
        found = homography(points, there, (400, 300))
        corner = np.array([[[10.0, 390.0]]])  # far from all corners that were followed
        off = np.linalg.norm(cv2.perspectiveTransform(corner, found) - cv2.perspectiveTransform(corner, true))
        assert off < (0.5 if lean == 0 else 8)
        assert (found[2, :2] == 0).all() == (lean == 0)

    def test_an_even_picture_gives_nothing(self):
        flat = np.full((80, 80), 90, np.uint8)
        assert between(flat, flat, features(flat), np.eye(3)) is None

    @pytest.mark.parametrize(("pan", "stands"), [(0.0, True), (1.5, False)])
    def test_tells_a_standing_camera_from_a_panning_one(self, pan, stands):
        frames, _, _ = passing(16, pan=pan)
        assert stands_still([cv2.cvtColor(f, cv2.COLOR_RGB2GRAY) for f in frames], 8) == stands


class TestProposal:
    def test_what_is_found_becomes_a_matte_with_an_edge(self):
        frame, alpha = picture()
        matte = mover.Proposal((alpha > 0.5).astype(np.float32)).matte(frame, 10)
        assert overlap(matte, alpha) > 0.95
        assert ((matte > 0.1) & (matte < 0.9)).any()

    def test_specks_that_no_edge_is_left_of_are_refused(self):
        frame, _ = picture()
        specks = np.zeros(frame.shape[:2], np.float32)
        specks[10::60, 10::60] = 0.55
        with pytest.raises(Refusal, match="too small to be cut out"):
            mover.Proposal(specks).matte(cv2.GaussianBlur(frame, (0, 0), 4), 10)


class TestPickMover:
    @pytest.mark.parametrize(("pan", "flicker"), [(0.0, 0.0), (1.2, 0.0), (0.0, 0.04)])
    def test_finds_what_crosses_the_scene(self, pan, flicker):
        frames, alphas, scenes = passing(24, pan=pan, flicker=flicker)
        proposal, scene = mover.pick_mover(frames, 12)
        assert overlap(proposal.outline(frames[12]), alphas[12]) > 0.93
        behind = alphas[12] > 0.9
        assert np.abs(scene.behind.plate.astype(int) - scenes[12])[behind].mean() < (6 if not pan else 10)

    def test_somebody_who_lingers_is_found(self):
        frames, alphas, scenes = passing(24)
        cloth = texture(160, 120, (190, 90, 70), 6)
        rng = np.random.default_rng(3)
        for n in range(6, 24):  # comes in from the side, then stands and sways
            alpha = blob(160, 120, 62 + rng.uniform(-1, 1), 88, 32, 0.9)
            alphas[n], frames[n] = alpha, composed(alpha, cloth, scenes[n].astype(np.float32), 2.0, n)
        proposal, scene = mover.pick_mover(frames, 15)
        assert overlap(proposal.outline(frames[15]), alphas[15]) > 0.9
        assert np.abs(scene.behind.plate.astype(int) - scenes[15])[alphas[15] > 0.9].mean() < 12

    def test_somebody_who_only_sways_is_found_as_their_place_never_rests(self, monkeypatch):
        frames, alphas = swaying(1.5)
        proposal, _ = mover.pick_mover(frames, 14)
        assert overlap(proposal.outline(frames[14]), alphas[14]) > 0.85
        assert any("never comes to rest" in warning for warning in proposal.warnings)
        monkeypatch.setattr(behinds, "restless", lambda plate, noise: np.zeros_like(noise))
        with pytest.raises(Refusal, match="Nothing moves"):
            mover.pick_mover(frames, 14)

    @pytest.mark.parametrize("pan", [0.0, 0.4])
    def test_a_scene_serves_other_frames_of_its_shot(self, pan):
        frames, alphas, _ = passing(24, pan=pan)
        _, scene = mover.pick_mover(frames, 12)
        again, same = mover.pick_mover(frames, 9, scene=scene)
        assert same is scene
        assert overlap(again.found, alphas[9]) > 0.88

    @pytest.mark.parametrize("pan", [0.0, 0.4])
    def test_a_scene_serves_frames_that_were_exposed_otherwise(self, pan):
        frames, alphas, _ = passing(24, pan=pan)
        _, scene = mover.pick_mover(frames, 12)
        frames[9] = np.clip(frames[9] * 1.2, 0, 255).astype(np.uint8)
        again, same = mover.pick_mover(frames, 9, scene=scene)
        assert same is scene
        assert overlap(again.found, alphas[9]) > 0.85

    def test_a_scene_is_found_again_behind_a_subject_that_goes_its_own_way(self):
        frames, alphas = walking(24, pan=0.8)
        _, scene = mover.pick_mover(frames, 12)
        for at in (4, 20):
            again, same = mover.pick_mover(frames, at, scene=scene)
            assert same is scene
            assert overlap(again.found, alphas[at]) > 0.9

    def test_a_subject_that_goes_on_beyond_the_scenes_view_is_found_whole(self, monkeypatch):
        frames, alphas = walking(14, step=12.0, pan=6.0)
        _, scene = mover.pick_mover(frames, 4)
        monkeypatch.delattr(stacks, "onto")  # where the camera went is known by now
        again, other = mover.pick_mover(frames, 10, scene=scene)
        assert other is not scene
        assert overlap(again.found, alphas[10]) > 0.85

    def test_a_subject_seen_to_go_on_beyond_the_scenes_view_is_not_looked_for_there(self, monkeypatch):
        frames, _ = walking(14, step=12.0, pan=6.0)
        _, scene = mover.pick_mover(frames, 4)
        looked = []
        found = mover.differing
        monkeypatch.setattr(mover, "differing", lambda *args, **more: looked.append(1) or found(*args, **more))
        mover.pick_mover(frames, 10, scene=scene)
        assert len(looked) == 1

    def test_a_subject_cut_by_the_edge_of_a_shaky_frame_needs_no_scene_of_its_own(self):
        frames, alphas = walking(24)
        tops = [6 + round(3 * np.sin(2.1 * n)) for n in range(24)]
        frames, alphas = ([f[t : t + 200].copy() for f, t in zip(many, tops, strict=True)] for many in (frames, alphas))
        _, scene = mover.pick_mover(frames, 12)
        for at in (8, 19):
            again, same = mover.pick_mover(frames, at, scene=scene)
            assert same is scene
            assert overlap(again.found, alphas[at]) > 0.9
            assert overlap(again.found[-4:], alphas[at][-4:]) > 0.7

    def test_a_scene_seen_from_nearer_is_built_anew(self):
        frames, alphas, _ = passing(24)

        def nearer(picture, n):
            turn = cv2.getRotationMatrix2D((60, 80), 0, 1 + 0.008 * n)
            return cv2.warpAffine(picture, turn, (120, 160), borderMode=cv2.BORDER_REFLECT)

        frames = [nearer(f, n) for n, f in enumerate(frames)]
        _, scene = mover.pick_mover(frames, 6)
        again, other = mover.pick_mover(frames, 17, scene=scene)
        assert other is not scene
        assert overlap(again.found, nearer(alphas[17], 17)) > 0.8

    def test_who_never_stirs_is_part_of_the_scene(self):
        frames, alphas, _ = passing(16)
        bystander = blob(160, 120, 20, 100, 25)

        def person(frame, quick):
            which = int(np.argmin([np.abs(f.astype(int) - frame).mean() for f in frames]))
            return np.maximum(alphas[which], bystander).astype(np.float32)

        stack = lay(frames, 8)
        people = people_in(stack, [person(f, True) for f in stack.frames])
        assert people[0][bystander > 0.9].max() < 0.1
        assert people[0][(alphas[8] > 0.9) & (bystander < 0.01)].mean() > 0.8

    def test_nothing_that_moves_is_said(self):
        _, _, scenes = passing(12)
        with pytest.raises(Refusal, match="Nothing moves"):
            mover.pick_mover([np.ascontiguousarray(s) for s in scenes], 5)

    def test_too_few_frames_are_said(self):
        frames, _, _ = passing(3)
        with pytest.raises(Refusal, match="fewer than four"):
            mover.pick_mover(frames, 1)

    def test_a_plate_needs_no_frame_without_the_subject(self):
        frames, _, scenes = passing(24)
        stack = lay(frames[6:18], 5)
        plate, support = plate_of(stack)
        assert np.abs(plate.astype(int) - scenes[11])[support > 3].mean() < 4


class TestPickPerson:
    def frame(self, shot: str, number: int) -> np.ndarray:
        full, _, _ = loose.around(FOOTAGE / f"{shot}.mp4", number, None)
        return full

    @pytest.mark.parametrize(("shot", "number", "least"), [("dune-run", 60, 0.7), ("reel-out", 44, 0.88)])
    def test_finds_people_near_and_far(self, shot, number, least):
        found = cv2.resize(person.pick_person(self.frame(shot, number)).found, (720, 1280))
        assert overlap(found, truth_alpha(shot, number)) > least

    def test_what_is_only_half_likely_is_nobody_beside_somebody_sure(self, monkeypatch):
        body, rock = blob(240, 180, 60, 120, 40), blob(240, 180, 140, 120, 40)
        frame = composed(
            np.maximum(body, rock), texture(240, 180, (200, 80, 60), 3), texture(240, 180, (90, 120, 150), 1)
        )
        for sure, doubted, found in ((0.97, 0.56, [True, False]), (0.97, 0.9, [True, True]), (0.7, 0.62, [True, True])):
            monkeypatch.setattr(
                person, "prior", lambda *_, a=sure, b=doubted: np.maximum(a * body, b * rock).astype(np.float32)
            )
            answer = person.pick_person(frame).found
            assert [bool((answer > 0.5)[part > 0.9].mean() > 0.8) for part in (body, rock)] == found

    @pytest.mark.parametrize("somebody", [False, True])
    def test_a_large_part_beside_a_figure_is_nobody_unless_a_figure_is_found_there(self, monkeypatch, somebody):
        figure, other = blob(240, 180, 55, 120, 40), blob(240, 180, 135, 120, 36)
        likely, drawn = np.maximum(figure, 0.95 * other), Figure(np.array([135, 120]), np.array([135, 80]), 0.9)
        monkeypatch.setattr(person, "figures_in", lambda *_: [drawn] if somebody else [])
        monkeypatch.setattr(figures, "silhouette", lambda *_, **__: Drawn(other, np.ones_like(other), drawn))
        left = person._borne_out(np.zeros((240, 180, 3), np.uint8), likely, figure, 50.0)
        assert left[figure > 0.9].min() > 0.8
        assert (left[other > 0.9].max() > 0.8) == somebody
        assert (left[other > 0.9].mean() < 0.3) != somebody

    @pytest.mark.parametrize("gap", [0, 14])
    def test_a_small_part_is_somebodys_if_it_hangs_together_with_a_figure(self, monkeypatch, gap):
        figure = blob(240, 180, 90, 150, 45)
        top = int(np.flatnonzero((figure > 0.5).any(1))[0])
        column = int(np.flatnonzero(figure[top + 1] > 0.5).mean())
        head = cv2.circle(np.zeros((240, 180), np.float32), (column, top - 8 - gap), 11, 0.95, -1)
        monkeypatch.setattr(person, "figures_in", lambda *_: [])
        left = person._borne_out(np.zeros((240, 180, 3), np.uint8), np.maximum(figure, head), figure, 50.0)
        upper = (head > 0) & (np.arange(240)[:, None] < top - 10 - gap)
        assert (left[upper].mean() > 0.8) == (gap == 0)
        assert (left[upper].mean() < 0.3) == (gap > 0)

    def test_somebody_far_away_beside_somebody_near_is_found_where_something_moves(self):
        picture, near = self.frame("dune-run", 60).copy(), truth_alpha("dune-run", 60)
        rows, columns = np.flatnonzero(near.max(1) > 0.5), np.flatnonzero(near.max(0) > 0.5)
        part = slice(rows[0] - 9, rows[-1] + 9), slice(columns[0] - 9, columns[-1] + 9)
        k = 150 / (part[0].stop - part[0].start)
        runner, share = (cv2.resize(v[part], None, fx=k, fy=k, interpolation=cv2.INTER_AREA) for v in (picture, near))
        there = slice(1080, 1080 + share.shape[0]), slice(500, 500 + share.shape[1])
        picture[there] = runner * share[..., None] + picture[there] * (1 - share[..., None])
        far = np.zeros(near.shape, np.float32)
        far[there] = share
        stirs = 2 * cv2.dilate(np.maximum(near, far), np.ones((9, 9)))
        found = cv2.resize(person.pick_person(picture, stirs=stirs).found, (720, 1280))
        assert overlap(found[1070:, 460:], far[1070:, 460:]) > 0.75
        assert overlap(found[:1070], near[:1070]) > 0.75

    def test_what_looks_like_people_but_neither_moves_nor_is_a_figure_is_nobody(self, monkeypatch):
        mover, rock = blob(240, 180, 50, 120, 40), blob(240, 180, 135, 120, 40)
        looks = np.maximum(mover, rock)
        picture = np.repeat(np.round(250 * looks)[..., None], 3, 2).astype(np.uint8)
        monkeypatch.setattr(person, "likelihood", lambda crop: crop[..., 0] / np.float32(255))
        monkeypatch.setattr(person, "figures_in", lambda *_: [])
        still = person.prior(picture)
        moving = person.prior(picture, stirs=2 * mover)
        assert still[mover > 0.9].mean() > 0.8
        assert still[rock > 0.9].mean() > 0.8
        assert moving[mover > 0.9].mean() > 0.8
        assert moving[rock > 0.9].mean() < 0.25
        # If what moves does not look like people, it has no say.
        assert np.array_equal(person.prior(picture, stirs=2 * np.roll(mover, 90, 0)), still)

    def test_a_mover_is_looked_at_from_where_it_looks_most_like_people(self, monkeypatch):
        body = blob(240, 180, 60, 120, 40) > 0.5
        seen = []

        def likelihood(crop: np.ndarray) -> np.ndarray:
            """Sure of what is marked white, but only from the middle one of three distances."""
            seen.append(crop.shape[0])
            return crop[..., 0] / np.float32(255) * (0.9 if len(seen) == 2 else 0.5)

        monkeypatch.setattr(person, "likelihood", likelihood)
        ((window, part),) = person._movers(np.repeat(np.uint8(255 * body)[..., None], 3, 2), body)
        assert np.array_equal(part, body)
        assert seen[1] == window[3] - window[1] != seen[0]

    def test_a_speck_and_what_does_not_look_like_people_are_not_looked_at_again(self, monkeypatch):
        moving = np.zeros((240, 180), bool)
        moving[100:103, 50:53] = True
        monkeypatch.setattr(person, "likelihood", lambda crop: np.ones(crop.shape[:2], np.float32))
        assert person._movers(np.zeros((240, 180, 3), np.uint8), moving) == []
        moving[100:180, 50:90] = True
        ((window, part),) = person._movers(np.zeros((240, 180, 3), np.uint8), moving)
        assert window is None  # everything looks like people
        assert (part == moving).all()

    def test_what_is_known_of_somebody_says_where_to_look(self, monkeypatch):
        asked = []
        monkeypatch.setattr(person, "likelihood", lambda crop: np.zeros(crop.shape[:2], np.float32))
        monkeypatch.setattr(person, "figures_in", lambda picture, windows: asked.extend(windows) or [])
        near = np.zeros((240, 180), np.float32)
        near[150:190, 120:150] = 1
        person.prior(np.zeros((240, 180, 3), np.uint8), near)
        assert (103, 138, 167, 202) in asked

    @pytest.mark.parametrize(
        ("seen", "placed", "off", "somebody"),
        [
            (0.9, 0.75, 50, True),
            (0.9, 0.6, 0, False),
            (0.5, 0.9, 2, True),
            (0.5, 0.9, 30, False),
            (0.5, 0.79, 2, False),
        ],
    )
    def test_one_network_alone_has_to_be_surer_and_to_agree(self, seen, placed, off, somebody):
        hips, top = np.array([60.0, 120.0]), np.array([60.0, 60.0])
        assert convincing(Figure(hips, top, seen), Figure(hips + [off, 0], top, placed)) == somebody

    def test_a_doubtful_figure_is_somebody_if_it_is_what_moves(self):
        drawn = blob(240, 180, 60, 120, 40)
        top = np.array([60.0, 60.0])
        first = Figure(np.array([60.0, 120.0]), top, 0.5)
        shown = Drawn(drawn, np.ones_like(drawn), Figure(np.array([60.0, 150.0]), top, 0.9))
        assert not there(first, shown, np.zeros(drawn.shape, bool))
        assert there(first, shown, drawn > 0.4)

    def test_nobody_is_said(self):
        with pytest.raises(Refusal, match="No person was found"):
            person.pick_person(self.frame("dune-run", 125))

    def test_without_the_network_it_says_why_it_is_off(self, monkeypatch, tmp_path):
        monkeypatch.setenv("NERVYKITE_NETWORKS", str(tmp_path))
        with pytest.raises(Refusal, match="Pick person is off"):
            person.pick_person(self.frame("dune-run", 60))


class TestFigures:
    def test_a_figure_is_found_with_its_hips_and_silhouette(self):
        frame = np.ascontiguousarray(TestPickPerson().frame("dune-run", 60))
        found = figures_in(frame, [(0, 0, 720, 1280)])
        truth = truth_alpha("dune-run", 60) > 0.5
        x, y = found[0].hips.astype(int)
        assert truth[y, x]
        alpha, inside, placed = silhouette(frame, found[0])
        assert overlap(alpha, truth) > 0.8
        assert inside[truth].mean() > 0.94
        assert placed.sure > 0.9
        careful, _, again = silhouette(frame, found[0], careful=True)
        assert overlap(careful, truth) > overlap(alpha, truth)
        assert np.array_equal(placed.hips, again.hips)

    def test_a_part_too_small_to_hold_anybody_is_passed_over(self):
        assert figures_in(np.zeros((40, 40, 3), np.uint8), [(0, 0, 10, 10)]) == []

    def test_strokes_say_who_is_meant(self):
        frame = np.ascontiguousarray(TestPickPerson().frame("change-over", 70))
        one, other = (truth_alpha("change-over", 70, n) for n in (1, 2))
        meant, not_meant = (one, other) if one.sum() > 1000 else (other, one)
        keep = cv2.erode((meant > 0.9).astype(np.uint8), np.ones((15, 15), np.uint8)) > 0
        drop = cv2.erode((not_meant > 0.9).astype(np.uint8), np.ones((15, 15), np.uint8)) > 0
        hint = cv2.resize(person.person_hint(frame, keep, drop), (720, 1280))
        assert hint[keep].mean() > 0.6
        assert hint[keep].mean() > hint[drop].mean() + 0.2


class TestHeard:
    """How far a person finder is borne out by strokes."""

    BODY, ARM = blob(240, 180, 90, 100, 40), blob(240, 180, 90, 180, 18)

    def borne_out(self, kept: np.ndarray, dropped: np.ndarray) -> float:
        _, sure = marks._heard(self.BODY, kept > 0.5, dropped > 0.5)
        return float(np.mean((sure * np.ones_like(self.BODY))[self.BODY > 0.9]))

    def test_a_stroke_that_goes_on_beside_it_says_only_that_it_is_not_all(self):
        nothing = np.zeros_like(self.BODY)
        whole = self.borne_out(self.BODY, nothing)
        assert whole > 0.9
        assert self.borne_out(np.maximum(self.BODY, self.ARM), nothing) > 0.6 * whole

    def test_a_drop_stroke_on_it_says_that_it_is_wrong(self):
        assert self.borne_out(blob(240, 180, 90, 90, 20), blob(240, 180, 90, 135, 14)) == 0


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


class TestPickDifference:
    def test_finds_what_the_plate_does_not_show(self):
        frames, alphas, scenes = passing(24)
        assert overlap(mover.pick_difference(frames[12], scenes[12]).found, alphas[12]) > 0.93

    def test_the_same_picture_twice_is_said(self):
        _, _, scenes = passing(4)
        with pytest.raises(Refusal, match="show the same"):
            mover.pick_difference(scenes[0], scenes[0])

    def test_another_place_altogether_is_said(self):
        frames, _, _ = passing(4)
        other = texture(160, 120, (20, 40, 200), 9).clip(0, 255).astype(np.uint8)
        with pytest.raises(Refusal, match="differ nearly everywhere"):
            mover.pick_difference(frames[2], other)


def test_lab_is_the_standards():
    white_black = lab(np.uint8([[[255, 255, 255], [0, 0, 0], [255, 0, 0]]]))[0]
    assert white_black[0] == pytest.approx([100, 0, 0], abs=0.1)
    assert white_black[1] == pytest.approx([0, 0, 0], abs=0.1)
    assert white_black[2] == pytest.approx([53.24, 80.09, 67.20], abs=0.3)


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
        tie = np.full((24, 24), 0.2, np.float32)
        one, other = (minimal_cut(sign * leaning, tie, steps=800, enough=0) for sign in (1, -1))
        assert np.abs((one > 0.5).astype(int) - (other <= 0.5)).mean() < 0.02

    @settings(max_examples=20, deadline=None)
    @given(st.integers(0, 10_000), st.floats(0.3, 3))
    def test_more_leaning_never_takes_anything_away(self, seed, more):
        rng = np.random.default_rng(seed)
        leaning = cv2.GaussianBlur(rng.standard_normal((24, 24)).astype(np.float32), (0, 0), 2) * 3
        tie = np.full((24, 24), 0.2, np.float32)
        less, larger = (minimal_cut(leaning + extra, tie, steps=800, enough=0) for extra in (0, more))
        assert ((less > 0.6) & (larger < 0.4)).sum() == 0

    def test_marks_do_not_depend_on_the_size_of_the_picture(self):
        frame, alpha = picture()
        large = cv2.resize(frame, (360, 480), interpolation=cv2.INTER_CUBIC)
        double = [[Stroke(s.points * 2, s.width * 2) for s in strokes] for strokes in (KEEP, DROP)]
        one = marks.find(frame, KEEP, DROP)
        two = cv2.resize(marks.find(large, *double), (180, 240), interpolation=cv2.INTER_AREA)
        assert overlap(one, two) > 0.95
        assert overlap(two, alpha) > 0.94


class TestSvg:
    def svg(self, inner: str) -> str:
        return f'<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10" viewBox="0 0 3 3">{inner}</svg>'

    def test_user_units_are_pixels_whatever_the_view_box_says(self):
        alpha = area(self.svg('<rect x="5" y="10" width="20" height="30"/>'), 60, 40)
        assert alpha[10:40, 5:25].min() == 1
        assert alpha.sum() == pytest.approx(600)

    def test_transforms_and_curves(self):
        moved = area(self.svg('<g transform="translate(10 20)"><circle cx="10" cy="10" r="8"/></g>'), 60, 40)
        assert moved.sum() == pytest.approx(np.pi * 64, rel=0.005)
        assert moved[30, 20] == 1

    def test_non_zero_fills_what_even_odd_leaves_open(self):
        rings = "M5 5 H35 V35 H5 Z M10 10 H30 V30 H10 Z"
        filled, open_ = (area(self.svg(f'<path {rule} d="{rings}"/>'), 40, 40) for rule in ("", 'fill-rule="evenodd"'))
        assert filled.sum() == pytest.approx(900)
        assert open_.sum() == pytest.approx(500)
        turned = area(self.svg('<path d="M5 5 H35 V35 H5 Z M10 10 V30 H30 V10 Z"/>'), 40, 40)
        assert turned.sum() == pytest.approx(500)

    @pytest.mark.parametrize("text", ["", "<svg", "{}", "<p>no</p>"])
    def test_what_is_no_svg_is_said(self, text):
        with pytest.raises(Refusal, match=r"not an SVG|fills no pixel"):
            area(text, 10, 10)


class TestLooseFiles:
    def test_mattes_of_all_depths(self, tmp_path):
        ramp = np.linspace(0, 1, 256)[None].repeat(4, 0)
        cv2.imwrite(str(tmp_path / "8.png"), np.round(ramp * 255).astype(np.uint8))
        cv2.imwrite(str(tmp_path / "16.png"), np.round(ramp * 65535).astype(np.uint16))
        with_alpha = np.dstack([np.zeros((4, 256, 3)), ramp * 255]).round().astype(np.uint8)
        cv2.imwrite(str(tmp_path / "a.png"), with_alpha)
        for name, slack in (("8", 0.003), ("16", 1e-4), ("a", 0.003)):
            assert np.abs(loose.read_matte(tmp_path / f"{name}.png") - ramp).max() < slack
        with pytest.raises(Refusal, match="cannot be read as a matte"):
            loose.read_matte(tmp_path / "none.png")

    def test_a_turned_video_is_read_upright_in_both_sizes(self, tmp_path):
        path = make_video(tmp_path / "turned.mp4", 6, (160, 120), rotation=90)
        assert loose.size_of(path) == (120, 160)
        full, small, at = loose.around(path, 3, (60, 80))
        assert full.shape == (160, 120, 3)
        assert [s.shape for s in small] == [(80, 60, 3)] * 6
        assert at == 3
        assert np.abs(cv2.resize(full, (60, 80), interpolation=cv2.INTER_AREA).astype(int) - small[3]).mean() < 3

    def test_only_the_neighbourhood_is_kept(self, tmp_path):
        path = make_video(tmp_path / "long.mp4", 30, (64, 48))
        _, small, at = loose.around(path, 15, (32, 24), reach=4)
        assert (len(small), at) == (9, 4)
        with pytest.raises(Refusal, match="no frame 30; its last one is 29"):
            loose.around(path, 30, None)


def test_kernels_run_on_openmp_whatever_else_the_machine_has():
    minimal_cut(np.zeros((8, 8), np.float32), np.ones((8, 8), np.float32), steps=20)
    assert numba.threading_layer() == "omp"
