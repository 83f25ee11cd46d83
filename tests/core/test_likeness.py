"""A subject found again by drawing it as it was; and how what a mask covers moves as one piece."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.carry.carry import carry
from nervykite.core.see.carry.carry_state import Trail
from nervykite.core.see.carry.reel import Reel
from nervykite.core.see.carry.template_matching import Likeness
from nervykite.core.see.scene.rigid_motion import whole_motion

from .scenes import composed, overlap, texture

H, W = 260, 320
ALL = slice(0, H), slice(0, W)
PLACE = texture(H, W, (110, 125, 105), 4, 26)
CLOTH = texture(H, W, (135, 120, 125), 9, 30)


def figure(legs: tuple[int, ...] = (-14, 12)) -> np.ndarray:
    """A body on legs four pixels thin, which end so far to its side: alpha float32 (h, w)."""
    drawn = cv2.ellipse(np.zeros((H, W), np.uint8), (80, 100), (38, 26), 0, 0, 360, 255, -1, cv2.LINE_AA)
    for side in legs:
        cv2.line(drawn, (80 + side, 115), (80 + 2 * side, 185), 255, 4, cv2.LINE_AA)
    return drawn.astype(np.float32) / 255


def going(step: int, count: int, legs=lambda n: (-14, 12), light: float = 1.0):
    """Frames of somebody who goes over the place, and their alphas; the light changes by a factor a frame."""
    alphas = [np.roll(figure(legs(n)), step * n, 1) for n in range(count)]
    frames = [composed(a, np.roll(CLOTH, step * n, 1), PLACE, 1.5, n) for n, a in enumerate(alphas)]
    return [np.clip(f * light**n, 0, 255).astype(np.uint8) for n, f in enumerate(frames)], alphas


def followed(frames, alphas, step, seen=1.0, light=1.0):
    """The last frame's matte and trust, of the first one's likeness."""
    likeness = Likeness(frames[0], alphas[0])
    motion = np.array([[1.0, 0, step], [0, 1, 0]])
    place, known = PLACE.clip(0, 255).astype(np.uint8), np.full((H, W), seen, np.float32)
    for n, frame in enumerate(frames[1:], 1):
        scene = np.clip(place * light**n, 0, 255).astype(np.uint8)
        matte, trust = likeness.found(motion, frame, ALL, scene, known)
    return matte, trust


def legs_of(alpha: np.ndarray) -> np.ndarray:
    return alpha[135:]


def near(alpha: np.ndarray) -> np.ndarray:
    """Around the outline: bool (h, w)."""
    hard = (alpha > 0.5).astype(np.uint8)
    return cv2.dilate(hard, np.ones((9, 9), np.uint8)) > cv2.erode(hard, np.ones((9, 9), np.uint8))


class TestLikeness:
    @pytest.mark.parametrize("step", [2, 6])
    def test_thin_legs_are_still_there_after_many_frames(self, step):
        frames, alphas = going(step, 20)
        matte, trust = followed(frames, alphas, step)
        assert overlap(matte, alphas[-1]) > 0.95
        assert overlap(legs_of(matte), legs_of(alphas[-1])) > 0.8
        assert trust[near(alphas[-1])].mean() > 0.8

    def test_it_is_brought_to_where_it_is_even_if_the_motion_was_a_little_wrong(self):
        frames, alphas = going(5, 12)
        matte, _ = followed(frames, alphas, 4)
        assert overlap(matte, alphas[-1]) > 0.93

    def test_somebody_whose_legs_have_moved_is_not_believed(self):
        frames, alphas = going(3, 8, legs=lambda n: (-14 - 3 * n, 12 + 3 * n))
        _, trust = followed(frames, alphas, 3)
        changed = np.abs(alphas[-1] - np.roll(alphas[0], 21, 1)) > 0.5
        assert trust[changed].mean() < 0.2

    def test_another_light_does_not_matter(self):
        frames, alphas = going(3, 8, light=1.02)
        matte, trust = followed(frames, alphas, 3, light=1.02)
        assert overlap(matte, alphas[-1]) > 0.95
        assert trust[near(alphas[-1])].mean() > 0.8

    def test_what_was_beyond_the_first_frames_edge_is_not_known(self):
        alphas = [np.roll(figure(), 8 * n - 80, 1) for n in range(6)]
        for alpha in alphas:
            alpha[:, 250:] = 0
        frames = [composed(a, np.roll(CLOTH, 8 * n - 80, 1), PLACE, 1.5, n) for n, a in enumerate(alphas)]
        _, trust = followed(frames, alphas, 8)
        assert trust[:, :38].max() == 0
        assert trust[near(alphas[-1])].max() > 0

    def test_without_a_scene_the_subject_itself_still_counts(self):
        frames, alphas = going(3, 8)
        matte, _ = followed(frames, alphas, 3, seen=0.0)
        assert overlap(matte, alphas[-1]) > 0.9

    def test_a_matte_stays_within_its_range_and_trust_too(self):
        frames, alphas = going(6, 4)
        for values in followed(frames, alphas, 6):
            assert values.dtype == np.float32
            assert 0 <= values.min() <= values.max() <= 1

    def test_an_empty_matte_is_found_nowhere(self):
        frames, alphas = going(3, 3)
        matte, _ = followed(frames, [np.zeros_like(a) for a in alphas], 3)
        assert matte.max() == 0


class TestCarriedLikeness:
    def test_legs_in_the_places_colours_are_carried(self):
        frames, alphas = going(4, 18)
        (found,) = carry(frames, {0: alphas[0]}, [17])
        assert overlap(legs_of(found.alpha), legs_of(alphas[17])) > 0.6

    def test_two_goes_with_a_trail_are_as_one(self):
        frames, alphas = going(4, 19)
        (one,) = carry(frames, {0: alphas[0]}, [18])
        trail: Trail = {}
        (half,) = carry(frames[:10], {0: alphas[0]}, [9], trail=trail)
        (alone,) = carry(frames[9:], {0: half.alpha}, [9])
        (two,) = carry(frames[9:], {0: half.alpha}, [9], trail=trail)
        off, without = (np.abs(c.alpha - one.alpha).sum() for c in (two, alone))
        assert off < 0.6 * without

    def test_who_begins_again_from_a_trail_finds_it_as_it_was(self):
        frames, alphas = going(4, 14)
        ended: Trail = {}
        (half,) = carry(frames[:7], {0: alphas[0]}, [6], trail=ended)
        one, again = (next(carry(frames[6:], {0: half.alpha}, [7], trail=dict(ended))) for _ in range(2))
        assert (one.alpha == again.alpha).all()

    def test_a_trail_remembers_how_small_pieces_were_in_the_fixed_frame(self):
        frames, alphas = going(4, 6)
        trail: Trail = {}
        (half,) = carry(frames[:3], {0: alphas[0]}, [2], trail=trail)
        crumbs = half.alpha.copy()
        crumbs[20:22, 20:22] = 1
        (found,) = carry(frames[2:], {0: crumbs}, [1], trail=trail)
        assert trail[1].least > 4
        assert found.alpha[10:32, 10:40].max() < 0.5

    def test_a_trail_goes_both_ways(self):
        frames, alphas = going(4, 9)
        trail: Trail = {}
        list(carry(frames, {4: alphas[4]}, [0, 8], trail=trail))
        assert [(trail[by].rgb == Reel(frames).rgb[k]).all() for by, k in ((1, 8), (-1, 0))] == [True, True]

    def test_a_matte_that_somebody_changed_since_begins_anew(self):
        frames, alphas = going(4, 12)
        trail: Trail = {}
        list(carry(frames[:6], {0: alphas[0]}, [5], trail=trail))
        other = np.roll(alphas[5], 40, 1)
        (anew,) = carry(frames[5:], {0: other}, [6])
        (found,) = carry(frames[5:], {0: other}, [6], trail=trail)
        assert (found.alpha == anew.alpha).all()

    def test_what_was_answered_and_then_corrected_begins_anew(self):
        frames, alphas = going(4, 12)
        trail: Trail = {}
        (half,) = carry(frames[:6], {0: alphas[0]}, [5], trail=trail)
        assert trail[1].is_of(Reel(frames).rgb[5], half.alpha)
        corrected = half.alpha.copy()
        rows = np.flatnonzero(corrected.any(1))
        corrected[rows[0] + round(0.85 * np.ptp(rows)) :] = 0  # without feet
        (anew,) = carry(frames[5:], {0: corrected}, [6])
        (found,) = carry(frames[5:], {0: corrected}, [6], trail=trail)
        assert (found.alpha == anew.alpha).all()

    def test_somebody_who_enters_the_frame_is_carried_as_a_whole(self):
        alphas = [np.roll(figure(), 8 * n - 80, 1) for n in range(14)]
        for n, alpha in enumerate(alphas):
            alpha[:, 8 * n + 60 :] = 0
        frames = [composed(a, np.roll(CLOTH, 8 * n - 80, 1), PLACE, 1.5, n) for n, a in enumerate(alphas)]
        (found,) = carry(frames, {0: alphas[0]}, [12])
        assert found.alpha[75:125].sum() > 0.6 * alphas[12][75:125].sum()


class TestWholeMotion:
    @pytest.mark.parametrize(("angle", "scale", "shift"), [(0, 1, (7, -3)), (4, 1, (2, 2)), (0, 1.05, (-4, 5))])
    def test_a_piece_that_moves_turns_and_grows(self, angle, scale, shift):
        motion = cv2.getRotationMatrix2D((160, 130), angle, scale)
        motion[:, 2] += shift
        before = CLOTH.mean(2).clip(0, 255).astype(np.uint8)
        now = cv2.warpAffine(before, motion, (W, H), borderMode=cv2.BORDER_REPLICATE)
        body = cv2.circle(np.zeros((H, W), np.uint8), (160, 130), 50, 1, -1)
        found = whole_motion(before, now, body)
        corners = np.array([[[120.0, 90]], [[200, 170]], [[120, 170]]])
        apart = cv2.transform(corners, found) - cv2.transform(corners, motion)
        assert np.abs(apart).max() < 0.5

    def test_nothing_and_what_is_plain_move_nowhere(self):
        grey = np.full((H, W), 90, np.uint8)
        assert whole_motion(grey, grey, np.zeros((H, W), np.uint8)) is None
        assert whole_motion(grey, grey, np.ones((H, W), np.uint8)) is None
